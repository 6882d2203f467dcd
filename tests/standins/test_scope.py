"""The stand-in scope: what it looks back on is what the engine follows, goes on while one watches, and changes when the vehicle is
changed."""

from __future__ import annotations

import numpy as np
import pytest

from pondrel.core.base.errors import ReadingError
from pondrel.core.circuit.fault import parse_fault
from pondrel.core.circuit.read.sheet import parse_sheet
from pondrel.demo.load import SHEETS
from pondrel.standins.meter import Meter
from pondrel.standins.scope import Scope
from pondrel.standins.scpi import Scpi
from pondrel.standins.timeline import Timeline
from pondrel.standins.world import World


class Clock:
    def __init__(self):
        self.now = 1000.0

    def __call__(self):
        return self.now


@pytest.fixture(scope="module")
def gauges():
    return parse_sheet((SHEETS / "dash_gauges.yaml").read_text(encoding="utf-8"))


@pytest.fixture
def clock():
    return Clock()


def scope_over(sheet, clock, *faults):
    world = World(sheet, tuple(parse_fault(sheet, text) for text in faults))
    world.turn("warm and full")
    return Scope(world, Timeline(world, clock))


def looked(scope, clock, seconds, points=4000):
    scope.sweep(seconds, points)
    scope.acquire()
    clock.now += seconds
    scope.acquire()
    return scope.acquired["CH1"]


def test_a_pulsing_regulator_pulses_on_the_scope_and_averages_what_its_gauges_want(gauges, clock):
    scope = scope_over(gauges, clock)
    scope.put("ch1", "ivr.out")
    looked(scope, clock, 40.0)
    seen = looked(scope, clock, 40.0, 20_000)
    assert seen.min() == pytest.approx(0.0, abs=0.1) and seen.max() == pytest.approx(12.6, abs=0.2)
    assert seen.mean() == pytest.approx(5.0, rel=0.05)


def test_it_goes_on_beyond_what_was_computed_without_a_seam(gauges, clock):
    scope = scope_over(gauges, clock)
    scope.put("CH1", "ivr.out")
    looked(scope, clock, 1.0)
    clock.now += 300.0
    seen = looked(scope, clock, 20.0, 20_000)
    rises = np.flatnonzero((seen[1:] > 6.0) & (seen[:-1] <= 6.0))
    periods = np.diff(rises)
    assert len(periods) > 8 and periods.max() < 1.5 * np.median(periods)


def test_a_state_that_is_changed_shows_from_then_on(gauges, clock):
    scope = scope_over(gauges, clock)
    scope.put("CH1", "s1.out")
    looked(scope, clock, 2.0)
    scope.world.turn("off")
    scope.sweep(2.0, 2000)
    scope.acquire()
    clock.now += 1.0
    scope.acquire()
    seen = scope.acquired["CH1"]
    assert seen[:900].mean() == pytest.approx(12.6, abs=0.3) and abs(seen[1100:]).max() < 0.2


def test_rounding_and_noise_are_those_of_twelve_bits(gauges, clock):
    scope = scope_over(gauges, clock)
    scope.put("CH1", "batt+")
    seen = looked(scope, clock, 1.0, 20_000)
    steps = np.diff(np.unique(seen))
    assert steps.min() == pytest.approx(2 * 20.0 / 4096, rel=1e-6) and 0.003 < seen.std() < 0.02


def test_what_cannot_be_is_refused_and_leads_may_be_taken_off(gauges, clock):
    scope = scope_over(gauges, clock)
    for wrong in (
        lambda: scope.put("CH7", "batt+"),
        lambda: scope.put("CH1", "moon"),
        lambda: scope.sweep(0.0),
        lambda: scope.sweep(1.0, 1e9),
    ):
        with pytest.raises(ReadingError):
            wrong()
    scope.put("CH1", "")
    assert abs(looked(scope, clock, 0.1)).max() < 0.01


def test_the_language_gives_numbers_or_a_block_of_definite_length(gauges, clock):
    scope = scope_over(gauges, clock)
    scpi = Scpi(Meter(scope.world), scope)
    for command in ('ROUT:SCOP CH1,"batt+",""', "SENS:SWE:TIME 0.01", "SWE:POIN 100", "TRAC:ACQ"):
        assert scpi.answer(command) is None
    assert not scpi.errors and scpi.answer("SWE:POIN?") == "100" and scpi.answer("TRAC:CAT?") == '"CH1","CH2"'
    numbers = [float(text) for text in scpi.answer("TRAC? CH1").split(",")]
    scpi.answer("FORM REAL,32")
    block = scpi.answer("TRACE:DATA? CH1").encode("latin-1")
    assert block[:5] == b"#3400" and np.frombuffer(block[5:], ">f4") == pytest.approx(numbers, rel=1e-5)
    scpi.answer("FORM:BORD SWAP")
    assert np.frombuffer(scpi.answer("TRAC? CH1").encode("latin-1")[5:], "<f4") == pytest.approx(numbers, rel=1e-5)
    for wrong, number in (
        ("TRAC? CH9", -224),
        ("SWE:TIME soon", -104),
        ("FORM PACKED", -224),
        ('ROUT:SCOP CH1,"moon"', -224),
        ("SWE:POIN 1", -224),
    ):
        assert scpi.answer(wrong) is None and scpi.errors.pop().startswith(str(number)), wrong
