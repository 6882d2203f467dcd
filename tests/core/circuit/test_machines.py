"""Starters, generators, control units and plugs of any size, in their own behaviour."""

from __future__ import annotations

import pytest

from pondrel.core.base.errors import SheetError
from pondrel.core.circuit.fault import parse_fault
from pondrel.core.circuit.measure import measure
from pondrel.core.circuit.solve import solve
from pondrel.core.circuit.transient import transient
from pondrel.core.isolate.extent import TooMuchError, check_sheet

from ...circuits import sheet_of
from ...gallery import GALLERY


@pytest.fixture(scope="module")
def made():
    return {name: sheet_of(GALLERY[name][0], states=GALLERY[name][1]) for name in ("starting", "magneto", "cooling")}


def point(sheet, state, *faults):
    return solve(sheet, state, tuple(parse_fault(sheet, fault) for fault in faults))


def says(found, part, what):
    return next(sight.says for sight in found.sights[part] if sight.what == what)


def test_a_starter_pulls_in_by_both_windings_and_holds_by_one(made):
    found = point(made["starting"], "start")
    assert says(found, "M1", "runs") == "turns the engine" and found.currents["M1.motor"] == pytest.approx(150.0, rel=0.02)
    # The closed contacts feed the pull-in winding from both ends.
    assert abs(found.currents["M1.pull"]) < 0.5 and found.currents["M1.hold"] == pytest.approx(10.0, rel=0.15)
    assert point(made["starting"], "rest").currents["M1.motor"] == pytest.approx(0.0, abs=1e-3)


@pytest.mark.parametrize(
    ("fault", "clicks", "runs"),
    [
        ("M1.pull_open", "its plunger does not pull in", "does not turn"),
        ("M1.contact_open", "its plunger does not pull in", "does not turn"),
        ("M1.motor_open", "its plunger does not pull in", "does not turn"),
        ("BAT.high_resistance=0.06", "its plunger pulls in", "does not turn"),
        ("M1.locked", "its plunger pulls in", "does not turn"),
        ("M1.motor_high_resistance=0.1", "its plunger pulls in", "does not turn"),
    ],
)
def test_what_a_starter_does_tells_what_is_wrong_with_it(made, fault, clicks, runs):
    found = point(made["starting"], "start", fault)
    assert (says(found, "M1", "clicks"), says(found, "M1", "runs")) == (clicks, runs)


def test_a_starter_without_its_hold_in_winding_chatters(made):
    assert any("M1 chatters" in note for note in point(made["starting"], "start", "M1.hold_open").notes)


def test_a_held_starter_takes_its_stalled_current_and_the_battery_falls(made):
    held, sound = point(made["starting"], "start", "M1.locked"), point(made["starting"], "start")
    assert held.currents["M1.motor"] > 2.0 * sound.currents["M1.motor"]
    assert held.places["b+"] < sound.places["b+"] - 1.0


def test_a_stator_gives_alternating_volts_with_its_speed_and_none_on_a_direct_range(made):
    sheet = made["magneto"]
    assert measure(sheet, "running", "ac", "u", "v", without=("RB",)).measured.value == pytest.approx(40.0, rel=0.01)
    assert abs(measure(sheet, "running", "volts", "u", "v").measured.value) < 0.01
    assert measure(sheet, "still", "ac", "u", "v").measured.value < 0.01


def test_a_stator_s_ohms_are_its_copper_whether_or_not_the_state_turns_it(made):
    for state in ("still", "running"):
        shown = measure(made["magneto"], state, "ohms", "u", "v", without=("RB", "RU", "RV", "RW"))
        assert shown.measured.value == pytest.approx(0.3, abs=0.01)


def test_a_burnt_winding_shows_in_balance_and_ohms(made):
    sheet = made["magneto"]
    faults = (parse_fault(sheet, "ST.u_shorted=0.05"),)
    volts = {pair: measure(sheet, "running", "ac", *pair, faults, without=("RB",)).measured.value for pair in (("u", "v"), ("v", "w"))}
    assert volts["u", "v"] < 0.8 * volts["v", "w"]
    off = ("RB", "RU", "RV", "RW")
    assert measure(sheet, "still", "ohms", "u", "v", faults, without=off).measured.value < 0.25


def test_a_generator_charges_and_a_dead_diode_takes_a_third_of_a_phase(made):
    sound, lame = point(made["magneto"], "running"), point(made["magneto"], "running", "RB.u_plus_open")
    assert sound.currents["F1"] > 5.0 and 0.5 < lame.currents["F1"] / sound.currents["F1"] < 0.95
    assert point(made["magneto"], "still").currents["F1"] == pytest.approx(0.0, abs=1e-3)


