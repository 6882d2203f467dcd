"""Measurements of a channel: levels, times, gaps, and what does not apply."""

from __future__ import annotations

import numpy as np
import pytest

from pondrel.core.wave import Capture, Channel
from pondrel.core.wave.measure import QUANTITIES, measures_json, measures_of

RATE = 10_000.0
T = np.arange(50_000) / RATE


def measured(values, rate: float = RATE, **channel):
    own = Capture((Channel("signal", "V", np.asarray(values), **channel),), 1.0 / rate)
    return measures_of(own, own.channels[0])


def noise(sigma: float, seed: int = 1):
    return np.random.default_rng(seed).normal(0.0, sigma, len(T))


def square(hertz: float = 20.0, duty: float = 0.3, low: float = 0.0, high: float = 12.0):
    return np.where((T * hertz + 1e-9) % 1.0 < duty, high, low)


@pytest.mark.parametrize("sigma", [0.0, 0.01, 0.2])
def test_a_pulsed_level_has_levels_period_and_share_whatever_the_noise(sigma):
    own = measured(square() + noise(sigma))
    assert own.top.value == pytest.approx(12.0, abs=0.02) and own.base.value == pytest.approx(0.0, abs=0.02)
    assert own.period.value == pytest.approx(0.05, rel=1e-5) and own.duty.value == pytest.approx(0.3, abs=1e-3)
    assert own.pulses == 99 and own.dropouts == () and own.overshoot.value == pytest.approx(0.0, abs=0.01)
    assert own.noise.value == pytest.approx(sigma, rel=0.1, abs=1e-9)


def test_a_few_computed_values_are_no_rounding_even_where_they_repeat_to_ten_digits():
    values = square() + 1e-10 * (np.arange(len(T)) % 5)
    values[777] = 4.2  # one sample on an edge
    own = measured(values)
    assert own.top.value == pytest.approx(12.0, abs=1e-6) and own.base.value == pytest.approx(0.0, abs=1e-6)


def test_a_rare_far_spike_moves_neither_level():
    values = square()
    values[::501] += 60.0
    own = measured(values)
    assert own.top.value == pytest.approx(12.0, abs=0.05) and own.base.value == pytest.approx(0.0, abs=0.05)


def test_a_sine_and_a_triangle_have_their_ends_for_levels():
    for values in (1.0 + 3.0 * np.sin(2 * np.pi * 50 * T), -2.0 + 12.0 * np.abs((T * 10) % 1.0 - 0.5)):
        own = measured(values)
        assert own.top.value == pytest.approx(4.0, abs=0.02) and own.base.value == pytest.approx(-2.0, abs=0.02)


@pytest.mark.parametrize("values", [np.full(len(T), 5.0), 12.6 + noise(0.01), 12.6 + 0.01 * (noise(1.0) > 0.0)])
def test_a_steady_level_has_no_two_levels_nor_pulses(values):
    own = measured(values)
    assert own.period is None and own.duty is None and own.frequency is None and own.dropouts == ()
    if own.levels is not None:
        assert own.levels.amplitude < 0.02


def test_noise_about_the_middle_makes_no_edges():
    slow = 6.0 + 6.0 * np.sin(2 * np.pi * 0.4 * T) + noise(0.3)
    assert measured(slow).pulses in (1, 2)


def test_pulses_that_are_missing_are_told_with_their_time():
    values = square()
    values[(T >= 2.0) & (T < 2.1)] = 0.0
    own = measured(values)
    assert own.dropouts[0] == pytest.approx((2.0, 2.1), abs=2e-4) and len(own.dropouts) == 1 and own.gaps.missing == 2
    assert own.period.value == pytest.approx(0.05, rel=1e-4)


def test_a_train_that_ends_early_is_gone_from_there_on():
    values = square()
    values[T >= 4.0] = 0.0
    ((begin, end),) = measured(values).dropouts
    assert begin == pytest.approx(4.0, abs=1e-3) and end == pytest.approx(5.0, abs=1e-3)


def test_a_gap_in_every_turn_is_a_mark_and_no_drop_out():
    teeth = (T * 300.0) % 60.0
    own = measured(np.where(teeth < 58.0, np.sin(2 * np.pi * teeth), 0.0))
    assert own.dropouts == () and own.gaps.every == 58 and own.gaps.left_out == 2


def test_a_level_that_breaks_away_is_told_from_when_to_when():
    values = 5.0 + noise(0.005)
    values[20_000:20_040] = 0.1
    values[40_000:40_900] = 0.3
    found = measured(values).dropouts
    assert np.array(found) == pytest.approx(np.array([(2.0, 2.004), (4.0, 4.09)]), abs=2e-4)


def test_a_level_that_begins_late_has_not_broken_away():
    values = np.full(len(T), 12.4) + noise(0.02)
    values[:3000] = 0.02
    assert measured(values).dropouts == ()
    assert measured(values[::-1].copy()).dropouts == ()
    assert measured(np.where(T > 0.42, 12.4, 0.02) + noise(0.02)).dropouts == ()
    values[30_000:30_500] = 0.02
    assert len(measured(values).dropouts) == 1


def test_a_sweep_that_breaks_away_is_told_and_a_clean_one_is_not():
    sweep = np.linspace(0.5, 4.5, len(T)) + noise(0.003)
    assert measured(sweep).dropouts == ()
    sweep[26_000:26_030] = 0.0
    ((begin, end),) = measured(sweep).dropouts
    assert begin == pytest.approx(2.6, abs=1e-3) and end == pytest.approx(2.603, abs=1e-3)


def test_uncertainties_shrink_with_the_rate_and_grow_with_rounding():
    coarse, fine = measured(square(), RATE), measured(np.repeat(square(), 10), 10 * RATE)
    assert fine.period.u < coarse.period.u and fine.rise.value < coarse.rise.value
    rounded = measured(np.round((5.0 + noise(0.3)) / 0.5) * 0.5)
    assert rounded.mean.u > measured(5.0 + noise(0.3)).mean.u


def test_whole_numbers_with_a_gain_measure_as_the_volts_they_stand_for():
    volts = square() + noise(0.05)
    for gain, offset in ((0.01, -1.0), (-0.01, 3.0)):
        counts = np.round((volts - offset) / gain).astype(np.int16)
        own, plain = measured(counts, gain=gain, offset=offset), measured(volts)
        for name, quantity in QUANTITIES.items():
            a, b = quantity.of(own), quantity.of(plain)
            assert (a is None) == (b is None), name
            if a is not None:
                assert a.value == pytest.approx(b.value, rel=2e-3, abs=0.011), name


def test_what_is_written_has_exactly_the_keys_of_the_contract_and_null_where_nothing_applies():
    own = Capture((Channel("a", "", np.full(100, 5.0)),), 1e-3)
    told = measures_json(own, measures_of(own, own.channels[0]))
    assert list(told) == [
        "name", "unit", "samples", "rate_hz", "minimum", "maximum", "mean", "rms", "top", "base", "frequency_hz", "period_s", "duty",
        "rise_s", "fall_s", "overshoot", "pulses", "dropouts",
    ]  # fmt: skip
    assert told["top"] is told["period_s"] is told["rise_s"] is told["pulses"] is told["unit"] is None and told["dropouts"] == []


def test_a_table_read_by_columns_measures_as_an_array_of_its_own():
    table = np.stack([T, square()], axis=1)
    own = Capture((Channel("a", "V", table[:, 1]),), 1.0 / RATE)
    assert measures_of(own, own.channels[0]).duty.value == pytest.approx(0.3, abs=1e-3)
