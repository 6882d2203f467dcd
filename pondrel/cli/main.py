"""The command line: everything the screens compute, as text or JSON. Thin: reads files, calls the core, prints."""

from __future__ import annotations

import json
import os
import sys
from pathlib import Path

import click

from .. import __version__
from ..core.base.brief import quoted
from ..core.base.errors import PondrelError, SheetError
from ..core.base.quantity import show
from ..core.circuit.fault import parse_fault
from ..core.circuit.measure import measure
from ..core.circuit.read.remarks import remarks
from ..core.circuit.read.sheet import parse_sheet
from ..core.circuit.sheet import Sheet
from ..core.circuit.solve import solve
from ..core.circuit.spice import netlist, transient_netlist
from ..core.circuit.transient import parse_step, transient
from ..core.evidence.items import read_csv
from ..core.evidence.line import parse_line
from ..core.isolate.advise.orders import ORDERS
from ..core.isolate.conclude.proof import percent
from ..core.isolate.extent import check_items, check_sheet
from ..core.isolate.isolation import Isolation, isolate
from ..core.isolate.predict.responses import Workup


def _text(path: str) -> str:
    try:
        return Path(path).read_text(encoding="utf-8")
    except (OSError, UnicodeDecodeError) as error:
        reason = error.strerror if isinstance(error, OSError) else "it is not UTF-8 text"
        raise click.ClickException(f"{path} cannot be read: {reason}.") from None


def _sheet(path: str) -> Sheet:
    try:
        return parse_sheet(_text(path))
    except SheetError as error:
        for line in error.lines(path):
            click.echo(line, err=True)
        sys.exit(1)


class _Group(click.Group):
    """Shows a user-mendable error as its one sentence, exit 1."""

    def invoke(self, ctx: click.Context) -> object:
        try:
            return super().invoke(ctx)
        except PondrelError as error:
            raise click.ClickException(str(error)) from None


@click.group(cls=_Group)
@click.version_option(__version__, prog_name="pondrel")
def main() -> None:
    """Pondrel isolates the one faulty part or joint of a vehicle circuit from meter readings."""


@main.group()
def sheet() -> None:
    """Circuit sheets."""


@sheet.command("check")
@click.argument("file")
def sheet_check(file: str) -> None:
    """Silence and exit 0 for a good sheet; one line per flaw and exit 1 otherwise. What is allowed and most probably not meant is a line
    that begins with "warning" after its path; the exit is 0 then."""
    try:
        circuit = parse_sheet(_text(file))
    except SheetError as error:
        for line in error.lines(file):
            click.echo(line)
        sys.exit(1)
    for path, says in remarks(circuit):
        click.echo(f"{file}: {path}: warning: {says}")


@sheet.command("schema")
def sheet_schema() -> None:
    """Print the JSON Schema of the sheet format."""
    from ..core.circuit.read.schema import json_schema

    click.echo(json.dumps(json_schema(), indent=2))


@sheet.command("add")
@click.argument("file")
def sheet_add(file: str) -> None:
    """Store a sheet in the data folder, so that jobs can be opened on it."""
    from ..store.db import DATABASE, atomic, opened
    from ..store.folder import prepared
    from ..store.sheets import add_sheet

    circuit = _sheet(file)
    conn = opened(prepared(_data_folder()) / DATABASE)
    with atomic(conn):
        number = add_sheet(conn, _text(file))
    conn.close()
    click.echo(f"'{circuit.title}' is sheet {number}.")


@main.command("solve")
@click.argument("file")
@click.option("--state", required=True, help="A state of the sheet.")
@click.option("--fault", "faults", multiple=True, help="PART.MODE or PART.MODE=VALUE; may be given more than once.")
@click.option("--json", "as_json", is_flag=True, help="Print JSON.")
def solve_command(file: str, state: str, faults: tuple[str, ...], as_json: bool) -> None:
    """Volts at every place and amperes in every part, in a state, with faults if any."""
    circuit = _sheet(file)
    point = solve(circuit, state, tuple(parse_fault(circuit, text) for text in faults))
    if as_json:
        click.echo(json.dumps(point.as_json(), indent=2))
        return
    width = max(len(name) for name in (*point.places, *point.currents))
    for place, volts in point.places.items():
        click.echo(f"{place:{width}}  {show(volts, 'V'):>10}")
    for part, amps in point.currents.items():
        click.echo(f"{part:{width}}  {show(amps, 'A'):>10}")
    for part, sights in point.sights.items():
        click.echo("\n".join(f"{part}: {sight.says}" for sight in sights))
    for note in point.notes:
        click.echo(note)


