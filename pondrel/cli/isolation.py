"""`pondrel isolate` and `trial`: which part is at fault, and how good the advice is."""

from __future__ import annotations

import json

import click

from ..core.base.brief import quoted
from ..core.base.quantity import show
from ..core.evidence.asked import Measurement
from ..core.evidence.csv_file import read_csv
from ..core.evidence.line import parse_line
from ..core.evidence.pins import pins_of
from ..core.evidence.safety import check_allowed
from ..core.isolate import ORDERS, Isolation, Workup, check_items, check_sheet, isolate, percent
from .files import sheet_in, text_in

__all__ = ["isolate_command", "trial_command"]


@click.command("isolate")
@click.argument("file")
@click.option("--readings", help="CSV: state,instrument,red,black,value[,note].")
@click.option("--line", "lines", multiple=True, help="One more reading or observation, as 'wiggle C2 changed'; may be repeated.")
@click.option("--json", "as_json", is_flag=True, help="Print JSON.")
def isolate_command(file: str, readings: str | None, lines: tuple[str, ...], as_json: bool) -> None:
    """Rank the faults that explain the readings, and propose the next test."""
    circuit = sheet_in(file)
    check_sheet(circuit)
    items = read_csv(circuit, text_in(readings)) if readings else ()
    for line in lines:
        item, _ = parse_line(circuit, line, next(iter(circuit.states)))
        check_allowed(circuit, item)
        items = (*items, item)
    check_items(circuit, items)
    result = isolate(Workup(circuit), items)
    click.echo(json.dumps(result.as_json(), indent=2) if as_json else _told(result))


def _told(result: Isolation) -> str:
    lines = [*filter(None, (result.standing.says, result.mind, result.assumed))]
    for suspect in result.suspects[:8]:
        size = "" if suspect.severity is None else "  about {}, {} to {}".format(*(show(v, "Ω") for v in suspect.severity))
        name = f"{suspect.part} {suspect.words}" if suspect.part else suspect.words
        lines.append(f"{percent(suspect.probability):>10}  {name}{size}")
    lines += [f"These cannot be told apart here: {', '.join(group)}." for group in result.groups]
    lines += [misfit.says for misfit in result.misfits]
    lines += [trend.says for trend in result.trends]
    for w in result.worn:
        lines.append(f"{w.part} is worn, within limits: {show(w.ohms, 'Ω')}, loses {show(w.volts, 'V')} of {show(w.limit, 'V')}.")
    if result.standing.ready and not result.standing.target:
        untested = result.coverage.untested
        lines.append(f"Tested: {', '.join(result.coverage.tested)}. Not tested: {', '.join(untested) or 'none of what is drawn'}.")
    for advice in result.next[:1]:
        test = advice.test
        where = f"red {test.red}, black {test.black}" if test.black else test.red
        off = f", without {', '.join(test.without)}" if isinstance(test, Measurement) and test.without else ""
        lines.append(f"Next: {test.instrument} in state {test.state}, {where}{off} ({advice.minutes:g} min).")
        lines += [f"{pin.place} is {pin.words}." for pin in pins_of(result.belief.workup.sheet, test)]
    return "\n".join(lines)


@click.command("trial")
@click.argument("files", nargs=-1, required=True)
@click.option("--seeds", type=click.IntRange(1), default=1, show_default=True, help="Runs of every hidden fault.")
@click.option("--first-seed", type=int, default=1, show_default=True)
@click.option("--order", "orders", multiple=True, default=("best",), help="best, fuse, part, half, module or random; may be repeated.")
@click.option("--every", type=click.IntRange(1), default=1, show_default=True, help="Of the faults only every second, third, ...")
@click.option("--small-worlds", type=click.IntRange(0), default=8, show_default=True, help="Of each sheet, for the optimal policy.")
@click.option("--world", type=click.Choice(["own", "foreign"]), default="own", show_default=True,
    help="own: vehicles as their sheets have them; foreign: worn ones that ngspice solves.")  # fmt: skip
@click.option(
    "--vehicles", type=click.IntRange(1, 1000), default=10, show_default=True, help="Of each sheet and seed, in the foreign world."
)
@click.option("--workers", type=click.IntRange(1), help="Processes; one per core if left out.")
@click.option("--json", "as_json", is_flag=True, help="Print JSON.")
def trial_command(
    files: tuple[str, ...], seeds: int, first_seed: int, orders: tuple[str, ...], every: int, small_worlds: int,
    world: str, vehicles: int, workers: int | None, as_json: bool,
) -> None:  # fmt: skip
    """Hide faults of every sheet behind a simulated meter, let the adviser run to its stop rule, and report what came of it. FILES are
    sheets, folders of them, or the words demo, seen and held_out for those that are shipped."""
    from ..trial.ngspice import NOT_INSTALLED, installed
    from ..trial.report import foreign_trial, told, told_foreign, trial
    from ..trial.sets import sheets_of

    files = tuple(path for name in files for path in sheets_of(name))
    texts = {path: text_in(path) for path in files}
    for path in files:
        sheet_in(path)
    if world == "foreign":
        if not installed():
            raise click.ClickException(NOT_INSTALLED)
        found = foreign_trial(texts, range(first_seed, first_seed + seeds), vehicles, workers)
        click.echo(json.dumps(found, indent=2) if as_json else told_foreign(found))
        return
    unknown = [order for order in orders if order not in ORDERS]
    if unknown:
        raise click.ClickException(f"{quoted(unknown[0])} is no order of attack: {', '.join(ORDERS)} are.")
    result = trial(texts, range(first_seed, first_seed + seeds), orders, every, small_worlds, workers)
    click.echo(json.dumps(result, indent=2) if as_json else told(result))
