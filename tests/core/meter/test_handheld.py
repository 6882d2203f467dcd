"""The meter in the hand, as its owner writes it down; and when a live number is held."""

from __future__ import annotations

import math

import pytest

from pondrel.core.base.errors import ReadingError
from pondrel.core.base.quantity import Measured, as_typed, parse_reading
from pondrel.core.meter.handheld import AS_TYPED, HANDHELDS, Accuracy
from pondrel.core.meter.steady import is_steady
from pondrel.core.meter.written import accuracy_words, meter_from, ranges_words


def test_accuracy_is_a_share_and_digits_over_the_square_root_of_three():
    meter = meter_from({"name": "Yellow", "accuracy": "V 0.5% + 2\nΩ: ±0,8 % + 3 digits\nohm 1%"})
    assert meter.accuracy == {"V": Accuracy(0.005, 2.0), "Ω": Accuracy(0.01, 0.0)}
    assert meter.uncertainty(Measured(12.0, 0.01), "V") == pytest.approx((0.06 + 0.02) / math.sqrt(3))
    assert meter.uncertainty(Measured(math.inf, 0.0, True), "Ω") == 0.0
    assert AS_TYPED.uncertainty(Measured(5.0, 0.1), "kPa") == pytest.approx(0.225 / math.sqrt(3))


def test_what_is_written_down_can_be_written_again():
    meter = meter_from({"name": " Red  meter ", "accuracy": "mV 1% + 2", "ranges": "4k, 400 4M", "leads": "0.2", "thermometer": "2"})
    assert meter.name == "Red meter" and ranges_words(meter) == "400 4k 4M" and meter.next_range(400.0) == 4000.0
    again = meter_from(
        {"name": "Red meter", "accuracy": accuracy_words(meter), "ranges": ranges_words(meter), "leads": "0.2", "thermometer": "2"}
    )
    assert again == meter


@pytest.mark.parametrize("text", ["V", "V 0.5", "0.5% + 2", "V 0.5% + many", "parsec 1% + 2", "V 1.2.3% + 1", "V 60% + 1", "V 1% + 5000"])
def test_an_accuracy_that_is_none_gets_a_sentence(text):
    with pytest.raises(ReadingError, match=r"accuracy|cannot be"):
        meter_from({"name": "x", "accuracy": text})


def test_the_kinds_that_are_shipped_say_so():
    assert list(HANDHELDS) == ["as typed", "everyday meter", "simple meter", "fine meter"]
    assert all(meter.words for meter in HANDHELDS.values())


@pytest.mark.parametrize(
    ("values", "unit", "steady"),
    [
        ([1.0] * 3, "V", False),
        ([0.0, 0.001, 0.002, 0.0], "V", True),
        ([100.0, 100.3, 99.9, 100.1], "Ω", True),
        ([100.0, 101.0, 99.0, 100.0], "Ω", False),
        ([math.inf] * 4, "Ω", True),
        ([math.inf, 3.0, 3.0, 3.0], "Ω", False),
        ([9.0, 12.4, 12.4, 12.4, 12.4], "V", True),
    ],
)
def test_a_number_is_held_when_the_last_four_lie_together(values, unit, steady):
    assert is_steady(values, unit) is steady


@pytest.mark.parametrize("value", [4.28301, 4712.34, 0.0123, -12.4, 0.0, 1.5e6, 99999.0])
def test_a_live_number_is_typed_so_that_it_can_be_read(value):
    unit = "V" if value < 0 else "Ω"
    assert parse_reading(as_typed(value), unit).value == pytest.approx(value, rel=1e-4, abs=1e-6)
