"""Kinds of part in their own behaviour: what they do sound, at their limits, and in their own ways of failing."""

from __future__ import annotations

import pytest

from pondrel.core.base.errors import FaultError, SheetError
from pondrel.core.circuit.fault import parse_fault
from pondrel.core.circuit.read.sheet import parse_sheet
from pondrel.core.circuit.solve import solve
from pondrel.demo.load import SHEETS

from ...circuits import sheet_of
from ...gallery import GALLERY


@pytest.fixture(scope="module")
def made():
    return {name: sheet_of(parts, states=states) for name, (parts, states) in GALLERY.items()}


def point(sheet, state, *faults):
    return solve(sheet, state, tuple(parse_fault(sheet, fault) for fault in faults))


def says(found, part, what):
    return next(sight.says for sight in found.sights[part] if sight.what == what)


def test_a_shorted_sensor_pulls_the_shared_reference_down_for_all(made):
    sound, short = point(made["reference"], "warm"), point(made["reference"], "warm", "B1.shorted=0.5")
    assert sound.places["ref"] == pytest.approx(5.0, abs=0.02)
    assert short.places["ref"] < 0.1
    assert short.currents["REF"] == pytest.approx(0.05, rel=0.01)  # at its limit
    assert short.places["p1"] < 0.1
    assert says(short, "IN2", "code") == "sets the code for circuit low"


def test_a_reference_is_off_without_supply_and_draws_what_it_gives(made):
    dead = point(made["reference"], "cold", "BAT.open")
    assert abs(dead.places["ref"]) < 0.1
    live = point(made["reference"], "cold")
    assert live.currents["BAT"] == pytest.approx(live.currents["REF"] + 12.6 / 2500, abs=2e-4)


def test_a_module_reads_a_broken_wire_as_high_and_a_chafed_one_as_low(made):
    assert says(point(made["reference"], "warm", "T1.open"), "IN3", "volts").startswith("reads 5.00 V")
    high = point(made["reference"], "warm", "B1.ground_open")
    assert says(high, "IN2", "code") == "sets the code for circuit high"


def test_a_driver_shuts_down_on_a_short_and_tells(made):
    shut = point(made["outputs"], "on", "LA.shorted=0.1")
    assert shut.places["o1"] < 0.1
    assert "shut down" in says(shut, "HS", "diagnosis")
    assert any("HS has tripped: it opens at 5 A" in note for note in shut.notes)


def test_a_driver_tells_an_open_load_on_and_off(made):
    assert says(point(made["outputs"], "on", "LA.open"), "HS", "diagnosis") == "reports: open load"
    assert "while off" in says(point(made["outputs"], "off", "LA.open"), "HS", "diagnosis")
    assert says(point(made["outputs"], "off"), "HS", "diagnosis") == "reports nothing"
    assert "short to ground" in says(point(made["outputs"], "on", "Y1.open"), "LS", "diagnosis")


def test_a_locked_motor_draws_its_stall_current_and_a_running_one_its_rated(made):
    run, stall = point(made["outputs"], "on"), point(made["outputs"], "on", "M1.locked")
    assert run.currents["M1"] == pytest.approx(4.0, rel=0.05)
    assert stall.currents["M1"] > 4 * run.currents["M1"]
    assert says(run, "M1", "runs") == "runs"


def test_a_motor_runs_both_ways_through_two_half_bridges(made):
    assert point(made["outputs"], "on").currents["M1"] == pytest.approx(-point(made["outputs"], "back").currents["M1"], rel=0.02)


def test_a_breaker_that_resets_by_itself_cycles_and_one_by_hand_stays_open():
    parts = """
        BAT: {kind: battery, pins: {p: b+, n: b-}}
        Q: {kind: breaker, pins: {a: b+, b: q}, rating: 20%s}
        H: {kind: heater, pins: {a: q, b: b-}, watts: 500}
    """
    cycling, latched = point(sheet_of(parts % ""), "on"), point(sheet_of(parts % ", reset: manual"), "on")
    # The mean heat in its strip is what it opens and closes about: (1.35² + 0.9²)/2 of the rating's.
    assert any("Q switches on and off by itself" in note for note in cycling.notes)
    assert 0.1 < cycling.currents["Q"] / (500 / 12 * 12.6 / 12) < 0.6
    assert latched.currents["Q"] < 1e-6
    assert any("Q has tripped: it opens at 27 A" in note for note in latched.notes)


def test_an_alternator_charges_up_to_its_limit_and_takes_nothing_back(made):
    loaded = point(made["alternator"], "running", "LOAD.shorted=0.05")
    assert loaded.currents["GEN"] == pytest.approx(70.0, rel=0.02)
    assert abs(point(made["alternator"], "off").currents["GEN"]) < 1e-6
    high, sound = point(made["alternator"], "running", "GEN.regulator_high"), point(made["alternator"], "running")
    assert high.places["alt"] > sound.places["alt"] + 0.2
    assert point(made["alternator"], "off", "GEN.regulator_high").places["alt"] < 12.0  # a fault of the regulator waits for the engine


