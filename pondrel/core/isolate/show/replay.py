"""A trace again from its first item: what led after each."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from ...evidence.items import Item
from ..believe.belief import Belief

__all__ = ["Lead", "replay"]

# Items after each of which it is told what led, and how many of the later ones are looked at: a belief takes time with its readings, and
# one after each of a thousand would take minutes.
EACH, FURTHER = 120, 8


@dataclass(frozen=True, slots=True)
class Lead:
    """What led after an item: a part, None for nothing on this sheet, with its probability."""

    part: str | None
    probability: float


def replay(items: tuple[Item, ...], believe: Callable[[tuple[Item, ...]], Belief]) -> tuple[Lead | None, ...]:
    """The lead after each of the items; ``believe`` gives the belief that some of them come to. In a long record some later ones are looked
    at, the last among them, and the others are None."""
    every, left = len(items), len(items) - EACH
    further = {EACH + left * (n + 1) // FURTHER for n in range(FURTHER)} if left > 0 else set()
    looked_at = further | set(range(1, min(every, EACH) + 1))
    return tuple(_lead(believe(items[:n])) if n in looked_at else None for n in range(1, every + 1))


def _lead(belief: Belief) -> Lead:
    return Lead(*next(iter(belief.parts().items())))
