"""Factors on how likely parts are, from jobs that were proved.

A part's shipped share of the faults of its circuit is taken to be wrong by an unknown factor, which is Gamma(a, a) before anything is known
(mean 1, worth a pseudo-counts). So many jobs expect E faults of that sort by the shipped shares and show n: by the Gamma-Poisson rule the
factor is (a + n) / (a + E). Five levels are taken in one after another, each on what the ones before have left to be explained: the kind of
part anywhere, in a family of circuits, at an age; the very part on its circuit, and there on one model of vehicle.
What chance alone may have done is left out: a part's factor counts where at some level the faults seen are further from those expected than
chance goes, in standard deviations of a Poisson count.
A. Gelman et al., *Bayesian Data Analysis* (3rd ed.), 2.6, for the conjugate pair.
"""

from __future__ import annotations

import math
from collections import Counter, defaultdict
from collections.abc import Callable, Hashable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass

from ..base.judgement import OWN_RULE, judged
from ..circuit.sheet import Sheet
from .modes import mode_factors
from .past import Here, Past

__all__ = ["LEAST_JOBS", "NO_WEIGHTS", "Learned", "Told", "Weights", "learned_from", "part_shares"]

LEAST_JOBS = int(judged("LEARNED_FROM", 5.0, "jobs", "proved jobs below which nothing is learned from them", OWN_RULE))
PSEUDO_COUNTS = judged("LEARNED_AGAINST", 20.0, "jobs", "what a shipped weight counts for beside proved jobs, at every level", OWN_RULE)
MOST_TIMES = judged("LEARNED_MOST", 8.0, "times", "by which the record makes a part likelier or less likely at the most", OWN_RULE)
SURPRISE = judged("LEARNED_SURPRISE", 2.0, "σ", "faults seen must be so far from those expected before a part counts as unusual", OWN_RULE)
CHANCE = judged("LEARNED_CHANCE", 1.35, "times", "what chance alone makes of a part's share in so many jobs: it does not count", OWN_RULE)
_AGES = (4.0, 10.0)  # years at which a vehicle becomes of middle age, and old


@dataclass(frozen=True, slots=True)
class Told:
    """What the record says of a part: ``count`` of ``jobs`` on this circuit were it, what became of its share by all that is known, and how
    often it was in each mode (the commonest first, only where that is known)."""

    part: str
    count: int
    jobs: int
    factor: float
    job_ids: tuple[int, ...]
    modes: tuple[tuple[str, int], ...] = ()


@dataclass(frozen=True, slots=True)
class Weights:
    """Factors on shipped weights: of all modes of a part, and of one mode of it."""

    parts: tuple[tuple[str, float], ...] = ()
    modes: tuple[tuple[str, str, float], ...] = ()

    def __bool__(self) -> bool:
        """Whether anything is weighed otherwise."""
        return bool(self.parts or self.modes)


NO_WEIGHTS = Weights()


@dataclass(frozen=True, slots=True)
class Learned:
    """By part the factor on its shipped weight, as pairs in the sheet's order; what the record says of each part that was ever at fault
    here; how many proved jobs there are in all; and by part and mode the factor on that mode's weight."""

    factors: tuple[tuple[str, float], ...]
    told: tuple[Told, ...]
    jobs: int
    modes: tuple[tuple[str, str, float], ...] = ()

    @property
    def weights(self) -> Weights:
        """All factors together."""
        return Weights(self.factors, self.modes)


def part_shares(sheet: Sheet) -> dict[str, float]:
    """By part its shipped share of the faults of a sheet, sum 1."""
    weights = {name: sum(mode.weight for mode in part.modes) for name, part in sheet.parts.items()}
    total = sum(weights.values()) or 1.0
    return {name: weight / total for name, weight in weights.items()}


def _age(years: float | None) -> str:
    return "" if years is None else ("young", "middle", "old")[sum(years >= edge for edge in _AGES)]


