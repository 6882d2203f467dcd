"""Readings: one number from one instrument, on the circuit at hand."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import replace

from ...base.brief import near, quoted
from ...base.conditions import split_conditions
from ...base.errors import ReadingError
from ...base.judgement import judged
from ...base.quantity import parse_reading, show
from ...circuit.safety import Caution
from ...circuit.sheet import Sheet
from ...circuit.unplug import ALONE, alone, joins_two_ends, measured_alone, parts_meant, plugs, unplugged
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
        Field("value", "The value"), Field("note", "The note"), Field("unplugged", "What is unplugged"),
    )  # fmt: skip
    elsewhere = False

    def read(self, sheet: Sheet, given: Mapping[str, str]) -> Reading:
        """As `Sort.read`."""
        state, meter, red, black, value, note, off = (given.get(f.name, "") for f in Measured.fields)
        return self.reading(sheet, state, meter, red, black, value, note, off)

    def reading(self, sheet: Sheet, state: str, meter: str, red: str, black: str, value: str, note: str = "", off: str = "") -> Reading:
        """A reading from text, checked against the sheet; what is unplugged stands in ``off`` or after the value. Raises ReadingError with
        one sentence."""
        plain, said = split_unplugged(value)
        test = self.measurement(sheet, state, meter, red, black, said or off)
        number, conditions = split_conditions(plain)
        measured = parse_reading(number, instrument(meter).unit)
        if measured.over_range and measured.beyond < instrument(meter).open_ohms:
            end = show(measured.beyond, "Ω")
            raise ReadingError(f"OL on the {end} range says only that it is more than {end}: read it on a higher range, or on the highest.")
        if conditions.lead_ohms is not None and instrument(meter).unit == "Ω":  # what the leads have is not the circuit's
            measured = replace(measured, value=max(measured.value - conditions.lead_ohms, 0.0))
        return Reading(
            test.state, test.instrument, test.red, test.black, measured, note, self.name, self.elsewhere, test.without, conditions
        )  # fmt: skip

    def measurement(self, sheet: Sheet, state: str, meter: str, red: str, black: str, off: str = "") -> Measurement:
        """A measurement that can be made on the sheet, with what is unplugged named in ``off``; an empty place is battery minus. Raises
        ReadingError with one sentence."""
        sheet.state(state)
        instrument(meter)
        red_node, black_node = sheet.probe(red), sheet.probe(black)
        if red_node == black_node:
            raise ReadingError(f"Red and black are both on {red_node}: put them on two different places.")
        if meter in ("amps", "clamp") and not _joined(sheet, red_node, black_node):
            verb = "takes the place of" if meter == "amps" else "goes around"
            raise ReadingError(f"Nothing joins {red_node} and {black_node} directly: this instrument {verb} one conductor.")
        return Measurement(state, meter, red_node, black_node, _without(sheet, (red_node, black_node), off))

    def content(self, item: Item, typed: str) -> dict[str, str]:
        """As `Sort.content`."""
        assert isinstance(item, Reading)
        columns = (item.state, item.instrument, item.red, item.black, typed, item.note, ", ".join(item.without))
        content = dict(zip((f.name for f in Measured.fields), columns, strict=True))
        return content if item.without else {name: text for name, text in content.items() if name != "unplugged"}

    def is_live(self, content: Mapping[str, object]) -> bool:
        """What is no reading of ohms is one of a live circuit."""
        meter = str(content.get("instrument") or "")
        return meter in INSTRUMENTS and not INSTRUMENTS[meter].dead

    def columns(self, item: Item) -> tuple[str, str, str, str]:
        """As `Sort.columns`."""
        assert isinstance(item, Reading)
        return item.state, item.instrument, item.red, item.black

    def parse(self, sheet: Sheet, verb: str, rest: str, state: str, named: bool) -> tuple[Item, str]:
        """As `Sort.parse`: RED [BLACK] VALUE [without WHAT IS UNPLUGGED]."""
        rest, off = split_unplugged(rest)
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
        return self.reading(sheet, state, verb, red, black or "", value, off=off), value

    def expected(self, sheet: Sheet, rest: str) -> Sequence[str]:
        """As `Sort.expected`."""
        if " without" in rest:
            return (*plugs(sheet), *sheet.parts)
        red, left = head_of(rest, sheet.places)
        if red is None:
            return () if rest else [place for place in sheet.places if place != sheet.minus]
        return () if left else [place for place in sheet.places if place != red]

    def test(self, sheet: Sheet, verb: str, red: str, black: str, state: str, off: str = "") -> Measurement:
        """As `Sort.test`."""
        return self.measurement(sheet, state, verb, red, black, off)

    def minutes(self, sheet: Sheet, test: Measurement | Question, leads: frozenset[str]) -> float:
        """Both places; a clip stays on battery minus, and a lead that is where it is wanted stays there."""
        wanted = set(self._reached(sheet, test)) - {sheet.minus} - leads
        minutes = max(sum(sheet.places[name].minutes if name in sheet.places else PLACE_MINUTES for name in wanted), READ_MINUTES)
        minutes += METER_IN_LINE_MINUTES if test.instrument == "amps" else 0.0
        return minutes + UNPLUG_MINUTES * len(test.without if isinstance(test, Measurement) else ())

    def behind(self, sheet: Sheet, test: Measurement | Question) -> tuple[str, ...]:
        """What the places lie behind."""
        reached = [sheet.places[name].behind or "" for name in self._reached(sheet, test) if name in sheet.places]
        return (*reached, *_behind_parts(sheet, test.without if isinstance(test, Measurement) else ()))

    def _reached(self, sheet: Sheet, test: Measurement | Question) -> tuple[str, ...]:
        """Where hands have to be: at both places, or with a clamp at the end of the conductor that is the easier one."""
        if test.instrument != "clamp":
            return test.red, test.black
        places = [sheet.places[name] for name in (test.red, test.black) if name in sheet.places]
        easiest = min(places, key=lambda place: (bool(place.behind), place.minutes), default=None)
        return (easiest.name,) if easiest else (test.red,)

    def asks(self, sheet: Sheet, test: Measurement | Question) -> str:
        """What is unplugged, and where a clamp goes."""
        off = _unplug(sheet, test.without) if isinstance(test, Measurement) and test.without else ""
        if test.instrument != "clamp":
            return off
        around = " and ".join(part.spoken for part in sheet.parts.values() if {test.red, test.black} <= set(part.pins.values()))
        clamp = f"Put the clamp around {around}, near {self._reached(sheet, test)[0]}, its arrow from {test.red} to {test.black}"
        return f"{off}. {clamp}" if off else clamp

    def cautions(self, sheet: Sheet, test: Measurement | Question) -> tuple[Caution, ...]:
        """Those of the places."""
        places = [sheet.places[name] for name in (test.red, test.black) if name in sheet.places]
        return tuple(Caution(place.caution, place.acknowledge) for place in places)


LONGEST_VALUE = 300  # characters of a value with what is unplugged; a longer one is no value
_TAIL = re.compile(r"^(.*?)(?:^|\s)(?:without|unplugged|with)\s+(.*?)\s*(@.*)?$", re.IGNORECASE | re.DOTALL)
_TAIL_ALONE = re.compile(r"^(.*?)\s+(alone)\s*(@.*)?$", re.IGNORECASE | re.DOTALL)


def split_unplugged(text: str) -> tuple[str, str]:
    """A typed value, or what follows a verb, without what it says to be unplugged, and that.

    >>> split_unplugged("13.2 without C2, K1 @20C")
    ('13.2 @20C', 'C2, K1')
    >>> split_unplugged("13.2 alone")
    ('13.2', 'alone')
    """
    found = (_TAIL.match(text) or _TAIL_ALONE.match(text)) if len(text) <= LONGEST_VALUE else None
    if not found:
        return text, ""
    return " ".join(filter(None, (found[1].strip(), (found[3] or "").strip()))), found[2].strip()


def _without(sheet: Sheet, ends: tuple[str, str], text: str) -> tuple[str, ...]:
    """What is unplugged, as `unplug.unplugged` reads it; the word "alone" without a name means the part between the leads."""
    own = [part for part in sheet.parts.values() if set(ends) <= set(part.pins.values()) and not joins_two_ends(part)]
    if text.strip().lower() == ALONE.strip():
        if len(own) != 1:
            raise ReadingError(f"Say which part was measured alone, such as 'with {own[0].name if own else _first_load(sheet)} alone'.")
        return (alone(own[0].name),)
    return unplugged(sheet, text) if text.strip() else ()


def _first_load(sheet: Sheet) -> str:
    return next((part.name for part in sheet.parts.values() if part.kind.load is not None), next(iter(sheet.parts)))


def _behind_parts(sheet: Sheet, without: tuple[str, ...]) -> tuple[str, ...]:
    """What must be opened to unplug parts: of each the easiest way to one of its pins."""
    found = []
    for name in parts_meant(sheet, without):
        ways = [sheet.places[node].behind or "" for node in sheet.parts[name].pins.values() if node in sheet.places]
        if ways and all(ways):
            found.append(min(ways, key=lambda way: sheet.access[way].minutes))
    return tuple(dict.fromkeys(found))


def _unplug(sheet: Sheet, without: tuple[str, ...]) -> str:
    by_itself = measured_alone(without)
    if by_itself is not None:
        return f"Unplug {sheet.parts[by_itself].spoken} and measure it by itself, on its own pins"
    names = [sheet.parts[name].spoken if name in sheet.parts else name for name in without]
    return f"Key off, then unplug {' and '.join(names)}; leave it off while you measure, and plug it in again"


def _joined(sheet: Sheet, red: str, black: str) -> bool:
    return any({red, black} <= set(part.pins.values()) for part in sheet.parts.values())


def _looks_like_a_value(text: str) -> bool:
    return bool(re.fullmatch(r"[-+]?\d.*|OL", text, re.IGNORECASE))


READING = Measured()
SORTS = (READING,)
