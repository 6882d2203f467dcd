"""The direct-current motor on a fan load, against its textbook equations solved another way.

Source: the equations of a permanent-magnet motor, V = R·i + k·ω and torque = k·i, with a fan's torque going as ω² (any textbook on electric
machines, such as Fitzgerald, Kingsley and Umans; from memory). Solved here for ω by bisection, from the motor's rated point alone.
"""

from __future__ import annotations

import pytest

from pondrel.core.circuit.fault import Fault
from pondrel.core.circuit.read.sheet import parse_sheet
from pondrel.core.circuit.solve import solve

VOLTS, AMPS, OHMS = 12.0, 18.3, 0.131
SHEET = f"""\
format: pondrel-sheet/1
title: Blower
supply: {{nominal: {VOLTS}, unit: V}}
places: {{b+: {{}}}}
parts:
  BAT: {{kind: battery, pins: {{p: b+, n: b-}}, volts: {VOLTS}, ohms: 0.00001}}
  M1: {{kind: motor, pins: {{a: b+, b: b-}}, volts: {VOLTS}, amps: {AMPS}, ohms: {OHMS}}}
states: {{"on": {{}}}}
"""


def by_the_equations(ohms: float) -> tuple[float, float]:
    """Amperes, and speed as a share of rated speed, of the motor with another armature resistance at rated volts."""
    back = VOLTS - OHMS * AMPS  # k·ω at rated speed
    low, high = 0.0, 2.0
    for _ in range(80):
        speed = (low + high) / 2.0
        amps = AMPS * speed**2  # torque of a fan
        low, high = (speed, high) if ohms * amps + back * speed < VOLTS else (low, speed)
    return AMPS * low**2, low


@pytest.mark.parametrize("more", [0.1, 0.44, 2.0])
def test_worn_brushes_show_in_the_running_current(more):
    """With 0.44 Ω more in its brushes a blower of 18.3 A takes about half as much."""
    sheet = parse_sheet(SHEET)
    found = solve(sheet, "on", (Fault("M1", "high_resistance", OHMS + more),))
    amps, speed = by_the_equations(OHMS + more)
    assert found.currents["M1"] == pytest.approx(amps, abs=0.02 * AMPS)  # a fiftieth is what it takes before it turns
    (runs,) = found.sights["M1"]
    assert runs.value == pytest.approx(speed, abs=0.03)
    assert amps < (11.0 if more > 0.4 else 16.5)


def test_a_sound_motor_takes_its_rated_current():
    assert solve(parse_sheet(SHEET), "on").currents["M1"] == pytest.approx(AMPS, rel=0.001)
