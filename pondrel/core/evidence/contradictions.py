"""What was told and what was seen later of the same thing, where the two cannot both be so."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ..circuit.sheet import Sheet
from .asked import Question
from .items import Item, Observation
from .registry import word_sort

__all__ = ["Contradiction", "answered", "contradictions"]


@dataclass(frozen=True, slots=True)
class Contradiction:
    """Two items, by number from 0, of which one must be wrong: what was ``told`` and what was ``seen``; ``says`` asks which."""

    told: int
    seen: int
    says: str


def answered(items: Sequence[Item]) -> frozenset[Question]:
    """The questions that what was told has answered already."""
    return frozenset(_meant(item) for item in items if isinstance(item, Observation) and word_sort(item).answers_for)


def _meant(item: Observation) -> Question:
    return Question(word_sort(item).answers_for or item.kind, item.subject, item.state)


def contradictions(sheet: Sheet, items: Sequence[Item]) -> tuple[Contradiction, ...]:
    """Each item that was told with the last look at the same thing in the same state that found something else."""
    looks = {item.test: number for number, item in enumerate(items) if isinstance(item, Observation) and not word_sort(item).answers_for}
    found = []
    for number, item in enumerate(items):
        if not isinstance(item, Observation) or not word_sort(item).answers_for:
            continue
        seen = looks.get(_meant(item))
        other = items[seen] if seen is not None else None
        if seen is not None and isinstance(other, Observation) and other.outcome != item.outcome:
            found.append(Contradiction(number, seen, _asks(sheet, item, other)))
    return tuple(found)


def _asks(sheet: Sheet, told: Observation, seen: Observation) -> str:
    part = sheet.parts.get(told.subject)
    name = part.called if part else told.subject
    return f"The complaint says that {name} is {told.outcome}; '{seen.outcome}' was entered: which is it?"
