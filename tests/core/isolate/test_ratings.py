"""A lamp of another rating: by hand, 13 W where 21 W belong take 0.63 times the current, and lose as many times less on the way."""

from __future__ import annotations

import pytest

from pondrel.core.circuit.solve import solve
from pondrel.core.evidence.line import parse_line
from pondrel.core.isolate import Workup, isolate
from pondrel.core.isolate.believe.ratings import TIMES, rated_loads, with_rating

from ...circuits import sheet_of

LAMP = """
    BAT: {kind: battery, pins: {p: b+, n: b-}, ohms: 0.01}
    F1: {kind: fuse, pins: {a: b+, b: f}, rating: 10}
    S1: {kind: switch, pins: {a: f, b: s}}
    W1: {kind: wire, pins: {a: s, b: x}, length_m: 3, csa_mm2: 0.75}
    L1: {kind: lamp, pins: {a: x, b: g}, watts: 21}
    R1: {kind: heater, pins: {a: x, b: g}, watts: 5}
    M1: {kind: motor, pins: {a: x, b: g}, amps: 2}
    G1: {kind: ground, pins: {a: g, b: b-}}
"""
STATES = "off: {}, lit: {S1: closed}"


@pytest.fixture(scope="module")
def lamp():
    drawn = "".join(line + "\n" for line in LAMP.splitlines() if "R1" not in line and "M1" not in line)
    return Workup(sheet_of(drawn, states=STATES))


def after(workup, *lines):
    return isolate(workup, tuple(parse_line(workup.sheet, line, "lit")[0] for line in lines))


@pytest.mark.parametrize("name", ["L1", "R1", "M1"])
@pytest.mark.parametrize("times", [0.5, 2.0])
def test_a_load_of_another_rating_takes_so_many_times_its_current(name, times):
    sheet = sheet_of(LAMP, states=STATES)
    assert {part.name for part in rated_loads(sheet)} == {"L1", "R1", "M1"}
    drawn, other = (solve(s, "lit").currents[name] for s in (sheet, with_rating(sheet, sheet.parts[name], times)))
    assert other / drawn == pytest.approx(times, rel=0.03)  # the wire in front of it loses a little more or less
    assert 1.0 not in TIMES


def test_a_smaller_lamp_is_thought_of_before_bad_joints_that_come_and_go(lamp):
    found = after(
        lamp, "lit volts b+ b- 12.4", "lit clamp f s 1.1", "lit clamp x g 1.1", "lit volts f b- 12.37", "lit volts x b- 12.25",
        "lit volts g b- 0.03",
    )  # fmt: skip
    first = found.suspects[0]
    assert (first.kind, first.parts) == ("diagram", ("L1",)) and "another rating" in first.words and "0.63 times" in first.words
    assert found.targets[0].probability < 0.3  # no part is at fault


def test_a_larger_lamp_is_thought_of_beside_a_load_that_nobody_drew(lamp):
    found = after(lamp, "lit volts b+ b- 12.4", "lit clamp f s 2.6", "lit clamp x g 2.6", "lit volts x b- 12.2", "lit volts g b- 0.04")
    assert any("beside L1" in s.words and "or L1 is of another rating" in s.words and s.probability > 0.3 for s in found.suspects[:3])
