"""Physical laws over generated circuits. Sources: Kirchhoff (1845); Tellegen (1952); the bilinear theorem for one element of a linear
network (Bode, Network Analysis and Feedback Amplifier Design, 1945, chapter 1); reciprocity (Lorentz, Carson)."""

from __future__ import annotations

import dataclasses

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from pondrel.core.circuit.fault import Fault
from pondrel.core.circuit.network import LEAK_SIEMENS, Cases, Network
from pondrel.core.circuit.operate import Points, operating_points
from pondrel.core.circuit.solve import solve

from ..circuits import every_fault, points_of, resistor_networks


def node_sums(points: Points) -> np.ndarray:
    """(M, N + 1) amperes that flow out of each node, the reference last, without what leaks."""
    network = points.network
    sums = np.zeros((len(points.amps), len(network.nodes) + 1))
    np.add.at(sums, (slice(None), network.a), points.amps)
    np.subtract.at(sums, (slice(None), network.b), points.amps)
    for element, start, end in network.mirrors:  # what a regulator gives it takes from its input
        sums[:, start] += points.amps[:, element]
        sums[:, end] -= points.amps[:, element]
    return sums


@settings(max_examples=50, deadline=None)
@given(resistor_networks())
def test_currents_at_every_node_sum_to_nothing(sheet):
    points = points_of(sheet, "on", [()])
    largest = np.abs(points.amps).max()
    assert np.abs(node_sums(points)[:, :-1] + points.volts * LEAK_SIEMENS).max() <= 1e-7 * largest + 1e-12


def test_currents_sum_to_nothing_in_every_demo_sheet_under_every_fault(demo_sheets):
    for sheet in demo_sheets.values():
        for state in sheet.states:
            points = points_of(sheet, state, [(), *((f,) for f in every_fault(sheet))])
            left = np.abs(node_sums(points)[:, :-1] + points.volts * LEAK_SIEMENS).max(axis=1)
            # rounding of hundreds of amperes through half-milliohm joints
            assert left[~points.chatter].max() < 1e-5, (sheet.title, state)


@settings(max_examples=40, deadline=None)
@given(resistor_networks())
def test_the_power_delivered_is_the_power_lost(sheet):
    """Tellegen's theorem with the network's own voltages."""
    points = points_of(sheet, "on", [()])
    network = points.network
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
    points = operating_points(network, Cases.healthy(), network.positions("on"))
    (share,) = points.shares
    transfer = share.position.base.inject_nodes
    assert transfer == pytest.approx(transfer.T, rel=1e-6, abs=1e-9)


@settings(max_examples=40, deadline=None)
@given(resistor_networks(), st.floats(0.1, 10))
def test_twice_the_battery_is_twice_every_voltage(sheet, factor):
    battery = sheet.parts["BAT"]
    stronger = dataclasses.replace(battery, params={**battery.params, "volts": battery.params["volts"] * factor})
    other = dataclasses.replace(sheet, parts={**sheet.parts, "BAT": stronger})
    one, two = solve(sheet, "on").nodes, solve(other, "on").nodes
    assert {n: v * factor for n, v in one.items()} == pytest.approx(two, rel=1e-6, abs=1e-9)
