"""A capture of logic from a value change dump (IEEE 1364-2005, clause 18), brought to even samples.

The step is the largest that every change falls on, unless that gives more samples than are wanted: then changes are placed on a coarser
one, which is said.
"""

from __future__ import annotations

import re
from typing import BinaryIO

import numpy as np
from numpy.typing import NDArray

from ..base.brief import quoted
from ..base.errors import CaptureError
from ..base.quantity import show
from .capture import LEAST_SAMPLES, Capture, Channel

__all__ = ["capture_from_vcd"]

MOST_SAMPLES, MOST_SIGNALS, MOST_CHANGES = 10_000_000, 64, 20_000_000
MOST_TIME = 1 << 62
LEAST_MADE = 1000  # samples that even a short dump of few changes gets
_SCALE = re.compile(r"(1|10|100)\s*(s|ms|us|ns|ps|fs)")
_SECONDS = {"s": 1.0, "ms": 1e-3, "us": 1e-6, "ns": 1e-9, "ps": 1e-12, "fs": 1e-15}
_VAR = re.compile(r"(\w+)\s+(\d+)\s+(\S+)\s+(\S+)")


class _Signal:
    def __init__(self, name: str):
        self.name = name
        self.times: list[int] = []
        self.values: list[float] = []


def capture_from_vcd(stream: BinaryIO) -> Capture:
    """The capture in a value change dump, from where the stream stands. Raises CaptureError with one sentence."""
    text = stream.read().decode("latin-1")
    head, found, body = text.partition("$enddefinitions")
    if not found:
        raise CaptureError("This value change dump has no $enddefinitions: it is cut off or no such file.")
    scale = _SCALE.search(head.partition("$timescale")[2])
    if scale is None:
        raise CaptureError("This value change dump names no $timescale, such as 1 us: without it its times mean nothing.")
    unit = int(scale[1]) * _SECONDS[scale[2]]
    signals: dict[str, _Signal] = {}
    for piece in head.split("$var")[1:]:
        match = _VAR.match(piece.strip())
        if match is not None and len(signals) < MOST_SIGNALS:
            signals.setdefault(match[3], _Signal(match[4]))
    if not signals:
        raise CaptureError("This value change dump declares no signal ($var).")
    end, unknown = _changes(body.partition("$end")[2], signals)
    return _sampled([own for own in signals.values() if own.times], unit, end, unknown)


def _changes(body: str, signals: dict[str, _Signal]) -> tuple[int, int]:
    """Fill in what changed when; the last time and how many values were unknown (x or z)."""
    time = end = unknown = changes = 0
    words = iter(body.split())
    for word in words:
        first = word[0]
        if first == "#":
            if not word[1:].isdigit() or len(word) > 20:
                raise CaptureError(f"{quoted(word)} is no time of a value change dump: '#' and a whole number is wanted.")
            time = int(word[1:])
            if time > MOST_TIME:
                raise CaptureError(f"{quoted(word)} is too late a time for a value change dump: {MOST_TIME} steps are the most.")
            if time < end:
                raise CaptureError(f"Time goes backwards in this value change dump: from {end} to {time}.")
            end = time
            continue
        if first == "$":
            if word == "$comment":
                for inner in words:
                    if inner == "$end":
                        break
            continue
        if first in "01xXzZ":
            value, key = word[0], word[1:]
        elif first in "bBrR":
            value, key = word[1:], next(words, "")
        else:
            raise CaptureError(f"{quoted(word)} is nothing that a value change dump holds: 0, 1, x, z, b or r with a signal is wanted.")
        own = signals.get(key)
        if own is None:
            continue
        number = _value(value, first)
        if number is None:
            unknown += 1
            number = own.values[-1] if own.values else 0.0
        own.times.append(time)
        own.values.append(number)
        changes += 1
        if changes > MOST_CHANGES:
            raise CaptureError(f"There are more than {MOST_CHANGES} changes in this value change dump: take a shorter capture.")
    return end, unknown


def _value(text: str, kind: str) -> float | None:
    try:
        return float(text) if kind in "rR" else float(int(text, 2))
    except (ValueError, OverflowError):  # a vector of more than a thousand bits is no number
        return None


def _sampled(signals: list[_Signal], unit: float, end: int, unknown: int) -> Capture:
    times = [np.array(own.times, dtype=np.int64) for own in signals]
    begin = min((int(own[0]) for own in times), default=0)
    span = end - begin
    if not signals or span <= 0:
        raise CaptureError("Nothing changes in this value change dump.")
    every = int(np.gcd.reduce(np.concatenate([*(own - begin for own in times), [span]])))
    count = span // every
    most = MOST_SAMPLES // max(len(signals) // 6, 1)
    notes = []
    if count > most:
        every = -(-span // most)
        notes.append(f"Its changes are brought to one sample every {show(every * unit, 's')}: its own step would give {count} samples.")
    elif count < LEAST_MADE:
        every = max(every // -(-LEAST_MADE // count), 1)
    count = span // every + 1
    if count < LEAST_SAMPLES:
        raise CaptureError(f"This value change dump lasts {span} of its time steps: at least {LEAST_SAMPLES} are wanted.")
    if unknown:
        notes.append(f"{unknown} values are unknown (x or z): what was there before is kept.")
    return Capture(
        tuple(Channel(own.name, "", _held(at - begin, own.values, every, count)) for own, at in zip(signals, times, strict=True)),
        every * unit, begin * unit, tuple(notes),
    )  # fmt: skip


def _held(times: NDArray[np.int64], values: list[float], every: int, count: int) -> NDArray[np.generic]:
    """Values held from their time until the next, at even times."""
    numbers = np.array(values)
    small = bool((numbers == numbers.astype(np.uint8)).all()) if (np.abs(numbers) < 256).all() and (numbers >= 0).all() else False
    made = numbers.astype(np.uint8) if small else numbers
    places = np.clip(-(-times // every), 0, count)
    lengths = np.diff(np.concatenate([places, [count]]))
    lengths[0] += places[0]
    return np.repeat(made, lengths)
