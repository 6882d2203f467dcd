"""States that mean something: what can be read with the battery off, or with the engine running, and who holds them."""

from __future__ import annotations

import pytest

from pondrel.core.base.errors import ReadingError, SheetError
from pondrel.core.circuit.read.sheet import parse_sheet
from pondrel.core.evidence.asked import Measurement
from pondrel.core.evidence.line import parse_line
from pondrel.core.evidence.safety import check_allowed, is_allowed
from pondrel.core.isolate.advise.effort import Situation, minutes_for
from pondrel.core.isolate.isolation import isolate
from pondrel.core.isolate.predict.workup import Workup

from ...circuits import STEP_LIGHT

TEXT = STEP_LIGHT.replace(
    "  idle: {S1: open}\n  lit:  {S1: closed}\n",
    "  idle: {engine: running, key: on}\n  parked: {battery: off}\n  lit:  {S1: closed, key: on, people: 2}\n",
)


@pytest.fixture(scope="module")
def workup():
    return Workup(parse_sheet(TEXT))


@pytest.mark.parametrize(
    ("line", "says"),
    [
        ("parked volts batt+ 12.4", "The battery is off in state parked: there are ohms to be read, and nothing else."),
        ("idle ohms lamp.feed g1 14", "The engine runs in state idle, and an ohmmeter wants the battery off"),
        ("parked see lamp dark", "The battery is off in state parked: nothing works there that could be seen."),
    ],
)
def test_what_a_state_does_not_let_be_done_is_refused_in_one_sentence(workup, line, says):
    item, _ = parse_line(workup.sheet, line, "lit")
    with pytest.raises(ReadingError, match=says):
        check_allowed(workup.sheet, item)


@pytest.mark.parametrize("line", ["parked ohms lamp.feed g1 14", "idle volts batt+ 14.1", "lit see lamp dim", "lit ohms lamp.feed g1 14"])
def test_what_it_lets_be_done_is_taken(workup, line):
    check_allowed(workup.sheet, parse_line(workup.sheet, line, "lit")[0])


def test_nothing_is_proposed_that_its_state_does_not_let_be_done(workup):
    offered = workup.offered
    assert offered and all(is_allowed(workup.sheet, test) for test in offered)
    assert {t.state for t in offered if t.dead} == {"parked", "lit"} and not [t for t in offered if t.state == "parked" and not t.dead]


def test_two_people_take_longer_and_the_step_says_so(workup):
    test = Measurement("lit", "volts", "lamp.feed", "batt-")
    alone = Workup(parse_sheet(TEXT.replace(", people: 2", "")))
    minutes = [minutes_for(each.sheet, test, Situation.of(each.sheet, ())) for each in (workup, alone)]
    assert minutes[0] == pytest.approx(minutes[1] + 2.0)
    step = next(s for advice in isolate(workup, ()).next for s in advice.steps if s.startswith("State lit"))
    assert "key on, 2 people" in step


@pytest.mark.parametrize(
    ("old", "new", "says"),
    [
        ("engine: running", "engine: warm", "states.idle.engine: must be stopped or running, got 'warm'"),
        ("battery: off", "battery: flat", "states.parked.battery: must be on or off, got 'flat'"),
        ("people: 2", "people: some", "must be a number of people from 1 to 4, got 'some'"),
        (
            "observe:",
            "codes: {P1: {at: lamp.feed, state: parked, below: 3}}\nobserve:",
            "the battery is off in state parked: no module sets a code there",
        ),
    ],
)
def test_a_meaning_that_is_none_is_named(old, new, says):
    with pytest.raises(SheetError, match=says):
        parse_sheet(TEXT.replace(old, new))


def test_a_part_of_such_a_name_is_that_part():
    sheet = parse_sheet(STEP_LIGHT.replace("S1", "key"))
    assert sheet.states["lit"].positions == {"key": "closed"} and sheet.states["lit"].key == ""
