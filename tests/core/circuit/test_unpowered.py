"""What needs power rests without it: with the battery off, and while its own supply is missing."""

from __future__ import annotations

import pytest

from pondrel.core.circuit.fault import parse_fault
from pondrel.core.circuit.measure import measure
from pondrel.core.circuit.read.sheet import parse_sheet
from pondrel.core.circuit.solve import solve
from pondrel.core.evidence.asked import Measurement
from pondrel.core.isolate.advise.advice import advise, describe
from pondrel.core.isolate.believe.belief import update
from pondrel.core.isolate.isolation import isolate

from ...circuits import reading_of, sheet_of

BAT = "BAT: {kind: battery, pins: {p: b+, n: b-}, ohms: 0.01}"


def ohms(sheet, state: str, red: str, black: str, fault: str = "") -> float:
    faults = (parse_fault(sheet, fault),) if fault else ()
    return measure(sheet, state, "ohms", red, black, faults).measured.value


@pytest.mark.parametrize("state", ["parked", "ready", "kneel left", "slow"])
def test_an_ohmmeter_at_a_driver_sees_no_driver_whatever_the_state_says(demo_sheets, state):
    """Between the module's pin and its ground a driver without power lets nothing through; its freewheel diode leads elsewhere."""
    sheet = demo_sheets["kneeling_valves"]
    assert ohms(sheet, state, "n7.31", "n7.5") > 1e4
    assert ohms(sheet, state, "n7.5", "n7.31") > (300.0 if state != "parked" else 1e4)  # diode and relay coil, where the key is on


def test_a_driver_that_is_broken_through_shows_with_the_battery_off(demo_sheets):
    assert ohms(demo_sheets["kneeling_valves"], "parked", "n7.5", "n7.31", "N7.5.stuck_closed") == pytest.approx(0.1, abs=0.11)


@pytest.mark.parametrize("shown", ["OL", "3k", "22k", "400k"])
def test_what_a_module_shows_without_power_accuses_nobody(demo_workups, shown):
    """What a real meter shows at a sound vehicle: the kneeling valve's driver without power is an open line or some kilohms."""
    workup = demo_workups["kneeling_valves"]
    items = tuple(reading_of(workup.sheet, "kneel left", "ohms", "n7.5", "n7.31", shown) for _ in range(2))
    found = isolate(workup, items)
    assert max(p for part, p in found.parts.items() if part) < 0.3


def test_states_that_differ_only_in_what_needs_power_are_one_with_the_battery_off(demo_sheets):
    resting = demo_sheets["kneeling_valves"].resting
    assert {state: resting[state] for state in ("ready", "kneel left", "kneel right", "slow")} == dict.fromkeys(
        ("ready", "kneel left", "kneel right", "slow"), "ready"
    )
    assert resting["parked"] == "parked"  # the ignition switch is another
    assert demo_sheets["charging"].resting["charging loaded"] == "loaded"


@pytest.mark.parametrize("name", ["cabin_heater", "kneeling_valves", "engine_sensors", "ramp_motor", "charging", "tail_lift"])
def test_a_dead_test_is_offered_once_and_reads_alike_in_all_states_that_are_alike(demo_workups, name):
    workup = demo_workups[name]
    sheet = workup.sheet
    offered = [t for t in workup.offered if t.instrument == "ohms"]
    assert all(sheet.resting[t.state] == t.state for t in offered)
    for state, first in sheet.resting.items():
        twin = [Measurement(state, "ohms", t.red, t.black) for t in offered if t.state == first][:6]
        own = [Measurement(first, "ohms", t.red, t.black) for t in twin]
        assert (workup.predict(tuple(twin)).value == workup.predict(tuple(own)).value).all()


@pytest.mark.parametrize("name", ["cabin_heater", "cabin_light"])
def test_whether_a_diode_spoils_ohms_hangs_on_the_dead_circuit(demo_workups, name):
    """A test is refused where the meter's own volts open a diode on its way, and that is asked of the circuit as it is measured."""
    workup = demo_workups[name]
    sheet = workup.sheet
    offered = {t for t in workup.offered if t.instrument == "ohms"}
    for test in offered:
        shown = measure(sheet, test.state, "ohms", test.red, test.black)
        assert not any("diode" in note for note in shown.notes), (test, shown)