_Level = Callable[[Here, str], Hashable]
# What counts together at each level; an empty key counts with nothing.
_LEVELS: tuple[_Level, ...] = (
    lambda here, part: here.kinds[part],
    lambda here, part: (here.family, here.kinds[part]) if here.family else "",
    lambda here, part: (_age(here.years), here.kinds[part]) if here.years is not None else "",
    lambda here, part: (here.circuit, part),
    lambda here, part: (here.circuit, part, here.model) if here.model else "",
)


def learned_from(past: Sequence[Past], here: Here) -> Learned:
    """What proved jobs say of the parts of a circuit; nothing while they are few."""
    if len(past) < LEAST_JOBS:
        return Learned((), (), len(past))
    shares = [dict(job.here.shares) for job in past]
    unusual = {part for level in _LEVELS for part in _surprising(past, shares, level, here)}
    own = dict.fromkeys(here.shares, 1.0)
    for level in _LEVELS:
        factors = _factors(past, shares, level)
        for job, share in zip(past, shares, strict=True):
            for part in share:
                share[part] *= factors.get(level(job.here, part), 1.0)
            _normalise(share)
        for part in own:
            own[part] *= factors.get(level(here, part), 1.0)
    kept = tuple((part, _beyond_chance(factor) if part in unusual else 1.0) for part, factor in own.items())
    return Learned(kept, _told(past, here, dict(kept)), len(past), mode_factors(past, here))


def _beyond_chance(factor: float) -> float:
    """A factor as it counts: 1 where chance alone moves it so far, so that a usual fleet is searched as ever."""
    if 1.0 / CHANCE <= factor <= CHANCE:
        return 1.0
    return round(min(max(factor, 1.0 / MOST_TIMES), MOST_TIMES), 3)


def _surprising(past: Iterable[Past], shares: Iterable[Mapping[str, float]], level: _Level, here: Here) -> Iterator[str]:
    """The parts of a circuit whose faults at a level, as the shipped shares have it, chance would hardly bring."""
    expected, seen = _counted(past, shares, level)
    for part in here.shares:
        key = level(here, part)
        if key and key in expected and abs(seen[key] - expected[key]) >= SURPRISE * math.sqrt(max(expected[key], 1.0)):
            yield part


def _factors(past: Iterable[Past], shares: Iterable[Mapping[str, float]], level: _Level) -> dict[Hashable, float]:
    expected, seen = _counted(past, shares, level)
    return {key: (PSEUDO_COUNTS + seen[key]) / (PSEUDO_COUNTS + expected[key]) for key in expected if key}


def _counted(
    past: Iterable[Past], shares: Iterable[Mapping[str, float]], level: _Level
) -> tuple[Mapping[Hashable, float], Mapping[Hashable, float]]:
    """The faults that are expected and those that were seen, by what counts together at a level."""
    expected: defaultdict[Hashable, float] = defaultdict(float)
    seen: defaultdict[Hashable, float] = defaultdict(float)
    for job, share in zip(past, shares, strict=True):
        for part, own in share.items():
            expected[level(job.here, part)] += own
        known = [part for part in job.faulty if part in share]
        for part in known:
            seen[level(job.here, part)] += 1.0 / len(known)
    return expected, seen


def _normalise(share: dict[str, float]) -> None:
    total = sum(share.values())
    for part in share:
        share[part] /= total


def _told(past: Iterable[Past], here: Here, factors: Mapping[str, float]) -> tuple[Told, ...]:
    same = [job for job in past if job.here.circuit == here.circuit]
    found = []
    for part in here.shares:
        jobs = tuple(job.job_id for job in same if part in job.faulty)
        if jobs:
            modes = Counter(job.modes[part] for job in same if part in job.modes).most_common()
            found.append(Told(part, len(jobs), len(same), factors[part], jobs, tuple(modes)))
    return tuple(sorted(found, key=lambda told: (-told.count, told.part)))
