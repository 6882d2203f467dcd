"""What a repair comes to over the years: what is paid today, and every visit that follows from what fails again.

Each part (or each group that is renewed together) is a renewal process: it fails after its first life, is mended, and fails again after the
life that the repair gives it. The distribution of the money follows from the renewal equation of its characteristic function,
φ(t) = S(t) + ∫ f(u)·exp(i·s·cost(u))·φ(t − u) du, solved on a grid of months by the trapezoidal rule; processes do not know of each
other, so their functions multiply. D. R. Cox, *Renewal Theory* (1962), for the equation.
"""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..base.arrays import Floats
from .life import Life

__all__ = ["Outlook", "Stream", "outlook"]

STEPS_A_YEAR = 12
CELLS = 1024  # of the money axis
LOW, HIGH = 0.1, 0.9
_FAR = 9.0  # standard deviations that the money axis reaches beyond the average


@dataclass(frozen=True, slots=True)
class Stream:
    """Parts that are mended together whenever one of them fails: the lives that they live ``first``, those ``after`` each repair, what a
    visit costs, and what it costs while the part is ``covered`` by its warranty: ``first_months`` from now, ``months`` after a repair."""

    first: tuple[Life, ...]
    after: tuple[Life, ...]
    visit: float
    covered: float
    first_months: float = 0.0
    months: float = 0.0


@dataclass(frozen=True, slots=True)
class Outlook:
    """The money over the horizon: its ``average``, and what it stays below (``low``) or goes above (``high``) one time in ten; the
    ``visits`` that follow on the average, and the chance that there is ``none``."""

    average: float
    low: float
    high: float
    visits: float
    none: float


@dataclass(frozen=True, slots=True)
class _Lived:
    """A stream on the grid: (T,) the chance that it fails within each step, and what that costs; for its first life and the later ones."""

    first: Floats
    first_cost: Floats
    after: Floats
    after_cost: Floats
    first_lasts: Floats  # (T + 1,)
    after_lasts: Floats  # (T + 1,)


def _lived(stream: Stream, steps: int) -> _Lived:
    years = np.arange(steps + 1) / STEPS_A_YEAR
    first = np.prod([life.lasts(years) for life in stream.first], axis=0) if stream.first else np.ones(steps + 1)
    after = np.prod([life.lasts(years) for life in stream.after], axis=0) if stream.after else np.ones(steps + 1)
    months = (np.arange(steps) + 0.5) * 12.0 / STEPS_A_YEAR
    cost = [np.where(months <= covered, stream.covered, stream.visit) for covered in (stream.first_months, stream.months)]
    return _Lived(-np.diff(first), cost[0], -np.diff(after), cost[1], first, after)


def _solved(start: Floats, fails: Floats, weight: NDArray[np.complex128]) -> NDArray[np.complex128]:
    """(T + 1, N) the renewal equation from ``start`` (T + 1,) with the chances ``fails`` (T,) and a factor ``weight`` (T, N) on each."""
    steps = len(fails)
    kernel = fails[:, None] * weight
    found = np.empty((steps + 1, weight.shape[1]), dtype=complex)
    found[0] = start[0]
    for t in range(1, steps + 1):
        # A part that fails within step j was mended in its middle: half a step of what is left before, half behind it.
        back = kernel[:t]
        later = found[t - 1 :: -1][:t]  # found[t − j − 1] for j = 0 …
        total = start[t] + 0.5 * np.einsum("jn,jn->n", back, later)
        if t > 1:
            total += 0.5 * np.einsum("jn,jn->n", back[1:], found[t - 1 : 0 : -1])  # found[t − j] for j = 1 …
        found[t] = total / (1.0 - 0.5 * kernel[0])
    return found


def _transform(lived: _Lived, factor: NDArray[np.complex128], factor_first: NDArray[np.complex128]) -> NDArray[np.complex128]:
    """(N,) the characteristic function of a stream's money at the horizon."""
    later = _solved(lived.after_lasts, lived.after, factor)
    steps = len(lived.first)
    kernel = lived.first[:, None] * factor_first
    half = 0.5 * (later[steps:0:-1] + later[steps - 1 :: -1][:steps])
    value: NDArray[np.complex128] = lived.first_lasts[steps] + np.einsum("jn,jn->n", kernel, half)
    return value