@main.command("isolate")
@click.argument("file")
@click.option("--readings", help="CSV: state,instrument,red,black,value[,note].")
@click.option("--line", "lines", multiple=True, help="One more reading or finding, as 'wiggle C2 changed'; may be repeated.")
@click.option("--json", "as_json", is_flag=True, help="Print JSON.")
def isolate_command(file: str, readings: str | None, lines: tuple[str, ...], as_json: bool) -> None:
    """Rank the faults that explain the readings, and propose the next test."""
    circuit = _sheet(file)
    check_sheet(circuit)
    items = read_csv(circuit, _text(readings)) if readings else ()
    for line in lines:
        items = (*items, parse_line(circuit, line, next(iter(circuit.states)))[0])
    check_items(items)
    result = isolate(Workup(circuit), items)
    click.echo(json.dumps(result.as_json(), indent=2) if as_json else _told(result))


def _told(result: Isolation) -> str:
    lines = [result.standing.says, result.assumed]
    for suspect in result.suspects[:8]:
        size = "" if suspect.severity is None else "  about {}, {} to {}".format(*(show(v, "Ω") for v in suspect.severity))
        name = f"{suspect.part} {suspect.words}" if suspect.part else suspect.words
        lines.append(f"{percent(suspect.probability):>10}  {name}{size}")
    lines += [f"These cannot be told apart here: {', '.join(group)}." for group in result.groups]
    lines += [misfit.says for misfit in result.misfits]
    for advice in result.next[:1]:
        test = advice.test
        where = f"red {test.red}, black {test.black}" if test.black else test.red
        lines.append(f"Next: {test.instrument} in state {test.state}, {where} ({advice.minutes:g} min).")
    return "\n".join(lines)


@main.command("spice")
@click.argument("file")
@click.option("--state", required=True, help="A state of the sheet.")
@click.option("--fault", "faults", multiple=True, help="PART.MODE or PART.MODE=VALUE; may be given more than once.")
def spice_command(file: str, state: str, faults: tuple[str, ...]) -> None:
    """Print a SPICE netlist that `ngspice -b` runs unchanged."""
    circuit = _sheet(file)
    click.echo(netlist(circuit, state, tuple(parse_fault(circuit, text) for text in faults)), nl=False)


@main.command("transient")
@click.argument("file")
@click.option("--step", "steps", multiple=True, required=True, help="SECONDS:STATE; the first is where it starts, at rest.")
@click.option("--until", required=True, type=float, help="End in seconds.")
@click.option("--fault", "faults", multiple=True, help="PART.MODE or PART.MODE=VALUE; may be given more than once.")
@click.option("--json", "as_json", is_flag=True, help="Print JSON: times, volts by node, amperes by part, events.")
@click.option("--spice", is_flag=True, help="Print a SPICE netlist of the same run instead.")
def transient_command(file: str, steps: tuple[str, ...], until: float, faults: tuple[str, ...], as_json: bool, spice: bool) -> None:
    """Follow a sheet in time: delays, coil currents, spikes, pulsing."""
    circuit = _sheet(file)
    wrong = tuple(parse_fault(circuit, text) for text in faults)
    way = tuple(parse_step(text) for text in steps)
    trace = transient(circuit, way, until, wrong)
    if spice:
        click.echo(transient_netlist(circuit, way, until, wrong), nl=False)
    elif as_json:
        click.echo(json.dumps(trace.as_json()))
    else:
        for time, says in trace.events:
            click.echo(f"{show(time, 's'):>10}  {says}")
        for place in circuit.places:
            series = trace.volts[place]
            least, most, last = (show(float(v), "V") for v in (series.min(), series.max(), series[-1]))
            click.echo(f"{place}: {least} to {most}, at the end {last}")


