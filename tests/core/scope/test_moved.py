"""At which mark a signal changed, over what, and when nobody can tell; what differs between two captures."""

from __future__ import annotations

import numpy as np
import pytest

from pondrel.core.scope.compare import differences, trigger_of
from pondrel.core.scope.moved import Mark, changes_at
from pondrel.core.wave import Capture, Channel
from pondrel.core.wave.measure import averages_of, measures_of

RATE = 1000.0
T = np.arange(30_000) / RATE


def watched(values, *marks):
    own = Capture((Channel("a", "V", np.asarray(values, dtype=float)),), 1.0 / RATE)
    return changes_at(own, own.channels[0], measures_of(own, own.channels[0]), [Mark(at, says) for at, says in marks])


def noise(sigma, seed=1):
    return np.random.default_rng(seed).normal(0.0, sigma, len(T))


def ticking(period, share):
    return np.where((T / period + 1e-9) % 1.0 < share, 12.4, 0.0)


def test_the_mark_at_which_an_average_of_pulses_changed_is_named():
    values = np.where(T < 12.0, ticking(2.3, 0.6), ticking(1.5, 0.4)) + noise(0.02)
    loom, case = watched(values, (6.0, "loom flexed"), (12.0, "case pressed"))
    assert not loom.changed and loom.says == "no change"
    assert case.changed and case.figure == "average"
    assert case.before == pytest.approx(0.6 * 12.4, abs=0.1) and case.after == pytest.approx(0.4 * 12.4, abs=0.1)
    assert "→" in case.says


@pytest.mark.parametrize(
    ("before", "behind", "figure"),
    [
        (5.0 + noise(0.01), 2.6 + noise(0.01), "average"),
        (5.0 + noise(0.01), 5.0 + noise(0.4, 2), "scatter"),
        (5.0 + 0.1 * np.sin(9 * T), 5.0 + 0.6 * np.sin(9 * T), "spread"),
    ],
)
def test_a_level_that_moves_a_noise_that_comes_and_a_tremble(before, behind, figure):
    (change,) = watched(np.where(T < 15.0, before, behind), (15.0, "seat moved"))
    assert change.changed and change.figure == figure


def test_nothing_changes_by_chance():
    for seed in range(30):
        r = np.random.default_rng(seed)
        marks = [(float(at), "x") for at in np.sort(r.uniform(2.0, 28.0, 4))]
        if np.diff([at for at, _ in marks]).min() < 1.0:
            continue
        for values in (5.0 + noise(0.05, seed), ticking(0.37, 0.5) + noise(0.05, seed), 0.2 * T / 30.0 * 0.0 + noise(1.0, seed)):
            assert not any(change.changed for change in watched(values, *marks)), seed


def test_two_marks_with_no_look_between_cannot_be_told_apart():
    values = np.where(T < 15.0, 5.0, 2.0) + noise(0.01)
    plug, loom = watched(values, (15.0, "plug pulled"), (15.003, "loom flexed"))
    assert plug.unclear and loom.unclear and not plug.changed
    assert "Nothing was looked at between this and 'loom flexed'" in plug.says and "one by one" in loom.says


def test_a_mark_at_the_very_end_is_not_judged():
    (change,) = watched(5.0 + noise(0.01), (29.999, "let go"))
    assert change.unclear and "too near to an end" in change.says


def measured(values):
    own = Capture((Channel("a", "V", np.asarray(values, dtype=float)),), 1.0 / RATE)
    return measures_of(own, own.channels[0])


def test_what_differs_between_two_captures_is_told_and_what_does_not_is_not():
    before, after = measured(ticking(2.3, 0.6) + noise(0.02)), measured(ticking(1.5, 0.4) + noise(0.02, 2))
    told = {one.name: one for one in differences(before, after)}
    assert set(told) == {"cycle_mean", "duty", "period"} and told["duty"].sentence == "Share of time on 60 % → 40 %."
    assert not differences(before, measured(ticking(2.3, 0.6) + noise(0.02, 3)))


def test_a_train_that_stops_and_a_level_with_drop_outs_are_told():
    steady = 5.0 + noise(0.01)
    gone = steady.copy()
    gone[9000:9050] = 0.0
    assert differences(measured(steady), measured(gone))[0].sentence == "Drop-outs: none before, 1 afterwards."
    assert differences(measured(ticking(0.5, 0.5)), measured(steady))[0].sentence == "It pulses only before."


def test_two_captures_are_laid_on_their_first_rise():
    late = np.roll(ticking(2.0, 0.5), 700)
    assert trigger_of(measured(late)) == pytest.approx(0.7, abs=2e-3) and trigger_of(measured(5.0 + noise(0.01))) is None


def test_the_average_of_each_pulse_is_what_a_slow_gauge_follows():
    points = averages_of(measured(np.where(T < 15.0, ticking(1.0, 0.6), ticking(1.0, 0.3))))
    assert points[2, 1] == pytest.approx(0.6 * 12.4, abs=0.05) and points[-2, 1] == pytest.approx(0.3 * 12.4, abs=0.05)
    assert len(averages_of(measured(5.0 + noise(0.01)))) == 0
