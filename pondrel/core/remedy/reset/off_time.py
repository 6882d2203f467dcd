"""How long a module must be without supply until it wakes, learned from tries.

Every module needs some time T, which nobody knows, for what it holds in capacitors to run down. Before any try, T is as likely to be
half as twice of what its roster says (or of 21 s, the middle of the 15 to 30 s that common practice names), and one module in ten is not
woken so at all. A try of t seconds helps with a chance that climbs around T; now and then it helps, or does not, by luck. While nothing
has helped yet, what is tried next is what helps most likely for the minutes that it takes; after that, what tells most about T for them.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ...base.arrays import Floats
from ...base.judgement import COMMON_PRACTICE, OWN_RULE, judged

__all__ = ["CANDIDATES", "ENOUGH", "OffTime", "ResetTry", "off_time_of"]

USUAL_S = judged(
    "RESET_USUAL", 21.0, "s", "without supply, after which a module that hangs usually wakes: between 15 and 30 s", COMMON_PRACTICE
)
SPREAD = judged("RESET_SPREAD", 2.5, "times", "by which the time that a module needs may differ from what is said of it", OWN_RULE)
NEVER = judged("RESET_NEVER", 0.1, "share", "of modules that hang and are not woken by taking their supply away", OWN_RULE)
LUCK = judged("RESET_LUCK", 0.04, "share", "of tries that help, or do not, by luck", OWN_RULE)
ENOUGH = judged("RESET_ENOUGH", 0.9, "share", "of tries that have to help for a time to be called enough", OWN_RULE)
BETWEEN_MINUTES = 0.5  # until it is tried again, besides the seconds off and awake
_SHARP = 8.0  # how sharply the chance climbs around T, per factor e
CANDIDATES = (2.0, 5.0, 10.0, 15.0, 20.0, 30.0, 45.0, 60.0, 90.0, 120.0, 180.0, 300.0)
_GRID: Floats = np.geomspace(0.5, 1200.0, 400)


@dataclass(frozen=True, slots=True)
class ResetTry:
    """A try: so many seconds without supply, so many until it answered again (None: not noted, or never), and whether it works again."""

    off_s: float
    woke_s: float | None
    works: bool


@dataclass(frozen=True, slots=True)
class OffTime:
    """What tries say: the chance that each of `CANDIDATES` helps, the least of them that is ``enough`` (None while none is), the one to try
    ``next``, the chance that nothing of the kind helps (``never``), and the longest time until it answered (``wakes_s``, None unknown)."""

    chances: tuple[float, ...]
    enough: float | None
    next: float
    never: float
    wakes_s: float | None
    tries: tuple[ResetTry, ...]

    @property
    def good(self) -> int:
        """How many tries of a time that is enough helped."""
        return sum(one.works for one in self.tries if self.enough is not None and one.off_s >= self.enough)


def _helps(seconds: float) -> Floats:
    """The chance that a try helps, by T."""
    climbs = 1.0 / (1.0 + np.exp(np.clip(-_SHARP * (math.log(seconds) - np.log(_GRID)), -60.0, 60.0)))
    return np.asarray(LUCK + (1.0 - 2.0 * LUCK) * climbs)


def off_time_of(tries: Sequence[ResetTry], said_s: float = 0.0) -> OffTime:
    """What tries say; ``said_s`` is what the roster names (0: nothing)."""
    centre = said_s if said_s > 0.0 else USUAL_S
    weight = np.exp(-0.5 * ((np.log(_GRID) - math.log(centre)) / math.log(SPREAD)) ** 2)
    weight *= (1.0 - NEVER) / weight.sum()
    never = NEVER
    for one in tries:
        seconds = min(max(one.off_s, _GRID[0]), _GRID[-1])
        helps = _helps(seconds)
        weight = weight * (helps if one.works else 1.0 - helps)
        never *= LUCK if one.works else 1.0 - LUCK
    whole = float(weight.sum()) + never
    weight, never = weight / whole, never / whole
    chances = tuple(float((weight * _helps(t)).sum()) + never * LUCK for t in CANDIDATES)
    worked = [one.off_s for one in tries if one.works]
    enough = next((t for t, c in zip(CANDIDATES, chances, strict=True) if c >= ENOUGH and worked), None)
    woke = [one.woke_s for one in tries if one.works and one.woke_s is not None]
    next_s = _next(weight, never, chances) if worked else _first(chances)
    return OffTime(chances, enough, next_s, never, max(woke, default=None), tuple(tries))


def _minutes(seconds: float) -> float:
    return seconds / 60.0 + BETWEEN_MINUTES


def _first(chances: Sequence[float]) -> float:
    """The candidate that helps most likely for its minutes, luck aside."""
    return max(zip(CANDIDATES, chances, strict=True), key=lambda pair: (pair[1] - LUCK) / _minutes(pair[0]))[0]


def _next(weight: Floats, never: float, chances: Sequence[float]) -> float:
    """The candidate that tells most for its minutes; of two alike the shorter."""
    luck = _entropy(np.array([LUCK]))[0] * never
    gains = []
    for seconds, chance in zip(CANDIDATES, chances, strict=True):
        left = float((weight * _entropy(_helps(seconds))).sum()) + luck
        gains.append((_entropy(np.array([chance]))[0] - left) / _minutes(seconds))
    return CANDIDATES[int(np.argmax(gains))]


def _entropy(chance: Floats) -> Floats:
    own = np.clip(chance, 1e-12, 1.0 - 1e-12)
    return np.asarray(-(own * np.log2(own) + (1.0 - own) * np.log2(1.0 - own)))
