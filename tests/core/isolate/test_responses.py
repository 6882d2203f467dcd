"""The prepared responses against solving each case anew: values, slopes, sensitivities, loading, fuses."""

from __future__ import annotations

import math

import numpy as np
import pytest

from pondrel.core.circuit.fault import Fault
from pondrel.core.circuit.read.sheet import parse_sheet
from pondrel.core.circuit.solve import solve
from pondrel.core.circuit.wear import in_use
from pondrel.core.evidence.asked import Measurement
from pondrel.core.isolate.isolation import isolate
from pondrel.core.isolate.predict.measurable import available_tests
from pondrel.core.isolate.predict.prediction import Spot, interpolate
from pondrel.core.isolate.predict.workup import Workup

from ...circuits import RELAY_PUMP, reading_of, sheet_of


def curve_of(workup: Workup, part: str, mode: str) -> int:
    h = next(i for i, item in enumerate(workup.hypotheses.items) if (item.part, item.mode) == (part, mode))
    return int(np.flatnonzero(workup.curves.hypothesis == h)[0])


@pytest.mark.parametrize(
    ("part", "mode"), [("G1", "high_resistance"), ("LA1", "shorted"), ("W1", "short_to_ground"), ("BAT", "high_resistance")]
)
def test_rows_are_what_solving_each_fault_gives(step_light_workup, part, mode):
    workup = step_light_workup
    c = curve_of(workup, part, mode)
    prediction = workup.predict((Measurement("lit", "volts", "lamp.feed", "g1"),))
    for k, log_ohms in enumerate(workup.curves.grid[c]):
        row = workup.curves.start[c] + k
        faults = (Fault(part, mode, math.exp(log_ohms)),)
        if workup.curves.fuses[row]:
            faults = (*faults, Fault("F4", "open"))
        nodes = solve(in_use(workup.sheet), "lit", faults).nodes
        assert prediction.value[row, 0] == pytest.approx(nodes["lamp.feed"] - nodes["g1"], abs=2e-5)


@pytest.mark.parametrize("part", ["G1", "C2.1", "BAT"])
def test_between_the_grid_points_interpolation_errs_by_less_than_a_millivolt(step_light_workup, part):
    workup = step_light_workup
    c = curve_of(workup, part, "high_resistance")
    grid = workup.curves.grid[c]
    prediction = workup.predict((Measurement("lit", "volts", "lamp.feed", "g1"),))
    for low in range(len(grid) - 1):
        spot = Spot(workup.curves.start[[c]] + low, np.array([0.43]))
        ohms = math.exp(grid[low] + 0.43 * (grid[1] - grid[0]))
        nodes = solve(in_use(workup.sheet), "lit", (Fault(part, "high_resistance", ohms),)).nodes
        assert interpolate(prediction, spot, np.array([grid[1] - grid[0]]))[0, 0] == pytest.approx(
            nodes["lamp.feed"] - nodes["g1"], abs=1e-3
        )


def perturbed(name: str, key: str, factor: float):
    values = {"volts": 12.6, "R1": 30.0, "R2": 50.0, "R3": 20.0}
    values[name] *= factor
    return sheet_of(f"""
        BAT: {{kind: battery, pins: {{p: b+, n: b-}}, volts: {values["volts"]}, ohms: 0.5}}
        R1: {{kind: resistor, pins: {{a: b+, b: x}}, ohms: {values["R1"]}}}
        R2: {{kind: resistor, pins: {{a: x, b: b-}}, ohms: {values["R2"]}}}
        R3: {{kind: resistor, pins: {{a: x, b: b-}}, ohms: {values["R3"]}}}
    """)


