"""What was done to the vehicle between readings: what was measured before is kept as before and no longer speaks for the circuit as it is.

An action on a circuit is about that circuit, one on the job about all of them. What is no property of the circuit as it stands (how often
the complaint is there, the past of a part, what cannot be got at) lasts; of what was looked at all lasts but where hands were laid on.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from ..base.written import Content, EntryError, EntryField, EntryKind, Value
from ..evidence.registry import SORTS
from .entry import Entry

__all__ = ["ACTION", "DEEDS", "TWO_AT_ONCE", "UNPLUGGED", "Sides", "cuts", "mattering", "sides_of", "unclear_changes"]

# What can be done with one touch, as it is said afterwards.
UNPLUGGED = "unplugged and put back"
DEEDS = ("cleaned", "reseated", "tightened", "renewed", "repaired", "bridged", UNPLUGGED, "something else")
TWO_AT_ONCE = "Two things were changed with no reading between them: if it works now, nobody will know which of them did it."


def _reads(content: Content) -> str:
    part, deed, text = (str(content.get(name) or "") for name in ("part", "deed", "text"))
    done = f"{part}: {deed}" if part and deed else deed or part
    return ". ".join(filter(None, (done, text)))


def _checked(content: dict[str, Value]) -> dict[str, Value]:
    if not content["text"] and not content["deed"]:
        raise EntryError("What was done is missing: touch it, or write it down in a few words.")
    return content


ACTION = EntryKind(
    "action",
    "Done to the vehicle",
    (
        EntryField("text", "What was done", required=False),
        EntryField("deed", "What was done", required=False, choices=DEEDS),
        EntryField("part", "The part", required=False, longest=120),
    ),
    _reads,
    _checked,
)


def cuts(entry: Entry) -> bool:
    """Whether an entry that stands is something that was done: what was measured before it is before."""
    return entry.stands and entry.kind in (ACTION.name, "remedy")


@dataclass(frozen=True, slots=True)
class Sides:
    """The evidence on a circuit that stands: what was there ``before`` the last thing that was done, what speaks for it ``now``, and that
    last ``action``, None for none."""

    before: tuple[Entry, ...]
    now: tuple[Entry, ...]
    action: Entry | None


def sides_of(entries: Sequence[Entry], trace_id: int) -> Sides:
    """The two sides of a circuit's evidence. What was done after its conclusion was drawn does not touch it: it stands on what was read."""
    concluded = max((e.id for e in entries if e.stands and e.kind == "conclusion" and e.trace_id == trace_id), default=None)
    own = [e for e in entries if e.stands and e.kind in SORTS and e.trace_id == trace_id]
    done = [e for e in entries if cuts(e) and e.trace_id in (trace_id, None) and (concluded is None or e.id < concluded)]
    if not done:
        return Sides((), tuple(own), None)
    now = tuple(e for e in own if _speaks(e, done))
    kept = {e.id for e in now}
    return Sides(tuple(e for e in own if e.id not in kept), now, done[-1])


def _speaks(entry: Entry, done: Iterable[Entry]) -> bool:
    """Whether an entry of evidence speaks for the circuit after all that was done."""
    later = [action for action in done if action.id > entry.id]
    if not later:
        return True
    sort = SORTS[entry.kind]
    touched = {action.text("part").partition(".")[0] for action in later}
    return sort.lasts and (not sort.looks or ("" not in touched and entry.text("subject").partition(".")[0] not in touched))


def mattering(entries: Iterable[Entry], trace_id: int) -> tuple[int, ...]:
    """Ids of the entries that what is known of a circuit hangs on: while they are the same, nothing has changed."""
    return tuple(
        e.id for e in entries if e.stands and ((e.trace_id == trace_id and e.kind != "conclusion") or (e.trace_id is None and cuts(e)))
    )


def unclear_changes(entries: Iterable[Entry]) -> frozenset[int]:
    """Ids of the actions before which something else was done with nothing read or seen between: `TWO_AT_ONCE` holds for them."""
    found, last = set(), False
    for entry in entries:
        if not entry.stands:
            continue
        if entry.kind == ACTION.name:
            if last:
                found.add(entry.id)
            last = True
        elif entry.kind in SORTS or entry.kind == "proof":
            last = False
    return frozenset(found)