def test_the_next_test_never_asks_for_a_dead_circuit_and_a_working_output(demo_workups):
    workup = demo_workups["kneeling_valves"]
    belief = update(workup, ())
    dead = describe(belief, Measurement("kneel left", "ohms", "y1.1", "y1.2"), 0.1)
    steps = " ".join(dead.steps)
    assert "Disconnect the battery" in steps and "air module output" not in steps and "ignition feed" in steps
    for advice in advise(belief, tuple(t for t in workup.offered if t.instrument == "ohms"), most=30):
        assert not any(output in " ".join(advice.steps) for output in ("output left", "output right"))


def test_a_blown_fuse_takes_the_pull_ups_of_its_module_along(demo_sheets):
    sheet = demo_sheets["engine_sensors"]
    assert solve(sheet, "cold").nodes["t1.sig"] == pytest.approx(3.2, abs=0.5)
    dead = solve(sheet, "cold", (parse_fault(sheet, "F2.open"),))
    assert abs(dead.nodes["t1.sig"]) < 1e-6
    assert "N1.31 is without supply: it does nothing." in dead.notes
    assert dead.sights["N1.31"][0].says == "is without supply: reads nothing"


PARTS = f"""
{BAT}
S1: {{kind: switch, pins: {{a: b+, b: key}}}}
HS: {{kind: high_side, pins: {{supply: key, out: o, gnd: b-}}}}
LA: {{kind: lamp, pins: {{a: o, b: b-}}, watts: 5}}
IN: {{kind: module_input, pins: {{in: i, gnd: b-, supply: key}}, ohms: 2200}}
R1: {{kind: resistor, pins: {{a: i, b: b-}}, ohms: 2200}}
LS: {{kind: low_side, pins: {{out: l, gnd: b-, supply: key}}}}
R2: {{kind: resistor, pins: {{a: key, b: l}}, ohms: 100}}
HA: {{kind: hall_switch, pins: {{supply: key, signal: h, gnd: b-}}}}
R3: {{kind: resistor, pins: {{a: b+, b: h}}, ohms: 1000}}
CA: {{kind: bus_transceiver, pins: {{high: ch, low: cl, gnd: b-, supply: key}}}}
TE: {{kind: bus_terminator, pins: {{high: ch, low: cl}}}}
"""


def test_with_the_key_off_so_is_what_the_key_feeds():
    sheet = sheet_of(PARTS, states="off: {HS: 'on', LS: 'on', HA: near, CA: dominant}, on: {S1: closed, HS: 'on', LS: 'on', HA: near}")
    off, on = solve(sheet, "off").nodes, solve(sheet, "on").nodes
    assert max(abs(off[node]) for node in ("o", "i", "l", "ch", "cl")) < 1e-3
    assert off["h"] == pytest.approx(12.6, abs=0.01)  # pulled up from the battery, and no Hall switch to pull it down
    assert (on["o"], on["i"]) == (pytest.approx(12.4, abs=0.2), pytest.approx(2.5, abs=0.05))
    assert on["l"] < 0.1 and on["h"] < 0.5 and on["ch"] == pytest.approx(2.5, abs=0.05)


def test_a_module_whose_supply_the_sheet_does_not_name_works_in_every_state_and_rests_without_battery():
    sheet = parse_sheet(
        "format: pondrel-sheet/1\ntitle: t\nplaces: {b+: {}, l: {}}\nparts:\n"
        f"  {BAT}\n  R1: {{kind: resistor, pins: {{a: b+, b: l}}, ohms: 100}}\n"
        "  LS: {kind: low_side, pins: {out: l, gnd: b-}}\nstates: {rest: {}, work: {LS: 'on'}}\n"
    )
    assert solve(sheet, "work").nodes["l"] < 0.1
    assert ohms(sheet, "work", "l", "b-") > 1e4
