"""What a place draws on a scope: followed until it is even, gone on with beyond that, and entered out of another state."""

from __future__ import annotations

import signal

import numpy as np
import pytest

from pondrel.core.base.errors import ReadingError
from pondrel.core.circuit.fault import parse_fault
from pondrel.core.circuit.measure import Leads, measure
from pondrel.core.circuit.read.sheet import parse_sheet
from pondrel.core.circuit.transient import transient
from pondrel.core.circuit.waveform import followed
from pondrel.demo.load import SHEETS


@pytest.fixture(scope="module")
def gauges():
    return parse_sheet((SHEETS / "dash_gauges.yaml").read_text(encoding="utf-8"))


@pytest.mark.parametrize("fault", ["", "G30.high_resistance=13"])
def test_the_average_of_what_pulses_is_what_a_voltmeter_shows(gauges, fault):
    faults = (parse_fault(gauges, fault),) if fault else ()
    course = followed(gauges, "warm and full", faults)
    rises = course.rises("ivr.out", "batt-")
    times = np.linspace(rises[0], rises[-1], 50_000)
    shown = measure(gauges, "warm and full", "volts", "ivr.out", "batt-", faults, Leads(0.0, True))
    assert course.volts("ivr.out", "batt-", times).mean() == pytest.approx(shown.exact, rel=0.02)


def test_beyond_what_was_followed_it_goes_on_evenly(gauges):
    course = followed(gauges, "warm and full")
    times = 5000.0 + np.arange(40_000) / 1000.0
    volts = course.volts("ivr.out", "batt-", times)
    places = np.flatnonzero((volts[1:] > 6.0) & (volts[:-1] <= 6.0))
    assert len(places) > 15 and np.diff(places).max() < 1.1 * np.diff(places).min()


def test_what_settles_stays_and_comes_out_of_the_state_before(gauges):
    course = followed(gauges, "cold and half full", before="off")
    assert course.volts("s1.out", "batt-", np.array([0.0]))[0] == pytest.approx(0.0, abs=0.1)
    assert course.volts("s1.out", "batt-", np.array([10.0, 1e6])) == pytest.approx([12.6, 12.6], abs=0.3)
    assert len(followed(gauges, "off").rises("ivr.out", "batt-")) == 0
    with pytest.raises(ReadingError):
        followed(gauges, "flying")


def test_a_contact_that_moves_right_before_the_end_does_not_hold_it_up(gauges):
    """At whatever part of the finest step before the end, or before the next state."""

    def stuck(*_):
        raise AssertionError("it goes round and round")

    finest, steps = 5e-4, ((0.0, "cold and half full"),)
    opens = next(time for time, says in transient(gauges, steps, 24.0, finest=finest).events if "opens" in says)
    before = signal.signal(signal.SIGALRM, stuck)
    signal.alarm(60)
    try:
        for part in np.arange(-2.0, 2.0, 0.1):
            until = opens + part * finest
            assert transient(gauges, steps, until, finest=finest).complete
            ended = transient(gauges, (*steps, (until, "off")), until + 1.0, finest=finest)
            assert ended.complete and ended.volts["ivr.out"][-1] == pytest.approx(0.0, abs=0.01)
    finally:
        signal.alarm(0)
        signal.signal(signal.SIGALRM, before)
