"""What has been made safe in a job: acknowledged once, with time and person, and locked again where the danger was brought back."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from ..base.written import EntryError, EntryField, EntryKind, Value
from ..circuit.sheet import Sheet
from ..evidence.hazards import HAZARDS, Hazard, hazards_in_words, hazards_of_sheet
from ..evidence.registry import SORTS
from .entry import Entry, standing

__all__ = ["CAUTION", "UNSAFE", "MadeSafe", "acknowledged", "hazards_of_job", "made_safe"]

_REFERRED = {hazard.caution for hazard in HAZARDS.values() if hazard.refers}


def _checked(content: dict[str, Value]) -> dict[str, Value]:
    if content["text"] in _REFERRED and not content["by"]:
        raise EntryError("This is for qualified people: write down who isolated the system and recorded it, or leave this side alone.")
    return content


CAUTION = EntryKind(
    "caution",
    "Made safe",
    (EntryField("text", "The caution"), EntryField("by", "Who isolated it", required=False, longest=120)),
    lambda content: str(content["text"]) + (f" Isolated by {content['by']}." if content.get("by") else ""),
    _checked,
)
UNSAFE = EntryKind(
    "unsafe",
    "No longer safe",
    (EntryField("text", "The caution"), EntryField("back", "What brought it back", required=False, longest=300)),
    lambda content: str(content.get("back") or content.get("text")),
)
_BY_CAUTION = {hazard.caution: hazard for hazard in HAZARDS.values()}


def _last(entries: Iterable[Entry]) -> dict[str, Entry]:
    """By caution the entry that says that it was read and made safe, for those that hold still."""
    found: dict[str, Entry] = {}
    for entry in standing(entries):
        if entry.kind == CAUTION.name:
            found[entry.text("text")] = entry
        elif entry.kind == UNSAFE.name:
            found.pop(entry.text("text"), None)
        elif entry.kind in SORTS and SORTS[entry.kind].is_live(entry.content):
            for text in [t for t in found if t in _BY_CAUTION and _BY_CAUTION[t].gone_with_power]:
                del found[text]
    return found


def acknowledged(entries: Iterable[Entry]) -> frozenset[str]:
    """The cautions that somebody has said to have read, and that have not come back since."""
    return frozenset(_last(entries))


@dataclass(frozen=True, slots=True)
class MadeSafe:
    """A hazard of a job, and the entry that says that it was made safe; None where that is still to be done."""

    hazard: Hazard
    entry: Entry | None


def hazards_of_job(sheets: Iterable[Sheet], *texts: str) -> tuple[Hazard, ...]:
    """The hazards that a job may meet: of its circuits, and of what is said of complaint and vehicle."""
    names = {hazard.name for sheet in sheets for hazard in hazards_of_sheet(sheet)} | {h.name for h in hazards_in_words(*texts)}
    return tuple(hazard for name, hazard in HAZARDS.items() if name in names)


def made_safe(hazards: Iterable[Hazard], entries: Sequence[Entry]) -> tuple[MadeSafe, ...]:
    """The hazards of a job, those still to be made safe first."""
    done = _last(entries)
    found = [MadeSafe(hazard, done.get(hazard.caution)) for hazard in hazards]
    return tuple(sorted(found, key=lambda one: (one.entry is not None, not one.hazard.locks)))
