"""What a conclusion would say: the parts it names, how sure that is, what it stands on, and whether it needs a reason of its own."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field

from ...circuit.sheet import Sheet
from .proof import Standing

__all__ = ["Closing", "closing"]

NOTHING = "Nothing on this sheet is wrong"


@dataclass(frozen=True, slots=True)
class Closing:
    """A conclusion to be: ``parts`` none for nothing on the sheet; ``probability`` None where nothing was worked out; ``basis`` the items
    it stands on, counted from 0; ``wants_reason`` a sentence that asks for the reason, empty where none is needed; ``modes`` by part how it
    most likely failed, where that is known."""

    parts: tuple[str, ...]
    says: str
    probability: float | None
    proved: bool
    basis: tuple[int, ...]
    wants_reason: str
    modes: Mapping[str, str] = field(default_factory=dict)


def closing(
    sheet: Sheet,
    parts: tuple[str, ...],
    items: int,
    standing: Standing | None,
    chances: Iterable[tuple[str | None, float]] = (),
    stuck: str = "",
    modes: Mapping[str, str] | None = None,
) -> Closing:
    """The conclusion that names ``parts`` after so many items. ``standing`` and ``chances`` (part, probability) are what was worked out;
    None where that came to nothing, ``stuck`` then says why."""
    says = " or ".join(sheet.parts[part].spoken for part in parts) if parts else NOTHING
    every = tuple(range(items))
    if standing is None:
        return Closing(parts, says, None, False, every, f"{stuck} To conclude all the same, give the reason: the record will show it.")
    proved = standing.ready and set(parts) == set(standing.target)
    probability = min(sum(p for part, p in chances if part in (parts or (None,))), 1.0)
    wanted = "" if proved else f"{standing.says} To conclude otherwise, give the reason: the record will show it."
    return Closing(parts, says, probability, proved, standing.proof if proved and standing.proof else every, wanted, modes or {})
