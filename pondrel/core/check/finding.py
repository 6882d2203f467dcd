"""Findings: a number judged by a limit, in four words; and what several of them come to."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from enum import StrEnum

from .limit import Limit

__all__ = ["Finding", "Overall", "Verdict", "overall", "worst"]


class Verdict(StrEnum):
    """The four words. *Too close to call*: the meter or its range cannot decide. *Not comparable*: a condition that the limit hangs on was
    not noted, or a needed check was not made."""

    OUTSIDE = "outside limits"
    NOT_COMPARABLE = "not comparable"
    TOO_CLOSE = "too close to call"
    WITHIN = "within limits"


@dataclass(frozen=True, slots=True)
class Finding:
    """A number by one limit. ``value`` is as it was read, ``brought`` the same brought to the limit's conditions (None where that cannot be
    done), ``guard`` the half-width of the strip on either side of an edge in which the meter cannot decide, ``within_chance`` the chance
    that the true value lies within (None where nothing can be said); ``says`` the sentence, ``means`` what it means in service, ``next``
    what to do. ``about`` names what was judged where several are told together."""

    limit: Limit
    verdict: Verdict
    value: float
    brought: float | None
    guard: float
    within_chance: float | None
    says: str
    means: str
    next: str
    about: str = ""


@dataclass(frozen=True, slots=True)
class Overall:
    """What several findings come to: the worst of their verdicts, the findings worst first, and what was not tested."""

    verdict: Verdict
    findings: tuple[Finding, ...]
    untested: tuple[str, ...]


# Outside before not comparable before too close before within.
_WORST_FIRST = tuple(Verdict)


def worst(verdicts: Iterable[Verdict], untested: bool = False) -> Verdict:
    """The verdict that several come to; where a needed check was not made, or none at all, it is at best not comparable."""
    found = list(verdicts)
    if untested or not found:
        found.append(Verdict.NOT_COMPARABLE)
    return min(found, key=_WORST_FIRST.index)


def overall(findings: Iterable[Finding], untested: Sequence[str] = ()) -> Overall:
    """The verdict on a thing that was checked in several ways; where a needed check was not made, it is at best not comparable."""
    ordered = tuple(sorted(findings, key=lambda finding: _WORST_FIRST.index(finding.verdict)))
    return Overall(worst((finding.verdict for finding in ordered), bool(untested)), ordered, tuple(untested))
