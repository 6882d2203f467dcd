"""Blinks counted to flash codes, by the hand of somebody who touches along."""

from __future__ import annotations

import random

import pytest

from pondrel.core.module.blinks import counted, spans_from
from pondrel.core.module.fault_code import CodeError, parse_code


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
