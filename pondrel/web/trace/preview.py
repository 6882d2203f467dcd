"""What a line would mean if it were entered."""

from __future__ import annotations

from dataclasses import dataclass, replace

from ...core.evidence.items import Item, Observation
from ...core.evidence.line import written
from ...core.evidence.registry import word_sort
from ...core.isolate import meaning
from ..jobs.docket import Docket
from ..shell.workups import workups
from .page import trace_of

__all__ = ["Preview", "preview_of"]


@dataclass(frozen=True, slots=True)
class Preview:
    """The line as it was understood, what it would clear (as it goes on after "would"), and how it would stand then."""

    line: str
    clears: str
    says: str


def preview_of(docket: Docket, item: Item, typed: str) -> Preview:
    """How it stands now beside how it would; nothing is written. What the screen will show after Enter is worked out as well, and kept."""
    now = workups().isolation(docket.stored_sheet, docket.items)
    then = trace_of(replace(docket, supposed=(item,))).isolation
    line = written(item, typed, docket.sheet.minus)
    odd = next((m.says for m in then.misfits if m.reading == len(docket.items)), "")
    if isinstance(item, Observation) and not word_sort(item).weighs:
        return Preview(line, "", odd or then.contradiction)
    clears, says = meaning(docket.sheet, now, then)
    return Preview(line, clears, odd or then.contradiction or says)
