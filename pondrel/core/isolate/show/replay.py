"""A trace again from its first item: what led after each."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from ...evidence.items import Item
from ..believe.belief import Belief

__all__ = ["Lead", "replay"]


@dataclass(frozen=True, slots=True)
class Lead:
    """What led after an item: a part, None for nothing on this sheet, with its probability."""

    part: str | None
    probability: float


def replay(items: tuple[Item, ...], believe: Callable[[tuple[Item, ...]], Belief]) -> tuple[Lead, ...]:
    """The lead after each of the items; ``believe`` gives the belief that some of them come to."""
    beliefs = (believe(items[: n + 1]) for n in range(len(items)))
    return tuple(Lead(*next(iter(belief.parts().items()))) for belief in beliefs)