@pytest.mark.parametrize(("name", "sigma"), [("volts", 0.055), ("R1", 0.03), ("R2", 0.03), ("R3", 0.03)])
@pytest.mark.parametrize(("instrument", "red", "black"), [("volts", "x", "b-"), ("ohms", "x", "b-"), ("clamp", "b+", "x")])
def test_sensitivities_are_the_derivatives_that_differences_give(name, sigma, instrument, red, black):
    probe = Measurement("on", instrument, red, black)
    step = 1e-4

    def shown(factor: float) -> float:
        return float(Workup(perturbed(name, "", factor)).predict((probe,)).value[0, 0])

    slope = (shown(1 + step) - shown(1 - step)) / (2 * step) * sigma
    spread = Workup(perturbed(name, "", 1.0)).spread((probe,), np.array([0]))[0, 0]
    if instrument == "ohms" and name == "volts":
        assert slope == 0.0
    else:
        assert np.abs(np.abs(spread) - abs(slope)).min() < 1e-6


@pytest.mark.parametrize(("part", "mode"), [("M1", "high_resistance"), ("D1", "shorted"), ("W1", "high_resistance")])
def test_slopes_are_those_of_curved_laws_too(part, mode):
    """Brushes that wear are a resistance inside of a motor's law."""
    workup = Workup(
        sheet_of("""
        BAT: {kind: battery, pins: {p: b+, n: b-}, volts: 12, ohms: 0.005}
        W1: {kind: wire, pins: {a: b+, b: x}, ohms: 0.05}
        M1: {kind: motor, pins: {a: x, b: y}, amps: 18}
        D1: {kind: diode, pins: {a: y, k: x}}
        G1: {kind: ground, pins: {a: y, b: b-}}
    """)
    )
    c = curve_of(workup, part, mode)
    rows = slice(workup.curves.start[c], workup.curves.start[c] + workup.curves.length[c])
    found = workup.predict((Measurement("on", "volts", "x", "b-"), Measurement("on", "clamp", "b+", "x")))
    for test, least in ((0, 0.004), (1, 0.1)):
        between = np.gradient(found.value[rows, test], workup.curves.grid[c])
        assert found.slope[rows, test][2:-2] == pytest.approx(between[2:-2], rel=0.04, abs=least)
        assert np.ptp(found.value[rows, test]) > 100.0 * least


def test_a_clamp_goes_around_every_stretch_within_reach_once(demo_sheets):
    around = [(t.red, t.black) for t in available_tests(demo_sheets["step_lights"]) if t.instrument == "clamp" and t.state == "open"]
    assert len(around) == len(set(around)) == 4  # the feed, two lamps on their ground, and the third


def test_a_fault_that_only_an_ammeter_shows_is_thought_of():
    """One of four glow plugs open: every voltage stays within what sound ones scatter over, the feed's current does not."""
    plugs = "".join(f"GP{n}: {{kind: glow_plug, pins: {{a: bar, b: b-}}}}\n        " for n in range(1, 5))
    workup = Workup(
        sheet_of(f"""
        BAT: {{kind: battery, pins: {{p: b+, n: b-}}, volts: 12.6, ohms: 0.008}}
        W1: {{kind: wire, pins: {{a: b+, b: bar}}, ohms: 0.004}}
        {plugs}
    """)
    )
    belief = isolate(
        workup, tuple(reading_of(workup.sheet, "on", *r) for r in (("volts", "bar", "b-", "12.0"), ("clamp", "b+", "bar", "28.4")))
    )
    assert belief.parts[None] < 0.02
    assert sum(belief.parts[f"GP{n}"] for n in range(1, 5)) > 0.9


def test_a_voltmeter_loads_what_it_measures():
    sheet = sheet_of("""
        BAT: {kind: battery, pins: {p: b+, n: b-}, volts: 12, ohms: 0}
        R1: {kind: resistor, pins: {a: b+, b: x}, ohms: 10000000}
        R2: {kind: resistor, pins: {a: x, b: b-}, ohms: 10000000}
    """)
    shown = Workup(sheet).predict((Measurement("on", "volts", "x", "b-"),)).value[0, 0]
    assert shown == pytest.approx(4.0, rel=0.02)  # three times 10 MΩ: 6 V unloaded, 4 V under the meter


