"""`pondrel bench`: one component judged by itself."""

from __future__ import annotations

import json
from collections.abc import Mapping

import click

from ..core.base.brief import near, quoted
from ..core.base.errors import ReadingError
from ..core.bench import FAMILIES, case_from, family_of, outcome
from ..core.bench.listing import families_json
from ..core.bench.written import pair_of
from ..core.meter.handheld import HANDHELDS, Handheld
from ..store.db import DATABASE, opened
from ..store.meters import all_meters
from .files import data_folder, text_in

__all__ = ["bench"]


def _meters() -> Mapping[str, Handheld]:
    """The shipped kinds of meter, and the workshop's own where its data folder is named."""
    path = data_folder() / DATABASE
    if not path.is_file():
        return HANDHELDS
    conn = opened(path)
    try:
        return {name: own.meter for name, own in all_meters(conn).items()}
    finally:
        conn.close()


@click.command()
@click.argument("family", required=False, default="")
@click.option("--set", "settings", multiple=True, metavar="NAME=VALUE", help="What is known of it before one reads.")
@click.option("--limit", "limits", multiple=True, metavar="LIMIT", help="As in 'ohms 3.15..3.45 @20C', '13±10%', '<=0.1', 'about 20'.")
@click.option("--read", "reads", multiple=True, metavar="NAME=VALUE", help="A reading with its conditions, as in 'ohms=3.7 @21C'.")
@click.option("--points", type=click.Path(), help="A CSV file of points, its heading naming the columns.")
@click.option("--meter", default="as typed", show_default=True, help="The meter that read it.")
@click.option("--list", "as_list", is_flag=True, help="The families with what they are given.")
@click.option("--json", "as_json", is_flag=True, help="Print JSON.")
def bench(
    family: str, settings: tuple[str, ...], limits: tuple[str, ...], reads: tuple[str, ...], points: str | None, meter: str, as_list: bool,
    as_json: bool,
) -> None:  # fmt: skip
    """Judge a component by itself: a coil, a valve, a capacitor."""
    if as_list:
        if as_json:
            click.echo(json.dumps(families_json(), indent=2, ensure_ascii=False))
            return
        for own in FAMILIES.values():
            click.echo(f"{own.name:16} {own.title}")
        return
    if not family:
        raise ReadingError(f"A family of checks is wanted, one of {', '.join(FAMILIES)}; --list tells what each is given.")
    own = family_of(family)
    meters = _meters()
    if meter not in meters:
        raise ReadingError(f"{quoted(meter)} is no meter that is known{near(meter, meters)}.")
    case = case_from(
        own, [pair_of(text, "a setting such as rest=closed") for text in settings],
        [pair_of(text, "a reading such as 'ohms=3.7 @21C'") for text in reads], limits, text_in(points) if points else "", meters[meter],
    )  # fmt: skip
    found = outcome(own, case)
    if as_json:
        click.echo(json.dumps(found.as_json(), indent=2, ensure_ascii=False))
        return
    click.echo(f"{own.title}: {found.verdict}")
    for one in found.findings:
        click.echo(f"  {one.check}: {one.verdict}. {one.because}")
    for text in (*found.service.says, found.differ, *found.next):
        if text:
            click.echo(f"  {text}")
