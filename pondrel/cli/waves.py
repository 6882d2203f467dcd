"""`pondrel wave`: captures measured, judged by the patterns of the trade, and read as data lines."""

from __future__ import annotations

import json

import click

from ..core.base.errors import ReadingError
from ..core.base.quantity import show
from ..core.bench import case_from
from ..core.bench.listing import family_json
from ..core.bench.written import pair_of
from ..core.scope import PATTERNS, pattern_of, pattern_outcome
from ..core.wave import Capture, capture_from
from ..core.wave.bits import bits_json, bits_of
from ..core.wave.bits.frame import ERROR_KINDS
from ..core.wave.delay import changed_of, delays_of
from ..core.wave.measure import QUANTITIES, measures_json, measures_of
from ..core.wave.phase import beat_of, phases_of
from .files import stream_of
from .judging import told

__all__ = ["wave"]

_MOST_LINES = 200


@click.group()
def wave() -> None:
    """Captures: measure, judge, bits."""


def _capture(file: str, full_scale: float | None) -> Capture:
    with stream_of(file) as stream:
        return capture_from(stream, full_scale)


_FULL_SCALE = click.option("--full-scale", type=float, help="Volts that the largest sample of a WAV stands for.")
_JSON = click.option("--json", "as_json", is_flag=True, help="Print JSON.")


@wave.command()
@click.argument("file", type=click.Path())
@_FULL_SCALE
@_JSON
def measure(file: str, full_scale: float | None, as_json: bool) -> None:
    """Measure every channel of a capture (CSV, WAV, VCD, .npz)."""
    capture = _capture(file, full_scale)
    found = [measures_of(capture, channel) for channel in capture.channels]
    phases, delays = phases_of([beat_of(own) for own in found]), delays_of([changed_of(own) for own in found])
    notes = [*capture.notes, *(one.sentence for one in phases), *(one.sentence for one in delays)]
    if as_json:
        told = {"channels": [measures_json(capture, own) for own in found], "notes": notes}
        click.echo(json.dumps(told, indent=2, ensure_ascii=False, allow_nan=False))
        return
    for note in notes:
        click.echo(note)
    for own in found:
        click.echo(f"{own.channel.name}: {capture.count} samples, {show(1.0 / capture.step, 'Hz')}")
        for quantity in QUANTITIES.values():
            number = quantity.of(own)
            if number is not None:
                term = f"  [{quantity.term}]" if quantity.term else ""
                click.echo(f"  {quantity.says:28} {quantity.shown(number.value, own.channel.unit)}{term}")
        for begin, end in own.dropouts[:_MOST_LINES]:
            click.echo(f"  gone from {begin:.6g} s to {end:.6g} s")


@wave.command()
@click.argument("pattern", required=False, default="")
@click.argument("file", type=click.Path(), required=False, default="")
@click.option("--set", "settings", multiple=True, metavar="NAME=VALUE", help="What is known, as in gauge=heated.")
@click.option("--limit", "limits", multiple=True, metavar="LIMIT", help="'average 4.9..5.1V (maker: sheet 12)'.")
@click.option("--channel", default="", help="The channel to judge, by name or number.")
@click.option("--second", default="", help="The second channel of a pattern that takes two.")
@click.option("--list", "as_list", is_flag=True, help="The patterns, or what may be set for one.")
@_FULL_SCALE
@_JSON
def judge(
    pattern: str, file: str, settings: tuple[str, ...], limits: tuple[str, ...], channel: str, second: str, as_list: bool,
    full_scale: float | None, as_json: bool,
) -> None:  # fmt: skip
    """Judge a capture by a pattern of the trade: a regulator, a valve, a wheel sensor."""
    if as_list:
        _list(pattern, as_json)
        return
    if not pattern or not file:
        raise ReadingError(f"A pattern and a file are wanted. Patterns: {', '.join(PATTERNS)}; --list tells what each is for.")
    own = pattern_of(pattern)
    case = case_from(own.family, [pair_of(text, "a setting such as gauge=heated") for text in settings], (), limits)
    found = pattern_outcome(own, case, _capture(file, full_scale), channel, second)
    if as_json:
        click.echo(json.dumps(found.as_json(), indent=2, ensure_ascii=False, allow_nan=False))
        return
    click.echo(f"{own.title}: {found.verdict}")
    told(found)


def _list(pattern: str, as_json: bool) -> None:
    known = [pattern_of(pattern)] if pattern else list(PATTERNS.values())
    if as_json:
        click.echo(json.dumps([{**family_json(own.family), "clip": own.clip} for own in known], indent=2, ensure_ascii=False))
        return
    for own in known:
        click.echo(f"{own.name:18} {own.title}. {own.clip}")
        for setting in own.family.settings if pattern else ():
            click.echo(f"  {setting.name:12} {setting.says}{f': {chr(44).join(setting.words)}' if setting.words else ''}")


@wave.command()
@click.argument("file", type=click.Path())
@click.option("--high", default="", help="The channel of CAN high, by name or number.")
@click.option("--low", default="", help="The channel of CAN low.")
@click.option("--rate", type=click.FloatRange(min=0.0, min_open=True), help="Bits a second, where it shall not be found by itself.")
@_JSON
def bits(file: str, high: str, low: str, rate: float | None, as_json: bool) -> None:
    """Read a capture of a data line: CAN (with FD frames) or LIN."""
    own = bits_of(_capture(file, None), high, low, rate)
    if as_json:
        click.echo(json.dumps(bits_json(own), indent=2, ensure_ascii=False, allow_nan=False))
        return
    click.echo(f"{own.protocol}, {own.bit_rate:.0f} bit/s" if own.bit_rate else "Nothing on it can be read.")
    for suspect in own.suspects:
        click.echo(f"  {100 * suspect.probability:3.0f} %  {suspect.says}")
    if own.errors:
        click.echo(f"Disturbed {100 * own.disturbed:.2g} % of the time:")
    for error in own.errors[:_MOST_LINES]:
        click.echo(f"  {error.time:.6f} s  {error.kind}: {ERROR_KINDS[error.kind]}")
    for frame in own.frames[:_MOST_LINES]:
        marks = [word for word, said in (("FD", frame.flexible), ("remote", frame.remote)) if said]
        marks += ([] if frame.crc_ok else ["wrong check sum"]) + ([] if frame.acknowledged else ["nobody answers"])
        click.echo(
            f"  {frame.time:.6f} s  {frame.id:{'08X' if frame.extended else '03X'}}  {frame.data.hex(' ')}  {', '.join(marks)}".rstrip()
        )
    if max(len(own.frames), len(own.errors)) > _MOST_LINES:
        click.echo(f"  of {len(own.frames)} frames and {len(own.errors)} errors: --json tells all.")
