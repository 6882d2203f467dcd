"""What slips show: a density like any other, which is highest where slips of the known shapes lie."""

from __future__ import annotations

import numpy as np
import pytest

from pondrel.core.evidence.line import parse_line
from pondrel.core.isolate import Workup, isolate
from pondrel.core.isolate.believe.slipped import DECIMAL, KNOWN_SHAPES, SIGN, Slipped

from ...circuits import sheet_of


@pytest.fixture(scope="module")
def lamp():
    return Workup(
        sheet_of(
            """
            BAT: {kind: battery, pins: {p: b+, n: b-}, ohms: 0.01}
            F1: {kind: fuse, pins: {a: b+, b: f}, rating: 10}
            S1: {kind: switch, pins: {a: f, b: s}}
            W1: {kind: wire, pins: {a: s, b: x}, length_m: 3, csa_mm2: 0.75}
            L1: {kind: lamp, pins: {a: x, b: g}, watts: 21}
            G1: {kind: ground, pins: {a: g, b: b-}}
        """,
            states="off: {}, lit: {S1: closed}",
        )
    )


def reading(workup, line):
    return parse_line(workup.sheet, line, "lit")[0]


@pytest.mark.parametrize("test", ["lit volts x b-", "off volts x g", "lit ohms x b-"])
def test_slips_at_a_reading_add_up_to_one(lamp, test):
    """Over all that may be typed; swapped leads, a moved point, places beside and other states lie within."""
    step = 0.01
    if "ohms" in test:
        scale = np.arange(step, 16.0, step)
        lines = [f"{test} {np.expm1(at):.6g}" for at in scale]
        expected = 2.0
    else:
        scale = np.arange(-15.0, 15.0, step)
        lines = [f"{test} {at:.4f}" for at in scale]
        expected = 1.1
    slipped = Slipped.of(lamp, tuple(reading(lamp, line) for line in lines))
    density = 1.0 / slipped.widths_where(np.full(len(scale), expected))
    off = 0.05 if "ohms" in test else 0.02  # places that are open lie at the end of the scale, half of them beyond
    assert density.sum() * step == pytest.approx(1.0, abs=off)
    alone = slipped.density.sum() * step
    shapes = DECIMAL + (0.0 if "ohms" in test else SIGN)
    assert alone == pytest.approx(1.0 - KNOWN_SHAPES * shapes, abs=off)


def test_a_number_that_a_known_slip_would_give_is_the_likelier_slip(lamp):
    def width(line, expected):
        return float(Slipped.of(lamp, (reading(lamp, line),)).widths_where(np.array([expected]))[0])

    assert width("lit volts x b- 1.21", 12.1) < width("lit volts x b- 2.6", 12.1) / 3  # the point
    assert width("lit volts x b- -7.3", 7.3) < width("lit volts x b- -5.3", 7.3) / 3  # the leads
    assert width("lit volts x g 0.02", 6.0) < width("lit volts x g 3.1", 6.0) / 5  # the state
    assert width("lit volts g b- 12.4", 0.0) < width("lit volts g b- 3.1", 0.0) / 3  # the place


def test_what_lies_between_two_ends_of_a_stretch_is_as_likely_as_the_nearest(lamp):
    slipped = Slipped.of(lamp, (reading(lamp, "lit volts x b- 5.0"),))
    within, low, high = (float(slipped.widths_where(np.array([a]), np.array([b]))[0]) for a, b in ((0.3, 0.7), (0.3, 0.3), (0.7, 0.7)))
    assert within == pytest.approx(float(slipped.widths_where(np.array([0.5]))[0]))
    assert within < min(low, high)


def test_a_moved_decimal_point_accuses_nobody_and_an_odd_number_is_doubted_less(lamp):
    sound = ("lit volts b+ b- 12.4", "lit volts f b- 12.4", "lit volts g b- 0.04")
    moved = isolate(lamp, tuple(reading(lamp, line) for line in (*sound, "lit volts x b- 1.23")))
    other = isolate(lamp, tuple(reading(lamp, line) for line in (*sound, "lit volts x b- 2.6")))
    assert moved.parts[None] > 1.5 * other.parts[None]
