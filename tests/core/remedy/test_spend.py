"""Money over the years, against a simulation that draws lives one by one and knows nothing of renewal equations."""

from __future__ import annotations

import numpy as np
import pytest

from pondrel.core.remedy.life import EARLY_YEARS, Life
from pondrel.core.remedy.spend import Stream, outlook

VALVE = Life(8.0, 2.5, 0.06)
CASES = {
    "one part, warranty": (104.0, [Stream((VALVE,), (VALVE,), 180.0, 80.0, 0.0, 24.0)], 3.0, (0.0, 0.0)),
    "three new ones": (280.0, [Stream((VALVE,), (VALVE,), 154.0, 50.0, 24.0, 24.0)] * 3, 3.0, (0.0, 0.0)),
    "old ones beside it, perhaps the wrong part": (
        100.0,
        [Stream((VALVE.aged(9.0),), (VALVE,), 180.0, 80.0, 0.0, 24.0)] * 3 + [Stream((VALVE,), (VALVE,), 180.0, 20.0, 24.0, 24.0)],
        5.0,
        (0.05, 60.0),
    ),
    "all whenever one fails": (432.0, [Stream((VALVE,) * 3 + (VALVE.aged(1.0),), (VALVE,) * 4, 432.0, 100.0, 24.0, 24.0)], 10.0, (0, 0)),
    "short lives at any age": (50.0, [Stream((Life(1.0, 1.0, 0.1),), (Life(1.0, 1.0, 0.1),), 60.0, 60.0)], 5.0, (0.0, 0.0)),
}
DRAWS = 60_000


def lived(rng: np.random.Generator, lives: tuple[Life, ...]) -> np.ndarray:
    """(DRAWS,) when the first of some parts fails: each worn out by a Weibull life from its age on, or early."""
    first = np.full(DRAWS, np.inf)
    for life in lives:
        age = life.age_years / life.median_years
        wear = (age**life.shape + rng.exponential(size=DRAWS) / np.log(2.0)) ** (1.0 / life.shape)
        years = (wear - age) * life.median_years
        early = rng.random(DRAWS) < life.early
        first = np.minimum(first, np.where(early, np.minimum(years, rng.exponential(EARLY_YEARS, size=DRAWS)), years))
    return first


def simulated(today, streams, years, again) -> tuple[float, float, float, float, float]:
    """Average, tenth and ninetieth percentile, visits, share of none."""
    rng = np.random.default_rng(20)
    wrong = rng.random(DRAWS) < again[0]
    money, visits = today + wrong * again[1], wrong.astype(float)
    for stream in streams:
        at, alive, first = np.zeros(DRAWS), np.ones(DRAWS, dtype=bool), True
        while alive.any():
            life = lived(rng, stream.first if first else stream.after)
            at += life
            alive &= at <= years
            months = stream.first_months if first else stream.months
            money += np.where(alive, np.where(life * 12.0 <= months, stream.covered, stream.visit), 0.0)
            visits += alive
            first = False
    return money.mean(), np.quantile(money, 0.1), np.quantile(money, 0.9), visits.mean(), (visits == 0).mean()


@pytest.mark.parametrize("name", CASES)
def test_money_and_visits_are_those_of_a_simulation(name):
    today, streams, years, again = CASES[name]
    found, (average, low, high, visits, none) = outlook(today, streams, years, again), simulated(today, streams, years, again)
    # Sixty thousand draws: four standard errors of the mean stay under one percent here; a quantile may jump by one visit's rounding.
    assert found.average == pytest.approx(average, rel=0.01)
    assert found.visits == pytest.approx(visits, rel=0.02, abs=0.004)
    assert found.none == pytest.approx(none, abs=0.01)
    assert found.low == pytest.approx(low, rel=0.02, abs=3.0) and found.high == pytest.approx(high, rel=0.02, abs=3.0)


def test_what_lasts_for_ever_costs_today_and_nothing_more():
    forever = Life(1e6, 2.5)
    found = outlook(99.0, [Stream((forever,), (forever,), 500.0, 500.0)], 5.0)
    assert (found.low, found.high) == pytest.approx((99.0, 99.0), abs=1.0) and found.average == pytest.approx(99.0, abs=1e-6)
    assert outlook(99.0, [], 5.0).average == 99.0


def test_an_old_part_fails_sooner_than_a_new_one_and_a_longer_horizon_costs_more():
    def average(age: float, years: float) -> float:
        return outlook(0.0, [Stream((VALVE.aged(age),), (VALVE,), 100.0, 100.0)], years).average

    assert average(9.0, 3.0) > average(4.0, 3.0) > average(1.0, 3.0)
    assert average(4.0, 1.0) < average(4.0, 3.0) < average(4.0, 5.0)


def test_half_of_new_parts_reach_the_median_and_those_that_fail_early_are_gone_with_age():
    assert Life(8.0, 2.5).chance_within(8.0) == pytest.approx(0.5)
    early = Life(8.0, 2.5, 0.2)
    assert early.chance_within(1.0) > 0.19 > Life(8.0, 2.5).chance_within(1.0)
    assert early.aged(1.0).early == 0.0 and early.aged(0.0).early == 0.2


@pytest.mark.parametrize(
    "wrong", [{"median_years": 0.0}, {"shape": -1.0}, {"early": 1.0}, {"age_years": -1.0}, {"median_years": float("inf")}]
)
def test_what_is_no_life_is_refused(wrong):
    with pytest.raises(ValueError, match="No life"):
        Life(**{"median_years": 8.0, "shape": 2.0, **wrong})
