"""Physical laws over generated circuits. Sources: Kirchhoff (1845); Tellegen (1952); the bilinear theorem for one element of a linear
network (Bode, Network Analysis and Feedback Amplifier Design, 1945, chapter 1); reciprocity (Lorentz, Carson)."""

from __future__ import annotations

import dataclasses

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from pondrel.core.circuit.fault import Fault, apply_faults
from pondrel.core.circuit.network import LEAK_SIEMENS, Cases, Network
from pondrel.core.circuit.operate import operating_points
from pondrel.core.circuit.solve import solve

from ..circuits import every_fault, resistor_networks


def node_sums(sheet, state, faults=()):
    network = Network.of(sheet, state)
    cases = Cases.healthy(network)
    apply_faults(network, cases, 0, faults)
    points = operating_points(network, cases, network.positions(state))
    sums = np.zeros(len(network.nodes) + 1)
    np.add.at(sums, network.a, points.amps[0])
    np.subtract.at(sums, network.b, points.amps[0])
    for element, start, end in network.mirrors:  # what a regulator gives it takes from its input
        sums[start] += points.amps[0, element]
        sums[end] -= points.amps[0, element]
    return network, points, sums


@settings(max_examples=50, deadline=None)
@given(resistor_networks())
def test_currents_at_every_node_sum_to_nothing(sheet):
    _, points, sums = node_sums(sheet, "on")
    leak = points.volts[0] * LEAK_SIEMENS
    largest = np.abs(points.amps[0]).max()
    assert np.abs(sums[:-1] + leak).max() <= 1e-7 * largest + 1e-12


def test_currents_sum_to_nothing_in_every_demo_sheet_under_every_fault(demo_sheets):
    for sheet in demo_sheets.values():
        for state in sheet.states:
            for fault in ((), *((f,) for f in every_fault(sheet))):
                _, points, sums = node_sums(sheet, state, fault)
                if not points.chatter[0]:
                    # rounding of hundreds of amperes through half-milliohm joints
                    assert np.abs(sums[:-1] + points.volts[0] * LEAK_SIEMENS).max() < 1e-5


@settings(max_examples=40, deadline=None)
@given(resistor_networks())
def test_the_power_delivered_is_the_power_lost(sheet):
    """Tellegen's theorem with the network's own voltages."""
    network, points, _ = node_sums(sheet, "on")
    padded = np.append(points.volts[0], 0.0)
    across = padded[network.a] - padded[network.b]
    lost = (across * points.amps[0]).sum() + (points.volts[0] ** 2 * LEAK_SIEMENS).sum()
    assert lost == pytest.approx(0.0, abs=1e-7 * np.abs(across * points.amps[0]).sum() + 1e-12)


@settings(max_examples=40, deadline=None)
@given(resistor_networks(), st.data())
def test_every_response_is_a_bilinear_function_of_one_element(sheet, data):
    """V(R) = (a + bR)/(c + R): three solves give every other value."""
    part = data.draw(st.sampled_from([p for p in sheet.parts if p.startswith("R")]))
    place = data.draw(st.sampled_from(sorted(sheet.places)))

    def volts(ohms: float) -> float:
        return solve(sheet, "on", (Fault(part, "high_resistance", ohms),)).places[place]

    # With one value known the rest is w(R) = b·(R − R₀)/(c + R); two more give b and c, and well-conditioned ones.
    at_0, at_1, at_2 = 0.7, 11.0, 900.0
    base = volts(at_0)
    w1, w2 = volts(at_1) - base, volts(at_2) - base
    b, c = np.linalg.solve([[at_1 - at_0, -w1], [at_2 - at_0, -w2]], [w1 * at_1, w2 * at_2]) if abs(w1) > 1e-6 else (0.0, 1.0)
    for ohms in (2.0, 75.0, 5000.0):
        if abs(w1) > 1e-6:
            assert base + b * (ohms - at_0) / (c + ohms) == pytest.approx(volts(ohms), abs=2e-4)
        else:
            assert volts(ohms) == pytest.approx(base, abs=2e-3)


@settings(max_examples=40, deadline=None)
@given(resistor_networks())
def test_transfer_impedances_are_reciprocal(sheet):
    network = Network.of(sheet)
    points = operating_points(network, Cases.healthy(network), network.positions("on"))
    ((_, _, settled),) = points.shares
    transfer = settled.base.inject_nodes
    assert transfer == pytest.approx(transfer.T, rel=1e-6, abs=1e-9)


@settings(max_examples=40, deadline=None)
@given(resistor_networks(), st.floats(0.1, 10))
def test_twice_the_battery_is_twice_every_voltage(sheet, factor):
    battery = sheet.parts["BAT"]
    stronger = dataclasses.replace(battery, params={**battery.params, "volts": battery.params["volts"] * factor})
    other = dataclasses.replace(sheet, parts={**sheet.parts, "BAT": stronger})
    one, two = solve(sheet, "on").nodes, solve(other, "on").nodes
    assert {n: v * factor for n, v in one.items()} == pytest.approx(two, rel=1e-6, abs=1e-9)
