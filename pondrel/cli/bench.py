"""`pondrel bench`: one component judged by itself."""

from __future__ import annotations

import json

import click

from ..core.base.errors import ReadingError
from ..core.bench import FAMILIES, family_of
from ..core.bench.listing import families_json
from .judging import judge_by, judging_options

__all__ = ["bench"]


@click.command()
@click.argument("family", required=False, default="")
@judging_options
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
    judge_by(family_of(family), settings, limits, reads, points, meter, as_json)
