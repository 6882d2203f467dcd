"""Which condition to ask for next: the one that tells most for its minutes.

A function that does not run has an unmet condition; each is the one with a share by its weight. An answer of a module tells all conditions
that it knows at once, so these are one question. Told is the entropy of the answer, in bits; the best has most of it a minute.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from ...base.brief import listed, lowered
from .function import Condition
from .standing import LinkState, Standing

__all__ = ["Asked", "asked_next", "shares_of"]

ASKING_MINUTES = 0.3  # a module that answers; common practice, no source


@dataclass(frozen=True, slots=True)
class Asked:
    """A question: the conditions that it answers, how it is asked, its minutes, and what it tells (bits)."""

    conditions: tuple[Condition, ...]
    minutes: float
    bits: float
    module: str = ""

    @property
    def says(self) -> str:
        """How it is put to a colleague."""
        first = self.conditions[0]
        if self.module and first.answers:
            return f"call the {lowered(first.title)}, does it answer?"
        if self.module:
            return f"ask the module that knows {listed([lowered(one.title) for one in self.conditions])}"
        return first.look or f"is the {lowered(first.title)} {first.wants}?"

    @property
    def worth(self) -> float:
        """Bits a minute."""
        return self.bits / self.minutes


def shares_of(standing: Standing) -> dict[str, float]:
    """How likely each link that is not known to hold is the one that is unmet; they add up to 1, empty where one is known to be."""
    if standing.root is not None or standing.complete:
        return {}
    weights = {link.condition.name: link.condition.weight for link in standing.links if link.state is not LinkState.HOLDS}
    total = sum(weights.values())
    return {name: weight / total for name, weight in weights.items()} if total else {}


def asked_next(standing: Standing) -> tuple[Asked, ...]:
    """All that can be asked now, what tells most a minute first; empty where the unmet link is known."""
    shares = shares_of(standing)
    open_links = [link.condition for link in standing.links if link.state is LinkState.UNKNOWN]
    groups: dict[tuple[str, str], list[Condition]] = {}
    for condition in open_links:
        own = ("", condition.name) if not condition.told_by else (condition.told_by, "answers" if condition.answers else "data")
        groups.setdefault(own, []).append(condition)
    found = []
    for (module, _), conditions in groups.items():
        minutes = ASKING_MINUTES if module else sum(condition.minutes for condition in conditions)
        found.append(Asked(tuple(conditions), max(minutes, 0.05), _bits([shares.get(c.name, 0.0) for c in conditions]), module))
    return tuple(sorted(found, key=lambda asked: -asked.worth)) if shares else ()


def _bits(shares: Sequence[float]) -> float:
    rest = max(1.0 - sum(shares), 0.0)
    return -sum(p * math.log2(p) for p in (*shares, rest) if p > 0.0)
