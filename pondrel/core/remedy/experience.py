"""What was seen of a way of mending here: how long it takes beside what was reckoned, and how often it came back.

How long it takes is a factor on the minutes that were reckoned, which counts as much as `PSEUDO_JOBS` jobs at 1 before any is known. How
often it is bad again within a year counts as the shipped share of as many jobs (Beta prior).
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from ..base.judgement import OWN_RULE, judged

__all__ = ["BACK_WITHIN_DAYS", "Experience", "Mended", "experience_of"]

PSEUDO_JOBS = judged("REMEDY_AGAINST", 6.0, "jobs", "what shipped minutes and shares of a way count for beside jobs here", OWN_RULE)
BACK_WITHIN_DAYS = judged("BACK_WITHIN", 365.0, "days", "a part that is at fault again within them was mended badly", OWN_RULE)
_LEAST, _MOST = 0.33, 3.0
WORTH_TELLING = 0.05  # of a factor on minutes


@dataclass(frozen=True, slots=True)
class Mended:
    """A repair of the record: the ``way`` and how the part is ``built``, minutes ``reckoned`` and ``taken`` (None where nobody wrote
    them), and whether it came ``back`` (None while that cannot be known yet)."""

    way: str
    built: str
    reckoned: float | None
    taken: float | None
    back: bool | None


@dataclass(frozen=True, slots=True)
class Experience:
    """What repairs here say of a way: on how many their minutes and their returns rest, the factor on minutes, and how many came back."""

    timed: int
    times: float
    followed: int
    back: int

    def early(self, shipped: float) -> float:
        """The share that is bad again early, by the shipped one and what was seen."""
        return (PSEUDO_JOBS * shipped + self.back) / (PSEUDO_JOBS + self.followed)

    @property
    def says(self) -> str:
        """In a few words; empty where nothing was seen."""
        told = []
        if self.timed and abs(self.times - 1.0) >= WORTH_TELLING:
            told.append(f"takes {self.times:.1f} times the minutes here ({self.timed} {'job' if self.timed == 1 else 'jobs'})")
        if self.followed:
            told.append(f"{self.back} of {self.followed} came back within a year")
        return ", ".join(told)


def experience_of(repairs: Iterable[Mended]) -> Mapping[tuple[str, str], Experience]:
    """By way and build what repairs here say."""
    groups: defaultdict[tuple[str, str], list[Mended]] = defaultdict(list)
    for repair in repairs:
        groups[repair.way, repair.built].append(repair)
    return {key: _experience(own) for key, own in groups.items()}


def _experience(repairs: list[Mended]) -> Experience:
    timed = [(r.taken, r.reckoned) for r in repairs if r.taken is not None and r.reckoned]
    ratios = [min(max(taken / reckoned, _LEAST), _MOST) for taken, reckoned in timed]
    followed = [r.back for r in repairs if r.back is not None]
    return Experience(len(ratios), (PSEUDO_JOBS + sum(ratios)) / (PSEUDO_JOBS + len(ratios)), len(followed), sum(followed))
