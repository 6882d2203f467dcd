"""Vehicles that are worn and sound, and loads that nobody drew: what must not be accused."""

from __future__ import annotations

import math

import pytest

from pondrel.core.isolate.believe.belief import update
from pondrel.core.isolate.isolation import isolate
from pondrel.core.isolate.predict.workup import Workup

from ...circuits import reading_of, sheet_of


def taken(sheet, rows):
    return tuple(reading_of(sheet, "open", "volts", red, black, text) for red, black, text in rows)


def test_a_ground_some_dozen_millivolts_above_the_post_is_a_body_and_no_fault(demo_workups):
    """As read on a sound vehicle: the stud 55 mV up, the splice behind it a little more."""
    workup = demo_workups["step_lights"]
    found = isolate(workup, taken(workup.sheet, [("g3", "batt-", "0.055"), ("j2", "batt-", "0.061"), ("la1.gnd", "batt-", "0.083")]))
    assert not found.standing.named and found.belief.parts().get("G3", 0.0) < 0.4
    bad = isolate(workup, taken(workup.sheet, [("g3", "batt-", "0.62"), ("j2", "batt-", "0.63"), ("g3", "batt-", "0.62")]))
    assert bad.standing.target == ("G3",) and bad.standing.named


def test_contacts_of_some_milliohms_more_are_worn_and_no_fault(demo_workups):
    """Twelve milliohms at the fuse, the plug and the switch: 26 mV each at 2.2 A."""
    workup = demo_workups["step_lights"]
    rows = [("f9.in", "f9.out", "0.048"), ("c12.in", "s1.out", "0.078"), ("f9.out", "c12.in", "0.27")]
    assert not isolate(workup, taken(workup.sheet, rows)).standing.named


def test_what_a_sag_explains_is_no_drop(demo_workups):
    """The battery gave 12.5 at first; nine readings later 12.28 before the fuse is no loss of a fifth of a volt ahead of it."""
    workup = demo_workups["step_lights"]
    sound = [("batt+", "batt-", "12.50"), ("f9.in", "batt-", "12.45"), ("f9.out", "batt-", "12.41"), ("c12.in", "batt-", "12.11")]
    later = [("s1.out", "batt-", "12.02"), ("la1.feed", "batt-", "11.97"), ("la1.gnd", "batt-", "0.06"), ("g3", "batt-", "0.04")]
    found = isolate(workup, taken(workup.sheet, [*sound, *later, ("f9.in", "batt-", "12.28")]))
    assert not found.standing.named and found.belief.parts()[None] > 0.5


def test_a_battery_sags_from_reading_to_reading_and_does_not_jump(demo_workups):
    """The same eight numbers, falling and jumbled: a supply that sank is likelier than one that leapt about."""
    workup = demo_workups["step_lights"]
    falling = [("batt+", "batt-", f"{12.60 - 0.04 * n:.2f}") for n in range(8)]
    jumbled = [falling[n] for n in (5, 0, 7, 2, 6, 1, 4, 3)]
    one, other = (update(workup, taken(workup.sheet, rows)).log_evidence for rows in (falling, jumbled))
    assert one > other + 2.0


def test_no_joint_is_bad_that_loses_less_than_the_trade_allows(demo_workups):
    """A tenth of a volt at working current: the sound circuit's current through the least bad joint."""
    workup = demo_workups["step_lights"]
    least = {
        item.part: float(grid[0])
        for item, grid in zip(workup.hypotheses.items, workup.hypotheses.severities, strict=True)
        if item.swept and item.mode == "high_resistance"
    }
    amps = abs(float(workup.points("open").amps[0, workup.network.keys.index(("G3", ""))]))
    assert 0.08 < amps * math.e ** least["G3"] < 0.3


def test_no_battery_has_kilohms(demo_workups):
    workup = demo_workups["step_lights"]
    tops = [
        grid[-1]
        for item, grid in zip(workup.hypotheses.items, workup.hypotheses.severities, strict=True)
        if item.part == "BAT" and item.swept
    ]
    assert tops and max(math.e**top for top in tops) <= 5.01


SPLICED = """
BAT: {kind: battery, pins: {p: b+, n: b-}, volts: 12.6, ohms: 0.01}
F1: {kind: fuse, pins: {a: b+, b: f}, rating: 15}
W1: {kind: wire, pins: {a: f, b: x}, length_m: 3, csa_mm2: 1.5}
R1: {kind: resistor, pins: {a: x, b: b-}, ohms: 6}
"""


@pytest.mark.parametrize(("ohms", "named"), [("2.9", False), ("0.06", True)])
def test_a_path_to_ground_that_takes_a_load_s_current_may_be_a_load_that_nobody_drew(ohms, named):
    """To every meter an accessory of 5.6 Ω at the lamp's feed is a chafed wire of 5.6 Ω; one of 0.06 Ω is nobody's accessory."""
    sheet = sheet_of(SPLICED, places="b+: {}, f: {}, x: {}, b-: {}")
    behind_the_fuse = "OL" if named else ohms  # which a dead short has blown
    items = tuple(reading_of(sheet, "on", "ohms", red, "b-", text) for red, text in (("x", ohms), ("f", ohms), ("b+", behind_the_fuse)))
    found = isolate(Workup(sheet), items)
    undrawn = sum(s.probability for s in found.suspects if "draws current" in s.words)
    assert (undrawn > 0.2) is not named
    assert (sum(p for part, p in found.parts.items() if part) > 0.95) is named  # W1, or R1 shorted
