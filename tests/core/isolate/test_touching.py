"""Two wires that have chafed through to each other: by hand, two lamps that are each fed by the other's switch."""

from __future__ import annotations

import numpy as np
import pytest

from pondrel.core.evidence.line import parse_line
from pondrel.core.isolate import Workup, isolate
from pondrel.core.isolate.believe.other_diagrams import Variant, loaded
from pondrel.core.isolate.believe.supposed import seen_where
from pondrel.core.isolate.believe.touching import joins_runs, wires_that_may_touch

from ...circuits import sheet_of

LAMPS = """
    BAT: {kind: battery, pins: {p: b+, n: b-}, ohms: 0.01}
    F1: {kind: fuse, pins: {a: b+, b: f}, rating: 20}
    W0: {kind: wire, pins: {a: f, b: f2}, length_m: 1, csa_mm2: 2.5}
    SA: {kind: switch, pins: {a: f2, b: a1}}
    SB: {kind: switch, pins: {a: f2, b: b1}}
    WA: {kind: wire, pins: {a: a1, b: a2}, length_m: 2, csa_mm2: 1.5}
    CA: {kind: contact, pins: {a: a2, b: a3}}
    WA2: {kind: wire, pins: {a: a3, b: a4}, length_m: 1, csa_mm2: 1.5}
    WB: {kind: wire, pins: {a: b1, b: b2}, length_m: 3, csa_mm2: 1.5}
    LA: {kind: lamp, pins: {a: a4, b: g}, watts: 21}
    LB: {kind: lamp, pins: {a: b2, b: g}, watts: 21}
    WG: {kind: wire, pins: {a: g, b: h}, length_m: 1, csa_mm2: 2.5}
    G1: {kind: ground, pins: {a: h, b: b-}}
"""


@pytest.fixture(scope="module")
def lamps():
    return Workup(sheet_of(LAMPS, states="off: {}, a on: {SA: closed}, b on: {SB: closed}"))


def after(workup, *lines: str):
    return isolate(workup, tuple(parse_line(workup.sheet, line, "off")[0] for line in lines))


def test_wires_and_joints_in_a_row_are_one_run_and_those_at_the_battery_are_left_out(lamps):
    touches = wires_that_may_touch(lamps.sheet)
    assert [touch.words for touch in touches] == ["WA or WA2 and WB touch: chafed through to each other"]
    assert [touch.wires for touch in touches] == [("WA", "WB")]  # W0 behind its fuse is plus, and WG is minus


def test_lamps_that_light_together_whichever_is_switched_on_have_wires_that_touch(lamps):
    found = after(
        lamps, "a on volts b+ b- 12.5", "a on volts b2 b- 12.2", "b on volts a4 b- 12.2", "off volts b2 b- 0", "a on volts a4 b- 12.2",
        "off ohms a1 b1 0.1", "a on volts g b- 0.06",
    )  # fmt: skip
    first = max((s for s in found.suspects), key=lambda s: s.probability)
    assert first.kind == "touching" and first.parts == ("WA", "WB") and first.probability > 0.9
    assert "Two wires that touch lead with" in found.standing.says and "WA or WA2 and WB touch" in found.standing.says
    assert not found.standing.ready and found.targets[0].probability < 0.5  # neither wire is condemned by itself
    assert found.parts["WA"] > 0.9 and found.parts["WB"] > 0.9


def test_what_is_seen_speaks_for_wires_that_touch(lamps):
    """The other lamp glows as well: a touch makes it do so, and a sound circuit leaves it dark."""
    readings = ("a on volts b+ b- 12.5", "a on volts b2 b- 12.2", "b on volts b+ b- 12.5")

    def touching(*lines: str) -> float:
        return sum(s.probability for s in after(lamps, *readings, *lines).suspects if s.kind == "touching" and s.parts == ("WA", "WB"))

    assert touching("b on see LA normal") > 3.0 * touching("b on see LA dark")


def test_what_is_seen_is_worked_out_for_the_wires_as_they_touch(lamps):
    """Lamp A glows with B switched on where their wires touch, and not where a gigohm lies between them."""
    (variant,) = (variant for variant in Variant.all_of(lamps) if variant.kind == "touching")
    ohms = [0.05, 1e9]
    for word, order in (("normal", 1.0), ("dark", -1.0)):
        belief = after(lamps, f"b on see LA {word}").belief
        touch, apart = (seen_where(belief, variant.network, loaded(variant.network, np.array([r]))) for r in ohms)
        assert order * (touch - apart) > 1.0
    known = after(lamps, "history WA new").belief  # what is no look says the same of both
    touch, apart = (seen_where(known, variant.network, loaded(variant.network, np.array([r]))) for r in ohms)
    assert touch == apart


def test_a_sound_vehicle_s_wires_do_not_touch(lamps):
    found = after(lamps, "a on volts b+ b- 12.5", "a on volts b2 b- 0", "b on volts a4 b- 0", "b on volts b2 b- 12.3", "a on volts a4 12.3")
    assert sum(s.probability for s in found.suspects if s.kind == "touching") < 0.01
    assert found.suspects[0].part is None


def test_a_short_between_two_runs_may_be_their_wires(demo_workups):
    """A bus whose two lines are one: a plug, a module or an end resistor may join them, and so may the wires."""
    bus = demo_workups["two_wire_bus"]
    assert joins_runs(bus.sheet, "X5", "pins12_shorted") and joins_runs(bus.sheet, "T1", "shorted")
    assert not joins_runs(bus.sheet, "W1H", "short_to_ground") and not joins_runs(bus.sheet, "X5", "pin1_high_resistance")
    lines = (
        "recessive volts diag.high batt- 2.51", "recessive volts diag.low batt- 2.50", "dash dominant volts diag.high diag.low 0.02",
        "asleep ohms diag.high diag.low 0.4", "asleep ohms rear.high rear.low 0.5",
    )  # fmt: skip
    found = isolate(bus, tuple(parse_line(bus.sheet, line, "recessive")[0] for line in lines))
    assert sum(s.probability for s in found.suspects if s.kind == "touching") > 0.02
    assert "two wires that touch" in found.assumed
    assert "or with two wires that touch" not in isolate(bus, ()).assumed
