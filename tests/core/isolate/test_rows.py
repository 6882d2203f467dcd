"""Rows that are worked out on demand: the same whoever asks for how many, from whichever base, with the meter where it stands."""

from __future__ import annotations

import math

import numpy as np
import pytest

from pondrel.core.circuit.measure import in_circuit
from pondrel.core.circuit.network import Cases, Network
from pondrel.core.circuit.operate import dead_points, operating_points
from pondrel.core.circuit.part import Law
from pondrel.core.circuit.points import Points
from pondrel.core.circuit.sensitivity import Tolerances, spread_of
from pondrel.core.circuit.wear import in_use
from pondrel.core.evidence.asked import Measurement, Setup
from pondrel.core.isolate import Workup, isolate, update
from pondrel.core.isolate.predict.prediction import Spot, interpolate

from ...circuits import RELAY_PUMP, measure, reading_of, sheet_of
from .answers import readings


@pytest.mark.parametrize("name", ["cabin_light", "ramp_motor", "engine_sensors"])
def test_some_rows_are_as_they_are_among_all(demo_workups, name):
    workup = demo_workups[name]
    tests = tuple(t for t in workup.offered if t.instrument != "amps")[::5]
    rows = np.arange(0, workup.curves.rows, 7)
    every, some = workup.predict(tests), workup.predict(tests, rows)
    assert some.value == pytest.approx(every.value[rows], abs=1e-9)
    assert some.slope == pytest.approx(every.slope[rows], rel=1e-9, abs=1e-9)
    assert some.stray == pytest.approx(every.stray[rows], abs=1e-9)
    assert ((some.tears.index >= 0) == (every.tears.index[rows] >= 0)).all()
    assert np.array_equal(np.diff(some.regime, axis=0) == 0, np.diff(every.regime[rows], axis=0) == 0)


def test_rows_may_be_asked_for_in_any_order_and_twice(demo_workups):
    points = demo_workups["ramp_motor"].points("retract")
    rows = np.array([40, 3, 40, 0, 650])
    red, black = np.arange(4), np.full(4, -1)
    assert points.of(rows).between(red, black) == pytest.approx(points.between(red, black)[rows], abs=1e-12)
    assert points.of(rows).looks_into(red, black) == pytest.approx(points.looks_into(red, black)[rows], rel=1e-9)


def test_a_row_that_chatters_is_the_mean_of_two_positions_wherever_it_is_kept(demo_workups):
    points = demo_workups["cabin_light"].points("open")
    rows = np.flatnonzero(points.swings)
    assert rows.size
    apart = [operating for share in points.shares for operating in share.rows.tolist() if operating in set(rows.tolist())]
    assert len(apart) == 2 * rows.size
    red, black = np.arange(len(points.network.nodes)), np.full(len(points.network.nodes), -1)
    assert np.abs(points.of(rows).swing(red, black)).max(axis=1).min() > 1.0


def test_an_ammeter_in_the_place_of_a_fuse_is_a_meter_between_its_clips_with_the_fuse_pulled():
    """By substitution in the circuit as it is, and by a network of its own with the meter in it."""
    sheet = sheet_of(RELAY_PUMP.split("parts:\n")[1].split("states:")[0], states="rest: {}, run: {S1: closed}")
    workup = Workup(sheet)
    test = Measurement("run", "amps", "b+", "k.30")
    prediction = workup.predict((test,))
    shown = prediction.value[:, 0]
    network = Network.of(in_use(sheet), "run", in_circuit("amps", "b+", "k.30", 12.6))
    joins = network.between("b+", "k.30")
    cases = workup.responses.faults.also(workup.curves.blown).opened(joins)
    pulled = network.without(joins)
    points = operating_points(pulled, cases, pulled.positions("run"))
    assert shown == pytest.approx(points.amps_through(np.array([len(network.keys) - 1]))[:, 0], abs=1e-7)
    fuse = [h for h, item in enumerate(workup.hypotheses.items) if item.part == "F1"]
    own = np.isin(workup.curves.hypothesis[workup.curves.of_row], fuse)
    assert own.sum() > 2 and np.ptp(shown[own]) < 1e-9  # whatever is wrong with the fuse, it is pulled
    assert np.abs(prediction.slope[own]).max() == 0.0
    of_fuse = Tolerances.of(workup.network).element == workup.network.element("F1")
    spread = np.abs(workup.spread((test,), np.zeros(1, dtype=np.intp))[0, 0, : len(of_fuse)])
    assert of_fuse.any() and spread[of_fuse].max() == 0.0 and spread.max() > 0.01  # and so is how well it is known


