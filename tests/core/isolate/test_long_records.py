"""Records of many readings: what may be beyond one fault is the same in blocks, and the effort is bounded."""

from __future__ import annotations

import numpy as np
import pytest

from pondrel.core.circuit.fault import Fault
from pondrel.core.circuit.measure import measure
from pondrel.core.isolate import Workup, isolate, update
from pondrel.core.isolate.believe import beyond as beyond_one

from ...circuits import reading_of


def shown(sheet, tests, *faults: Fault):
    found = []
    for t in tests:
        text = measure(sheet, t.state, t.instrument, t.red, t.black, faults).text
        value = "OL" if text == "OL" else text.partition(" ")[0] + text.partition(" ")[2].rstrip("VΩA")
        found.append(reading_of(sheet, t.state, t.instrument, t.red, t.black, value))
    return tuple(found)


def test_what_comes_and_goes_is_weighed_in_blocks_as_at_once(demo_workups, monkeypatch):
    """A ground that is bad at some readings and good at others, looked at curve by curve and all together."""
    sheet = demo_workups["step_lights"].sheet
    tests = [t for t in demo_workups["step_lights"].on_offer if t.instrument == "volts" and t.black == sheet.minus][:8]
    bad = Fault("G3", "high_resistance", 3.0)
    items = (*shown(sheet, tests[:4], bad), *shown(sheet, tests[4:]), *shown(sheet, tests[:2]))

    def found() -> dict:
        belief = update(Workup(sheet), items)
        return {b.words: b.log_joint for b in beyond_one.beyond(belief) if b.kind == "sometimes"}

    at_once = found()
    monkeypatch.setattr(beyond_one, "_SPOTS_AT_ONCE", 1)
    in_blocks = found()
    assert len(at_once) > 5 and set(in_blocks) == set(at_once)
    assert [in_blocks[words] for words in at_once] == pytest.approx(list(at_once.values()), abs=1e-6)


def test_the_more_readings_the_fewer_pairs_of_faults_are_looked_at():
    places = np.arange(5.0), np.arange(13.0)
    pairs = [(n, n + 1, *places) for n in range(120)]

    def count(readings: int) -> int:
        return len(beyond_one._as_many_as_may_be(pairs, readings))

    assert count(8) == count(100) == 120
    assert 60 > count(300) > count(600) >= 12 and count(100_000) == 12


def test_hundreds_of_readings_name_one_fault_and_go_on_quickly(demo_workups):
    """Every test three times over, by the meter of a vehicle with one bad ground: named, proved, nothing beyond it looked for."""
    sheet = demo_workups["step_lights"].sheet
    tests = [t for t in demo_workups["step_lights"].on_offer if t.instrument == "volts"]
    items = shown(sheet, (tests * 300)[:300], Fault("G3", "high_resistance", 1.5))
    found = isolate(Workup(sheet), items)
    assert found.standing.target == ("G3",) and found.standing.ready
    assert found.assumed.startswith("One lasting fault at most") and not found.misfits