def test_an_ohmmeter_sees_the_dead_circuit_s_parallel_paths(step_light_workup):
    value = step_light_workup.predict((Measurement("lit", "ohms", "lamp.feed", "batt-"), Measurement("idle", "ohms", "lamp.feed", "batt-")))
    assert np.expm1(value.value[0]) == pytest.approx([14.4 / 12 + 0.003] * 2, rel=0.01)  # the cold filament and the ground


def test_an_ammeter_takes_the_fuse_s_place(step_light_workup):
    value = step_light_workup.predict((Measurement("lit", "amps", "batt+", "f4.out"),))
    assert value.value[0, 0] == pytest.approx(0.851, abs=0.002)
    open_fuse = step_light_workup.curves.start[curve_of(step_light_workup, "F4", "open")]
    assert value.value[open_fuse, 0] == pytest.approx(0.851, abs=0.002)


def test_a_fuse_that_a_short_melts_is_melted_in_every_state(step_light_workup):
    workup = step_light_workup
    c = curve_of(workup, "W1", "short_to_ground")
    row = workup.curves.start[c]
    value = workup.predict((Measurement("idle", "volts", "f4.out", "batt-"),)).value[row, 0]
    assert value == pytest.approx(0.0, abs=0.01)


def test_tests_stay_within_the_places(demo_sheets):
    for sheet in demo_sheets.values():
        for test in available_tests(sheet):
            within = {test.red, test.black} & set(sheet.places)
            assert len(within) == 2 or (within and test.instrument == "clamp")  # a clamp goes on at one end of a conductor
            assert test.red != test.black
            assert test.red != sheet.minus


def test_a_ground_wire_chafed_to_ground_is_invisible(demo_workups):
    workup = demo_workups["step_lights"]
    c = curve_of(workup, "W8", "short_to_ground")
    rows = slice(workup.curves.start[c], workup.curves.start[c] + workup.curves.length[c])
    assert not workup.visible[rows].any()
    assert workup.visible[0]


def test_where_a_relay_lets_go_the_curve_tears_at_the_very_severity():
    """Pull-in at 8 V of 12.6 V: the coil of 85 Ω lets go at 48.9 Ω of added resistance, between two severities of the grid."""
    sheet = parse_sheet(RELAY_PUMP)
    workup = Workup(sheet)
    c = curve_of(workup, "G1", "high_resistance")
    grid = workup.curves.grid[c]
    prediction = workup.predict((Measurement("run", "volts", "k.85", "b-"), Measurement("run", "volts", "k.87", "b-")))
    cell = int(np.flatnonzero(np.diff(prediction.regime[workup.curves.start[c] : workup.curves.start[c] + len(grid), 0]))[0])
    for share in np.linspace(0.02, 0.98, 25):
        spot = Spot(workup.curves.start[[c]] + cell, np.array([share]))
        ohms = math.exp(grid[cell] + share * (grid[1] - grid[0]))
        nodes = solve(in_use(sheet), "run", (Fault("G1", "high_resistance", ohms),)).nodes
        told = interpolate(prediction, spot, np.array([grid[1] - grid[0]]))[0]
        assert told == pytest.approx([nodes["k.85"], nodes["k.87"]], abs=2e-3), ohms


def test_two_joints_of_one_path_stay_a_group_where_their_relay_just_lets_go():
    sheet = sheet_of(
        """
        B: {kind: battery, pins: {p: bat, n: neg}}
        K: {kind: relay, pins: {30: bat, 87: out, 86: bat, 85: k85}}
        C: {kind: contact, pins: {a: k85, b: m}}
        G: {kind: ground, pins: {a: m, b: neg}}
        L: {kind: resistor, pins: {a: out, b: neg}, ohms: 4}
        """,
        places="bat: {}, k85: {}, out: {}, neg: {}",
    )
    nodes = solve(sheet, "on", (Fault("C", "high_resistance", 60.0),)).nodes
    readings = tuple(reading_of(sheet, "on", "volts", place, "neg", f"{nodes[place]:.2f}") for place in ("bat", "k85", "out"))
    result = isolate(Workup(sheet), readings)
    assert any({"C", "G"} <= set(group) for group in result.groups)
