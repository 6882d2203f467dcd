"""Blinks counted to flash codes, by the hand of somebody who touches along."""

from __future__ import annotations

import random

import numpy as np
import pytest

from pondrel.core.module.blinks import counted, spans_from, spans_seen
from pondrel.core.module.fault_code import CodeError, parse_code
from pondrel.core.wave.capture import Channel


def touched(lengths, pauses, seed: int = 0):
    """Spans as a hand makes them: each length and pause off by up to a fifth."""
    dice, at, spans = random.Random(seed), 0.0, []
    for length, pause in zip(lengths, [*pauses, 1.0], strict=True):
        own = length * dice.uniform(0.8, 1.2)
        spans.append((at, at + own))
        at += own + pause * dice.uniform(0.8, 1.2)
    return spans


@pytest.mark.parametrize("seed", range(40))
@pytest.mark.parametrize(
    ("lengths", "pauses", "code"),
    [
        ([1.5, 1.5, 0.4, 0.4, 0.4, 0.4], [0.6] * 5, "flash 2-4"),
        ([1.2, 0.4], [0.5], "flash 1-1"),
        ([0.4] * 6, [0.4, 2.0, 0.4, 0.4, 0.4], "flash 2-4"),
        ([0.4] * 2, [0.5], "flash 2"),
        ([0.4], [], "flash 1"),
        ([0.4] * 7, [0.4] * 2 + [1.6] + [0.4] * 3, "flash 3-4"),
    ],
)
def test_what_is_touched_along_is_counted_though_no_hand_is_even(lengths, pauses, code, seed):
    found = counted(touched(lengths, pauses, seed))
    assert found.code == code and parse_code(found.code)[0] == code


def test_what_is_doubtful_is_said():
    assert "count once more" in counted(touched([0.4, 1.5, 0.4], [0.5, 0.5])).says
    thrice = counted(touched([0.4] * 6, [0.4, 2.0, 0.4, 2.0, 0.4]))
    assert thrice.code == "flash 2-2" and "more than once" in thrice.says


@pytest.mark.parametrize("text", ["", "one", "0-0.4,0.3-0.6", "0.5-0.2", "0-nan", "0-1e9", ",".join(f"{k}-{k}.5" for k in range(80))])
def test_what_are_no_blinks_is_refused(text):
    with pytest.raises(CodeError, match=r"\.$"):
        spans_from(text)
    assert spans_from("0-0.4,0.9-1.3") == ((0.0, 0.4), (0.9, 1.3))


def sampled(
    spans, seconds: float, step: float, volts: float = 12.4, noise: float = 0.15, upside_down: bool = False, seed: int = 3
) -> Channel:
    """A capture of a lamp's pin, made by hand from when it is on: volts that dip a little as it glows, with noise."""
    dice = np.random.default_rng(seed)
    at = np.arange(0.0, seconds, step)
    on = np.zeros(len(at), bool)
    for begin, end in spans:
        on |= (at >= begin) & (at < end)
    level = np.where(on != upside_down, volts, 0.3)
    return Channel("lamp", "V", level + dice.normal(0.0, noise, len(at)))


@pytest.mark.parametrize("upside_down", [False, True])
@pytest.mark.parametrize(
    ("lengths", "code"), [([1.2] * 2 + [0.4] * 4, "flash 2-4"), ([1.2] + [0.4] * 3, "flash 1-3"), ([0.5] * 3, "flash 3")]
)
def test_blinks_in_a_capture_are_counted_as_those_of_a_hand(lengths, code, upside_down):
    spans = [(begin + 1.0, end + 1.0) for begin, end in touched(lengths, [0.5] * (len(lengths) - 1))]
    channel = sampled(spans, spans[-1][1] + 2.0, 0.002, upside_down=upside_down)
    found = spans_seen(channel, 0.002)
    assert [b for b, _ in found] == pytest.approx([b for b, _ in spans], abs=0.01)
    assert counted(found).code == code


def test_a_spike_is_no_blink_and_one_that_is_not_over_is_left_out():
    channel = sampled([(1.0, 1.5), (2.0, 2.01), (3.0, 3.5), (5.0, 9.0)], 6.0, 0.002)
    assert counted(spans_seen(channel, 0.002)).code == "flash 2"


def test_a_lamp_that_does_not_blink_says_so():
    with pytest.raises(CodeError, match="nothing blinks on it"):
        spans_seen(sampled([], 3.0, 0.002), 0.002)
    with pytest.raises(CodeError, match="there are 80"):
        spans_seen(sampled([(k + 0.2, k + 0.6) for k in range(80)], 81.0, 0.01), 0.01)