@pytest.mark.parametrize("ohms", [0.32, 0.36, 0.5])
def test_tolerances_have_the_slope_that_a_lamp_has_where_it_is_and_not_where_it_was(ohms):
    """A feed that loses a little more: the lamp's slope has moved by less than two per cent, or by more, and sensitivities know it."""
    lines = """
        BAT: {{kind: battery, pins: {{p: b+, n: b-}}, volts: {volts}, ohms: 0.02}}
        R1: {{kind: resistor, pins: {{a: b+, b: feed}}, ohms: 0.3}}
        LA1: {{kind: lamp, pins: {{a: feed, b: g}}, volts: 12, watts: 55}}
        R2: {{kind: resistor, pins: {{a: g, b: b-}}, ohms: 0.2}}
    """

    def solved(volts: float) -> tuple[Network, Points]:
        network = Network.of(sheet_of(lines.format(volts=volts)))
        case = Cases.healthy().with_ohms(network.element("R1"), ohms)
        return network, operating_points(network, case, network.positions("on"))

    def shown(volts: float) -> float:
        network, points = solved(volts)
        return float(points.between(np.array([network.node("feed")]), np.array([network.node("g")]))[0, 0])

    network, points = solved(12.6)
    tolerances = Tolerances.of(network)
    red, black, nothing = np.array([network.node("feed")]), np.array([network.node("g")]), np.array([-1])
    spread = spread_of(tolerances, points, nothing, red, black, squared=False)[0, 0]
    (battery,) = np.flatnonzero((tolerances.element == network.element("BAT")) & tolerances.of_volts[: len(tolerances.element)])
    assert spread[battery] / tolerances.sigma[battery] == pytest.approx((shown(12.601) - shown(12.599)) / 0.002, rel=1e-6)


def test_no_test_of_ohms_is_offered_that_sends_its_current_through_a_diode(demo_workups):
    """By the meter put into the dead circuit: of its current next to nothing goes through any junction."""
    looked = 0
    for name in ("cabin_heater", "cabin_light", "kneeling_valves", "ramp_motor"):
        workup = demo_workups[name]
        used = in_use(workup.sheet)
        for test in (t for t in workup.offered if t.instrument == "ohms"):
            network = Network.of(used, test.state, in_circuit("ohms", test.red, test.black, used.supply_volts))
            amps = np.abs(dead_points(network, Cases.healthy(), test.state).amps[0])
            junctions = [e.law is Law.JUNCTION for e in network.elements]
            assert amps[junctions].max() <= 0.03 * amps[-1] + 1e-12, (name, test)
            looked += 1
    assert looked > 100


@pytest.mark.parametrize(("name", "state"), [("cabin_heater", "heat"), ("kneeling_valves", "slow"), ("tail_lift", "up")])
def test_a_tear_lies_where_contacts_move(demo_workups, name, state):
    """Just below and just above, the circuit solved anew has its contacts as on either side; numbers follow both sides up to there."""
    workup = demo_workups[name]
    state = state if state in workup.sheet.states else list(workup.sheet.states)[-1]
    table = workup.table(Setup(state, "volts"))
    torn = table.torn
    assert torn is not None
    logs, flags = np.concatenate(workup.curves.grid), table.points.contacts()
    step = logs[torn.row + 1] - logs[torn.row]
    every = np.arange(len(torn.row))
    for side, off in ((0, -2e-6), (1, 2e-6)):
        ohms = np.exp(logs[torn.row] + (torn.at + off) * step)
        cases = workup.responses.faults.also(workup.curves.blown).at(torn.row)
        swept = workup.swept_element[torn.row]
        cases = cases.also(Cases(len(every), every, swept, ohms, np.zeros(len(every), dtype=np.int8)))
        network = workup.network.at(state)
        seen = operating_points(network, cases, network.positions(state)).contacts()
        assert ((seen == flags[torn.row]).all(axis=1) == (side == 0)).all()


