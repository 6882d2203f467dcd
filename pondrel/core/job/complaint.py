"""The complaint in the record: what was told last counts, and every circuit of the job takes from it what it can."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from ..base.brief import quoted
from ..base.written import Content, EntryField, EntryKind, Value
from ..evidence.registry import carried
from ..evidence.told import CIRCUMSTANCES, OFTEN, Told, ToldError, tries_of
from .entry import Entry, standing

__all__ = ["COMPLAINT", "FROM_COMPLAINT", "Carried", "told_of", "to_carry"]

FROM_COMPLAINT = "as the customer told it"  # the note of what a circuit has taken from the complaint
_MOST_MINUTES = 1440.0


def _told(content: Content) -> Told:
    minutes = str(content.get("minutes") or "")
    return Told(
        str(content.get("often") or ""),
        tries_of(str(content.get("tries") or "")),
        tuple(name for name in CIRCUMSTANCES if name in str(content.get("under") or "").split(",")),
        float(minutes) if minutes else None,
        str(content.get("since") or ""),
        str(content.get("before") or ""),
        str(content.get("text") or ""),
    )


def _reads(content: Content) -> str:
    told = _told(content)
    parts = (told.says, told.text, f"Done before: {told.before}" if told.before else "")
    return ". ".join(part.rstrip(".") for part in parts if part)


def _checked(given: dict[str, Value]) -> dict[str, Value]:
    content = {name: str(value or "") for name, value in given.items()}
    unknown = [name for name in content["under"].split(",") if name and name not in CIRCUMSTANCES]
    if unknown:
        raise ToldError(f"{quoted(unknown[0])} is nothing that a complaint can hang on: {', '.join(CIRCUMSTANCES)} are.")
    tries = tries_of(content["tries"])
    if tries and content["often"] == "always" and tries[0] < tries[1]:
        raise ToldError(f"It is said to be always there, but showed in {tries[0]} of {tries[1]} tries: which is it?")
    content["minutes"] = _checked_minutes(content["minutes"])
    if not any(content.values()):
        raise ToldError("Nothing is told yet: touch when it is there, or write it in a few words.")
    return {**content}


def _checked_minutes(text: str) -> str:
    if not text:
        return ""
    try:
        minutes = float(text.replace(",", "."))
    except ValueError:
        minutes = -1.0
    if not 0.0 <= minutes <= _MOST_MINUTES:
        raise ToldError(f"The minutes after the start must be a number from 0 to {_MOST_MINUTES:.0f}, got {quoted(text)}.")
    return f"{minutes:g}"


COMPLAINT = EntryKind(
    "complaint",
    "Complaint",
    (
        EntryField("often", "Whether it is always there", False, tuple(OFTEN)),
        EntryField("tries", "The count of tries", False, longest=20),
        EntryField("under", "When it is there", False, longest=200),
        EntryField("minutes", "The minutes after the start", False, longest=10),
        EntryField("since", "Since when", False, longest=120),
        EntryField("before", "What was done before", False, longest=1000),
        EntryField("text", "What else was told", False),
    ),
    _reads,
    _checked,
)


def told_of(entries: Iterable[Entry]) -> Told | None:
    """What was told of the complaint, as it was told last; None where nothing was."""
    last = next(reversed(standing(entries, COMPLAINT.name)), None)
    return _told(last.content) if last else None


@dataclass(frozen=True, slots=True)
class Carried:
    """What has to be written and struck out on a circuit so that it knows the complaint: pairs of a sort and its outcome, and entries."""

    write: tuple[tuple[str, str], ...]
    strike: tuple[Entry, ...]


def to_carry(told: Told | None, on_trace: Iterable[Entry]) -> Carried:
    """What a circuit lacks of what was told, and what it took from the complaint before that is not told any more."""
    wanted = carried(told) if told else ()
    taken = [entry for entry in on_trace if entry.stands and entry.text("note") == FROM_COMPLAINT and not entry.text("subject")]
    known = {(entry.kind, entry.text("outcome")) for entry in on_trace if entry.stands}
    return Carried(
        tuple(pair for pair in wanted if pair not in known),
        tuple(entry for entry in taken if (entry.kind, entry.text("outcome")) not in wanted),
    )
