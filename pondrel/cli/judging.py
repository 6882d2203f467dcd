"""What every command has that judges readings by a family: settings, limits, readings, a file of points, the meter, and the answer."""

from __future__ import annotations

import json
from collections.abc import Callable, Mapping
from typing import Any

import click

from ..core.base.brief import near, quoted
from ..core.base.errors import ReadingError
from ..core.bench import Outcome, case_from, outcome
from ..core.bench.family import Family
from ..core.bench.house import with_house
from ..core.bench.listing import family_json
from ..core.bench.written import pair_of
from ..core.meter.handheld import HANDHELDS, Handheld
from ..store.db import DATABASE, opened
from ..store.house import house_choices
from ..store.meters import all_meters
from .files import data_folder, text_in

__all__ = ["judge_by", "judging", "judging_options", "told"]


def settled() -> tuple[Mapping[str, Handheld], Mapping[str, str]]:
    """The shipped kinds of meter, and the workshop's own meters and house rules where its data folder is named."""
    path = data_folder() / DATABASE
    if not path.is_file():
        return HANDHELDS, {}
    conn = opened(path)
    try:
        return {name: own.meter for name, own in all_meters(conn).items()}, house_choices(conn)
    finally:
        conn.close()


def judging_options(command: Callable[..., Any]) -> Callable[..., Any]:
    """The options that such a command has."""
    for option in (
        click.option("--json", "as_json", is_flag=True, help="Print JSON."),
        click.option("--list", "as_list", is_flag=True, help="What may be given."),
        click.option("--meter", default="as typed", show_default=True, help="The meter that read it."),
        click.option("--points", type=click.Path(), help="A CSV file of points, its heading naming the columns."),
        click.option("--read", "reads", multiple=True, metavar="NAME=VALUE[@CONDITION]", help="A reading, as in 'ohms=3.7 @21C'."),
        click.option("--limit", "limits", multiple=True, metavar="LIMIT", help="'ohms 3.15..3.45 @20C (maker: sheet 12)'."),
        click.option("--set", "settings", multiple=True, metavar="NAME=VALUE", help="What is known of the part, as in rest=closed."),
    ):
        command = option(command)
    return command


def judge_by(
    family: Family,
    settings: tuple[str, ...],
    limits: tuple[str, ...],
    reads: tuple[str, ...],
    points: str | None,
    meter: str,
    as_json: bool,
) -> None:
    """Judge what was given by a family, and print the answer. Raises ReadingError with one sentence."""
    known, house = settled()
    if meter not in known:
        raise ReadingError(f"{quoted(meter)} is no meter that is known{near(meter, known)}.")
    case = case_from(
        family, with_house(family.settings, [pair_of(text, "a setting such as rest=closed") for text in settings], house),
        [pair_of(text, "a reading such as 'ohms=3.7 @21C'") for text in reads], limits, text_in(points) if points else "", known[meter],
    )  # fmt: skip
    found = outcome(family, case)
    if as_json:
        click.echo(json.dumps(found.as_json(), indent=2, ensure_ascii=False))
        return
    click.echo(f"{family.title}: {found.verdict}")
    told(found)


def told(found: Outcome) -> None:
    """Print findings and sentences."""
    for one in found.findings:
        click.echo(f"  {one.check}: {one.verdict}. {one.because}")
    for text in (*found.service.says, found.differ, *found.next):
        if text:
            click.echo(f"  {text}")


def judging(family: Family) -> click.Command:
    """The command that judges by one family."""

    @click.command(family.name, help=f"{family.title}: judge readings. One --set or --read may be followed by several NAME=VALUE.")
    @click.argument("more", nargs=-1, metavar="[NAME=VALUE]...")
    @judging_options
    def command(
        more: tuple[str, ...],
        settings: tuple[str, ...],
        limits: tuple[str, ...],
        reads: tuple[str, ...],
        points: str | None,
        meter: str,
        as_list: bool,
        as_json: bool,
    ) -> None:
        if as_list:
            click.echo(json.dumps(family_json(family), indent=2, ensure_ascii=False))
            return
        known = [text for text in more if family.setting(text.partition("=")[0].strip()) is not None]
        judge_by(
            family, (*settings, *known), limits, (*reads, *(text for text in more if text not in known)), points, meter, as_json
        )  # fmt: skip

    return command
