"""The lines of a job's record: each entry, and beside evidence what led after it."""

from __future__ import annotations

from dataclasses import dataclass

from ...core.check import Finding
from ...core.evidence.items import Item, Reading
from ...core.evidence.limits import findings_of
from ...core.isolate import replay
from ...core.job.entry import Entry
from ...core.job.kinds import is_evidence, words_of
from ..shell.titles import line_title
from ..shell.workshop import units
from ..shell.workups import workups
from .docket import Docket

__all__ = ["Line", "plain_line", "story_of"]

NOTHING = "nothing on this sheet"


@dataclass(frozen=True, slots=True)
class Line:
    """An entry in ``words``; ``number`` counts the evidence of its trace that stands, ``lead`` is what led after it with its
    ``probability``, empty where nothing did or that was not worked out; ``proof`` whether a conclusion that stands rests on it, ``judged``
    what the sheet's limits say of it."""

    entry: Entry
    words: str
    number: int | None = None
    lead: str = ""
    probability: float = 0.0
    proof: bool = False
    judged: tuple[Finding, ...] = ()

    @property
    def is_evidence(self) -> bool:
        """Whether it is evidence about a circuit."""
        return is_evidence(self.entry.kind)


def plain_line(entry: Entry) -> Line:
    """The line of an entry of which nothing more is worked out."""
    return Line(entry, words_of(entry))


def _judged(docket: Docket, item: Item) -> tuple[Finding, ...]:
    return findings_of(docket.sheet, item, units()) if isinstance(item, Reading) else ()


def story_of(docket: Docket) -> dict[int, Line]:
    """The lines of a trace's evidence by entry: of what was read before something was done the words alone, the rest replayed from the
    first item."""
    leads = replay(docket.items, lambda items: workups().belief(docket.stored_sheet, items))
    concluded = docket.concluded
    basis = concluded.basis if concluded and concluded.proved and concluded.parts else ()
    sheet = docket.sheet
    before = workups().items(docket.stored_sheet, docket.sides.before)
    return {
        entry.id: Line(entry, line_title(sheet, item), judged=_judged(docket, item))
        for entry, item in zip(docket.sides.before, before, strict=True)
    } | {
        entry.id: Line(
            entry,
            line_title(sheet, item),
            number,
            (sheet.parts[lead.part].called if lead.part else NOTHING) if lead else "",
            lead.probability if lead else 0.0,
            entry.id in basis,
            _judged(docket, item),
        )
        for number, (entry, item, lead) in enumerate(zip(docket.standing, docket.items, leads, strict=True), 1)
    }
