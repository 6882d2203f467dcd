"""The complaint as evidence: what it says of faults, what it answers, and where it does not go with what was seen."""

from __future__ import annotations

import pytest

from pondrel.core.evidence.asked import Question
from pondrel.core.evidence.contradictions import answered, contradictions
from pondrel.core.evidence.line import parse_line
from pondrel.core.evidence.moving import parts_moved
from pondrel.core.isolate import isolate, touches


def items_of(sheet, *lines):
    return tuple(parse_line(sheet, line, next(iter(sheet.states)))[0] for line in lines)


def shares(workup, *lines):
    found = isolate(workup, items_of(workup.sheet, *lines))
    return found, found.parts


def test_what_the_customer_says_counts_but_less_than_what_was_seen(demo_workups):
    workup = demo_workups["tail_lift"]
    _, nothing = shares(workup)
    _, said = shares(workup, "raise said pump stopped")
    _, seen = shares(workup, "raise see pump stopped")
    assert nothing[None] > 3 * said[None] > 3 * seen[None]


def test_no_question_asks_what_the_complaint_has_answered(demo_workups):
    workup = demo_workups["tail_lift"]
    before, _ = shares(workup)
    asked = {a.test for a in before.next}
    assert Question("see", "pump", "raise") in asked
    after, _ = shares(workup, "raise said pump stopped", "raise said contactor silent")
    own = items_of(workup.sheet, "raise said pump stopped", "raise said contactor silent")
    assert answered(own) == {Question("see", "pump", "raise"), Question("see", "contactor", "raise")}
    assert not answered(own) & {a.test for a in after.next} and after.next


def test_a_part_renewed_in_vain_is_hardly_at_fault(demo_workups):
    """Strong: some twelve times less likely, where the weak word that it was renewed once takes off less than half."""
    workup = demo_workups["tail_lift"]
    base = ("raise said pump stopped", "raise said contactor silent")
    _, before = shares(workup, *base)
    _, vain = shares(workup, *base, "renewed K2 no help")
    _, old = shares(workup, *base, "history K2 replaced")
    _, helped = shares(workup, *base, "renewed K2 helped")
    assert vain["K2"] < before["K2"] / 8 and before["K2"] / 4 < old["K2"] < before["K2"] and helped["K2"] > 4 * before["K2"]


def test_what_comes_with_a_moving_door_speaks_for_what_lies_there(demo_workups):
    workup = demo_workups["step_lights"]
    assert set(parts_moved(workup.sheet, "door")) >= {"C12.3", "S1"} and parts_moved(workup.sheet, "steering") == ()
    base = ("open said front dark", "open said rear dark")
    _, before = shares(workup, *base)
    _, moved = shares(workup, *base, "during door")
    assert moved["C12.3"] / moved["F9"] > 2 * before["C12.3"] / before["F9"]
    _, other = shares(workup, *base, "during steering")  # nothing here is said to lie beside it
    assert other == pytest.approx(before, rel=1e-6)


def test_bumps_and_water_speak_for_joints_and_not_for_windings(demo_workups):
    workup = demo_workups["kneeling_valves"]
    base = ("kneel left said left valve still",)
    _, before = shares(workup, *base)
    _, wet = shares(workup, *base, "during wet", "during bumps")
    joints = [n for n, part in workup.sheet.parts.items() if part.kind.joint]
    assert sum(wet[n] for n in joints) / wet["Y1"] > 2 * sum(before[n] for n in joints) / before["Y1"]


def test_when_it_is_there_makes_no_sound_vehicle_likelier(demo_workups):
    workup = demo_workups["kneeling_valves"]
    _, before = shares(workup)
    _, hot = shares(workup, "during hot")
    assert hot[None] < before[None]  # what is hot speaks for windings, and for nothing wrong no more than before


def test_what_was_told_and_seen_otherwise_is_asked_about(demo_sheets):
    sheet = demo_sheets["tail_lift"]
    items = items_of(
        sheet, "raise said contactor silent", "raise see contactor clicks", "lower see contactor silent", "raise said pump stopped"
    )
    (one,) = contradictions(sheet, items)
    assert (one.told, one.seen) == (0, 1)
    assert one.says == "The complaint says that contactor is silent; 'clicks' was entered: which is it?"
    assert (
        contradictions(sheet, items_of(sheet, "raise said contactor silent", "raise see contactor clicks", "raise see contactor silent"))
        == ()
    )


def test_what_can_be_complained_of_is_offered_in_the_states_in_which_it_should_work(demo_workups):
    by_subject = {touch.subject: touch for touch in touches(demo_workups["tail_lift"])}
    assert by_subject["pump"].states == ("raise",) and by_subject["pump"].sound == "normal"
    assert by_subject["contactor"].outcomes == ("silent", "clicks") and {t.kind for t in by_subject.values()} == {"said"}
    assert all(touch.states for workup in demo_workups.values() for touch in touches(workup))
