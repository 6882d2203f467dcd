"""What is unplugged: how it is said, what is off then, and what readings so taken mean."""

from __future__ import annotations

import numpy as np
import pytest

from pondrel.core.base.errors import ReadingError
from pondrel.core.circuit.network import Network
from pondrel.core.circuit.safety import ForbiddenError
from pondrel.core.circuit.unplug import parts_meant, plug_of, taken_off, unplugged
from pondrel.core.evidence.asked import Measurement
from pondrel.core.evidence.csv_file import read_csv
from pondrel.core.evidence.entered import Entered, item_entered
from pondrel.core.evidence.line import parse_line, written
from pondrel.core.evidence.registry import content_of, item_from
from pondrel.core.evidence.safety import check_allowed
from pondrel.core.evidence.sorts.reading import split_unplugged
from pondrel.core.isolate.advise.advice import describe
from pondrel.core.isolate.believe.belief import update
from pondrel.core.isolate.isolation import isolate
from pondrel.core.isolate.predict.workup import Workup

from ...circuits import sheet_of

VALVES = """
    BAT: {kind: battery, pins: {p: b+, n: b-}, ohms: 0.01}
    F1: {kind: fuse, pins: {a: b+, b: f1.out}, rating: 10}
    W1: {kind: wire, pins: {a: f1.out, b: x}, length_m: 3, csa_mm2: 0.75}
    C2.1: {kind: contact, pins: {a: x, b: y1.1}}
    C2.2: {kind: contact, pins: {a: y1.2, b: g}}
    Y1: {kind: solenoid, pins: {a: y1.1, b: y1.2}, ohms: 12}
    Y2: {kind: solenoid, pins: {a: x, b: g}, ohms: 20}
    G1: {kind: ground, pins: {a: g, b: b-}}
"""


@pytest.fixture(scope="module")
def valves():
    return sheet_of(VALVES)


@pytest.fixture(scope="module")
def valves_workup(valves):
    return Workup(valves)


@pytest.mark.parametrize(
    ("text", "names"),
    [
        ("c2", ("C2",)),
        ("Y2, c2.1", ("C2.1", "Y2")),
        ("C2 and F1", ("C2", "F1")),
        ("F1 C2", ("C2", "F1")),
        ("y1 alone", ("Y1 alone",)),
        ("", ()),
    ],
)
def test_what_is_unplugged_is_read_as_people_write_it(valves, text, names):
    assert unplugged(valves, text) == names


@pytest.mark.parametrize("text", ["C9", "C2, Q", "C2 alone", "nobody alone"])
def test_what_is_not_there_cannot_be_unplugged(valves, text):
    with pytest.raises(ReadingError, match="cannot be"):
        unplugged(valves, text)


@pytest.mark.parametrize(
    ("text", "parts"),
    [
        ("13.2 without C2, K1 @20C", ("13.2 @20C", "C2, K1")), ("OL unplugged C2", ("OL", "C2")), ("12.1", ("12.1", "")),
        ("13 with Y1 alone", ("13", "Y1 alone")), ("13.2 @20C without C2", ("13.2 @20C", "C2")), ("13 alone", ("13", "alone")),
    ],
)  # fmt: skip
def test_a_value_says_after_itself_what_is_unplugged(text, parts):
    assert split_unplugged(text) == parts


def test_a_parted_plug_opens_its_pins_and_keeps_what_leaks_there(valves):
    network = Network.of(valves)
    off = {network.keys[i] for i in np.flatnonzero(taken_off(network, ("C2",)))}
    assert {key for key in off if network.elements[network.keys.index(key)].b != "\0ground"} == off
    assert {part for part, _ in off} == {"C2.1", "C2.2"}
    assert parts_meant(valves, ("C2", "Y1 alone")) == ("C2.1", "C2.2", "Y1")
    assert plug_of(valves, "C2.2") == "C2"
    assert plug_of(valves, "BAT") == ""


def shown(workup, *args, **kwargs):
    return float(np.expm1(workup.predict((Measurement(*args, **kwargs),)).value[0, 0]))


def test_ohms_with_a_plug_parted_are_those_of_what_is_left(valves_workup):
    assert shown(valves_workup, "on", "ohms", "x", "b-") == pytest.approx(7.5, abs=0.05)  # both valves
    assert shown(valves_workup, "on", "ohms", "x", "b-", without=("C2",)) == pytest.approx(20.0, abs=0.05)
    assert shown(valves_workup, "on", "ohms", "y1.1", "y1.2", without=("C2",)) == pytest.approx(12.0, abs=0.02)
    assert shown(valves_workup, "on", "ohms", "x", "g", without=("Y2 alone",)) == pytest.approx(20.0, abs=0.01)


