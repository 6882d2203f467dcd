"""Waking a module by taking its supply away: how long, for how long it helps, and where it is refused."""

from __future__ import annotations

import math
import random
from itertools import pairwise

import pytest

from pondrel.core.module.moving import LockedError
from pondrel.core.module.roster import Module, Speaks
from pondrel.core.module.roster.resets import Resets
from pondrel.core.remedy.reset.allowed import check_try, hazards_of_try, refused_as_habit
from pondrel.core.remedy.reset.holding import Span, holding_of
from pondrel.core.remedy.reset.off_time import CANDIDATES, ENOUGH, ResetTry, off_time_of


def tried(*tries: tuple[float, bool]) -> list[ResetTry]:
    return [ResetTry(seconds, 3.0 if works else None, works) for seconds, works in tries]


def test_before_any_try_nothing_is_enough_and_the_first_lies_where_practice_has_it():
    found = off_time_of([])
    assert found.enough is None and found.next == 30.0 and found.never == pytest.approx(0.1)
    assert list(found.chances) == sorted(found.chances)  # longer never helps less
    assert off_time_of([], 5.0).next == 15.0  # what the roster says moves it


def test_one_good_try_is_not_enough_at_that_time_and_three_are():
    assert off_time_of(tried((20.0, True))).enough == 30.0
    found = off_time_of(tried(*[(20.0, True)] * 3))
    assert found.enough == 20.0 and found.good == 3 and found.wakes_s == 3.0
    chances = dict(zip(CANDIDATES, found.chances, strict=True))
    assert chances[20.0] >= ENOUGH > chances[15.0]


def test_what_failed_is_not_called_enough_because_of_what_is_shorter():
    found = off_time_of(tried((5.0, False), (10.0, False), (20.0, True), (20.0, True)))
    assert found.enough == 30.0 and found.next == 15.0  # between what failed and what helped


def test_a_module_that_long_times_do_not_wake_is_not_woken_so():
    found = off_time_of(tried((60.0, False), (90.0, False), (180.0, False)))
    assert found.never > 0.8 and found.enough is None
    assert found.next == 300.0  # and if anybody tries on, then longer


def test_a_time_beyond_the_grid_is_taken_as_its_end():
    assert off_time_of(tried((1e6, False))).never > off_time_of([]).never


def test_modules_with_a_hard_limit_of_their_own_are_found_out_in_few_tries():
    """A world without this code's own law: each module wakes just from its own time on, drawn evenly over the logarithm from 3 to 80 s."""
    draw = random.Random(11)
    counts, wrong = [], 0
    for _ in range(60):
        needs = math.exp(draw.uniform(math.log(3.0), math.log(80.0)))
        tries: list[ResetTry] = []
        found = off_time_of(tries)
        while (found.enough is None or found.good < 3) and len(tries) < 20:
            seconds = found.next if found.enough is None else found.enough
            tries.append(ResetTry(seconds, None, seconds >= needs))
            found = off_time_of(tries)
        counts.append(len(tries))
        wrong += found.enough is None or found.enough < needs
    assert wrong == 0 and sorted(counts)[54] <= 9, (wrong, sorted(counts))  # nine of ten in at most nine tries


def test_how_long_it_holds_is_unknown_until_it_has_hung_again():
    held = holding_of([Span(2.0, False)])
    assert held.middle is None and held.cure_days is None and not held.cured
    assert held.says == "It has held for 2 days so far: nobody knows yet how often it hangs."
    assert holding_of([]).says == ""


def test_the_days_between_two_times_have_a_middle_a_range_and_a_year():
    held = holding_of([Span(4.0, True), Span(9.0, True)])
    assert held.low < held.middle < held.high
    assert held.middle == pytest.approx(6.0, abs=0.1)  # 13 days over the median of Gamma(2.5)
    assert held.times_a_year == pytest.approx(365.25 / held.middle)
    assert "about 6 days from one time to the next" in held.says and "would count as a cure" in held.says


def test_two_good_weeks_are_no_cure_of_what_hung_twice_in_thirteen_days_and_two_months_are():
    spans = [Span(4.0, True), Span(9.0, True)]
    assert not holding_of([*spans, Span(14.0, False)]).cured
    assert holding_of([*spans, Span(60.0, False)]).cured
    # half beforehand; uncured, d quiet days have the chance (13 / (13 + d)) ** 2.5
    days = holding_of(spans).cure_days
    uncured = (13.0 / (13.0 + days)) ** 2.5
    assert 0.5 / (0.5 + 0.5 * uncured) == pytest.approx(0.95)


def module(title: str, acts_on: str = "") -> Module:
    return Module("m", title, Speaks.UDS, 0x700, 0x708, resets=Resets(acts_on=acts_on))


@pytest.mark.parametrize(
    ("title", "acts_on", "function"),
    [
        ("Brake module", "", "brakes"),
        ("Airbag module", "", "airbags and belts"),
        ("Column lock module", "a steering lock that could engage", "steering"),
        ("Shelf light module", "", ""),
    ],
)
def test_what_acts_while_the_vehicle_can_move_is_never_lived_with(title, acts_on, function):
    says = refused_as_habit(module(title, acts_on))
    assert (function in says) if function else not says


def test_a_try_standing_is_made_with_its_cautions_and_never_at_airbags():
    assert hazards_of_try(module("Column lock module", "a steering lock that could engage")) == ("steering_brakes",)
    assert hazards_of_try(module("Shelf light module")) == ()
    check_try(module("Brake module"))
    with pytest.raises(LockedError, match="not taken away for a try"):
        check_try(module("Airbag module"))


def test_candidates_are_what_a_person_counts():
    assert CANDIDATES[0] >= 1.0 and all(later > one for one, later in pairwise(CANDIDATES))
