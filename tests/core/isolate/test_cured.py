"""Readings taken again after a repair: a sound circuit is called cured, the old fault is not, and another fault shows as a number that does
not belong there."""

from __future__ import annotations

import pytest

from pondrel.core.check import Verdict
from pondrel.core.circuit.read.sheet import parse_sheet
from pondrel.core.isolate import Workup, cured, update
from pondrel.core.making.typical import TYPICALS, made
from tests.circuits import measure, reading_of

POINTS = [("lit", place, "batt-") for place in ("batt+", "lamp.feed", "g1")]


def judged(step_light, workup, fault: str, parts=("G1",), emf: float = 12.4, seed: int = 1):
    """What readings of the circuit with a fault (empty for none) say, taken by themselves."""
    return cured(update(workup, measure(step_light, fault, POINTS, emf, seed)), parts)


@pytest.mark.parametrize("seed", range(5))
@pytest.mark.parametrize("emf", [12.0, 12.4, 12.8])
def test_a_sound_circuit_is_cured_whatever_the_battery_gives(step_light, step_light_workup, emf, seed):
    found = judged(step_light, step_light_workup, "", emf=emf, seed=seed)
    assert found.chance > 0.9 and {one.verdict for one in found.readings} == {Verdict.WITHIN}


@pytest.mark.parametrize("ohms", [0.8, 3.0, 40.0])
def test_the_old_fault_is_not_cured_and_its_reading_is_outside(step_light, step_light_workup, ohms):
    found = judged(step_light, step_light_workup, f"G1.high_resistance={ohms}")
    assert found.chance < 0.1
    assert [one.verdict for one in found.readings][2] is Verdict.OUTSIDE
    assert not found.readings[2].low <= found.readings[2].reading.measured.value <= found.readings[2].high


def test_what_was_as_it_should_be_stays_so_beside_what_was_not():
    """A wiper that lifts off: nothing that it does not touch is laid at the door of the others."""
    sheet = parse_sheet(made(TYPICALS["pedal"], {}))
    read = (("pedal up", "b1.2", "0.765"), ("pedal up", "b1.5", "0.39"), ("half way", "b1.2", "0.05"), ("half way", "b1.1", "5.02"),
            ("pedal down", "b1.2", "0.06"), ("pedal down", "n1.signal1", "0.05"))  # fmt: skip
    readings = tuple(reading_of(sheet, state, "volts", red, "batt-", value) for state, red, value in read)
    found = cured(update(Workup(sheet), readings), ("B1",))
    within = [one.verdict is Verdict.WITHIN for one in found.readings]
    assert within == [float(value) > 0.1 for _, _, value in read]


def test_another_fault_is_no_return_of_the_old_one_but_shows(step_light, step_light_workup):
    found = judged(step_light, step_light_workup, "C2.1.high_resistance=4")
    assert any(one.verdict is Verdict.OUTSIDE for one in found.readings)


def test_the_place_is_where_a_sound_circuit_has_it(step_light, step_light_workup):
    found = judged(step_light, step_light_workup, "", emf=12.6)
    supply = found.readings[0]
    assert supply.low < 12.55 < supply.high and supply.low < supply.should < supply.high
    assert found.readings[2].high < 0.4  # volts at a sound ground


def test_without_readings_nothing_is_said_of_any(step_light_workup):
    assert cured(update(step_light_workup, ()), ("G1",)).readings == ()
