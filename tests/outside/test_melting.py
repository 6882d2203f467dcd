"""Blade fuses against ISO 8820-3's time–current limits (from memory of the published table), and heat by Joule's law."""

from __future__ import annotations

import math
from itertools import pairwise

import pytest

from pondrel.core.base.melting import melting_seconds
from pondrel.core.circuit.fault import parse_fault
from pondrel.core.circuit.solve import solve

from ..circuits import sheet_of


@pytest.mark.parametrize(
    ("share", "least", "most"),
    [(1.10, math.inf, math.inf), (1.35, 0.75, 600.0), (2.0, 0.15, 5.0), (3.5, 0.04, 0.5), (6.0, 0.02, 0.1)],
)
def test_the_bands_are_the_table_s(share, least, most):
    assert melting_seconds(15.0, 15.0 * share) == pytest.approx((least, most))


def test_more_current_never_lasts_longer():
    ends = [melting_seconds(10.0, 0.5 * n) for n in range(1, 300)]
    assert all(a[0] >= b[0] and a[1] >= b[1] for a, b in pairwise(ends))


def test_beyond_the_table_the_heat_it_takes_stays():
    least, most = melting_seconds(10.0, 120.0)
    assert (120.0**2 * least, 120.0**2 * most) == pytest.approx((60.0**2 * 0.02, 60.0**2 * 0.1))


def test_a_joint_s_heat_is_current_squared_times_resistance_and_a_hot_one_is_a_fire_risk():
    sheet = sheet_of(
        """
        BAT: {kind: battery, pins: {p: b+, n: b-}, volts: 12, ohms: 0}
        C: {kind: contact, pins: {a: b+, b: c}}
        H: {kind: heater, pins: {a: c, b: b-}, watts: 144}
        """
    )
    point = solve(sheet, "on", (parse_fault(sheet, "C.high_resistance=0.1"),))
    assert point.heat["C"] == pytest.approx((12 / 1.1) ** 2 * 0.1, rel=1e-3)
    assert any("C turns 12 W into heat" in note for note in point.notes)
    assert solve(sheet, "on").notes == ()
