"""How long one channel follows another, against delays that were put in."""

from __future__ import annotations

import numpy as np
import pytest

from pondrel.core.wave import Capture, Channel
from pondrel.core.wave.delay import changed_of, delays_of
from pondrel.core.wave.measure import measures_of

RATE = 2_000.0
T = np.arange(30_000) / RATE


def step(at: float, low: float = 0.0, high: float = 12.4, until: float = 99.0, seed: int = 0):
    return np.where((at <= T) & (until > T), high, low) + np.random.default_rng(seed).normal(0.0, 0.03, len(T))


def delays(*values):
    capture = Capture(tuple(Channel(name, "V", own) for name, own in zip(("key", "contact", "lamp"), values, strict=False)), 1.0 / RATE)
    return delays_of([changed_of(measures_of(capture, channel)) for channel in capture.channels])


@pytest.mark.parametrize("delay", [0.0, 0.0131, 3.2])
def test_a_timers_contact_follows_its_trigger(delay):
    (own,) = delays(step(1.0), step(1.0 + delay, seed=1, until=9.0))
    assert own.seconds == pytest.approx(delay, abs=3.0 * own.u) and own.u < 1.0 / RATE
    assert own.sentence.startswith("contact rises after key rises by")


def test_what_falls_is_told_and_what_changes_first_is_what_is_followed():
    first, second = delays(step(5.0), step(2.0, low=12.0, high=0.3, seed=2), step(7.5, seed=3))
    assert (first.reference, first.other, first.says) == ("contact", "key", "key rises after contact falls")
    assert second.seconds == pytest.approx(5.5, abs=1e-3)


def test_what_pulses_evenly_or_never_changes_has_no_delay():
    pulses = np.where((T * 20.0) % 1.0 < 0.4, 12.0, 0.0)
    assert delays(step(1.0), pulses) == () and delays(step(1.0), np.full(len(T), 12.0)) == () and delays(pulses, pulses) == ()
    assert delays(step(1.0)) == ()
    sweep = np.interp(T, [0.0, 2.0, 7.0, 9.0, 14.0], [0.7, 0.7, 4.2, 4.2, 0.7])
    assert delays(sweep, 0.5 * sweep) == ()  # a pedal's tracks cross their middles at some time or other
