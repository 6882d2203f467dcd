"""The nodal solver against closed forms and physical common sense."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings

from pondrel.core.base.errors import FaultError
from pondrel.core.circuit.fault import Fault, loop_ohms, parse_fault
from pondrel.core.circuit.laws import filament_amps
from pondrel.core.circuit.network import Cases, Network
from pondrel.core.circuit.operate import operating_points
from pondrel.core.circuit.read.sheet import parse_sheet
from pondrel.core.circuit.solve import solve

from ...circuits import RELAY_PUMP, STEP_LIGHT, every_fault, laplacian_volts, resistor_networks, sheet_of

DIVIDER = """
    BAT: {kind: battery, pins: {p: b+, n: b-}, volts: 12, ohms: 0}
    R1: {kind: resistor, pins: {a: b+, b: tap}, ohms: 100}
    R2: {kind: resistor, pins: {a: tap, b: b-}, ohms: 200}
"""


def test_a_divider_divides():
    point = solve(sheet_of(DIVIDER), "on")
    assert point.places["tap"] == pytest.approx(8.0, rel=1e-6)
    assert point.currents["R1"] == pytest.approx(0.04, rel=1e-6)
    assert point.currents["BAT"] == pytest.approx(0.04, rel=1e-6)  # delivered


@settings(max_examples=60, deadline=None)
@given(resistor_networks())
def test_any_resistor_network_agrees_with_plain_nodal_equations(sheet):
    point, other = solve(sheet, "on"), laplacian_volts(sheet)
    for node, volts in other.items():
        # 1 GΩ of insulation on each node is the only difference: ten nodes behind at most 45 kΩ
        assert point.nodes[node] == pytest.approx(volts, abs=1e-5 + 1e-4 * abs(volts))


def test_a_lamp_takes_its_rated_current_at_its_rated_voltage():
    amps, slope = filament_amps(np.array([12.0, 6.0, -12.0]), np.array(12.0), np.array(10 / 12))
    assert amps == pytest.approx([10 / 12, 10 / 12 * 0.5**0.55, -10 / 12], rel=1e-4)
    assert slope[0] == pytest.approx(0.55 * (10 / 12) / 12, rel=1e-4)


def test_a_cold_filament_has_a_twelfth_of_its_hot_resistance():
    _, slope = filament_amps(np.array([0.0]), np.array(12.0), np.array(1.0))
    assert 1 / slope[0] == pytest.approx(1.0, rel=1e-9)


def test_two_lamps_in_series_share_the_voltage_equally():
    sheet = sheet_of("""
        BAT: {kind: battery, pins: {p: b+, n: b-}, volts: 12, ohms: 0}
        LA1: {kind: lamp, pins: {a: b+, b: mid}, watts: 10}
        LA2: {kind: lamp, pins: {a: mid, b: b-}, watts: 10}
    """)
    assert solve(sheet, "on").places["mid"] == pytest.approx(6.0, rel=1e-4)


def test_a_dead_short_shows_the_fuse_s_current_and_that_it_would_blow(step_light):
    point = solve(step_light, "lit", (parse_fault(step_light, "W1.short_to_ground"),))
    wire, fuse = 4.5 * 0.026, 0.0075
    assert point.currents["F4"] == pytest.approx(12.6 / (0.008 + fuse + wire + 0.01), rel=0.01)
    assert any("F4 would blow" in note for note in point.notes)


def test_a_healthy_circuit_has_no_notes(step_light):
    assert solve(step_light, "lit").notes == ()


def test_a_floating_place_is_defined_and_said_to_float(step_light):
    point = solve(step_light, "lit", (Fault("S1", "stuck_open"), Fault("LA1", "open")))
    assert point.floating == ("lamp.feed",)
    assert abs(point.places["lamp.feed"]) < 0.01
    assert any("lamp.feed is floating" in note for note in point.notes)


def test_the_relay_follows_its_coil():
    sheet = parse_sheet(RELAY_PUMP)
    assert solve(sheet, "rest").places["k.87"] == pytest.approx(0.0, abs=1e-6)
    running = solve(sheet, "run")
    assert running.places["k.87"] > 12.0
    assert running.currents["K1"] == pytest.approx(running.currents["M1"], rel=1e-6)
    assert running.currents["K1.coil"] == pytest.approx(-12.5 / 80, rel=0.01)  # counted from 85 to 86, and fed at 86


def test_a_broken_winding_has_volts_across_it_and_does_not_pull():
    sheet = parse_sheet(RELAY_PUMP)
    point = solve(sheet, "run", (Fault("K1", "coil_open"),))
    assert point.places["k.86"] > 12.0
    assert point.places["k.87"] == pytest.approx(0.0, abs=1e-6)
    assert any("no current can flow through its coil" in note for note in point.notes)


@pytest.mark.parametrize(("ohms", "pulls"), [(20, True), (45, True), (50, False), (500, False)])
def test_a_joint_in_the_coil_s_ground_decides_whether_it_pulls_in(ohms, pulls):
    """8 V of 12.6 V reach an 80 Ω coil as long as the joint has less than 46 Ω."""
    point = solve(parse_sheet(RELAY_PUMP), "run", (Fault("G1", "high_resistance", ohms),))
    assert (point.places["k.87"] > 6) is pulls


def test_a_welded_contact_conducts_at_rest_and_its_resting_contact_never():
    sheet = sheet_of(
        """
        BAT: {kind: battery, pins: {p: b+, n: b-}, volts: 12, ohms: 0}
        S1: {kind: switch, pins: {a: b+, b: c}}
        K1: {kind: relay, pins: {"30": b+, "87": on, "87a": off, "85": b-, "86": c}}
        R1: {kind: resistor, pins: {a: "on", b: b-}, ohms: 10}
        R2: {kind: resistor, pins: {a: "off", b: b-}, ohms: 10}
        """,
        places="b+: {}, on: {}, off: {}",
        states="rest: {}, pulled: {S1: closed}",
    )
    rest, pulled = solve(sheet, "rest").places, solve(sheet, "pulled").places
    assert (rest["on"], rest["off"]) == pytest.approx((0.0, 12.0), abs=0.01)
    assert (pulled["on"], pulled["off"]) == pytest.approx((12.0, 0.0), abs=0.01)
    welded = solve(sheet, "rest", (Fault("K1", "contact_welded"),)).places
    assert (welded["on"], welded["off"]) == pytest.approx((12.0, 0.0), abs=0.01)


def test_a_relay_that_starves_itself_is_reported_as_chatter():
    sheet = parse_sheet(RELAY_PUMP.replace("ohms: 0.02", "ohms: 40").replace("coil_ohms: 80", "coil_ohms: 80, drop_out: 4"))
    point = solve(sheet, "run")
    assert any("K1 chatters" in note for note in point.notes)
    assert 0.1 < point.places["k.87"] < 6  # a meter's average, neither on nor off


def test_every_fault_of_every_demo_sheet_has_a_finite_answer(demo_sheets):
    for sheet in demo_sheets.values():
        for state in sheet.states:
            for fault in every_fault(sheet):
                point = solve(sheet, state, (fault,))
                assert all(np.isfinite(v) for v in (*point.nodes.values(), *point.currents.values())), (fault, state)


def test_a_short_beats_an_open_beside_it(step_light):
    both = solve(step_light, "lit", (Fault("LA1", "shorted", 0.01), Fault("LA1", "open")))
    assert both.currents["LA1"] > 50


def test_one_batch_gives_what_single_cases_give(step_light):
    network = Network.of(step_light)
    cases = Cases.healthy(5).with_ohms(network.element("G1"), np.array([0.003, 0.1, 1.0, 10.0, 100.0]))
    batch = operating_points(network, cases, network.positions("lit")).volts
    for row, ohms in enumerate([0.003, 0.1, 1.0, 10.0, 100.0]):
        single = solve(step_light, "lit", (Fault("G1", "high_resistance", ohms),)).nodes
        assert batch[row] == pytest.approx([single[node] for node in network.nodes], abs=1e-8)


def test_a_three_way_splice_feeds_all_its_wires():
    sheet = sheet_of("""
        BAT: {kind: battery, pins: {p: b+, n: b-}, volts: 12, ohms: 0}
        J1: {kind: splice, pins: {a: b+, b: x, c: y}, ohms: 2}
        R1: {kind: resistor, pins: {a: x, b: b-}, ohms: 9}
        R2: {kind: resistor, pins: {a: y, b: b-}, ohms: 9}
    """)
    # 1 Ω in the common leg carries both currents, 1 Ω in each other leg one
    amps = 12 / (2 * 1 + 1 + 9)
    assert solve(sheet, "on").currents["R1"] == pytest.approx(amps, rel=1e-5)
    broken = solve(sheet, "on", (Fault("J1", "open"),))
    assert max(abs(broken.places["x"]), abs(broken.places["y"])) < 1e-3


def test_loop_ohms_of_a_series_circuit_is_the_sum():
    sheet = sheet_of(DIVIDER)
    loops = loop_ohms(Network.of(sheet))
    assert loops[:3] == pytest.approx([300, 300, 300], rel=1e-4)


@pytest.mark.parametrize(
    ("text", "sentence"),
    [
        ("G1", "write PART.MODE or PART.MODE=VALUE"),
        ("G9.open", "No part 'G9' on this sheet; near it: G1"),
        ("G1.burnt", "does not fail as 'burnt': open, high_resistance"),
        ("G1.open=3", "G1.open takes no value"),
        ("G1.high_resistance=much", "is in ohms: 'much' is no reading"),
        ("G1.high_resistance=", "is in ohms: Nothing was typed"),
    ],
)
def test_a_fault_that_cannot_be_gets_one_sentence(step_light, text, sentence):
    with pytest.raises(FaultError) as caught:
        parse_fault(step_light, text)
    assert sentence in str(caught.value)


def test_faults_are_read_with_dots_in_part_names_and_default_severities(step_light):
    assert parse_fault(step_light, "C2.1.high_resistance") == Fault("C2.1", "high_resistance", 1.0)
    assert parse_fault(step_light, "C2.1.high_resistance=1k5") == Fault("C2.1", "high_resistance", 1500.0)
    assert parse_fault(step_light, "F4.open") == Fault("F4", "open")


def test_naming_the_lamp_s_pins_the_other_way_round_changes_nothing():
    turned = STEP_LIGHT.replace("{a: lamp.feed, b: g1}", "{a: g1, b: lamp.feed}")
    assert solve(parse_sheet(turned), "lit").places == pytest.approx(solve(parse_sheet(STEP_LIGHT), "lit").places)