def test_numbers_jump_at_a_tear_and_nowhere_else():
    sheet = sheet_of(RELAY_PUMP.split("parts:\n")[1].split("states:")[0], states="rest: {}, run: {S1: closed}")
    workup = Workup(sheet)
    torn = workup.table(Setup("run", "volts")).torn
    h = next(i for i, item in enumerate(workup.hypotheses.items) if (item.part, item.mode) == ("G1", "high_resistance"))
    c = int(np.flatnonzero(workup.curves.hypothesis == h)[0])
    at = np.flatnonzero(workup.curves.of_row[torn.row] == c)
    assert at.size == 1
    row, place = int(torn.row[at[0]]), float(torn.at[at[0]])
    grid = workup.curves.grid[c]
    test = (Measurement("run", "volts", "k.87", "b-"),)
    spots = Spot(np.full(4, row), np.array([0.0, place - 1e-3, place + 1e-3, 1.0]))
    steps = np.full(4, grid[1] - grid[0])
    low, below, above, high = interpolate(workup.predict(test, np.array([row, row + 1])), spots, steps)[:, 0]
    assert low == pytest.approx(below, abs=0.05) and above == pytest.approx(high, abs=0.05)
    assert below - above > 10.0
    ohms = math.exp(grid[row - workup.curves.start[c]] + place * (grid[1] - grid[0]))
    # The relay of 80 Ω lets go of pulling in where its coil has but its pull-in volts.
    pull_in = workup.network.controls[0].data.pull_in
    assert 12.6 * 80.0 / (80.0 + ohms) == pytest.approx(pull_in, rel=0.02)


def test_many_readings_at_once_are_believed_as_one_after_another(demo_workups):
    workup = Workup(demo_workups["cabin_light"].sheet)
    few = readings(workup.sheet, workup, 1)
    items = tuple(few[k % len(few)] for k in range(24))
    slowly = Workup(workup.sheet)
    for n in range(len(items) + 1):
        one_by_one = update(slowly, items[:n])
    at_once = update(workup, items)
    assert at_once.probability == pytest.approx(one_by_one.probability, abs=2e-5)


def test_a_long_record_goes_on_where_readings_begin_to_outnumber_tolerances():
    """From the inverse itself to the space of the tolerances, a reading at a time."""
    sheet = sheet_of("""
        BAT: {kind: battery, pins: {p: b+, n: b-}}
        R1: {kind: resistor, pins: {a: b+, b: x}, ohms: 10}
        R2: {kind: resistor, pins: {a: x, b: b-}, ohms: 10}
    """)
    workup = Workup(sheet)
    items: tuple = ()
    for n in range(32):
        items = (*items, reading_of(sheet, "on", "volts", "x", "b-", "6.2" if n % 2 else "6.3"))
        found = isolate(workup, items)
    assert found.parts[None] > 0.5


def test_equal_suspects_stand_in_the_sheet_s_order(step_light):
    """Two grounds in a row that nothing tells apart come as the sheet has them, whatever the last bit of a probability is."""
    sheet = sheet_of(
        """
        BAT: {kind: battery, pins: {p: b+, n: b-}, volts: 12.6, ohms: 0.01}
        LA1: {kind: lamp, pins: {a: b+, b: g}, volts: 12, watts: 10}
        C2: {kind: contact, pins: {a: g, b: h}}
        C1: {kind: contact, pins: {a: h, b: b-}}
    """,
        places="b+: {}, g: {}",
    )
    found = isolate(Workup(sheet), measure(sheet, "C1.high_resistance=2", [("on", "g", "b-"), ("on", "b+", "b-")]))
    assert found.standing.target == ("C2", "C1")
    assert found.parts["C1"] == pytest.approx(found.parts["C2"], rel=1e-6)
