"""What is worth a look before the meter comes out: from the circuits, from what was told, and from what was lately done to the vehicle."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from ..base.judgement import OWN_RULE, judged
from ..base.written import Content, EntryField, EntryKind
from ..circuit.sheet import Part, Sheet
from ..evidence.moving import parts_moved
from ..evidence.registry import WORD_SORTS
from ..evidence.told import CIRCUMSTANCES, MOVED, Told
from ..vehicle.ledger import Fitted, fitted_to
from .entry import Entry, standing

__all__ = ["GENERAL", "LOOKED", "LookAt", "Seen", "called_whole", "general_looks", "look_list", "outcomes_of_looks", "whole_plug"]

_PLUGS = ("plug", "contact")
MOST_LOOKS = int(judged("MOST_LOOKS", 14.0, "looks", "that are proposed on one circuit: a longer list is not worked off", OWN_RULE))
OUTCOMES = ("fine", "corroded", "wet", "loose", "chafed", "burnt", "broken")
# Where nothing is known of the circuit. Common practice, no source.
GENERAL: tuple[tuple[str, str], ...] = (
    ("battery posts and clamps", "dirty posts read as a bad battery"),
    ("fuses of the system", "both sides, under load; a blown one is a symptom"),
    ("grounds nearby", "a bolt over paint or rust"),
    ("the harness where something moves", "hinges, seat rails, tilting parts"),
    ("plugs that lie open to water", "green pins, water, oil or grease in them"),
    ("whatever was worked on lately", "a plug not home, a pinched wire, a forgotten ground"),
)


def _reads(content: Content) -> str:
    return f"{content['place']}: {content['outcome']}" + (f". {content['text']}" if content.get("text") else "")


LOOKED = EntryKind(
    "looked",
    "Looked at",
    (
        EntryField("place", "What was looked at", longest=120),
        EntryField("outcome", "What was found", choices=OUTCOMES),
        EntryField("text", "The note", required=False, longest=500),
    ),
    _reads,
)


@dataclass(frozen=True, slots=True)
class LookAt:
    """Something to look at on a circuit: the sort of evidence, its ``subject`` there, what it is called, where it is, and why."""

    kind: str
    subject: str
    called: str
    where: str
    why: str


@dataclass(frozen=True, slots=True)
class Seen:
    """What was found where somebody looked."""

    outcome: str
    note: str
    entry_id: int


def look_list(sheet: Sheet, told: Told | None, lately: Iterable[Fitted], corrected: Iterable[str]) -> tuple[LookAt, ...]:
    """What to look at on a circuit, the most promising first; ``lately`` are the lines of the ledger that are not old, ``corrected`` names
    of parts that were found different from the sheet on this vehicle."""
    under = told.under if told else ()
    why: dict[str, str] = {}
    for name in fitted_to(sheet.parts, lately):
        why.setdefault(name, "fitted lately: is its plug home, its wire free?")
    for name in corrected:
        if name in sheet.parts:
            why.setdefault(name, "found different from the sheet on this vehicle")
    for what in (name for name in under if name in MOVED):
        for name in parts_moved(sheet, what):
            why.setdefault(name, f"the complaint is there {CIRCUMSTANCES[what]}")
    if "wet" in under:
        for name in _plugs(sheet):
            why.setdefault(name, "the complaint is there when wet: water or crust in it?")
    for what in MOVED:
        for name in parts_moved(sheet, what):
            if sheet.parts[name].kind.joint or sheet.parts[name].copper:
                why.setdefault(name, "lies where something moves")
    for name in (n for n, part in sheet.parts.items() if part.kind.name == "ground"):
        why.setdefault(name, "clean metal, tight, no paint under it?")
    for name in (n for n, part in sheet.parts.items() if part.kind.name in ("fuse", "breaker")):
        why.setdefault(name, "whole, seated, both sides under load; blown, it is a symptom")
    for name in _plugs(sheet):
        why.setdefault(name, "green, wet, oily, a pin drawn back?")
    for name in (n for n, part in sheet.parts.items() if part.kind.name == "capacitor"):
        why.setdefault(name, "bulged, leaking, a brown board under it?")
    whole: dict[str, str] = {}
    for name, text in why.items():
        whole.setdefault(whole_plug(sheet, name), text)
    looks = [(kind, name) for kind in _kinds() for name in whole if name in WORD_SORTS[kind].subjects(sheet)]
    return tuple(LookAt(kind, name, called_whole(sheet, name), _where(sheet, name), whole[name]) for kind, name in looks[:MOST_LOOKS])


def _kinds() -> tuple[str, ...]:
    """The sort of evidence by which something itself is looked at, whatever the circuit does."""
    return tuple(name for name, sort in WORD_SORTS.items() if sort.looks and not sort.from_circuit and set(sort.answers) == set(OUTCOMES))


def _plugs(sheet: Sheet) -> tuple[str, ...]:
    return tuple(dict.fromkeys(whole_plug(sheet, name) for name, part in sheet.parts.items() if part.kind.name in _PLUGS))


def whole_plug(sheet: Sheet, name: str) -> str:
    """The plug that a pin belongs to, whose pins are looked at and moved together; any other part stays itself."""
    whole = name.partition(".")[0]
    is_pin = name in sheet.parts and sheet.parts[name].kind.name in _PLUGS and "." in name
    return whole if is_pin and whole not in sheet.parts else name


def _parts(sheet: Sheet, subject: str) -> list[Part]:
    return [part for name, part in sheet.parts.items() if name == subject or name.partition(".")[0] == subject]


def called_whole(sheet: Sheet, subject: str) -> str:
    """What a part, or a plug with all its pins, is called."""
    if subject in sheet.parts:
        return sheet.parts[subject].called
    first = next(iter(_parts(sheet, subject)))
    return f"{first.called.partition(' pin ')[0]}, all pins"


def _where(sheet: Sheet, subject: str) -> str:
    """What has to be opened to see it, and the place it is at; empty where the sheet does not say."""
    nodes = {node for part in _parts(sheet, subject) for node in part.pins.values()}
    places = [place for name, place in sheet.places.items() if name in nodes and name not in (sheet.plus, sheet.minus)]
    behind = next((sheet.access[p.behind] for p in places if p.behind), None)
    at = next((p.at for p in places if p.at), "")
    return ", ".join(filter(None, (at, behind.note or behind.name.replace("_", " ") if behind else "")))


def outcomes_of_looks(looks: Sequence[LookAt], on_trace: Iterable[Entry]) -> Mapping[str, Seen]:
    """By subject, what was found there last."""
    kinds = {look.kind for look in looks}
    return {e.text("subject"): Seen(e.text("outcome"), e.text("note"), e.id) for e in on_trace if e.stands and e.kind in kinds}


def general_looks(entries: Iterable[Entry]) -> Mapping[str, Seen]:
    """By place, what was found where somebody looked without a circuit."""
    return {e.text("place"): Seen(e.text("outcome"), e.text("text"), e.id) for e in standing(entries, LOOKED.name)}
