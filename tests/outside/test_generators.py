"""Generators against textbook values: the mean of a six-pulse bridge, and effective values by their definition."""

from __future__ import annotations

import math

import pytest

from pondrel.core.circuit.measure import measure
from pondrel.core.circuit.solve import solve

from ..circuits import sheet_of

STAR = """
    BAT: {kind: battery, pins: {p: b+, n: b-}, volts: 1}
    ST: {kind: stator, pins: {u: u, v: v, w: w, n: star}, amps: 3000, ohms: 0.0001}
    RB: {kind: rectifier_bridge, pins: {u: u, v: v, w: w, p: dc, n: gr}, forward: 0.7}
    G1: {kind: ground, pins: {a: gr, b: b-}, ohms: 0.0001}
    RL: {kind: resistor, pins: {a: dc, b: gr}, ohms: 10}
    RB1: {kind: resistor, pins: {a: b+, b: b-}, ohms: 1000}
"""


@pytest.mark.parametrize("rpm", [2000, 6000])
def test_the_mean_of_a_six_pulse_bridge(rpm):
    """3√2/π of the effective volts between phases, less two diodes (any text on rectifiers, here from memory)."""
    sheet = sheet_of(STAR, states=f"turning: {{ST: {rpm}}}")
    between = 10.0 * rpm / 1000.0
    found = solve(sheet, "turning").nodes
    wanted = 3.0 * math.sqrt(2.0) / math.pi * between - 2 * 0.55
    assert found["dc"] - found["gr"] == pytest.approx(wanted, rel=0.02)


def test_star_and_line_volts_are_apart_by_the_root_of_three():
    """Of a symmetrical three-phase star (any text on electrical machines, here from memory)."""
    sheet = sheet_of(STAR, states="turning: {ST: 3000}")
    line, star = (measure(sheet, "turning", "ac", "u", black, without=("RB",)).measured.value for black in ("v", "star"))
    assert line == pytest.approx(30.0, rel=0.005) and line / star == pytest.approx(math.sqrt(3.0), rel=0.002)
