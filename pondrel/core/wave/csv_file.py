"""A capture from CSV: any delimiter, a decimal point or comma, units in the heading or below it, a time column or a line with the rate."""

from __future__ import annotations

import io
import re
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, BinaryIO

import numpy as np
from numpy.typing import NDArray

from ..base.brief import quoted
from ..base.errors import CaptureError
from .capture import LEAST_SAMPLES, MOST_VALUES, Capture, Channel
from .times import bridged, even_times

__all__ = ["capture_from_csv"]

_HEAD_BYTES, _MOST_HEADING = 65536, 200
_DELIMITERS = (";", "\t", "|", ",")
_NUMBER = re.compile(r"[+-]?(?:\d+(?:[.,]\d*)?|[.,]\d+)(?:[eE][+-]?\d+)?")
_TIME = re.compile(r"(?i)\s*(?:time|t|zeit|x|seconds?)\b")
_UNIT = re.compile(r"[\[(]\s*([^\])]{1,12})\s*[\])]")
# By unit as it is written: what a number in it is worth in s, V or A, and which of these it is.
_UNITS = {
    "s": (1.0, "s"), "sec": (1.0, "s"), "ms": (1e-3, "s"), "us": (1e-6, "s"), "µs": (1e-6, "s"), "μs": (1e-6, "s"), "ns": (1e-9, "s"),
    "min": (60.0, "s"), "v": (1.0, "V"), "volt": (1.0, "V"), "volts": (1.0, "V"), "mv": (1e-3, "V"), "kv": (1e3, "V"),
    "a": (1.0, "A"), "amp": (1.0, "A"), "amps": (1.0, "A"), "ma": (1e-3, "A"), "ka": (1e3, "A"),
}  # fmt: skip
_RATE = re.compile(
    r"(?i)(?:sampl\w*\s*)?(?P<what>rate|frequency|interval|period|step|dt)\W*[=:;,\t ]\s*\"?(?P<number>[\d.,]+(?:e[+-]?\d+)?)\s*\"?[;,\t ]*"
    r"\"?(?P<unit>[munµk]?(?:s|hz|sa/s|samples/s))?\b"
)
_SCALES = {"m": 1e-3, "u": 1e-6, "µ": 1e-6, "n": 1e-9, "k": 1e3}
_ROW = re.compile(r"row (\d+)")


@dataclass(frozen=True, slots=True)
class _Layout:
    """How a file is laid out: its ``delimiter`` (None for blanks), whether a comma is the decimal sign, lines before the first number,
    names and units of the columns, seconds between two samples where a line says so, which columns hold anything, and its encoding."""

    delimiter: str | None
    comma: bool
    first_line: int
    names: tuple[str, ...]
    units: tuple[str, ...]
    step: float | None
    columns: tuple[int, ...]
    encoding: str


def capture_from_csv(stream: BinaryIO) -> Capture:
    """The capture in a CSV file, from where the stream stands. Raises CaptureError with one sentence."""
    begin = stream.tell()
    layout = _layout(stream.read(_HEAD_BYTES))
    stream.seek(begin)
    table = _table(stream, layout)
    if len(table) < LEAST_SAMPLES:
        raise CaptureError(f"There are {len(table)} lines of numbers, and at least {LEAST_SAMPLES} are wanted.")
    return _capture(table, layout)


def _decoded(head: bytes) -> tuple[str, str]:
    encoding = "utf-16" if head[:2] in (b"\xff\xfe", b"\xfe\xff") else "utf-8-sig"
    try:
        return head.decode(encoding, errors="ignore" if len(head) == _HEAD_BYTES else "strict"), encoding
    except UnicodeDecodeError:
        return head.decode("latin-1"), "latin-1"


def _layout(head: bytes) -> _Layout:
    text, encoding = _decoded(head)
    if "\0" in text:
        raise CaptureError("This is no text file: a capture as CSV, WAV, VCD or .npz is wanted.")
    lines = text.splitlines()
    if len(head) == _HEAD_BYTES:
        lines = lines[:-1]  # may be cut in the middle
    for number, line in enumerate(lines[:_MOST_HEADING]):
        found = _numbers(line)
        if found is not None:
            return _with_heading(lines, number, *found, encoding)
    shown = next((line for line in lines if line.strip()), "")
    raise CaptureError(f"There are no numbers in this file, it begins with {quoted(shown)}: a capture as CSV, WAV, VCD or .npz is wanted.")


def _numbers(line: str) -> tuple[str | None, bool, list[str]] | None:
    """Delimiter, whether a comma is the decimal sign, and the cells of a line of numbers; None for another line."""
    for delimiter in (*_DELIMITERS, None):
        cells = [cell.strip().strip('"') for cell in (line.split(delimiter) if delimiter else line.split())]
        filled = [cell for cell in cells if cell]
        if delimiter and len(cells) < 2:
            continue
        if filled and all(_NUMBER.fullmatch(cell) for cell in filled):
            comma = delimiter != "," and any("," in cell for cell in filled)
            return delimiter, comma, cells
    return None


