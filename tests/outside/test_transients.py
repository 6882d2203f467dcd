"""Circuits in time: against closed forms from the textbook of linear circuits, and against ngspice's transient analysis."""

from __future__ import annotations

import math
import random

import numpy as np
import pytest

from pondrel.core.circuit.fault import parse_fault
from pondrel.core.circuit.transient import CORE_LOSS, transient

from ..circuits import every_fault, sheet_of
from ..gallery import BATTERY, GALLERY
from ..reference import needs_ngspice, ngspice_trace

SWITCHED = "off: {S: open}, on: {S: closed}"


def gallery(name):
    return sheet_of(GALLERY[name][0], states=GALLERY[name][1])


def test_a_capacitor_charges_by_the_exponential():
    """v = U·(1 − e^(−t/RC)); the timing formula of the trade, t = −RC·ln(1 − Uth/U), is its inverse."""
    sheet = sheet_of(
        """
        BAT: {kind: battery, pins: {p: b+, n: b-}, volts: 12, ohms: 0}
        S: {kind: switch, pins: {a: b+, b: s}}
        R: {kind: resistor, pins: {a: s, b: c}, ohms: 100000}
        C: {kind: capacitor, pins: {a: c, b: b-}, farads: 0.00001, leakage: 10000000000}
        """,
        states=SWITCHED,
    )
    trace = transient(sheet, ((0.0, "off"), (0.5, "on")), 4.5)
    for t in (0.6, 1.0, 1.5, 2.5, 4.4):
        wanted = 12.0 * -math.expm1(-(t - 0.5) / 1.0)
        assert np.interp(t, trace.times, trace.volts["c"]) == pytest.approx(wanted, rel=1e-3)
    assert trace.first_above(trace.volts["c"], 6.0) == pytest.approx(0.5 + math.log(2.0), rel=1e-3)


def test_a_swapped_capacitor_of_4_7_times_the_value_makes_the_delay_4_7_times_longer():
    def delay(farads: float) -> float:
        parts = GALLERY["timer"][0].replace("87: out, 15: t15, 31: b-}", f"87: out, 15: t15, 31: b-}}, farads: {farads}")
        sheet = sheet_of(parts, states=GALLERY["timer"][1])
        trace = transient(sheet, ((0.0, "rest"), (0.1, "first")), 60.0)
        return next(time for time, says in trace.events if says == "TR closes.") - 0.1

    assert delay(47e-6) / delay(10e-6) == pytest.approx(4.7, rel=2e-3)


COIL = f"""
    {BATTERY}
    S: {{kind: switch, pins: {{a: b+, b: s}}}}
    Y: {{kind: coil, pins: {{a: s, b: b-}}, ohms: 12, henries: 0.06}}
"""


def test_a_coil_s_current_rises_with_l_over_r():
    trace = transient(sheet_of(COIL, states=SWITCHED), ((0.0, "off"), (0.001, "on")), 0.04)
    final, tau = 12.6 / (12 + 0.01 + 0.01), 0.06 / 12.02
    for t in (0.003, 0.006, 0.011, 0.03):
        # What the core takes at once, beside the inductance, is 1/30 of the ohms' worth and dies away alike.
        assert np.interp(t, trace.times, trace.amps["Y"]) == pytest.approx(final * (1 - math.exp(-(t - 0.001) / tau)), rel=0.02, abs=0.03)
    assert trace.amps["Y"][-1] == pytest.approx(final, rel=2e-3)


def test_switching_a_coil_off_gives_a_spike_that_a_diode_clamps():
    bare = transient(sheet_of(COIL, states=SWITCHED), ((0.0, "on"), (0.001, "off")), 0.02)
    current = 12.6 / 12.02
    assert bare.volts["s"].min() == pytest.approx(-current * CORE_LOSS * 12, rel=0.02)
    clamped = sheet_of(COIL + "\n    D: {kind: diode, pins: {a: b-, k: s}}", states=SWITCHED)
    trace = transient(clamped, ((0.0, "on"), (0.001, "off")), 0.02)
    assert -1.0 < trace.volts["s"].min() < -0.7
    assert trace.amps["Y"][-1] < 0.1 < current / 2 < np.interp(0.003, trace.times, trace.amps["Y"])


def test_a_pulsed_valve_carries_its_duty_s_share_of_current_through_its_freewheel_diode():
    """Continuous current through a freewheel diode: mean = (d·U − (1 − d)·Ud)/R, whatever the inductance."""
    sheet = sheet_of(
        f"""
        {BATTERY}
        Y: {{kind: solenoid, pins: {{a: b+, b: o}}, ohms: 10, henries: 0.2}}
        M: {{kind: low_side, pins: {{out: o, gnd: b-, supply: b+}}, duty: 40, hertz: 500}}
        """,
        states="off: {M: 'off'}, hold: {M: pulsed}",
    )
    trace = transient(sheet, ((0.0, "off"), (0.01, "hold")), 0.2)
    mean = trace.mean(trace.amps["Y"], 0.18, 0.2)
    assert mean == pytest.approx((0.4 * 12.58 - 0.6 * 0.73) / 10.08, rel=0.03)


