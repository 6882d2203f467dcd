"""Reading text to value and back."""

from __future__ import annotations

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pondrel.core.base.errors import ReadingError
from pondrel.core.base.quantity import parse_reading, show
from pondrel.core.base.units import UNITS


@pytest.mark.parametrize(
    ("text", "unit", "value", "resolution"),
    [
        ("12.4", "V", 12.4, 0.1),
        ("12,4", "V", 12.4, 0.1),
        ("12", "V", 12.0, 1.0),
        ("470m", "V", 0.47, 0.001),
        ("470 mV", "V", 0.47, 0.001),
        ("-0.03", "V", -0.03, 0.01),
        ("−0.03", "V", -0.03, 0.01),
        ("+5", "V", 5.0, 1.0),
        (".5", "V", 0.5, 0.1),
        ("4k7", "Ω", 4700.0, 100.0),
        ("4K7", "Ω", 4700.0, 100.0),
        ("4R7", "Ω", 4.7, 0.1),
        ("2.2M", "Ω", 2.2e6, 1e5),
        ("2.2 MΩ", "Ω", 2.2e6, 1e5),
        ("15ohm", "Ω", 15.0, 1.0),
        ("15 Ohms", "Ω", 15.0, 1.0),
        ("250µA", "A", 250e-6, 1e-6),
        ("3.2 A", "A", 3.2, 0.1),
        ("1.2e-05", "V", 1.2e-5, 1e-6),
        ("47u", "F", 47e-6, 1e-6),
        ("4n7", "F", 4.7e-9, 1e-10),
        ("4.7 µF", "F", 4.7e-6, 1e-7),
        ("250 ms", "s", 0.25, 1e-3),
        ("2 min", "s", 120.0, 60.0),
        ("212 F", "°C", 100.0, 1.0 / 1.8),
        ("21 C", "°C", 21.0, 1.0),
        ("-40", "°C", -40.0, 1.0),
        ("-0.3 bar", "kPa", -30.0, 10.0),
        ("10 inHg", "kPa", 33.86389, 3.386389),
        ("1500 rpm", "rpm", 1500.0, 1.0),
        ("41 %", "%", 41.0, 1.0),
        ("30 s", "min", 0.5, 1.0 / 60.0),
    ],
)
def test_what_a_person_types_is_read(text, unit, value, resolution):
    read = parse_reading(text, unit)
    assert read.value == pytest.approx(value, rel=4e-15)
    assert read.resolution == pytest.approx(resolution)
    assert not read.over_range


@pytest.mark.parametrize("text", ["OL", "ol", "O.L", "OL MΩ", "-OL"])
def test_over_range_is_an_open_circuit_on_ohms(text):
    assert parse_reading(text, "Ω").over_range
    assert math.isinf(parse_reading(text, "Ω").value)


@pytest.mark.parametrize(
    ("text", "unit", "part_of_sentence"),
    [
        ("", "V", "Nothing was typed"),
        ("twelve", "V", "'twelve' is no reading"),
        ("12.4.4", "V", "is no reading"),
        ("12 4", "V", "is no reading"),
        ("4k7k", "Ω", "is no unit of a reading"),
        (".", "V", "is no reading"),
        ("-", "V", "is no reading"),
        ("nan", "V", "is no reading"),
        ("inf", "V", "is no reading"),
        ("OL", "V", "higher range"),
        ("12.4 A", "V", "in amperes, but a number of volts"),
        ("12.4 Ω", "V", "in ohms, but"),
        ("12.4 bar", "V", "in kilopascals, but a number of volts"),
        ("12.4 parsec", "V", "'parsec' in '12.4 parsec' is no unit"),
        ("4n7", "Ω", "'n' in '4n7' is no unit"),
        ("-300", "°C", "coldest there is"),
        ("-460 F", "°C", "coldest there is"),
        ("-5u", "F", "below nothing"),
        ("OL(12V)", "Ω", "in volts, but"),
        ("OL(OL)", "Ω", "in OL(40)"),
        ("OL(40)", "V", "higher range"),
        ("4R7", "V", "is a resistance"),
        ("12M", "V", "m is milli, M is mega"),
        ("-3", "Ω", "below zero ohms"),
    ],
)
def test_anything_else_gets_one_clear_sentence(text, unit, part_of_sentence):
    with pytest.raises(ReadingError) as caught:
        parse_reading(text, unit)
    assert part_of_sentence in str(caught.value)
    assert "\n" not in str(caught.value)


@pytest.mark.parametrize(("text", "beyond"), [("OL", math.inf), ("OL(40)", 40.0), ("OL (4k)", 4000.0), ("OL Ω (400 ohm)", 400.0)])
def test_over_range_may_name_the_range_that_it_was_taken_on(text, beyond):
    read = parse_reading(text, "Ω")
    assert read.over_range and math.isinf(read.value) and read.beyond == beyond


@given(st.text(max_size=12), st.sampled_from(sorted(UNITS)))
def test_no_text_makes_it_fail_otherwise(text, unit):
    try:
        read = parse_reading(text, unit)
    except ReadingError:
        return
    assert not math.isnan(read.value)


@given(st.integers(-99999, 99999), st.integers(0, 3))
def test_a_decimal_keeps_its_exact_value(digits, places):
    text = f"{digits / 10**places:.{places}f}"
    if abs(float(text)) <= 1000:
        assert parse_reading(text, "V").value == float(text)
        assert parse_reading(text.replace(".", ","), "V").value == float(text)


@pytest.mark.parametrize(
    ("value", "unit", "text"),
    [
        (12.347, "V", "12.35 V"),
        (0.47, "V", "470 mV"),
        (0.0034, "V", "3.4 mV"),
        (-0.00001, "V", "0.00 V"),
        (-1.2, "V", "-1.20 V"),
        (4700, "Ω", "4.70 kΩ"),
        (0.012, "Ω", "12.0 mΩ"),
        (15.04, "Ω", "15.0 Ω"),
        (2.2e6, "Ω", "2.20 MΩ"),
        (104.2, "A", "104 A"),
        (math.inf, "Ω", "OL"),
        (47e-6, "F", "47.0 µF"),
        (4.7e-9, "F", "4.70 nF"),
        (0.0, "F", "0.00 F"),
        (0.25, "s", "0.25 s"),
        (0.0042, "s", "4.20 ms"),
        (0.04, "mm", "0.04 mm"),
        (41.0, "%", "41.0 %"),
        (250.0, "", "250"),
    ],
)
def test_numbers_are_shown_as_a_display_shows_them(value, unit, text):
    assert show(value, unit) == text
