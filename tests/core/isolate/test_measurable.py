"""Which measurements are weighed in which state."""

from __future__ import annotations

import pytest

from pondrel.core.evidence.asked import Measurement
from pondrel.core.isolate.advise.effort import SCOPE, Situation, minutes_for
from pondrel.core.isolate.predict.measurable import available_tests


def test_what_nobody_can_hold_is_read_with_a_scope_and_setting_that_up_takes_its_time(demo_sheets):
    bus = demo_sheets["two_wire_bus"]
    assert bus.passing == {"dash dominant", "door dominant", "ramp dominant"}
    for test in available_tests(bus):
        assert (test.instrument == "scope") == (test.state in bus.passing)
    quiet, loud = Measurement("recessive", "volts", "diag.high", "batt-"), Measurement("dash dominant", "scope", "diag.high", "batt-")
    there = Situation(state="ramp dominant")
    assert minutes_for(bus, loud, Situation()) == pytest.approx(minutes_for(bus, quiet, Situation()) + SCOPE)
    assert minutes_for(bus, loud, there) == pytest.approx(minutes_for(bus, loud, Situation()) - SCOPE)
