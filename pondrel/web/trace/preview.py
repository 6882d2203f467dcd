"""What a line would do to the ranking if it were entered."""

from __future__ import annotations

from dataclasses import dataclass, replace

from ...core.evidence.items import Item, Observation
from ...core.evidence.line import written
from ...core.evidence.registry import word_sort
from ..jobs.docket import Docket
from ..shell.workups import workups
from .page import trace_of

__all__ = ["Preview", "preview_of"]

_WORTH_TELLING = 0.01
_MOST = 5


@dataclass(frozen=True, slots=True)
class Move:
    """A part's probability now and if the item is entered."""

    part: str | None
    now: float
    then: float


@dataclass(frozen=True, slots=True)
class Preview:
    """The line as it was understood, what moves most, and what would be said of it."""

    line: str
    moves: tuple[Move, ...]
    says: str


def preview_of(docket: Docket, item: Item, typed: str) -> Preview:
    """Both rankings side by side; nothing is written. What the screen will show after Enter is worked out as well, and kept."""
    now = workups().isolation(docket.stored_sheet, docket.items)
    then = trace_of(replace(docket, supposed=(item,))).isolation
    after = then.parts
    moves = [Move(part, p, after[part]) for part, p in now.parts.items() if max(p, after[part]) >= _WORTH_TELLING]
    moves.sort(key=lambda m: -m.then)
    odd = next((m.says for m in then.misfits if m.reading == len(docket.items)), "")
    line = written(item, typed, docket.sheet.minus)
    told = "" if isinstance(item, Observation) and not word_sort(item).weighs else then.standing.says
    return Preview(line, tuple(moves[:_MOST]), odd or then.contradiction or told)