@main.command("measure")
@click.argument("file")
@click.option("--state", required=True, help="A state of the sheet.")
@click.option("--instrument", required=True, help="volts, lowz, ohms, continuity, amps, clamp, scope, lamp or load.")
@click.option("--red", required=True)
@click.option("--black", default="", help="Battery minus if left out.")
@click.option("--fault", "faults", multiple=True, help="PART.MODE or PART.MODE=VALUE; may be given more than once.")
@click.option("--live", is_flag=True, help="Leave the battery on for an ohmmeter.")
@click.option("--json", "as_json", is_flag=True, help="Print JSON.")
def measure_command(
    file: str, state: str, instrument: str, red: str, black: str, faults: tuple[str, ...], live: bool, as_json: bool
) -> None:
    """What an instrument shows on a sheet, with its uncertainty and what it does to the circuit."""
    circuit = _sheet(file)
    shown = measure(circuit, state, instrument, red, black, tuple(parse_fault(circuit, text) for text in faults), battery_off=not live)
    if as_json:
        click.echo(json.dumps(shown.as_json()))
        return
    click.echo("\n".join([shown.text, *shown.notes]))


@main.command("trial")
@click.argument("files", nargs=-1, required=True)
@click.option("--seeds", type=click.IntRange(1), default=1, show_default=True, help="Runs of every hidden fault.")
@click.option("--first-seed", type=int, default=1, show_default=True)
@click.option("--order", "orders", multiple=True, default=("best",), help="best, fuse, part, half, module or random; may be repeated.")
@click.option("--every", type=click.IntRange(1), default=1, show_default=True, help="Of the faults only every second, third, ...")
@click.option("--small-worlds", type=click.IntRange(0), default=8, show_default=True, help="Of each sheet, for the optimal policy.")
@click.option("--workers", type=click.IntRange(1), help="Processes; one per core if left out.")
@click.option("--json", "as_json", is_flag=True, help="Print JSON.")
def trial_command(
    files: tuple[str, ...], seeds: int, first_seed: int, orders: tuple[str, ...], every: int, small_worlds: int,
    workers: int | None, as_json: bool,
) -> None:  # fmt: skip
    """Hide every fault of every sheet behind a simulated meter, let the adviser run to its stop rule, and report what came of it."""
    from ..trial.report import told, trial

    texts = {path: _text(path) for path in files}
    for path in files:
        _sheet(path)
    unknown = [order for order in orders if order not in ORDERS]
    if unknown:
        raise click.ClickException(f"{quoted(unknown[0])} is no order of attack: {', '.join(ORDERS)} are.")
    result = trial(texts, range(first_seed, first_seed + seeds), orders, every, small_worlds, workers)
    click.echo(json.dumps(result, indent=2) if as_json else told(result))


def _data_folder(otherwise: str = "data") -> Path:
    return Path(os.environ.get("PONDREL_DATA") or otherwise)


# Eight threads; a connection that sends nothing for ten seconds is closed, so that half a request holds nothing up for long.
SERVER = {
    "threads": 8,
    "connection_limit": 800,
    "channel_timeout": 10,
    "cleanup_interval": 2,
    "backlog": 256,
    "asyncore_use_poll": True,
    "max_request_header_size": 32 * 1024,
    "max_request_body_size": 8 * 1024 * 1024,
    "ident": "Pondrel",
}


@main.command("demo")
@click.option("--reset", is_flag=True, help="Make the demo database anew; the one before is copied to the folder 'backups' first.")
def demo_command(reset: bool) -> None:
    """Load the made-up depot into its data folder (PONDREL_DATA, else ./demo-data) if that holds no database yet."""
    from ..demo.load import load_demo

    click.echo(load_demo(_data_folder("demo-data"), reset))


@main.command("serve")
@click.option("--host", default="127.0.0.1", show_default=True)
@click.option("--port", type=click.IntRange(1, 65535), envvar="PONDREL_PORT", default=8765, show_default=True)
@click.option(
    "--allow-host", "allowed", multiple=True, help="One more name that browsers may use for this server; may be given more than once."
)
def serve_command(host: str, port: int, allowed: tuple[str, ...]) -> None:
    """Serve the application (waitress)."""
    import waitress

    from ..store.folder import prepared, used_by_server
    from ..web import create_app
    from ..web.guard import names_for

    folder = prepared(_data_folder())
    with used_by_server(folder):
        app = create_app(folder, names_for(host, allowed))
        try:
            server = waitress.create_server(app, host=host, port=port, **SERVER)
        except OSError as error:
            reason = f"Port {port} on {host} cannot be used ({error.strerror})"
            raise click.ClickException(f"{reason}: set PONDREL_PORT to a free one.") from None
        click.echo(f"Pondrel is at http://{host}:{port}")
        server.run()
