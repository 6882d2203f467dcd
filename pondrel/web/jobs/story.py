"""The lines of a job's record: each entry, and beside evidence what led after it."""

from __future__ import annotations

from dataclasses import dataclass

from ...core.isolate import replay
from ...core.job.entry import Entry
from ..shell.workups import workups
from .docket import Docket

__all__ = ["Line", "story_of"]

NOTHING = "nothing on this sheet"


@dataclass(frozen=True, slots=True)
class Line:
    """An entry; ``number`` counts the evidence of its trace that stands, ``lead`` is what led after it with its ``probability``, empty
    where nothing did or that was not worked out; ``proof`` whether a conclusion that stands rests on it."""

    entry: Entry
    number: int | None = None
    lead: str = ""
    probability: float = 0.0
    proof: bool = False


def story_of(docket: Docket) -> dict[int, Line]:
    """The lines of a trace's evidence by entry, replayed from the first item."""
    leads = replay(docket.items, lambda items: workups().belief(docket.stored_sheet, items))
    concluded = docket.concluded
    basis = concluded.basis if concluded and concluded.proved and concluded.parts else ()
    return {
        entry.id: Line(entry, number, lead.part or NOTHING, lead.probability, entry.id in basis)
        for number, (entry, lead) in enumerate(zip(docket.standing, leads, strict=True), 1)
    }
