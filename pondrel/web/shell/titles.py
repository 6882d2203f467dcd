"""How tests are called on the Trace screen: in the words of the trade, places by where they are."""

from __future__ import annotations

from contextlib import suppress
from dataclasses import dataclass

from flask import Flask
from markupsafe import Markup

from ...core.base.conditions import split_conditions
from ...core.base.errors import ReadingError
from ...core.circuit.connector import Pin
from ...core.circuit.sheet import Sheet
from ...core.circuit.sights import sight_of
from ...core.circuit.unplug import measured_alone
from ...core.evidence.asked import Measurement, Question
from ...core.evidence.items import Item, Reading
from ...core.isolate import Advice
from ...core.job.entry import Entry
from ...core.job.kinds import answer_of
from ...core.meter.instrument import INSTRUMENTS
from .words import METER_WORDS, minutes_text, options

__all__ = [
    "Lead",
    "Proposal",
    "around",
    "init_app",
    "leads_of",
    "line_title",
    "measured",
    "part_or_place",
    "place_options",
    "proposal_of",
    "title_of",
    "told",
]

# What stands on the two pills: a clamp has no leads but an arrow.
_ENDS = {"clamp": ("near", "arrow to")}


@dataclass(frozen=True, slots=True)
class Lead:
    """A line of where things go: ``kind`` chooses its colour, ``label`` stands on its pill, then the ``place`` and what else to know."""

    kind: str
    label: str
    place: str
    note: str = ""


@dataclass(frozen=True, slots=True)
class Proposal:
    """A proposed test as it stands in the list: its ``number`` there, what, in which state, minutes as
    text, whether it carries a caution of its own."""

    number: int
    title: str
    state: str
    minutes: str
    proves: bool
    caution: bool


def place_words(sheet: Sheet, name: str) -> str:
    """Where a place is; the name on the sheet where the sheet does not say, or where no probe reaches it."""
    place = sheet.places.get(name)
    return place.at if place and place.at else name


def around(sheet: Sheet, one: str, other: str) -> str:
    """The part between two nodes that a clamp goes around; the first node where there is none."""
    return next((p.called for p in sheet.parts.values() if {one, other} <= set(p.pins.values())), place_words(sheet, one))


def part_or_place(sheet: Sheet, name: str) -> str:
    """What a part is called, or where a place is."""
    return sheet.parts[name].called if name in sheet.parts else place_words(sheet, name)


def place_options(sheet: Sheet, chosen: str) -> Markup:
    """The places of a sheet as the options of a select, each with where it is and its name."""
    return options(sheet.places, chosen, {name: place.spoken for name, place in sheet.places.items()})


def measured(instrument: str) -> str:
    """What is measured or done with an instrument, inside a sentence: ``volts``, ``ohms, dead``."""
    words = METER_WORDS.get(instrument, instrument)
    return words[:1].lower() + words[1:]


def title_of(sheet: Sheet, test: Measurement | Question) -> str:
    """A test in a line: ``Volts at fuse box, load side of F14``."""
    words = METER_WORDS.get(test.instrument, test.instrument)
    if isinstance(test, Question):
        return f"{words}: {part_or_place(sheet, test.subject)}" if test.subject else words
    if test.instrument == "clamp":
        return f"{words} around {around(sheet, test.red, test.black)}"
    where = f"at {place_words(sheet, test.red)}"
    if test.black != sheet.minus:
        where = f"from {place_words(sheet, test.red)} to {place_words(sheet, test.black)}"
    own = measured_alone(test.without)
    if own is not None:
        return f"{words} {where}, {part_or_place(sheet, own)} by itself"
    off = " and ".join(part_or_place(sheet, name) for name in test.without)
    return f"{words} {where}" + (f", {off} unplugged" if off else "")


def line_title(sheet: Sheet, item: Item) -> str:
    """A line of evidence in a record: ``Volts at battery plus post, door open``."""
    state = f", {item.test.state}" if item.test.state else ""
    return ("good side: " if isinstance(item, Reading) and item.elsewhere else "") + title_of(sheet, item.test) + state


def told(entry: Entry) -> str:
    """The number or the outcome of a line of evidence, as it was typed, without conditions, a bare number with its unit; empty for what is
    no evidence."""
    text, meter = answer_of(entry), INSTRUMENTS.get(entry.text("instrument"))
    with suppress(ReadingError):  # an old entry may hold what is no condition any more
        text, _ = split_conditions(text)
    bare = text.rstrip("mkM")
    if meter and bare[-1:].isdigit():
        return f"{bare} {text[len(bare) :]}{meter.unit}"
    return text


def proposal_of(sheet: Sheet, number: int, advice: Advice) -> Proposal:
    """A proposed test for the list of them, where it stands as the ``number``-th."""
    own = bool(advice.cautions) and advice.cautions[-1] != sheet.caution
    return Proposal(number, title_of(sheet, advice.test), advice.test.state, minutes_text(advice.minutes), advice.proves, own)


def leads_of(sheet: Sheet, test: Measurement | Question, pins: dict[str, Pin | None], stands: str) -> tuple[Lead, ...]:
    """Where the leads go, what is unplugged, and how the vehicle stands."""
    lines = []
    if isinstance(test, Question):
        seen = sight_of(sheet, test.subject) if test.kind == "see" else None
        meant = sheet.parts[seen[0]].called if seen and seen[0] in sheet.parts else ""
        place = part_or_place(sheet, test.subject)
        lines.append(Lead("do", "look" if seen else "at", place, meant if meant != place else ""))
    elif test.instrument in INSTRUMENTS:
        for kind, label, name in zip(("red", "black"), _ENDS.get(test.instrument, ("red", "black")), (test.red, test.black), strict=True):
            pin = pins.get(name)
            lines.append(Lead("do" if test.instrument == "clamp" else kind, label, place_words(sheet, name), pin.words if pin else ""))
        if test.without:
            lines.append(Lead("do", "unplug", " and ".join(part_or_place(sheet, name) for name in test.without)))
    if test.state:
        lines.append(Lead("do", "switch", test.state, stands))
    return tuple(lines)


def deed_parts(sheet: Sheet) -> list[tuple[str, str]]:
    """The parts of a sheet to choose from for what was done to one: each with what it is called."""
    return [(name, part.spoken) for name, part in sheet.parts.items()]


def init_app(app: Flask) -> None:
    """Give the templates the words for parts, places and what was read."""
    app.jinja_env.globals.update(deed_parts=deed_parts, part_or_place=part_or_place, place_options=place_options, told=told)
