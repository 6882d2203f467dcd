"""A sweep: one number that should rise or fall steadily while another is moved; where it drops out, turns back or stands still.

What belongs to the sweep is its longest run that never turns back (patience sorting, Fredman 1975); what lies off it by more than a small
share of the travel is a drop-out.
"""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..base.errors import ReadingError
from ..base.judgement import judged
from ..base.quantity import show
from ..check import Limit, Verdict
from .judged import Judged

__all__ = ["LEAST_POINTS", "Sweep", "findings_of", "swept"]

DROPOUT_SHARE = judged("DROPOUT_SHARE", 0.03, "share", "of a sweep's span by which a point must lie off it to be a drop-out")
FLAT_SHARE = judged("FLAT_SHARE", 0.15, "share", "of the travel over which a sweep may stand still")
STILL_SHARE = judged("STILL_SHARE", 0.005, "share", "of a sweep's span that is no movement")
LEAST_POINTS = 5


@dataclass(frozen=True, slots=True)
class Sweep:
    """``x`` and ``y`` in the order of ``x``; the places of points that drop out, of points that turn back by less, and the widest stretch
    over which nothing moves (from, to; None where there is none)."""

    x: tuple[float, ...]
    y: tuple[float, ...]
    dropouts: tuple[int, ...]
    backward: tuple[int, ...]
    flat: tuple[float, float] | None

    @property
    def rises(self) -> bool:
        """Whether it rises with what is moved."""
        return self.y[-1] >= self.y[0]


def _longest_run(values: Sequence[float]) -> list[int]:
    """Places of the longest run that never falls."""
    ends: list[float] = []
    places: list[int] = []
    before = [-1] * len(values)
    for place, value in enumerate(values):
        at = bisect_right(ends, value)
        before[place] = places[at - 1] if at else -1
        if at == len(ends):
            ends.append(value)
            places.append(place)
        else:
            ends[at], places[at] = value, place
    run, place = [], places[-1] if places else -1
    while place >= 0:
        run.append(place)
        place = before[place]
    return run[::-1]


def swept(x: Sequence[float], y: Sequence[float], what: str = "points") -> Sweep:
    """A sweep by its points. Raises ReadingError where there are too few or nothing was moved."""
    if len(x) < LEAST_POINTS:
        raise ReadingError(f"A sweep wants at least {LEAST_POINTS} {what}, and there are {len(x)}: move it slowly and note more.")
    order = np.argsort(np.asarray(x), kind="stable")
    xs, ys = np.asarray(x)[order], np.asarray(y)[order]
    if xs[-1] == xs[0]:
        raise ReadingError("Nothing was moved: the first column is the same in every line.")
    head, tail = np.median(ys[: max(len(ys) // 5, 1)]), np.median(ys[-max(len(ys) // 5, 1) :])
    sign = 1.0 if tail >= head else -1.0
    run = _longest_run(list(sign * ys))
    span = float(abs(ys[run[-1]] - ys[run[0]])) or 1.0
    off = np.abs(ys - np.interp(xs, xs[run], ys[run]))
    outside = sorted(set(range(len(xs))) - set(run))
    dropouts = [place for place in outside if off[place] > DROPOUT_SHARE * span]
    return Sweep(
        tuple(map(float, xs)), tuple(map(float, ys)), tuple(dropouts), tuple(place for place in outside if place not in set(dropouts)),
        _flat(xs[run], ys[run], span),
    )  # fmt: skip


def _flat(x: np.ndarray, y: np.ndarray, span: float) -> tuple[float, float] | None:
    """The widest stretch over which it stands still, the ends of its travel left out."""
    widest, start = (0.0, 0.0), 0
    for place in range(1, len(x)):
        while abs(y[place] - y[start]) > STILL_SHARE * span:
            start += 1
        at_an_end = abs(y[start] - y[0]) <= STILL_SHARE * span or abs(y[place] - y[-1]) <= STILL_SHARE * span
        if not at_an_end and x[place] - x[start] > widest[1] - widest[0]:
            widest = (float(x[start]), float(x[place]))
    return widest if widest[1] - widest[0] > FLAT_SHARE * (x[-1] - x[0]) else None


def findings_of(sweep: Sweep, unit: str, moved: str, name: str = "", track: str = "") -> list[Judged]:
    """Drop-outs and steadiness as findings; ``moved`` is what the first column is called, ``name`` is put behind the checks' names."""
    ending, of = (f"_{name}" if name else ""), (f" of {track}" if track else "")
    none = Limit("", most=0.0, source="a sweep has none", kind="common practice")
    told = [f"{show(sweep.y[place], unit)} at {moved} {sweep.x[place]:.4g}" for place in sweep.dropouts]
    more = f" and {len(told) - 3} more" if len(told) > 3 else ""
    found = [
        Judged(
            f"dropouts{ending}", Verdict.OUTSIDE if told else Verdict.WITHIN, float(len(told)), "",
            f"{len(told)} drop-outs{of}: {', '.join(told[:3])}{more}. The track is worn or dirty there." if told
            else f"No drop-out{of} in {len(sweep.x)} points.", 0.0, limit=none,
            then="Sweep it again slowly over that place and watch the number; renew it if it drops out again." if told else "",
        )
    ]  # fmt: skip
    reasons = []
    if sweep.backward:
        reasons.append(f"it turns back at {moved} {sweep.x[sweep.backward[0]]:.4g}")
    if sweep.flat:
        reasons.append(f"it stands still from {moved} {sweep.flat[0]:.4g} to {sweep.flat[1]:.4g}")
    shaky = len(sweep.backward) > 0.2 * len(sweep.x) or sweep.flat is not None
    direction = "rises" if sweep.rises else "falls"
    what = f"{track[:1].upper()}{track[1:]}" if track else "It"
    because = f"{what}: {'; '.join(reasons)}." if reasons else f"{what} {direction} steadily."
    found.append(Judged(f"monotone{ending}", Verdict.OUTSIDE if shaky else Verdict.WITHIN, "no" if shaky else "yes", "", because,
                        then="Renew it: what reads it would follow every step." if shaky else ""))  # fmt: skip
    return found
