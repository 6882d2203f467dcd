"""A complaint that comes and goes is made to show itself first: what to watch, while what is moved, warmed or wetted."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ..base.written import EntryField, EntryKind
from ..circuit.sheet import Sheet
from ..evidence.moving import parts_moved
from ..evidence.registry import WORD_SORTS
from ..evidence.told import MOVED, Told
from .entry import Entry, standing
from .look import called_whole, whole_plug

__all__ = ["FLEXED", "MOVES", "Stirring", "flexes", "shown_itself", "stirrings", "to_watch"]

MOST_STIRRINGS = 10


MOVES = ("changed", "no change")
# Where no circuit is traced. Common practice, no source.
_GENERAL = ("the harness, hand over hand", "each plug in turn", "the fuses and relays of the system, pressed home", "grounds nearby")

FLEXED = EntryKind(
    "flexed",
    "Moved",
    (
        EntryField("moved", "What was moved", longest=120),
        EntryField("did", "What it did", choices=MOVES),
        EntryField("text", "What was watched", required=False, longest=300),
    ),
    lambda c: f"{c['moved']}: {c['did']}" + (f" (watching {c['text']})" if c.get("text") else ""),
)


@dataclass(frozen=True, slots=True)
class Stirring:
    """Something to do to a part while watching: a sort of evidence, its ``subject`` there and as ``called``, ``how`` in a few words; and
    what came of it the last time, with how often it was tried."""

    kind: str
    subject: str
    called: str
    how: str
    outcome: str
    tries: int


def shown_itself(entries: Sequence[Entry]) -> bool:
    """Whether something changed while somebody moved, warmed or knocked on things."""
    stirring = {name for name, sort in WORD_SORTS.items() if "flex" in sort.acts}
    return any(
        e.stands and ((e.kind in stirring and e.text("outcome") == MOVES[0]) or (e.kind == FLEXED.name and e.text("did") == MOVES[0]))
        for e in entries
    )


def to_watch(sheet: Sheet, told: Told | None, on_trace: Sequence[Entry]) -> str:
    """What to watch meanwhile: what is complained of on the circuit, else what the sheet wants looked at; empty where that is nothing."""
    kinds = {name for name, sort in WORD_SORTS.items() if sort.answers_for}
    said = next((e for e in reversed(on_trace) if e.stands and e.kind in kinds), None)
    subject = said.text("subject") if said else next(iter(sheet.observe), "")
    if not subject:
        return ""
    part = sheet.parts.get(subject)
    state = f" with the vehicle in state {said.text('state')}" if said and said.text("state") else ""
    return f"{part.called if part else subject}{state}"


def stirrings(sheet: Sheet, told: Told | None, on_trace: Sequence[Entry]) -> tuple[Stirring, ...]:
    """What to move, warm or knock on, the most promising first: what lies beside what is moved in service, then the plugs and joints."""
    under = told.under if told else ()
    wanted: dict[tuple[str, str], None] = {}
    sorts = [sort for sort in WORD_SORTS.values() if sort.stirs_under]
    by_hand = [sort.name for sort in sorts if sort.stirs_joints][:1]  # what is done to anything that moves in service
    moved = [name for what in under if what in MOVED for name in parts_moved(sheet, what)]
    joints = [name for name, part in sheet.parts.items() if part.kind.joint and part.kind.name != "fuse"]
    others = [name for name, part in sheet.parts.items() if not part.kind.joint and not part.kind.posts and not part.copper]
    wanted |= dict.fromkeys((kind, name) for kind in by_hand for name in moved)
    for what in under:
        for sort in (sort for sort in sorts if what in sort.stirs_under):
            wanted |= dict.fromkeys(
                (sort.name, name) for name in (joints if sort.stirs_joints else others) if (sort.name, name) not in wanted
            )
    wanted |= dict.fromkeys((kind, name) for kind in by_hand for name in joints if (kind, name) not in wanted)
    able = [(kind, name) for kind, name in wanted if name in WORD_SORTS[kind].subjects(sheet)]
    whole = list(dict.fromkeys((kind, whole_plug(sheet, name)) for kind, name in able))
    return tuple(_stirring(sheet, kind, name, on_trace) for kind, name in whole[:MOST_STIRRINGS])


def _stirring(sheet: Sheet, kind: str, name: str, on_trace: Sequence[Entry]) -> Stirring:
    own = [e for e in on_trace if e.stands and e.kind == kind and e.text("subject") == name]
    return Stirring(kind, name, called_whole(sheet, name), WORD_SORTS[kind].how, own[-1].text("outcome") if own else "", len(own))


def flexes(told: Told | None, entries: Sequence[Entry]) -> tuple[tuple[str, str, int], ...]:
    """What to move where no circuit is traced: what moves in service as it was told, then the usual places, then what was moved besides;
    each with what it did the last time, empty for not yet, and how often it was tried."""
    under = told.under if told else ()
    moved = {"seat": "the seat", "door": "the door", "tilt": "what tilts", "steering": "the steering"}
    places = [moved[name] for name in under if name in moved] + list(_GENERAL)
    done = standing(entries, FLEXED.name)
    places += [e.text("moved") for e in done]
    return tuple(
        (place, own[-1].text("did") if (own := [e for e in done if e.text("moved") == place]) else "", len(own))
        for place in dict.fromkeys(places)
    )