def test_a_battery_that_accepts_little_lets_the_voltage_rise_to_the_regulator_s():
    sheet = parse_sheet((SHEETS / "charging.yaml").read_text())
    assert 13.5 < point(sheet, "charging").places["batt+"] < 14.4
    assert point(sheet, "charging").currents["BAT"] == pytest.approx(-12.0, rel=0.01)


def test_a_two_wire_sensor_takes_its_own_current_whatever_the_voltage(made):
    assert point(made["wheel"], "still").currents["RW"] == pytest.approx(0.007, rel=0.01)
    assert point(made["wheel"], "turning").currents["RW"] == pytest.approx(0.014, rel=0.01)
    assert point(made["wheel"], "turning", "WS.stuck_low").currents["RW"] == pytest.approx(0.007, rel=0.01)


def test_a_coil_says_whether_it_moves_by_its_ampere_turns():
    parts = """
        BAT: {kind: battery, pins: {p: b+, n: b-}, volts: %s}
        C: {kind: contact, pins: {a: b+, b: c}}
        Y: {kind: clutch, pins: {a: c, b: b-}, ohms: 3.6, temperature: %s, ampere_turns: 900, turns: 320}
    """
    cool, hot_and_low = sheet_of(parts % (12.6, 20)), sheet_of(parts % (10.8, 110))
    assert "pulls in" in says(point(cool, "on"), "Y", "moves")
    # Hot, fed from a low battery: neither alone would stop it.
    assert "does not move" in says(point(hot_and_low, "on"), "Y", "moves")
    assert "pulls in" in says(point(sheet_of(parts % (10.8, 20)), "on"), "Y", "moves")


def test_a_relay_s_diode_the_wrong_way_round_blows_the_fuse(made):
    wrong = point(made["relays"], "down", "K1.suppressor_shorted")
    assert wrong.currents["BAT"] > 15.0
    assert any("K1 is" in note for note in wrong.notes)


def test_modes_that_concern_what_a_part_does_not_have_are_not_its_own(made):
    with pytest.raises(FaultError, match="does not fail as 'suppressor_shorted'"):
        parse_fault(made["relays"], "K2.suppressor_shorted")
    with pytest.raises(FaultError, match="does not fail as 'pin3_open'"):
        parse_fault(made["loop"], "PL.pin3_open")


def test_water_in_a_plug_joins_two_pins(made):
    dry, wet = point(made["loop"], "run"), point(made["loop"], "run", "PL.pins12_shorted=5")
    assert wet.currents["F1"] > dry.currents["F1"] + 1.5


@pytest.mark.parametrize(
    ("part", "path", "text"),
    [
        ("P: {kind: plug, pins: {1a: b+, 1b: x, 2a: x}}", "parts.P", "pin 2 has one side only: give 2a and 2b"),
        ("P: {kind: potentiometer, pins: {a: b+, w: x, b: b-}, low: 80, high: 20}", "parts.P", "low (80 %) must be below high (20 %)"),
        ("M: {kind: motor, pins: {a: b+, b: b-}, amps: 10, ohms: 3}", "parts.M", "ohms must be less than volts/amps (1.2 Ω)"),
        ("T: {kind: thermistor, pins: {a: b+, b: b-}, sh_a: 0.001}", "parts.T", "give sh_a, sh_b and sh_c together"),
        ("Y: {kind: solenoid, pins: {a: b+, b: b-}, ohms: 9, turns: 100}", "parts.Y", "give ampere_turns and turns together"),
        ("Q: {kind: breaker, pins: {a: b+, b: b-}, rating: 5, reset: maybe}", "parts.Q.reset", "must be one of auto, manual, got 'maybe'"),
        ("O: {kind: oxygen_sensor, pins: {signal: b+, gnd: b-, heater_a: b+}}", "parts.O", "give both heater_a and heater_b, or neither"),
        ("L: {kind: low_side, pins: {out: b+, gnd: b-}, duty: 130}", "parts.L", "duty must be from 0 to 100 %"),
    ],
)
def test_a_part_that_cannot_be_is_refused_with_what_would_be_right(part, path, text):
    with pytest.raises(SheetError) as caught:
        sheet_of(f"BAT: {{kind: battery, pins: {{p: b+, n: b-}}}}\n{part}")
    assert any(found == path and text in sentence for found, sentence in caught.value.flaws), caught.value.flaws


@pytest.mark.parametrize(
    ("setting", "text"),
    [
        ("T: 900", "must be from -50 to 300 °C, got 900"),
        ("T: warm", "must be a number of °C, got 'warm'"),
        ("R: 3", "a resistor has no positions"),
    ],
)
def test_a_dial_takes_numbers_of_its_scale(setting, text):
    with pytest.raises(SheetError, match=text):
        sheet_of(
            """
            BAT: {kind: battery, pins: {p: b+, n: b-}}
            R: {kind: resistor, pins: {a: b+, b: x}, ohms: 1000}
            T: {kind: thermistor, pins: {a: x, b: b-}}
            """,
            states=f"on: {{{setting}}}",
        )
