"""How often a frame comes, against how often it should: late, in bursts, silent, gone silent."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..base.arrays import Floats

__all__ = ["LATE", "PACES", "Timing", "pace_of", "timing_of"]

LATE = 1.5  # cycles without a frame, from which on it is late
PACES = 60  # stretches of a log of which each has its pace
_EARLY = 0.5
_BURSTY = 0.1
_STOPPED_CYCLES, _STOPPED_SECONDS = 10.0, 0.5
_FEW = 8
_STEADY = 0.3


@dataclass(frozen=True, slots=True)
class Timing:
    """When the frames of one identifier came.

    ``count``; ``first`` and ``last`` (s, None without any); ``period``: the middle of all gaps (s, None of fewer than two);
    ``expected``: the cycle that the database gives, else the frame's own period where that is steady (s, None where neither);
    ``given``: whether it is the database's; ``late``: how many gaps are longer than `LATE` cycles (None where none is expected);
    ``longest``: the longest gap (s); ``bursty``: whether many come at once; ``silent``: that none came at all, or none any more for
    long enough.
    """

    count: int
    first: float | None
    last: float | None
    period: float | None
    expected: float | None
    given: bool
    late: int | None
    longest: float | None
    bursty: bool
    silent: bool

    @property
    def state(self) -> str:
        """In a word: silent, stopped, late, bursty or talks."""
        if self.silent:
            return "stopped" if self.count else "silent"
        # One late frame among thousands is a log's own hiccup.
        if self.late and (self.late > max(1, 0.002 * self.count) or self._slow):
            return "late"
        return "bursty" if self.bursty else "talks"

    @property
    def _slow(self) -> bool:
        return self.period is not None and self.expected is not None and self.period > 1.2 * self.expected


def timing_of(times: Floats, begin: float, end: float, cycle: float | None) -> Timing:
    """The timing of frames at ``times`` (s, ascending, shape (n,)) in a log from ``begin`` to ``end`` (s), where a database gives a
    ``cycle`` (s, None where it does not)."""
    count = len(times)
    gaps = np.diff(times)
    gaps = gaps[gaps >= 0.0]
    period = float(np.median(gaps)) if len(gaps) else None
    given = cycle is not None and cycle > 0.0
    expected = cycle if given else None
    if not given and period and count >= _FEW:
        low, high = np.quantile(gaps, [0.1, 0.9])
        if high - low < 2 * _STEADY * period:
            expected = period
    late: int | None = None
    bursty = False
    if expected:
        late = int((gaps > LATE * expected).sum())
        bursty = count >= _FEW and float((gaps < _EARLY * expected).mean()) > _BURSTY
    rest = end - float(times[-1]) if count else end - begin
    silent = bool(expected) and rest > max(_STOPPED_CYCLES * (expected or 0.0), _STOPPED_SECONDS)
    if not count:
        silent = given and end - begin > 2 * (expected or 0.0)
    return Timing(
        count,
        float(times[0]) if count else None,
        float(times[-1]) if count else None,
        period,
        expected,
        given,
        late,
        float(gaps.max()) if len(gaps) else None,
        bursty,
        silent,
    )


def pace_of(times: Floats, begin: float, end: float, usual: float | None) -> tuple[float | None, ...]:
    """How far apart frames were in each of `PACES` equal stretches of a log from ``begin`` to ``end`` (s), as a multiple of what is
    ``usual`` (s); None for a stretch without any, and empty where there is nothing to compare."""
    if len(times) < 3 or not usual or end <= begin:
        return ()
    gaps = np.diff(times)
    places = np.clip(((times[1:] - begin) / (end - begin) * PACES).astype(np.int64), 0, PACES - 1)
    counts = np.bincount(places, minlength=PACES)
    means = np.bincount(places, gaps, PACES) / np.maximum(counts, 1) / usual
    return tuple(float(mean) if count else None for mean, count in zip(means, counts, strict=True))