def _with_heading(lines: Sequence[str], first: int, delimiter: str | None, comma: bool, cells: list[str], encoding: str) -> _Layout:
    columns = tuple(place for place, cell in enumerate(cells) if cell)
    above = [
        [cell.strip().strip('"') for cell in (line.split(delimiter) if delimiter else line.split())]
        for line in lines[:first]
        if line.strip()
    ]
    named = [row for row in above if len(row) == len(cells)][-2:]
    names, units = [""] * len(cells), [""] * len(cells)
    for row in named:
        bare = [cell.strip("[]() ").lower() for cell in row]
        if all(cell in _UNITS or not cell for cell in bare) and any(cell in _UNITS for cell in bare):
            units = bare
        else:
            names = list(row)
    for place, name in enumerate(names):
        match = _UNIT.search(name)
        if match and match[1].lower() in _UNITS:
            units[place] = match[1].lower()
            names[place] = name[: match.start()].strip()
    step = next((step for line in lines[:first] if (step := _step(line)) is not None), None)
    # Where a comma may be both, a later line shows: all numbers of the first may be whole.
    later = [_numbers(line) for line in lines[first + 1 : first + 50] if line.strip()]
    comma = comma or any(row[1] for row in later if row is not None and row[0] == delimiter)
    return _Layout(delimiter, comma, first, tuple(names), tuple(units), step, columns, encoding)


def _step(line: str) -> float | None:
    """Seconds between two samples by a line that says so."""
    match = _RATE.search(line)
    if match is None:
        return None
    try:
        number = float(match["number"].replace(",", "."))
    except ValueError:
        return None
    if number <= 0.0:
        return None
    unit = (match["unit"] or "").lower()
    scale = (
        _SCALES.get(unit[:1], 1.0)
        if len(unit.replace("samples/s", "hz").replace("sa/s", "hz").lstrip("munµk")) and unit[:1] in _SCALES
        else 1.0
    )
    is_rate = match["what"].lower() in ("rate", "frequency")
    return 1.0 / (number * scale) if is_rate else number * scale


class _Text(io.RawIOBase):
    """A stream of bytes with commas as points, for a reader that knows points only."""

    def __init__(self, stream: BinaryIO):
        self._stream = stream

    def readable(self) -> bool:
        return True

    def readinto(self, buffer: Any) -> int:
        found = self._stream.read(len(buffer)).replace(b",", b".")
        buffer[: len(found)] = found
        return len(found)


def _table(stream: BinaryIO, layout: _Layout) -> NDArray[np.float64]:
    most = MOST_VALUES // len(layout.columns)
    raw: Any = io.BufferedReader(_Text(stream), 1 << 20) if layout.comma else stream
    text = io.TextIOWrapper(raw, encoding=layout.encoding, errors="replace")
    try:
        table = np.loadtxt(
            text, delimiter=layout.delimiter, skiprows=layout.first_line, usecols=layout.columns, ndmin=2, max_rows=most + 1, quotechar='"',
            comments=None,
        )  # fmt: skip
    except ValueError as error:
        raise CaptureError(_told(str(error), layout)) from None
    finally:
        text.detach()  # the stream is its owner's to close
    if len(table) > most:
        raise CaptureError(
            f"There are more than {most} samples of {len(layout.columns)} columns: take a shorter capture, or fewer a second."
        )
    return table


def _told(error: str, layout: _Layout) -> str:
    match = _ROW.search(error)
    row = int(match[1]) + layout.first_line if match else 0  # numpy counts lines from 1 here and from 0 below
    if "number of columns" in error or "usecols" in error or "column index" in error:
        return f"Line {row} has another number of columns than the first line of numbers, which has {len(layout.columns)}."
    found = re.search(r"could not convert string (.+?) to float", error)
    return f"Line {row + 1} holds {found[1] if found else 'something'} where a number is wanted."


def _capture(table: NDArray[np.float64], layout: _Layout) -> Capture:
    names = [layout.names[place] for place in layout.columns]
    units = [layout.units[place] for place in layout.columns]
    timed = _time_column(table, names, units)
    if timed is None and layout.step is None:
        one = "one column" if table.shape[1] == 1 else "no time column"
        raise CaptureError(f"There is {one} and no rate: a time column is wanted, or a line such as 'rate, 10000 Hz' above the numbers.")
    start, step, even = 0.0, layout.step or 1.0, None
    if timed is not None:
        _check_times(table[:, timed], layout)
        worth = _worth(units[timed], "s")
        even = even_times(table[:, timed], worth, layout.first_line + 1)
        start, step = even.start * worth, even.step * worth
    channels, notes = [], [even.note] if even is not None and even.note else []
    for place in range(table.shape[1]):
        if place != timed:
            name = names[place] or f"channel {place + (timed is None)}"
            notes += [note] if (note := bridged(table[:, place], name)) else []
            values = even.brought(table[:, place]) if even is not None else table[:, place]
            factor, unit = _UNITS.get(units[place], (1.0, units[place]))
            channels.append(Channel(name, unit, values, factor))
    if not channels:
        raise CaptureError("There is a time column only: a column of volts or amperes is wanted beside it.")
    return Capture(tuple(channels), step, start, tuple(notes))


def _check_times(times: NDArray[np.float64], layout: _Layout) -> None:
    finite = np.isfinite(times)
    if not finite.all():
        raise CaptureError(f"Line {int(np.argmin(finite)) + layout.first_line + 1} holds something that is no time.")


def _worth(unit: str, wanted: str) -> float:
    factor, of = _UNITS.get(unit, (1.0, wanted))
    return factor if of == wanted else 1.0


def _time_column(table: NDArray[np.float64], names: Sequence[str], units: Sequence[str]) -> int | None:
    by_unit = [place for place, unit in enumerate(units) if _UNITS.get(unit, (0.0, ""))[1] == "s"]
    if by_unit:
        return by_unit[0]
    by_name = [place for place, name in enumerate(names) if _TIME.match(name)]
    if by_name:
        return by_name[0]
    if table.shape[1] < 2 or names[0]:
        return None
    head = table[:2000, 0]
    head = head[np.isfinite(head)]
    if len(head) < 2:
        return None
    steps = np.diff(head)
    rises = bool((steps >= 0.0).mean() > 0.95) and bool(head[-1] > head[0])
    return 0 if rises else None
