"""Readings: one number from one instrument, on the circuit at hand."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import replace

from ...base.brief import near, quoted
from ...base.conditions import split_conditions
from ...base.errors import ReadingError
from ...base.judgement import judged
from ...base.quantity import parse_reading
from ...circuit.safety import Caution
from ...circuit.sheet import Sheet
from ...meter.instrument import INSTRUMENTS, instrument
from ..asked import Measurement, Question
from ..items import Item, Reading
from ..sort import Field, NumberSort, head_of

PLACE = 0

READ_MINUTES = judged("READ_MINUTES", 0.3, "min", "to read a number where no lead has to be placed; else it is part of a place's minutes")
METER_IN_LINE_MINUTES = judged("METER_IN_LINE_MINUTES", 1.0, "min", "to put an ammeter in line")
PLACE_MINUTES = judged("PLACE_MINUTES", 1.0, "min", "to probe a point that the sheet names no minutes for")
UNPLUG_MINUTES = judged("UNPLUG_MINUTES", 1.0, "min", "to part a plug and put it back")


class Measured(NumberSort):
    """A number that an instrument shows between two places, in a state."""

    name, title, words = "reading", "Reading", "a number from an instrument"
    verbs = tuple(INSTRUMENTS)
    fields = (
        Field("state", "The state"), Field("instrument", "The instrument"), Field("red", "Red's place"), Field("black", "Black's place"),
        Field("value", "The value"), Field("note", "The note"),
    )  # fmt: skip
    elsewhere = False

    def read(self, sheet: Sheet, given: Mapping[str, str]) -> Reading:
        """As `Sort.read`."""
        state, meter, red, black, value, note = (given.get(f.name, "") for f in self.fields)
        return self.reading(sheet, state, meter, red, black, value, note)

    def reading(self, sheet: Sheet, state: str, meter: str, red: str, black: str, value: str, note: str = "") -> Reading:
        """A reading from text, checked against the sheet. Raises ReadingError with one sentence."""
        test = self.measurement(sheet, state, meter, red, black)
        number, conditions = split_conditions(value)
        measured = parse_reading(number, instrument(meter).unit)
        if conditions.lead_ohms is not None and instrument(meter).unit == "Ω":  # what the leads have is not the circuit's
            measured = replace(measured, value=max(measured.value - conditions.lead_ohms, 0.0))
        return Reading(
            test.state, test.instrument, test.red, test.black, measured, note, self.name, self.elsewhere, conditions=conditions
        )  # fmt: skip

    def measurement(self, sheet: Sheet, state: str, meter: str, red: str, black: str) -> Measurement:
        """A measurement that can be made on the sheet; an empty place is battery minus. Raises ReadingError with one sentence."""
        sheet.state(state)
        instrument(meter)
        red_node, black_node = sheet.probe(red), sheet.probe(black)
        if red_node == black_node:
            raise ReadingError(f"Red and black are both on {red_node}: put them on two different places.")
        if meter in ("amps", "clamp") and not _joined(sheet, red_node, black_node):
            verb = "takes the place of" if meter == "amps" else "goes around"
            raise ReadingError(f"Nothing joins {red_node} and {black_node} directly: this instrument {verb} one conductor.")
        return Measurement(state, meter, red_node, black_node)

    def content(self, item: Item, typed: str) -> dict[str, str]:
        """As `Sort.content`."""
        assert isinstance(item, Reading)
        columns = (item.state, item.instrument, item.red, item.black, typed, item.note)
        return dict(zip((f.name for f in self.fields), columns, strict=True))

    def columns(self, item: Item) -> tuple[str, str, str, str]:
        """As `Sort.columns`."""
        assert isinstance(item, Reading)
        return item.state, item.instrument, item.red, item.black

    def parse(self, sheet: Sheet, verb: str, rest: str, state: str, named: bool) -> tuple[Item, str]:
        """As `Sort.parse`: RED [BLACK] VALUE."""
        nodes = [*sheet.places, *sheet.nodes()]
        red, left = head_of(rest, nodes)
        if red is None:
            word = rest.split(" ")[0]
            if not word:
                raise ReadingError(f"A place is missing: say where red stands, such as '{verb} {next(iter(sheet.places))} 12.4'.")
            raise ReadingError(f"{quoted(word)} is no place on this sheet{near(word, nodes)}.")
        left = head_of(left, ["to", "and", "against"])[1]
        black, value = head_of(left, nodes)
        if black is not None and not value and _looks_like_a_value(left):
            black, value = None, left  # a place whose name is a number
        return self.reading(sheet, state, verb, red, black or "", value), value

    def expected(self, sheet: Sheet, rest: str) -> Sequence[str]:
        """As `Sort.expected`."""
        red, left = head_of(rest, sheet.places)
        if red is None:
            return () if rest else [place for place in sheet.places if place != sheet.minus]
        return () if left else [place for place in sheet.places if place != red]

    def test(self, sheet: Sheet, verb: str, red: str, black: str, state: str) -> Measurement:
        """As `Sort.test`."""
        return self.measurement(sheet, state, verb, red, black)

    def minutes(self, sheet: Sheet, test: Measurement | Question, leads: frozenset[str]) -> float:
        """Both places; a clip stays on battery minus, and a lead that is where it is wanted stays there."""
        wanted = set(self._reached(sheet, test)) - {sheet.minus} - leads
        minutes = max(sum(sheet.places[name].minutes if name in sheet.places else PLACE_MINUTES for name in wanted), READ_MINUTES)
        minutes += METER_IN_LINE_MINUTES if test.instrument == "amps" else 0.0
        return minutes + UNPLUG_MINUTES * len(test.without if isinstance(test, Measurement) else ())

    def behind(self, sheet: Sheet, test: Measurement | Question) -> tuple[str, ...]:
        """What the places lie behind."""
        return tuple(sheet.places[name].behind or "" for name in self._reached(sheet, test) if name in sheet.places)

    def _reached(self, sheet: Sheet, test: Measurement | Question) -> tuple[str, ...]:
        """Where hands have to be: at both places, or with a clamp at the end of the conductor that is the easier one."""
        if test.instrument != "clamp":
            return test.red, test.black
        places = [sheet.places[name] for name in (test.red, test.black) if name in sheet.places]
        easiest = min(places, key=lambda place: (bool(place.behind), place.minutes), default=None)
        return (easiest.name,) if easiest else (test.red,)

    def asks(self, sheet: Sheet, test: Measurement | Question) -> str:
        """Where a clamp goes."""
        if test.instrument != "clamp":
            return ""
        around = " and ".join(part.title for part in sheet.parts.values() if {test.red, test.black} <= set(part.pins.values()))
        return f"Put the clamp around {around}, near {self._reached(sheet, test)[0]}, its arrow from {test.red} to {test.black}"

    def cautions(self, sheet: Sheet, test: Measurement | Question) -> tuple[Caution, ...]:
        """Those of the places."""
        places = [sheet.places[name] for name in (test.red, test.black) if name in sheet.places]
        return tuple(Caution(place.caution, place.acknowledge) for place in places)


def _joined(sheet: Sheet, red: str, black: str) -> bool:
    return any({red, black} <= set(part.pins.values()) for part in sheet.parts.values())


def _looks_like_a_value(text: str) -> bool:
    return bool(re.fullmatch(r"[-+]?\d.*|OL", text, re.IGNORECASE))


READING = Measured()
SORTS = (READING,)