def test_a_bimetal_regulator_pulses_about_its_mean():
    """Mean = duty × supply, about 5 V; its heater's mean heat does not change with the supply."""
    for volts, mean in ((12.6, 5.0), (14.2, 5.0 * 12.6 / 14.2)):
        sheet = sheet_of(GALLERY["gauges"][0].replace("n: b-}, ohms", f"n: b-}}, volts: {volts}, ohms"), states=GALLERY["gauges"][1])
        trace = transient(sheet, ((0.0, "half"),), 40.0)
        assert trace.mean(trace.volts["v"], 10.0, 40.0) == pytest.approx(mean, rel=0.03)
        assert {round(v, 1) for v in np.unique(np.round(trace.volts["v"], 1))} == {0.0, volts} or trace.volts["v"].max() > volts - 0.1
        assert len(trace.events) > 20


IGNITION = GALLERY["gauges"][0].replace("in: b+", "in: key") + "\n        S: {kind: switch, pins: {a: b+, b: key}}"

CASES = {
    "delay on": (gallery("timer"), ((0.0, "rest"), (1.0, "first")), 12.0, ""),
    "delay on, leaky": (gallery("timer"), ((0.0, "rest"), (1.0, "first")), 12.0, "TR.capacitor_leaky=300000"),
    "delay on, timer open": (gallery("timer"), ((0.0, "rest"), (1.0, "first")), 12.0, "TR.timer_open"),
    "delay off": (gallery("timer"), ((0.0, "second"), (1.0, "rest")), 8.0, ""),
    "relays over and back": (gallery("relays"), ((0.0, "up"), (0.05, "down"), (0.3, "up")), 0.5, ""),
    "suppressor shorted": (gallery("relays"), ((0.0, "up"), (0.05, "down")), 0.2, "K1.suppressor_shorted"),
    "coil with shorted turns": (gallery("relays"), ((0.0, "up"), (0.05, "down")), 0.2, "K1.coil_shorted=20"),
    "motor reversed, valve pulsed": (gallery("outputs"), ((0.0, "off"), (0.005, "back")), 0.05, ""),
    "bimetal regulator": (
        sheet_of(IGNITION, states="off: {S: open}, on: {S: closed}"), ((0.0, "off"), (0.2, "on")), 12.0, "",
    ),
}  # fmt: skip


def compare(sheet, steps, until: float, faults) -> bool:
    """Whether ngspice got through; within 0.1 % (of the node's own span) or 1 mV, at a time within 0.2 % of the whole: an edge has no
    value of its own."""
    trace = transient(sheet, steps, until, faults)
    reference = ngspice_trace(sheet, steps, until, faults)
    assert trace.complete
    if not reference:
        return False
    assert set(reference) | {sheet.minus} == set(trace.volts)
    late = 2e-3 * until
    for node, volts in reference.items():
        assert len(volts) == 401
        times, series = trace.times, trace.volts[node]
        allowed = 1e-3 * max(np.ptp(volts), np.abs(volts).max()) + 1e-3
        for t, v in zip(np.linspace(0.0, until, 401), volts, strict=True):
            near = np.concatenate([series[(times >= t - late) & (times <= t + late)], np.interp([t - late, t, t + late], times, series)])
            assert near.min() - allowed <= v <= near.max() + allowed, (faults, node, t)
    return True


@needs_ngspice
@pytest.mark.parametrize("name", CASES)
def test_transients_agree_with_ngspice(name):
    sheet, steps, until, fault = CASES[name]
    assert compare(sheet, steps, until, (parse_fault(sheet, fault),) if fault else ())


# Each shipped sheet from one state into another; the engine sensors' states differ in their dials alone, which a netlist cannot turn.
SHIPPED = {
    "cabin_heater": ("blow", "heat"),
    "cabin_light": ("shut", "open"),
    "charging": ("parked", "charging loaded"),
    "dash_gauges": ("off", "cold and half full"),
    "heated_glass": ("off", "on"),
    "kneeling_valves": ("parked", "ready"),
    "ramp_motor": ("rest", "extend"),
    "step_lights": ("shut", "open"),
    "tail_lift": ("rest", "raise"),
    "two_wire_bus": ("asleep", "dash dominant"),
    "under_seat_crash_loop": ("away", "key on"),
    "wake_heater_module": ("away", "key on"),
    "wired_cart_bus": ("asleep", "dash dominant"),
    "wired_roof_bow": ("away", "unlatched"),
    "wired_van_gearbox": ("key off", "valve D"),
}


@needs_ngspice
@pytest.mark.parametrize("name", SHIPPED)
def test_switching_each_shipped_sheet_agrees_with_ngspice_sound_and_faulty(name, demo_sheets):
    """Sound and under five of its faults, drawn by the sheet's name; ngspice may give up on two of them, as it does where the alternator's
    limit meets the battery's."""
    sheet, (before, after) = demo_sheets[name], SHIPPED[name]
    until = 8.0 if name == "dash_gauges" else 0.1
    steps = ((0.0, before), (0.1 * until, after))
    assert compare(sheet, steps, until, ())
    drawn = random.Random(name).sample(every_fault(sheet), 5)
    assert sum(compare(sheet, steps, until, (fault,)) for fault in drawn) >= 3


def test_every_shipped_sheet_is_switched_or_said_why_not(demo_sheets):
    assert set(demo_sheets) - set(SHIPPED) == {"engine_sensors"}
