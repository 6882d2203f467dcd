"""`pondrel power`: starting and charging judged from readings, and captures of them."""

from __future__ import annotations

import json

import click

from ..core.bench import case_from
from ..core.bench.written import pair_of
from ..core.power import POWER
from ..core.power.capture_verdict import CAPTURE, capture_json, capture_outcome
from ..core.wave import capture_from
from .files import stream_of
from .judging import judging, told

__all__ = ["power"]


@click.group()
def power() -> None:
    """Starting and charging: battery, crank, charge, draw, belt."""


for _family in POWER.values():
    power.add_command(judging(_family))


@power.command()
@click.argument("file", type=click.Path())
@click.option("--set", "settings", multiple=True, metavar="NAME=VALUE", help="As in system=24, cylinders=6, full_scale=20.")
@click.option("--json", "as_json", is_flag=True, help="Print JSON.")
def capture(file: str, settings: tuple[str, ...], as_json: bool) -> None:
    """Judge a capture (CSV or WAV) of cranking or charging."""
    case = case_from(CAPTURE, [pair_of(text, "a setting such as cylinders=6") for text in settings])
    with stream_of(file) as stream:
        own = capture_from(stream, case.known("full_scale"))
    seen, found = capture_outcome(case, own)
    if as_json:
        click.echo(json.dumps(capture_json(own, seen, found), indent=2, ensure_ascii=False))
        return
    click.echo(f"{CAPTURE.title}: {found.verdict}")
    for event in seen.events:
        click.echo(f"  {event.at:9.3f} s  {event.name}" + (f"  {event.volts:.2f} V" if event.volts is not None else ""))
    told(found)
