"""What each explanation would draw, beside what was captured."""

import numpy as np
import pytest

from pondrel.core.circuit.fault import parse_fault
from pondrel.core.circuit.waveform import followed
from pondrel.core.evidence.line import parse_line
from pondrel.core.isolate import Explanation, Probes, course_of, explanations, isolate
from pondrel.core.scope.readings import SCOPE_READS, level_of
from pondrel.core.wave import Capture, Channel
from pondrel.core.wave.measure import measures_of

STATE = "cold and half full"
AT = Probes(STATE, "ivr.out", "batt-")


@pytest.fixture(scope="module")
def gauges(demo_workups):
    return demo_workups["dash_gauges"]


def captured(sheet, fault: str):
    """Nine seconds of the regulator's output with a fault, by a scope that is 1 % off, and its numbers as readings."""
    course = followed(sheet, STATE, (parse_fault(sheet, fault),) if fault else ())
    volts = 1.01 * course.volts("ivr.out", "batt-", 12.0 + np.arange(9000) / 1000.0)
    own = Capture((Channel("out", "V", volts + np.random.default_rng(4).normal(0.0, 0.03, len(volts))),), 1e-3, 3.0)
    numbers = measures_of(own, own.channels[0])
    lines = [f"{STATE} {name} ivr.out batt- {level_of(numbers, name):.2f}" for name in SCOPE_READS]
    return own, numbers, tuple(parse_line(sheet, line, STATE)[0] for line in lines)


def beside(gauges, explanation, own, numbers):
    return course_of(gauges.sheet, AT, explanation, followed(gauges.sheet, STATE, explanation.faults), numbers, own)


def test_the_sound_course_fits_a_sound_capture_and_no_other(gauges):
    sound = Explanation("As it should be", None, ())
    own, numbers, _ = captured(gauges.sheet, "")
    fits = beside(gauges, sound, own, numbers)
    assert fits.fits and fits.misfit < 0.7 and fits.weighed["top"] == pytest.approx(level_of(fits.drawn, "top"), abs=0.05)
    own, numbers, _ = captured(gauges.sheet, "G30.high_resistance=13")
    poor = beside(gauges, sound, own, numbers)
    assert not poor.fits and poor.misfit > 2.0


def test_a_suspect_is_as_bad_as_the_capture_makes_it(gauges):
    own, numbers, items = captured(gauges.sheet, "G30.high_resistance=13")
    before = isolate(gauges, ())
    named = [one for one in explanations(gauges.sheet, isolate(gauges, items), isolate(gauges, items)) if one.faults]
    case = next(one for one in named if one.faults[0].part == "G30")
    assert case.share > 0.3 and case.faults[0].ohms == pytest.approx(13.0, rel=0.35)
    assert beside(gauges, case, own, numbers).fits
    # Without the capture's numbers nothing tells how bad it is; with them in the other isolation that severity is taken.
    plain = explanations(gauges.sheet, before, None)
    fitted = explanations(gauges.sheet, before, isolate(gauges, items))
    assert [one.says for one in plain] == [one.says for one in fitted] and plain[0].share is None and len(plain) <= 4
    ohms = {one.faults[0].part: one.faults[0].ohms for one in fitted if one.faults}
    assert ohms["G30"] == pytest.approx(13.0, rel=0.35)
    assert next(one.faults[0].ohms for one in plain if one.faults and one.faults[0].part == "G30") > 100.0


def test_without_an_isolation_there_is_the_sound_circuit(gauges):
    assert [one.faults for one in explanations(gauges.sheet, None, None)] == [()]