def test_alone_is_the_part_between_the_leads(valves):
    harness, _ = parse_line(valves, "ohms x g 12 without Y2", "on")
    assert harness.without == ("Y2",)  # what is named is off: the leads are on what is left
    item, _ = parse_line(valves, "ohms x g 20 alone", "on")
    assert item.without == ("Y2 alone",)
    with pytest.raises(ReadingError, match="which part was measured alone"):
        parse_line(valves, "ohms b+ g 20 alone", "on")


def test_a_reading_with_something_unplugged_is_kept_and_read_back(valves):
    line = "on ohms x 20 without C2"
    item, typed = parse_line(valves, line, "on")
    assert typed == "20"
    assert item_from(valves, "reading", content_of(item, typed)) == item
    assert written(item, typed, valves.minus) == line
    assert parse_line(valves, written(item, typed, valves.minus), "on")[0] == item
    same, typed = item_entered(valves, Entered("on", "ohms", "x", "", "20", unplugged="c2"), "on")
    assert same == item
    assert item_entered(valves, Entered("on", "ohms", "x", "", "20 without C2"), "on") == (item, "20")
    plain, _ = parse_line(valves, "on ohms x 20", "on")
    assert "unplugged" not in content_of(plain, "20")  # as records of old have it


def test_a_value_that_goes_on_and_on_is_no_value(valves):
    endless = "without " * 20_000
    assert split_unplugged(endless) == (endless, "")
    for field in (f"{endless},", f"20,{'C2 ' * 40_000}"):
        with pytest.raises(ReadingError, match="Line 2"):
            read_csv(valves, f"state,instrument,red,black,value,unplugged\non,ohms,x,b-,{field}\n")


def test_csv_has_a_column_for_it(valves):
    plain, off = read_csv(valves, "state,instrument,red,black,value,unplugged\non,ohms,x,b-,7.5,\non,ohms,x,b-,20,C2\n")
    assert (plain.without, off.without) == ((), ("C2",))
    with pytest.raises(ReadingError, match="Line 2: 'C9' cannot be unplugged"):
        read_csv(valves, "state,instrument,red,black,value,unplugged\non,ohms,x,b-,7.5,C9\n")


def test_readings_with_a_plug_off_tell_its_two_sides_apart(valves, valves_workup):
    """A short of two ohms below the plug: the fuse blows, and only with the plug parted it is gone."""
    lines = ("on volts f1.out 0.0", "on ohms x 1.71", "on ohms x 20.1 without C2")
    found = isolate(valves_workup, tuple(parse_line(valves, line, "on")[0] for line in lines))
    assert found.parts["Y1"] > 0.35  # the rest is the fuse by itself, with 1.71 Ω a slip
    assert found.parts["W1"] + found.parts["Y2"] < 0.15 * found.parts["Y1"]
    above = isolate(valves_workup, tuple(parse_line(valves, line, "on")[0] for line in (*lines[:2], "on ohms x 1.92 without C2")))
    assert above.parts["W1"] > 20 * above.parts["Y1"]


def test_unplugging_costs_minutes_and_says_how(valves_workup):
    belief = update(valves_workup, ())
    plain, off, alone = (
        describe(belief, Measurement("on", "ohms", "x", "g", names), 0.1) for names in ((), ("C2",), ("Y2 alone",))
    )  # fmt: skip
    assert off.minutes == alone.minutes == plain.minutes + 1.0
    assert any("unplug" in step and "C2" in step for step in off.steps)
    assert any("by itself" in step for step in alone.steps)


def test_what_is_never_unplugged_is_refused_on_entry():
    sheet = sheet_of("""
        BAT: {kind: battery, pins: {p: b+, n: b-}}
        X5: {kind: contact, pins: {a: b+, b: x}, never: [unplug], because: It carries high voltage.}
        R1: {kind: resistor, pins: {a: x, b: b-}, ohms: 10}
    """)
    item, _ = parse_line(sheet, "ohms x b- 10 without X5", "on")
    with pytest.raises(ForbiddenError, match="high voltage"):
        check_allowed(sheet, item)
