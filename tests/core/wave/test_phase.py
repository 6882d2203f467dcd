"""Phase between channels, against delays that were put in."""

from __future__ import annotations

import numpy as np
import pytest

from pondrel.core.wave import Capture, Channel
from pondrel.core.wave.measure import measures_of
from pondrel.core.wave.phase import beat_of, phases_of

RATE = 20_000.0
T = np.arange(40_000) / RATE


def pulses(hertz: float, delay: float, duty: float = 0.4, seed: int = 0, sigma: float = 0.02):
    own = np.where(((T - delay) * hertz) % 1.0 < duty, 5.0, 0.0)
    return own + np.random.default_rng(seed).normal(0.0, sigma, len(T))


def sine(hertz: float, delay: float, seed: int = 0):
    return 3.0 * np.sin(2.0 * np.pi * hertz * (T - delay)) + np.random.default_rng(seed).normal(0.0, 0.05, len(T))


def phases(*values):
    capture = Capture(tuple(Channel(f"line {k}", "V", own) for k, own in enumerate(values, 1)), 1.0 / RATE)
    return phases_of([beat_of(measures_of(capture, channel)) for channel in capture.channels])


@pytest.mark.parametrize("shape", [pulses, sine])
@pytest.mark.parametrize("delay", [0.0, 0.0013, 0.0041, -0.0027, 0.00977])
def test_a_delay_that_was_put_in_is_found_within_what_is_said_to_be_left_open(shape, delay):
    hertz = 51.7
    (own,) = phases(shape(hertz, 0.0021, seed=1), shape(hertz, 0.0021 + delay, seed=2))
    apart = (own.seconds - delay + 0.5 / hertz) % (1.0 / hertz) - 0.5 / hertz
    assert abs(apart) < 3.0 * own.u and own.u < 2.0 / RATE
    assert own.degrees == pytest.approx(360.0 * own.seconds * hertz, abs=0.1) and abs(own.degrees) <= 180.0


def test_just_before_and_just_after_a_rise_do_not_make_half_a_period():
    together = pulses(50.0, 0.0101)
    (own,) = phases(together, together)
    assert abs(own.seconds) <= 2.0 * own.u and "line 2 and line 1 rise together" in own.sentence


def test_the_sentence_says_which_comes_first():
    late, early = phases(pulses(40.0, 0.005), pulses(40.0, 0.01125), pulses(40.0, 0.0025))
    assert late.sentence.startswith("line 2 rises 6.25 ms after line 1: 90") and early.sentence.startswith("line 3 rises 2.50 ms before")


@pytest.mark.parametrize("hertz", [25.0, 100.0, 150.0, 52.0])
def test_channels_of_another_rate_have_no_phase(hertz):
    assert phases(pulses(50.0, 0.0), pulses(hertz, 0.0)) == ()


def test_a_phase_that_wanders_is_none_nor_is_there_one_to_a_steady_channel():
    drifting = np.where((T * 50.0 + 0.5 * T) % 1.0 < 0.4, 5.0, 0.0)
    assert phases(pulses(50.0, 0.0), drifting) == ()
    assert phases(np.full(len(T), 5.0), pulses(50.0, 0.0)) == ()


def test_pulses_that_are_missing_do_not_shift_it():
    reference, other = pulses(50.0, 0.001), pulses(50.0, 0.004)
    reference[10_000:11_300] = 0.0
    (own,) = phases(reference, other)
    assert own.seconds == pytest.approx(0.003, abs=3.0 * own.u)
