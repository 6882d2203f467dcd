"""What the answers to a test would speak for: ranges of its number that a meter tells apart, or words, with the suspects behind each."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ...base.arrays import Floats
from ...evidence.asked import Measurement, Question
from ...meter.instrument import INSTRUMENTS, uncertainty_at
from ..advise.advice import Expectation, expectations
from ..isolation import Isolation

__all__ = ["Likely", "likely_outcomes"]

SHOWN = 6
_WEIGHED = 12  # suspects whose outcomes are told
_TOLD_APART = 2.0  # standard deviations of the meter
_LEAST_REST = 0.01


@dataclass(frozen=True, slots=True)
class Likely:
    """An outcome: from ``low`` to ``high`` (SI), or a ``word``; the ``parts`` it would speak for, None for nothing wrong, and the chance of
    it. One without parts stands for all others."""

    low: float
    high: float
    word: str
    parts: tuple[str | None, ...]
    probability: float


def likely_outcomes(isolation: Isolation, test: Measurement | Question) -> tuple[Likely, ...]:
    """The outcomes of a test, the likeliest first, and last what is left of the chances."""
    told, weight = _weighed(isolation, test)
    groups = _by_word(told) if isinstance(test, Question) else _by_number(told, test.instrument)
    found = []
    for group in groups:
        ordered = sorted(group, key=lambda e: -weight[(e.part, e.mode)]) if isinstance(test, Measurement) else group
        parts = tuple(dict.fromkeys(e.part for e in ordered))
        found.append(Likely(group[0].value, group[-1].value, group[0].word, parts, sum(weight[(e.part, e.mode)] for e in group)))
    found.sort(key=lambda outcome: -outcome.probability)
    shown = found if isinstance(test, Question) else found[:SHOWN]
    rest = 1.0 - sum(outcome.probability for outcome in shown)
    return (*shown, Likely(0.0, 0.0, "", (), rest)) if rest >= _LEAST_REST else tuple(shown)


def _by_word(told: Sequence[Expectation]) -> list[list[Expectation]]:
    groups: dict[str, list[Expectation]] = {}
    for e in told:
        groups.setdefault(e.word, []).append(e)
    return list(groups.values())


def _by_number(told: Sequence[Expectation], meter: str) -> list[list[Expectation]]:
    """Values that the meter would hardly tell apart stand together."""
    ordered = sorted(told, key=lambda e: e.value)
    groups: list[list[Expectation]] = []
    reach = [0.0, *(_TOLD_APART * _meter_sigmas(meter, [e.value for e in ordered])).tolist()]  # of the one before
    for e, far in zip(ordered, reach, strict=False):
        if groups and (e.value == groups[-1][-1].value or e.value - groups[-1][-1].value < far):
            groups[-1].append(e)
        else:
            groups.append([e])
    return groups


def _meter_sigmas(meter: str, values: Sequence[float]) -> Floats:
    """(n,) standard deviations of what an instrument shows at some values; 0 at OL."""
    shown = np.array(values)
    over = np.isinf(shown)
    return np.where(over, 0.0, uncertainty_at(INSTRUMENTS[meter], np.where(over, 0.0, shown)))


def _weighed(isolation: Isolation, test: Measurement | Question) -> tuple[list[Expectation], dict[tuple[str | None, str | None], float]]:
    """What the suspects would make of a test, with the chance of each: a fault that comes and goes is there or not, one time in two."""
    weight = {(s.part, s.mode): s.probability for s in isolation.suspects if s.kind == "single"}
    some: dict[str, float] = {}
    for s in isolation.suspects:
        if s.kind == "sometimes" and s.part and s.probability >= _LEAST_REST:
            some[s.part] = some.get(s.part, 0.0) + s.probability
    told = list(expectations(isolation.belief, test, _WEIGHED, tuple(some)))
    for part, p in some.items():
        mode = next(e.mode for e in told if e.part == part)
        weight[part, mode] += p / 2.0
        weight[None, None] += p / 2.0
    return told, weight
