"""The entries of a job's record: lines that are written once, struck out with a reason, and never changed."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from ..base.written import Content

__all__ = ["Entry", "Struck", "standing"]


@dataclass(frozen=True, slots=True)
class Struck:
    """Why, by whom and when an entry was struck out."""

    reason: str
    person: str
    at: str


@dataclass(frozen=True, slots=True)
class Entry:
    """One line of a job's record. ``trace_id`` is the trace it belongs to, None for the job itself; ``files`` are pairs of a file's digest
    and the name it came with."""

    id: int
    job_id: int
    trace_id: int | None
    kind: str
    content: Content
    person: str
    made_at: str
    struck: Struck | None = None
    files: tuple[tuple[str, str], ...] = ()

    def text(self, name: str) -> str:
        """A field as text, empty where it is missing."""
        value = self.content.get(name)
        return "" if value is None else str(value)

    @property
    def stands(self) -> bool:
        """Whether it has not been struck out."""
        return self.struck is None


def standing(entries: Iterable[Entry], *kinds: str) -> tuple[Entry, ...]:
    """The entries that stand, in order; of some kinds if any are named."""
    return tuple(entry for entry in entries if entry.stands and (not kinds or entry.kind in kinds))
