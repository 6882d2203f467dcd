"""Conditions beside a number: written alike everywhere, any unit of the trade, one sentence for what is none."""

from __future__ import annotations

import pytest

from pondrel.core.base.conditions import UNITS, Conditions, Units, parse_conditions, split_conditions
from pondrel.core.base.errors import ReadingError

from ...circuits import reading_of


@pytest.mark.parametrize(
    ("text", "expected"),
    [
        ("", Conditions()),
        ("@20C", Conditions(celsius=20.0)),
        ("@-40F", Conditions(celsius=-40.0)),
        ("@ 13,5 V @1500rpm", Conditions(volts=13.5, rpm=1500.0)),
        ("@IDLE@20°c", Conditions(idle=True, celsius=20.0)),
        ("@0.2Ω", Conditions(lead_ohms=0.2)),
    ],
)
def test_conditions_are_read(text, expected):
    assert parse_conditions(text) == expected


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("@warm", "is no condition"),
        ("@20", "is no condition"),
        ("@20parsec", "is no condition"),
        ("@20C @68F", "says once more"),
        ("@idle @800rpm", "leave one of the two out"),
        ("@-300C", "no temperature"),
        ("@-5mm", "below nothing"),
        ("@" + "9" * 50 + "C", "is no condition"),
    ],
)
def test_what_is_no_condition_gets_one_sentence(text, says):
    with pytest.raises(ReadingError, match=says):
        parse_conditions(text)


@pytest.mark.parametrize("text", ["@20°C", "@13.5V @idle", "@1500rpm @101.3kPa @0.4mm @0.2Ω"])
def test_what_is_shown_can_be_read_again(text):
    assert parse_conditions(text).shown() == text


def test_conditions_are_shown_in_the_workshop_s_units():
    noted = parse_conditions("@100C @101.325kPa @25.4mm")
    assert noted.shown(Units("°F", "inHg", "in")) == "@212°F @29.92inHg @1in"
    assert parse_conditions(noted.shown(Units("°F", "bar", "in"))).kilopascals == pytest.approx(101.3)


@pytest.mark.parametrize(("field", "unit"), [(field, unit) for field, units in UNITS.items() for unit in units])
def test_in_every_unit_that_can_be_chosen_what_is_shown_can_be_read_again(field, unit):
    noted = parse_conditions("@25C @150kPa @1.2mm")
    again = parse_conditions(noted.shown(Units(**{field: unit})))
    for name in ("celsius", "kilopascals", "millimetres"):
        assert getattr(again, name) == pytest.approx(getattr(noted, name), rel=1e-3)


def test_a_reading_carries_its_conditions_and_its_number_alone_is_weighed(demo_sheets):
    sheet = demo_sheets["kneeling_valves"]
    plain = reading_of(sheet, "ready", "ohms", "y1.1", "y1.2", "38.0")
    noted = reading_of(sheet, "ready", "ohms", "y1.1", "y1.2", "38.0 @22C")
    assert noted.measured == plain.measured and noted.conditions == Conditions(celsius=22.0)
    less = reading_of(sheet, "ready", "ohms", "y1.1", "y1.2", "38.2 @0.2ohm")
    assert less.measured.value == pytest.approx(38.0)
    assert split_conditions("12.4") == ("12.4", Conditions())
