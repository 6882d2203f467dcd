"""Where the work can hurt someone: what a step touches, what is done first, and what brings the danger back.

A hazard is recognised by what a sheet, a state or a complaint says in words, and by the kinds of part that a step lays hands on. Its step
waits until somebody has said that it was made safe; where the danger is brought back (the fuse refitted, the battery connected) it waits
again. All of it is common practice without a source: local codes, the maker's instructions and licensed practice go before it.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from ..circuit.sheet import Sheet
from ..circuit.unplug import parts_meant
from .asked import Measurement, Question

__all__ = ["DEFERS", "HAZARDS", "Hazard", "hazards_in_words", "hazards_of", "hazards_of_sheet", "locking"]

DEFERS = "Local codes, the maker's instructions and licensed practice go before what stands here."


@dataclass(frozen=True, slots=True)
class Hazard:
    """A danger: its ``title``, what is to be done first (``caution``), what brings it ``back`` (empty where nothing does), whether a step
    waits for it (``locks``), and whether it is left to qualified people (``refers``)."""

    name: str
    title: str
    caution: str
    back: str = ""
    locks: bool = True
    refers: bool = False
    gone_with_power: bool = False  # made safe by taking the battery off: a reading on the live circuit shows that it is on again


_BATTERY_ON = "The battery is on again"
HAZARDS: Mapping[str, Hazard] = {
    hazard.name: hazard
    for hazard in (
        Hazard(
            "high_voltage",
            "High voltage",
            "High voltage: only the low-voltage side is traced here. Orange cables, their plugs and all that they lead to are for "
            "qualified people, who isolate the system and record that first.",
            "The isolation was lifted",
            refers=True,
        ),
        Hazard(
            "battery",
            "Battery",
            "Take the battery off before you open this: minus first, the clamp kept away from the post. Stored energy stays in capacitors "
            "for minutes. No sparks near a battery that was charged.",
            _BATTERY_ON,
            gone_with_power=True,
        ),
        Hazard(
            "airbag",
            "Airbag or pretensioner",
            "Airbag or pretensioner: battery off, wait as long as the maker says, no meter on a squib, nobody in front of it. Loose yellow "
            "plugs under a seat belong to it.",
            _BATTERY_ON,
            gone_with_power=True,
        ),
        Hazard(
            "air_springs",
            "Air springs",
            "Air springs: pull the fuse of the pump, and put the frame on stands before anybody reaches in. Let the air out before a "
            "line is opened.",
            "The pump's fuse is back in",
        ),
        Hazard(
            "raised",
            "Work underneath",
            "Work underneath: on stands at the maker's lifting points, never on a jack alone, wheels chocked.",
            "It stands on its wheels again",
        ),
        Hazard(
            "fuel",
            "Fuel and vapour",
            "Fuel or its vapour: no spark, no test lamp, no heat; aired, an extinguisher at hand, and what drips is caught.",
        ),
        Hazard(
            "moving",
            "Belts and fans",
            "The engine turns: sleeves, hair and leads away from belt and fan, gear out, brake on. A fan may start by itself.",
        ),
        Hazard(
            "pinch",
            "Parts that move by themselves",
            "Roofs, ramps, platforms, tailgates: they may move at once. Nobody in their way, and a prop under what can fall.",
            locks=False,
        ),
        Hazard("hot", "Hot parts", "Hot parts: let them cool, or reach them with what does not melt.", locks=False),
        Hazard(
            "static",
            "Static at boards",
            "A board lies open: strap on the wrist, touch the case first, no solvent on a coating.",
            locks=False,
        ),
        Hazard(
            "tow_run",
            "Tow and run switch",
            "Switch to tow before you touch the drive, chock the wheels, and lift the driven ones off the ground before it is switched to "
            "run.",
            "It is switched to run again",
        ),
        Hazard(
            "steering_brakes",
            "Steering and brakes",
            "Steering or brakes: nothing is tried on the road that was not tried standing. Firm pedal, fluid level and no leak before any "
            "drive.",
        ),
    )
}
_WORDS: Mapping[str, str] = {
    "high_voltage": r"high[ -]voltage|orange cable|traction battery|inverter",
    "battery": r"alternator|generator\b|stator\b|starter\b|battery (?:flat|sag|charg|drain)",
    "airbag": r"airbag|air bag|pretensioner|squib|(?<!\d )seats?\b",
    "air_springs": r"air spring|air suspension|kneel\w*|bellows",
    "raised": r"underneath|under the (?:vehicle|frame)|from below",
    "fuel": r"petrol|fuel pump|fuel tank|tank (?:sender|unit|flap)|diesel tank|purge valve|fuel rail|rail pressure",
    "pinch": r"(?:folding|powered|convertible) roof|roof\b|ramp\b|tail.?lift|platform|tailgate",
    "hot": r"exhaust|turbo\w*|manifold",
    "static": r"circuit board|board of the|printed board|engine computer|electrolytic|capacitor (?:leak|burst|bulg)",
    "tow_run": r"tow and run|tow.run|run switch|electric cart",
    "steering_brakes": r"steering\b|brakes?\b|abs\b",
}  # fmt: skip
_FIND = {name: re.compile(rf"\b(?:{words})", re.IGNORECASE) for name, words in _WORDS.items()}
# Kinds of part on whose cables no spanner goes while the battery is on.
_HEAVY = ("alternator", "generator", "starter", "battery", "stator")


def hazards_in_words(*texts: str) -> tuple[Hazard, ...]:
    """The hazards that some texts speak of."""
    whole = " . ".join(texts)
    return tuple(HAZARDS[name] for name, find in _FIND.items() if find.search(whole))


def hazards_of_sheet(sheet: Sheet) -> tuple[Hazard, ...]:
    """The hazards that work on a circuit may meet anywhere."""
    if "hazards" not in sheet.remembered:
        texts = [sheet.title, sheet.caution, *(f"{a.name} {a.note}" for a in sheet.access.values())]
        texts += [place.at for place in sheet.places.values()] + [part.label for part in sheet.parts.values()]
        names = {hazard.name for hazard in hazards_in_words(*texts)}
        if any(state.engine == "running" or "running" in state.positions.values() for state in sheet.states.values()):
            names.add("moving")
        if any(_is_heavy(sheet, name) for name in sheet.parts):
            names.add("battery")
        sheet.remembered["hazards"] = tuple(hazard for name, hazard in HAZARDS.items() if name in names)
    found: tuple[Hazard, ...] = sheet.remembered["hazards"]
    return found


def _is_heavy(sheet: Sheet, name: str) -> bool:
    part = sheet.parts[name]
    return not part.kind.posts and any(word in part.kind.name or word in part.label.lower() for word in _HEAVY)


def hazards_of(sheet: Sheet, test: Measurement | Question) -> tuple[Hazard, ...]:
    """The hazards of one step: of the places it touches, what they lie behind, the parts at them, what is unplugged, and its state."""
    key = ("hazards", test)
    if key not in sheet.remembered:
        sheet.remembered[key] = _found(sheet, test)
    found: tuple[Hazard, ...] = sheet.remembered[key]
    return found


def _found(sheet: Sheet, test: Measurement | Question) -> tuple[Hazard, ...]:
    nodes = {test.red, test.black} - {sheet.minus, sheet.plus, ""}
    places = [sheet.places[node] for node in nodes if node in sheet.places]
    accesses = [sheet.access[place.behind] for place in places if place.behind]
    without = parts_meant(sheet, test.without) if isinstance(test, Measurement) else ()
    subject = [sheet.parts[test.red]] if isinstance(test, Question) and test.red in sheet.parts else []
    parts = [*(sheet.parts[name] for name in without), *subject]
    state = sheet.states.get(test.state)
    how = (f"{state.name} {state.note}",) if state and not test.dead else ()
    texts = [*how, *(f"{a.name} {a.note}" for a in accesses), *(p.at for p in places), *(p.label for p in parts)]
    names = {hazard.name for hazard in hazards_in_words(*texts)}
    if state and not test.dead and (state.engine == "running" or "running" in state.positions.values()):
        names.add("moving")
    opens = isinstance(test, Measurement) and bool(test.without or test.instrument == "amps")
    if not opens:  # on the live circuit nothing is taken off first, and a plug that stays home does no harm
        names -= {name for name, hazard in HAZARDS.items() if hazard.gone_with_power and not (test.dead and name == "airbag")}
    at = {name for name, part in sheet.parts.items() if nodes & set(part.pins.values())} | set(without)
    if opens and any(_is_heavy(sheet, name) for name in at):
        names.add("battery")
    return tuple(hazard for name, hazard in HAZARDS.items() if name in names)


def locking(hazards: Iterable[Hazard]) -> tuple[str, ...]:
    """The cautions of those that a step waits for."""
    return tuple(hazard.caution for hazard in hazards if hazard.locks)
