"""How often a function is tried until it counts as cured, against drawing rates and tries one by one."""

from __future__ import annotations

import numpy as np
import pytest

from pondrel.core.base.written import EntryError
from pondrel.core.remedy.checks import CHECK, Facts, checks_for
from pondrel.core.remedy.tries import ENOUGH, MOST, cured_chance, rate_of, tries_needed


@pytest.mark.parametrize(("often", "tries"), [("", (4, 5)), ("", (3, 10)), ("sometimes", None), ("always", None), ("once", None)])
def test_the_chance_of_a_cure_is_that_of_drawn_vehicles(often, tries):
    rng, rate, good = np.random.default_rng(3), rate_of(often, tries), 3
    cured = rng.random(400_000) < 0.5
    share = rng.beta(rate.a, rate.b, size=len(cured))
    passes = cured | (rng.random(len(cured)) < (1.0 - share) ** good)
    assert cured_chance(rate, good) == pytest.approx(cured[passes].mean(), abs=0.004)  # four standard errors


def test_what_showed_less_often_is_tried_more_often():
    needed = [tries_needed(rate_of("", tries)) for tries in ((9, 10), (5, 10), (3, 10), (1, 10))]
    assert needed == sorted(needed) and needed[0] <= 3 and needed[-1] > 30
    for tries in ((9, 10), (3, 10)):
        rate = rate_of("", tries)
        assert cured_chance(rate, tries_needed(rate)) >= ENOUGH > cured_chance(rate, tries_needed(rate) - 1)
    assert tries_needed(rate_of("", (0, 1000))) == MOST


def test_two_good_tries_are_no_cure_of_what_comes_and_goes():
    assert cured_chance(rate_of("sometimes", None), 2) < 0.8
    assert cured_chance(rate_of("sometimes", None), 0) == pytest.approx(0.5)


@pytest.mark.parametrize(
    ("facts", "wanted"),
    [
        (Facts("coil", "rear corner sinks, air spring"), {"wiped", "holds"}),
        (Facts("sensor", "brake pedal lamp on"), {"pedal", "fluid", "brakes_bled", "lamps_out"}),
        (Facts("stator", "does not charge"), {"trend"}),
        (Facts("module", "silent"), {"taught", "restart"}),
        (Facts("lamp", "dim", codes=True), {"saved", "cleared", "window_fuel", "window_soak", "window_drive", "away"}),
        (Facts("coil", "a code for the lock-up"), {"saved", "cleared", "window_fuel", "window_soak", "window_drive", "away"}),
        (Facts("lamp", "dim"), set()),
        (Facts("lamp", "brake light dark"), set()),
        (Facts("module", "silent", way="board_repair"), {"functions", "restart"}),
        (Facts("component", "hangs"), {"functions"}),
    ],
)
def test_the_checks_follow_from_what_was_mended(facts, wanted):
    assert {check.name for check in checks_for(facts)} == wanted


def test_a_check_that_wants_a_condition_is_not_ticked_without_it():
    with pytest.raises(EntryError, match="the hours it stood"):
        CHECK.check({"check": "window_soak", "result": "done", "text": ""})
    assert CHECK.reads({"check": "window", "result": "done", "text": "half full, 8 h, 60 km/h"}).endswith("yes, half full, 8 h, 60 km/h")
