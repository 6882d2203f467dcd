"""The order of a renewal: what every module has, what the brakes add, what a roster wants; what a step is accepted by."""

from __future__ import annotations

import pytest

from pondrel.core.module.roster import Module, Speaks, parse_roster
from pondrel.core.module.roster.renewal import RightPart, TeachStep
from pondrel.core.renewal.plan import (
    FITTED,
    NO_CODE,
    RESTART,
    RenewalError,
    Sort,
    accepts_part,
    accepts_word,
    check_turn,
    plan_of,
    value_accepted,
)
from tests.served import roster_named

BRAKES = roster_named("ferrow").module("brakes")


def names(module: Module) -> list[str]:
    return [step.name for step in plan_of(module)]


def test_any_module_is_read_out_before_and_proved_after_it():
    assert names(Module("x", "Shelf module", Speaks.UDS, 1, 2)) == [
        "old_read", "right_part", "kept", "fitted", "cleared", "restart", "no_code", "functions",
    ]  # fmt: skip


def test_brakes_are_seen_to_between_the_fitting_and_the_first_metre():
    order = names(BRAKES)
    assert order.index(FITTED) < order.index("pedal") < order.index("brakes_bled") < order.index("yard") < order.index(RESTART)
    # a module that is called so has them, whatever its roster says
    assert "pedal" in names(Module("x", "Anti-lock brake unit", Speaks.UDS, 1, 2))


def test_each_step_knows_what_it_is_accepted_by():
    sorts = {step.name: step.sort for step in plan_of(BRAKES)}
    assert (sorts["coding"], sorts["straight"], sorts["teach"], sorts["yard"], sorts["pedal"], sorts[NO_CODE]) == (
        Sort.AUTHORITY, Sort.DATUM, Sort.ROUTINE, Sort.DRIVE, Sort.CHECK, Sort.CODES,
    )  # fmt: skip
    coding = next(step for step in plan_of(BRAKES) if step.name == "coding")
    assert "maker's authority" in coding.detail and coding.wanted == "who did it, and when"


def test_nothing_is_done_before_its_turn():
    plan = plan_of(BRAKES)
    done = [step.name for step in plan[: names(BRAKES).index("pedal")]]
    check_turn(plan, done, "pedal")
    check_turn(plan, done, FITTED)  # what is done may be done again
    with pytest.raises(RenewalError, match="Firm pedal: that comes first"):
        check_turn(plan, done, "yard")
    with pytest.raises(RenewalError, match="no step"):
        check_turn(plan, done, "nonsense")


@pytest.mark.parametrize("number", ["BT-4410-C", "bt 4410 d", " BT4410C "])
def test_a_number_that_fits_is_taken_however_it_is_spaced(number):
    assert accepts_part(BRAKES.renewal.part, number) == " ".join(number.split())


@pytest.mark.parametrize(("number", "says"), [("BT-4410-B", "not one that fits: BT-4410-C"), ("", "missing"), ("--", "missing")])
def test_one_that_does_not_fit_is_not_fitted(number, says):
    with pytest.raises(RenewalError, match=says):
        accepts_part(BRAKES.renewal.part, number)


def test_without_a_list_any_number_is_written_down():
    assert accepts_part(RightPart(), "K 17") == "K 17"


def test_a_value_is_accepted_between_its_limits_and_says_so():
    straight, angle = BRAKES.renewal.steps["straight"], BRAKES.datum("steering")
    assert value_accepted(straight, angle, 1.5, "1.5 °") == (True, "Steering angle 1.5 °")
    assert value_accepted(straight, angle, -7.0, "-7.0 °") == (False, "Steering angle -7.0 °, should be -2 to 2 °")
    assert value_accepted(straight, angle, None, "–") == (False, "Steering angle is not told.")
    free = TeachStep("free", "Pedal free", datum="pedal", word="free")
    assert value_accepted(free, BRAKES.datum("pedal"), 0.0, "free")[0]
    assert value_accepted(free, BRAKES.datum("pedal"), 1.0, "pressed") == (False, "Brake pedal: pressed, should be free")


def test_a_tick_that_wants_words_gets_them():
    kept = next(step for step in plan_of(BRAKES) if step.name == "kept")
    assert accepts_word(kept, "shelf 4") == "shelf 4"
    with pytest.raises(RenewalError, match="write down where it lies"):
        accepts_word(kept, "")


ONE = """
format: pondrel-modules/1
title: One
modules:
  m:
    asks: 0x710
    answers: 0x718
    data: {speed: {id: 1}, number: {id: 2, size: 12, ascii: true}}
    routines: {teach: {id: 0x310, results: {1: {says: done, good: true}}}}
    renewal: {part: {datum: number, fits: [A 1]}, steps: {one: %s}}
"""


@pytest.mark.parametrize(
    ("step", "flaw"),
    [
        ("{routine: tech}", "there is no routine 'tech'"),
        ("{datum: sped, least: 0}", "there is no datum 'sped'"),
        ("{datum: speed}", "must say how the datum has to be"),
        ("{routine: teach, authority: true}", "is accepted by one thing"),
        ("{drive: {metres: 10}}", "must name the datum that tells its pace"),
        ("{drive: {speed: speed}}", "must say what is driven"),
        ("{drive: {speed: speed, left: 1}}", "turns need steering"),
        ("{drive: {speed: speed, metres: 10, fastest: 200}}", "must be at most 60"),
        ("{drive: {speed: sped, metres: 10}}", "there is no datum 'sped'"),
        ("{sensitivity: {least: 4, most: 4}}", "4 is not below 4"),
        ("{hazards: [dragons]}", "no hazard that is known here"),
        ("{nonsense: 1}", "unknown key"),
    ],
)
def test_what_is_wrong_with_a_step_is_named(step, flaw):
    with pytest.raises(Exception, match=r"modules\.m\.renewal") as caught:
        parse_roster(ONE % step)
    assert flaw in str(caught.value)


def test_a_text_of_a_module_goes_there_and_back():
    number = parse_roster(ONE % "{routine: teach}").module("m").datum("number")
    told = number.text_bytes("BT-4410-C")
    assert len(told) == 12 and number.says_in(told) == "BT-4410-C" and number.value_in(told) is None
    assert number.says_in(b"\x00\x01\xff") == "–"  # nothing that a screen can show
    assert number.says_in(number.text_bytes("far too long for its bytes")) == "far too long"
