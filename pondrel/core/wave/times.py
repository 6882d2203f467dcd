"""Times as a recorder wrote them, brought to even ones."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..base.errors import CaptureError
from ..base.quantity import show

__all__ = ["Evened", "bridged", "even_times"]

EVEN_SHARE = 0.02  # of a step by which a time may lie off its even place, beyond what it was rounded by
AT_ONCE = 1 << 18
MOST_STRETCHED = 4.0  # times as many samples as were written, where there are pauses between them
MOST_TIME = 1e21  # in the column's own unit: a difference of two is still a number
PAUSED = 1.5  # times the usual step that the mean one has from which on there are pauses between samples
MOST_BRIDGED = 0.2  # of a channel's samples that may hold no number


class Evened:
    """Even times from times that need not be: ``start`` and ``step`` in the times' unit, ``count`` of them, and ``note``, a sentence where
    something had to be done (empty where they were even)."""

    def __init__(self, times: NDArray[np.float64], start: float, step: float, count: int, note: str):
        self.start, self.step, self.count, self.note = start, step, count, note
        self._times = times.copy() if note else times[:0]

    def brought(self, values: NDArray[np.float64]) -> NDArray[np.float64]:
        """Values at the even times: as they are where the times were even, else on straight lines between them."""
        if not self.note:
            return values
        return np.asarray(np.interp(self.start + self.step * np.arange(self.count), self._times, values))


def even_times(times: NDArray[np.float64], worth: float, first_line: int = 0) -> Evened:
    """Even times for a time column whose numbers are ``worth`` so many seconds. Raises CaptureError where time goes backwards or stands
    still, naming the line where ``first_line`` is that of the first number."""
    count = len(times)
    if max(abs(float(times.min())), abs(float(times.max()))) > MOST_TIME:
        raise CaptureError(f"The time column runs from {times.min():g} to {times.max():g}: that is no time of a capture.")
    _check_forwards(times, first_line)
    span = float(times[-1] - times[0])
    if span <= 0.0:
        raise CaptureError("Time stands still: the time column is the same in every line.")
    step = span / (count - 1)
    smallest = _rounding(times)
    for begin in range(0, count, AT_ONCE):
        piece = times[begin : begin + AT_ONCE]
        even = times[0] + step * np.arange(begin, begin + len(piece))
        if np.abs(piece - even).max() > EVEN_SHARE * step + smallest:
            return _stretched(times, span, worth)
    return Evened(times, float(times[0]), step, count, "")


def _check_forwards(times: NDArray[np.float64], first_line: int) -> None:
    last = times[0]
    for begin in range(0, len(times), AT_ONCE):
        piece = times[begin : begin + AT_ONCE]
        steps = np.diff(piece, prepend=last)
        if (steps < 0.0).any():
            at = int(np.argmax(steps < 0.0))
            where = f"in line {begin + at + first_line}" if first_line else f"at sample {begin + at + 1}"
            raise CaptureError(f"Time goes backwards {where}: from {piece[at - 1] if at else last:g} to {piece[at]:g}.")
        last = piece[-1]


def _rounding(times: NDArray[np.float64]) -> float:
    """What the times were rounded to when they were written: the smallest step between two that differ."""
    steps = np.diff(times[:20_000])
    moved = steps[steps > 0.0]
    return float(moved.min()) if len(moved) and (steps == 0.0).any() else 0.0


def _stretched(times: NDArray[np.float64], span: float, worth: float) -> Evened:
    """Even times where there were pauses, or steps of several lengths: at the usual step, unless that gives far more than were written."""
    steps = np.diff(times)
    usual = float(np.median(steps[steps > 0.0]))
    mean = span / (len(times) - 1)
    step = mean if mean < PAUSED * usual else max(usual, span / (MOST_STRETCHED * len(times)))
    count = len(times) if step == mean else int(span / step + 1e-9) + 1
    shortest, longest = show(float(steps.min()) * worth, "s"), show(float(steps.max()) * worth, "s")
    every = show(step * worth, "s")
    note = f"Its times are not even, steps are {shortest} to {longest}: brought to one sample every {every} by straight lines."
    return Evened(times, float(times[0]), step, count, note)


def bridged(values: NDArray[np.float64], name: str) -> str:
    """Put straight lines across samples that hold no number, in place; a sentence that says so, empty where all are numbers. Raises
    CaptureError where there are too many of them."""
    bad_places = [
        begin + np.flatnonzero(~np.isfinite(values[begin : begin + AT_ONCE]))
        for begin in range(0, len(values), AT_ONCE)
        if not np.isfinite(values[begin : begin + AT_ONCE]).all()
    ]
    if not bad_places:
        return ""
    bad = np.concatenate(bad_places)
    if len(bad) > MOST_BRIDGED * len(values):
        raise CaptureError(f"{len(bad)} of {len(values)} samples of {name} hold no number: a capture with gaps that long tells nothing.")
    good = np.ones(len(values), dtype=bool)
    good[bad] = False
    kept = np.flatnonzero(good)
    values[bad] = np.interp(bad, kept, values[kept])
    return f"{len(bad)} of {len(values)} samples of {name} hold no number: straight lines bridge them."
