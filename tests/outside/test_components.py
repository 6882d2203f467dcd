"""Kinds of part against published values: thermistors, copper windings, bus levels, batteries, filaments, timing."""

from __future__ import annotations

import math

import pytest

from pondrel.core.circuit.kinds.sensors import thermistor_ohms
from pondrel.core.circuit.kinds.sources import charge_volts
from pondrel.core.circuit.solve import solve

from ..circuits import sheet_of
from ..gallery import GALLERY


def test_steinhart_and_hart_s_coefficients_of_a_10_kilohm_thermistor_give_its_table():
    """Coefficients and table of a common 10 kΩ thermistor, from memory of its published data: 32.65 kΩ at 0 °C, 10 kΩ at 25 °C,
    3.603 kΩ at 50 °C; the fit is good to a few tenths of a per cent."""
    params = {"sh_a": 1.129148e-3, "sh_b": 2.34125e-4, "sh_c": 8.76741e-8}
    for celsius, ohms in ((0.0, 32650.0), (25.0, 10000.0), (50.0, 3603.0)):
        assert thermistor_ohms(params, celsius) == pytest.approx(ohms, rel=5e-3)


def test_the_b_parameter_is_what_it_is_defined_as():
    """B = ln(R1/R2)/(1/T1 − 1/T2), IEC 60539-1 (from memory)."""

    r1, r2 = thermistor_ohms({"ohms": 2200.0, "beta": 3500.0}, 25.0), thermistor_ohms({"ohms": 2200.0, "beta": 3500.0}, 85.0)
    assert math.log(r1 / r2) / (1 / 298.15 - 1 / 358.15) == pytest.approx(3500.0)


def test_bus_levels_are_those_of_iso_11898_2():
    """ISO 11898-2 (from memory): recessive about 2.5 V on both lines; dominant about 3.5 and 1.5 V, 1.5 to 3 V apart, into two 120 Ω."""
    sheet = sheet_of(*GALLERY["bus"][:1], states=GALLERY["bus"][1])
    quiet, loud = solve(sheet, "recessive").places, solve(sheet, "dominant").places
    assert quiet["h1"] == pytest.approx(2.5, abs=0.1) and abs(quiet["h1"] - quiet["l1"]) < 0.05
    assert loud["h1"] == pytest.approx(3.5, abs=0.1) and loud["l1"] == pytest.approx(1.5, abs=0.1)
    assert 1.5 <= loud["h2"] - loud["l2"] <= 3.0


def test_levels_of_a_lin_line_are_those_of_iso_17987_4():
    """ISO 17987-4 (from memory): recessive above 80 % of the supply, dominant below 20 %; 1 kΩ in the master, 30 kΩ in the others."""
    sheet = sheet_of(GALLERY["lin"][0], states=GALLERY["lin"][1])
    places = {state: solve(sheet, state).places for state in sheet.states}
    assert places["recessive"]["l2"] > 0.8 * 12.6
    assert places["dominant"]["l2"] < 0.2 * 12.6 and places["answering"]["l1"] < 0.2 * 12.6
    assert places["talking"]["l1"] == pytest.approx(12.6 / 2, abs=0.4)  # a meter shows the mean
    grounded = solve(sheet, "dominant")
    assert grounded.currents["MA"] == pytest.approx((12.6 - 0.6 - 0.69) / 1000, rel=0.05)


def test_levels_of_a_low_speed_bus_are_those_of_iso_11898_3():
    """ISO 11898-3 (from memory): at rest the high line below 0.3 V and the low line above 4.7 V; dominant above 3.6 V and below 1.4 V with
    100 Ω in all; asleep the low line at the battery's volts."""
    sheet = sheet_of(GALLERY["low_speed"][0], states=GALLERY["low_speed"][1])
    rest, loud, asleep = (solve(sheet, state).places for state in ("recessive", "dominant", "asleep"))
    assert rest["h2"] < 0.3 and rest["l2"] > 4.7
    assert loud["h1"] > 3.6 and loud["l1"] < 1.4
    assert asleep["l1"] == pytest.approx(12.6, abs=0.1) and asleep["h1"] < 0.1


def test_a_rested_battery_s_volts_are_the_trade_council_s_table():
    """Open-circuit volts at 25 °C by state of charge (table from memory)."""
    for percent, volts in ((100, 12.65), (75, 12.45), (50, 12.24), (25, 12.06), (0, 11.89)):
        assert charge_volts(percent, 12.6) == pytest.approx(volts, abs=1e-9)
        assert charge_volts(percent, 25.2) == pytest.approx(2 * volts, abs=1e-9)


def test_a_pulsing_regulator_s_mean_is_duty_times_supply():
    """Common practice, no source: about 5 V on the mean from 0 and 12 V pulses."""
    sheet = sheet_of(GALLERY["gauges"][0], states=GALLERY["gauges"][1])
    assert solve(sheet, "half").places["v"] == pytest.approx(5.0, abs=0.05)


def test_a_ratiometric_transducer_gives_half_a_volt_at_nothing_and_four_and_a_half_at_full_scale():
    """Common practice, no source: 0.5 to 4.5 V on 5 V."""
    sheet = sheet_of(
        """
        PS: {kind: bench_supply, pins: {p: p, n: n}, volts: 5, ohms: 0}
        B: {kind: pressure_sensor, pins: {supply: p, signal: s, gnd: n}, full_scale: 10}
        """,
        states="empty: {B: 0}, middle: {B: 5}, full: {B: 10}",
    )
    assert [solve(sheet, state).places["s"] for state in ("empty", "middle", "full")] == pytest.approx([0.5, 2.5, 4.5], abs=2e-3)
