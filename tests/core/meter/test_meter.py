"""What a meter's number is worth."""

from __future__ import annotations

import math

import numpy as np
import pytest

from pondrel.core.base.errors import ReadingError
from pondrel.core.base.quantity import Measured
from pondrel.core.meter.instrument import INSTRUMENTS, instrument, last_digit, standard_uncertainty, uncertainty_at


def test_the_range_follows_the_value():
    volts = INSTRUMENTS["volts"]
    assert last_digit(volts, np.array([0.0, 5.9, 6.1, 59.0, 61.0])).tolist() == pytest.approx([0.001, 0.001, 0.01, 0.01, 0.1])


def test_uncertainty_adds_accuracy_digits_rounding_and_contact_in_quadrature():
    half_width = 0.005 * 12.4 + 2 * 0.01
    expected = math.sqrt(half_width**2 / 3 + 0.01**2 / 12 + 0.005**2)
    assert standard_uncertainty(INSTRUMENTS["volts"], Measured(12.4, 0.01)) == pytest.approx(expected)


def test_a_coarsely_typed_number_is_worth_less():
    volts = INSTRUMENTS["volts"]
    assert standard_uncertainty(volts, Measured(12.0, 1.0)) > 3 * standard_uncertainty(volts, Measured(12.0, 0.01))


def test_over_range_has_no_uncertainty_of_its_own():
    assert standard_uncertainty(INSTRUMENTS["ohms"], Measured(math.inf, 0.0, True)) == 0.0


def test_uncertainty_never_falls_as_the_reading_grows():
    values = np.geomspace(0.001, 500, 400)
    for tool in INSTRUMENTS.values():
        assert (np.diff(uncertainty_at(tool, values)) >= -1e-12).all()


def test_an_unknown_instrument_is_named_with_those_there_are():
    with pytest.raises(
        ReadingError, match=r"'lux' is no instrument: volts, lowz, ac, ohms, continuity, amps, clamp, scope, top, base, lamp, load are\."
    ):
        instrument("lux")
