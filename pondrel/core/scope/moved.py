"""What was moved while a signal was watched, and at which mark it changed.

A capture is cut at its marks. Each stretch is looked at in windows; a figure has changed at a mark where its windows before and behind
differ by more than they scatter and by more than hardly anything. A stretch too short for a look of its own cannot tell its two marks
apart.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from ..base.judgement import OWN_RULE, judged
from ..base.quantity import show
from ..wave import Capture, Channel
from ..wave.measure import Measures

__all__ = ["Change", "Mark", "changes_at"]

LOOKS = 8  # windows in a stretch
LEAST_RISES = 4
STOPPED = 4.0  # pulses without an edge: it does not pulse there
CHANGED = judged("MARK_CHANGED", 0.04, "share", "of a signal's span by which it has to change at a mark to be told", OWN_RULE)
SURE = judged("MARK_SURE", 5.0, "times", "the scatter of its windows by which a signal has to change at a mark", OWN_RULE)
LEAST_SAMPLES, MOST_RANKED = 8, 20_000
# How much a change of each figure tells beside that of another: noise alone has some four times its scatter from end to end.
TELLS = {"average": 1.0, "share": 1.0, "scatter": 1.0, "spread": 0.2}


@dataclass(frozen=True, slots=True)
class Mark:
    """Something that was done: at which time (s), and what."""

    at: float
    says: str


@dataclass(frozen=True, slots=True)
class Change:
    """What came of a mark: whether the signal ``changed`` there, in words; ``figure`` which of its figures changed most, with its values
    before and behind (None where nothing changed or nobody can tell). ``unclear`` marks have no look between them."""

    mark: Mark
    changed: bool
    says: str
    figure: str = ""
    before: float | None = None
    after: float | None = None
    unclear: bool = False


def _spread(own: NDArray[np.float64]) -> float:
    """From low to high without the outermost fiftieths: what lies farthest out grows with how long one looks."""
    some = own[:: max(len(own) // MOST_RANKED, 1)]
    low, high = np.percentile(some, (2.0, 98.0))
    return float(high - low)


# By figure: what it is called, and how it comes out of a window of samples, given the level that parts high from low and the sample's step.
_FIGURES: Mapping[str, tuple[str, Callable[[NDArray[np.float64], float], float]]] = {
    "average": ("average", lambda own, level: float(own.mean())),
    "share": ("share of time on", lambda own, level: float((own > level).mean())),
    "scatter": ("noise", lambda own, level: float(np.median(np.abs(np.diff(own, 2)))) / 0.6745 / 2.449),
    "spread": ("lowest to highest", lambda own, level: _spread(own)),
}


def changes_at(capture: Capture, channel: Channel, measures: Measures, marks: Sequence[Mark]) -> Sequence[Change]:
    """What came of each mark, in time's order."""
    ordered = sorted(marks, key=lambda mark: mark.at)
    bounds = [0, *(_sample(capture, mark.at) for mark in ordered), capture.count]
    level = measures.levels.middle if measures.levels is not None else measures.scan.mean
    pulsing = (measures.edges.rises, measures.edges.falls) if _pulses(measures) else ()
    stretches = [_looks(channel, level, pulsing, a, b) for a, b in pairwise(bounds)]
    # A stretch of one pulse has no scatter of its own: it has that of all others.
    common = {name: _common([own[name] for own in stretches if own is not None]) for name in _FIGURES}
    found = []
    for k, mark in enumerate(ordered):
        before, behind = stretches[k], stretches[k + 1]
        if before is None or behind is None:
            found.append(_unclear(ordered, stretches, k))
        else:
            found.append(_change(mark, channel, measures, before, behind, common))
    return found


def _pulses(measures: Measures) -> bool:
    """Whether a signal goes between two levels, so that its looks are whole pulses."""
    return len(measures.edges.rises) >= LEAST_RISES and measures.is_two_levels


def _sample(capture: Capture, at: float) -> int:
    return int(np.clip(round((at - capture.start) / capture.step), 0, capture.count))


def _looks(
    channel: Channel, level: float, pulsing: Sequence[NDArray[np.float64]], first: int, last: int
) -> Mapping[str, NDArray[np.float64]] | None:
    """Each figure in every window of a stretch; None where it is too short for a look. Windows of pulses go from one of their edges (upward
    ones, or downward ones: those that give more) to another."""
    if pulsing:
        own = max((np.round(edges[(edges >= first) & (edges <= last)]).astype(int) for edges in pulsing), key=len)
        usual = float(np.median(np.diff(pulsing[0]))) if len(pulsing[0]) > 1 else 0.0
        if len(own) < 2 and last - first < STOPPED * usual:
            return None
    if pulsing and len(own) >= 2:
        cuts = own[np.unique(np.linspace(0, len(own) - 1, min(LOOKS + 1, len(own))).astype(int))]
    else:
        number = min((last - first) // LEAST_SAMPLES, LOOKS)
        if number < 2:
            return None
        cuts = np.linspace(first, last, number + 1).astype(int)
    windows = [channel.values(a, b) for a, b in pairwise(cuts.tolist())]
    return {name: np.array([of(own, level) for own in windows]) for name, (_, of) in _FIGURES.items()}


def _common(looks: Sequence[NDArray[np.float64]]) -> float:
    """The usual variance of one window about the middle of its stretch."""
    apart = [own - np.median(own) for own in looks if len(own) > 2]
    if not apart:
        return 0.0
    return float((np.median(np.abs(np.concatenate(apart))) / 0.6745) ** 2)


def _unclear(marks: Sequence[Mark], stretches: Sequence[object], k: int) -> Change:
    if stretches[k + 1] is None and k + 1 < len(marks):
        says = f"Nothing was looked at between this and '{marks[k + 1].says}': what changed cannot be told apart. Do them again one by one."
    elif stretches[k] is None and k:
        says = f"Nothing was looked at between '{marks[k - 1].says}' and this: what changed cannot be told apart. Do them again one by one."
    else:
        says = "It stands too near to an end of the capture: nothing was looked at on both sides."
    return Change(marks[k], False, says, unclear=True)


def _change(
    mark: Mark,
    channel: Channel,
    measures: Measures,
    before: Mapping[str, NDArray[np.float64]],
    behind: Mapping[str, NDArray[np.float64]],
    common: Mapping[str, float],
) -> Change:
    best: tuple[float, str, float, float] | None = None
    span = max(measures.scan.span, 1e-12)
    for name in _FIGURES:
        if name == "share" and not _pulses(measures):
            continue
        one, two = float(np.median(before[name])), float(np.median(behind[name]))
        size = abs(two - one) / (1.0 if name == "share" else span)
        scatter = float(np.sqrt(_variance(before[name], common[name]) + _variance(behind[name], common[name])))
        if size > CHANGED and abs(two - one) > SURE * scatter and (best is None or size * TELLS[name] > 1.2 * best[0]):
            best = (size * TELLS[name], name, one, two)
    if best is None:
        return Change(mark, False, "no change")
    _, name, one, two = best
    unit = channel.unit
    shown = (f"{100 * one:.0f} %", f"{100 * two:.0f} %") if name == "share" else (show(one, unit), show(two, unit))
    return Change(mark, True, f"{_FIGURES[name][0]} {shown[0]} → {shown[1]}", name, one, two)


def _variance(values: NDArray[np.float64], common: float) -> float:
    """Of the middle of so many windows; by their middle distance, so that the window in which something was just moved does not blow it
    up."""
    own = (float(np.median(np.abs(values - np.median(values)))) / 0.6745) ** 2 if len(values) > 2 else 0.0
    return max(own, common) * 1.57 / len(values) + 1e-18