def test_a_turning_generator_is_not_followed_in_time(made):
    with pytest.raises(SheetError, match="ST: turns a generator, whose volts are known as means only"):
        transient(made["magneto"], ((0.0, "still"), (0.1, "running")), 0.2)


def test_a_module_draws_awake_and_asleep_and_answers_only_while_it_is_awake(made):
    asleep, awake = point(made["cooling"], "off"), point(made["cooling"], "cool")
    assert asleep.currents["CU"] == 0.0 and asleep.currents["CU.idle"] == pytest.approx(0.0008, rel=0.01)
    assert awake.currents["CU"] == pytest.approx(0.25, rel=0.02)
    assert (says(asleep, "CU", "answers"), says(awake, "CU", "answers")) == ("does not answer", "answers")


@pytest.mark.parametrize(
    ("fault", "state", "answers", "more_amps"),
    [
        ("CU.open", "cool", "does not answer", -0.25),
        ("CU.does_not_wake", "cool", "does not answer", -0.25),
        ("CU.stays_awake", "off", "does not answer", 0.25),
    ],
)
def test_a_module_fails_as_modules_do(made, fault, state, answers, more_amps):
    found, sound = point(made["cooling"], state, fault), point(made["cooling"], state)
    assert says(found, "CU", "answers") == answers
    assert found.currents["BAT"] - sound.currents["BAT"] == pytest.approx(more_amps, abs=0.02)


@pytest.mark.parametrize(("state", "clutch", "fan"), [("empty", 0, 0), ("cool", 1, 0), ("hot", 1, 1), ("blocked", 0, 1)])
def test_a_combined_pressure_switch_has_three_pressures(made, state, clutch, fan):
    found = point(made["cooling"], state)
    assert (found.currents["CL"] > 1.0, found.currents["M1"] > 1.0) == (bool(clutch), bool(fan))


def test_pressures_out_of_order_are_refused():
    text = """
        BAT: {kind: battery, pins: {p: b+, n: b-}}
        PS: {kind: combined_pressure_switch, pins: {a: b+, b: x}, middle: 30}
        R1: {kind: resistor, pins: {a: x, b: b-}, ohms: 10}
    """
    with pytest.raises(SheetError, match=r"low \(2 bar\), middle \(30 bar\) and high \(27 bar\) must rise in that order"):
        sheet_of(text)


def plug(pins: str):
    return sheet_of(
        f"""
        BAT: {{kind: battery, pins: {{p: b+, n: b-}}}}
        X1: {{kind: plug, pins: {{{pins}}}}}
        R1: {{kind: resistor, pins: {{a: o, b: b-}}, ohms: 10}}
        R2: {{kind: resistor, pins: {{a: p, b: b-}}, ohms: 100}}
        """
    )


def test_a_plug_may_have_any_pins():
    sheet = plug("47a: b+, 47b: o, 132a: q, 132b: p")
    modes = {mode.name for mode in sheet.parts["X1"].modes}
    assert modes == {"pin47_open", "pin47_high_resistance", "pin132_open", "pin132_high_resistance", "pins47_132_shorted"}
    assert point(sheet, "on").currents["R1"] == pytest.approx(1.26, rel=0.01)
    assert point(sheet, "on", "X1.pin47_open").currents["R1"] == pytest.approx(0.0, abs=1e-6)
    assert point(sheet, "on", "X1.pins47_132_shorted=0.1").currents["R2"] == pytest.approx(0.126, rel=0.01)


@pytest.mark.parametrize(
    ("pins", "says"),
    [
        ("3a: b+, 3b: o, 4a: p", "pin 4 has one side only: give 4a and 4b"),
        ("1a: b+, 1b: o, 900a: q, 900b: p", "900a: unknown key"),
        ("front: b+, 1a: b+, 1b: o", "front: unknown key"),
    ],
)
def test_pins_that_a_plug_cannot_have_are_named(pins, says):
    with pytest.raises(SheetError, match=says):
        plug(pins)


def test_the_pins_of_a_large_plug_count_as_parts():
    """Each of them fails by itself, so a plug of two hundred pins is no small sheet."""
    plugs = "\n        ".join(
        f"X{x}: {{kind: plug, pins: {{{', '.join(f'{n}a: b+, {n}b: x{x}.{n}' for n in range(1, 150))}}}}}" for x in (1, 2, 3)
    )
    text = f"""
        BAT: {{kind: battery, pins: {{p: b+, n: b-}}}}
        {plugs}
    """
    with pytest.raises(TooMuchError, match="This circuit has 427 parts; faults of at most 320 are ranked at once"):
        check_sheet(sheet_of(text, places="b+: {}"))
    check_sheet(plug("1a: b+, 1b: o, 2a: q, 2b: p"))
