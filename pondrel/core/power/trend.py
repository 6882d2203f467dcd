"""Charging volts over minutes: whether they come up, how long to go on, and what to expect then.

A flat battery holds the volts down while it takes all that the alternator gives: not the first number counts but where it is going. The
slope is a weighted least-squares line; a change that is less than the meter's own doubt is none.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..base.judgement import OWN_RULE, judged
from ..base.quantity import show
from ..check import Limit, Verdict
from ..check.judge import COVERAGE

__all__ = ["Trend", "trend_of"]

LEAST_MINUTES = judged("TREND_LEAST_MINUTES", 3.0, "min", "that charging volts are watched before they are called low", OWN_RULE)
LONGEST_MINUTES = judged("TREND_LONGEST_MINUTES", 45.0, "min", "within which rising volts must be on their way into the limits", OWN_RULE)
STEP_MINUTES = 5.0
_NOT_CHARGING = "Lamp, excitation, belt and cable first; the alternator last."


@dataclass(frozen=True, slots=True)
class Trend:
    """Volts over minutes by a limit: the verdict, the ``last`` one, where they go (``rises``, ``falls``, ``stays``), their slope in V/min
    with its standard deviation, how many minutes to go on and which volts to expect then (None where nothing more is wanted), and the
    sentences."""

    verdict: Verdict
    last: float
    goes: str
    slope: float
    slope_u: float
    more_minutes: float | None
    expects: float | None
    says: str
    then: str


def trend_of(points: Sequence[tuple[float, float]], u: float, limit: Limit, blur: float | None = None) -> Trend | None:
    """The trend of points (minutes, volts), each with a standard deviation ``u``; None where they are at one time only. ``blur`` is what
    differs from one reading to the next on the same meter, where that is less.

    >>> trend_of([(0.0, 12.2), (10.0, 14.1)], 0.05, Limit("V", 13.5, 14.7)).verdict
    <Verdict.WITHIN: 'within limits'>
    """
    minutes, volts = (np.array(column, dtype=float) for column in zip(*sorted(points), strict=True))
    span = float(minutes[-1] - minutes[0])
    if len(minutes) < 2 or span <= 0.0:
        return None
    slope, slope_u = _slope(minutes, volts, u if blur is None else blur)
    last, change = float(volts[-1]), float(volts[-1] - volts[0])
    moves = abs(slope) > COVERAGE * slope_u
    goes = "stays" if not moves else "rises" if slope > 0.0 else "falls"
    moved = {
        "rises": f"rose from {show(float(volts[0]), 'V')} to",
        "falls": f"fell from {show(float(volts[0]), 'V')} to",
        "stays": "stayed at",
    }
    says = f"In {span:.3g} min it {moved[goes]} {show(last, 'V')}"
    guard = COVERAGE * u

    def trend(verdict: Verdict, why: str, then: str = "", more: float | None = None, expects: float | None = None) -> Trend:
        return Trend(verdict, last, goes, slope, slope_u, more, expects, f"{says}{why}", then)

    if last > limit.most + guard:
        return trend(
            Verdict.OUTSIDE, f", above {show(limit.most, 'V')}: it overcharges.",
            "Look at the sense wire and the regulator, and stop before the battery boils.",
        )  # fmt: skip
    if last >= limit.least + guard and last <= limit.most - guard:
        tail = ", and it still falls" if goes == "falls" and _leaves_soon(last, slope, limit) else ""
        return trend(Verdict.WITHIN, f", within {show(limit.least, 'V')} to {show(limit.most, 'V')}{tail}.")
    if limit.least - guard < last:
        expects = min(last + max(slope, 0.0) * STEP_MINUTES, limit.most)
        return trend(
            Verdict.TOO_CLOSE, ", too near to an edge to tell.", "Note the volts again in five minutes.", STEP_MINUTES, expects
        )  # fmt: skip
    if goes == "falls" and (span >= LEAST_MINUTES or abs(change) > 4.0 * guard):
        return trend(Verdict.OUTSIDE, ": the battery is being emptied. It does not charge.", _NOT_CHARGING)
    if goes == "rises":
        needs = (limit.least - last) / slope
        if needs <= LONGEST_MINUTES:
            more = max(math.ceil(needs / STEP_MINUTES) * STEP_MINUTES, STEP_MINUTES)
            expects = min(last + slope * more, (limit.least + limit.most) / 2.0)
            then = f"Go on for {more:.0f} min: about {show(expects, 'V')} should stand there then."
            return trend(Verdict.NOT_COMPARABLE, " and still rises: too early to judge.", then, more, expects)
        return trend(
            Verdict.OUTSIDE, f": so slow a rise would take {needs:.0f} min into the limits.",
            "Read the output amperes: few are the alternator or its drive, many are a load or a battery that takes them all.",
        )  # fmt: skip
    if span < LEAST_MINUTES:
        then = "Go on for 5 min at raised speed: it must have risen then."
        return trend(Verdict.NOT_COMPARABLE, ": too short to tell.", then, STEP_MINUTES)
    return trend(Verdict.OUTSIDE, f", below {show(limit.least, 'V')}, and does not rise.", _NOT_CHARGING)


def _slope(minutes: np.ndarray, volts: np.ndarray, u: float) -> tuple[float, float]:
    """Slope of the last half of the points, at least two of them, and its standard deviation."""
    start = 0 if len(minutes) < 4 else len(minutes) // 2
    x, y = minutes[start:], volts[start:]
    if np.ptp(x) <= 0.0:
        x, y = minutes, volts
    around = x - x.mean()
    spread = float((around**2).sum())
    return float((around * y).sum() / spread), u / math.sqrt(spread)


def _leaves_soon(last: float, slope: float, limit: Limit) -> bool:
    return last + slope * STEP_MINUTES < limit.least