def _sums(lived: _Lived, cost: bool) -> tuple[float, float]:
    """Mean and mean square of a stream's money (or, without ``cost``, of its visits) at the horizon."""
    ones, ones_first = np.ones_like(lived.after_cost), np.ones_like(lived.first_cost)
    price, price_first = (lived.after_cost, lived.first_cost) if cost else (ones, ones_first)
    steps = len(lived.first)
    none = np.zeros(steps + 1)
    plain = np.ones((steps, 1), dtype=complex)
    # m = Σ f·(c + m'), q = Σ f·(c² + 2·c·m' + q')
    gained = np.concatenate(([0.0], np.cumsum(lived.after * price)))
    mean = _solved(none + gained, lived.after, plain)[:, 0].real
    half = _halves(mean)
    square_start = np.concatenate(([0.0], np.cumsum(lived.after * price**2)))
    crossed = np.array([2.0 * np.dot((lived.after * price)[:t], half[:t][::-1]) for t in range(steps + 1)])
    square = _solved(square_start + crossed, lived.after, plain)[:, 0].real
    back, back_square = half[::-1], _halves(square)[::-1]
    first_mean = float(np.dot(lived.first, price_first + back))
    first_square = float(np.dot(lived.first, price_first**2 + 2.0 * price_first * back + back_square))
    return first_mean, first_square


def _halves(values: Floats) -> Floats:
    return 0.5 * (values[1:] + values[:-1])


def outlook(today: float, streams: Sequence[Stream], years: float, again: tuple[float, float] = (0.0, 0.0)) -> Outlook:
    """The money over ``years``: ``today`` for certain, the streams, and what is ``again`` to be paid: a chance and an amount."""
    steps = max(round(years * STEPS_A_YEAR), 1)
    alike = [(_lived(stream, steps), many) for stream, many in Counter(streams).items()]
    chance, amount = again
    sums = [(_sums(one, cost=True), many) for one, many in alike]
    average = today + chance * amount + sum(many * mean for (mean, _), many in sums)
    variance = sum(many * max(square - mean**2, 0.0) for (mean, square), many in sums)
    spread = math.sqrt(variance + chance * (1.0 - chance) * amount**2)
    visits = chance + sum(many * _sums(one, cost=False)[0] for one, many in alike)
    none = (1.0 - chance) * math.prod(float(one.first_lasts[-1]) ** many for one, many in alike)
    dearest = max((max(stream.visit, stream.covered) for stream in streams), default=0.0)
    reach = (average - today) + _FAR * spread + dearest + amount
    if reach <= 0.0:
        return Outlook(average, today, today, visits, none)
    money = _distribution(alike, reach, chance, amount)
    reached = np.cumsum(money)
    low, high = (today + float(np.searchsorted(reached, share * reached[-1])) * reach / CELLS for share in (LOW, HIGH))
    return Outlook(average, low, high, visits, none)


def _distribution(alike: Sequence[tuple[_Lived, int]], reach: float, chance: float, amount: float) -> Floats:
    """(CELLS,) the chance of each cell of the money that comes on top of today's."""
    turn = -2.0j * np.pi * np.arange(CELLS // 2 + 1) / CELLS

    def factor(cost: Floats) -> NDArray[np.complex128]:
        cells = np.round(np.atleast_1d(cost) / reach * CELLS)
        prices, which = np.unique(cells, return_inverse=True)
        found: NDArray[np.complex128] = np.exp(np.outer(prices, turn))[which]
        return found

    total = (1.0 - chance) + chance * factor(np.array([amount]))[0]
    for one, many in alike:
        total = total * _transform(one, factor(one.after_cost), factor(one.first_cost)) ** many
    return np.maximum(np.fft.irfft(total, CELLS), 0.0)
