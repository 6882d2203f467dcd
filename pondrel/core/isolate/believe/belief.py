"""Belief: the probability of every hypothesis given the items, with severity integrated.

A belief builds on the one before it, if that is known. The same items taken in alike give the same answer to the last digit; in another
order, or more of them at once, they may move a probability by some millionths, since what is too unlikely to matter is left out by what was
known at the time.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ...base.arrays import Floats, bytes_of
from ...base.patience import breathe
from ...base.special import logsumexp
from ...base.ties import in_order
from ...evidence.items import Item, Observation, Reading
from ...evidence.trend import lasting
from ..predict.chances import log_factor
from ..predict.prediction import Spot
from ..predict.scale import off_scale, on_scale
from ..predict.workup import Workup
from .fit import Fit
from .integral import AHEAD, REACH, Leaves, Pieces, Shares, integrate, quantiles

__all__ = ["Atoms", "Belief", "grid_step", "update"]

ATOMS_PER_CURVE = 10
_ONE_BY_ONE = 16  # items at the most that are taken in one after another
_WORTH_POINTS = 1e-6  # a curve of less mass is one point


@dataclass(frozen=True, eq=False)
class Atoms:
    """A posterior as weighted points: ``hypothesis`` (A,), where on its curve, ``log_ohms`` (A,), ``mass`` (A,) summing to 1.

    ``left`` and ``right`` (A,) are the neighbouring atoms of the same curve (or the atom itself).
    """

    hypothesis: NDArray[np.intp]
    spot: Spot
    log_ohms: Floats
    mass: Floats
    left: NDArray[np.intp]
    right: NDArray[np.intp]


@dataclass(frozen=True, eq=False)
class Belief:
    """P(hypothesis | items) (H,), severities in ohms as (median, 5 %, 95 %) per swept hypothesis, and what they rest on.

    ``atoms`` are the posterior as points, ``best`` (H,) the middle one of the heaviest curve of each hypothesis. ``shares`` are those of
    the ``pieces`` of all curves, ``curve_log`` (C,) what they add up to, ``curve_middle`` (C,) the median of each curve in grid steps, and
    ``log_evidence`` the sum of all.
    """

    workup: Workup
    items: tuple[Item, ...]
    probability: Floats
    severity: tuple[tuple[float, float, float] | None, ...]
    atoms: Atoms
    best: NDArray[np.intp]
    evidence: Fit
    pieces: Pieces
    shares: Shares
    curve_log: Floats
    curve_middle: Floats
    log_evidence: float

    @property
    def readings(self) -> tuple[Reading, ...]:
        """The items that are numbers."""
        return self.evidence.readings

    @cached_property
    def numbers(self) -> tuple[int, ...]:
        """Which item, counted from 0, each reading is."""
        return tuple(i for i, item in enumerate(self.items) if isinstance(item, Reading))

    @property
    def own_bytes(self) -> int:
        """What it takes in memory, the workup that it shares with others left out."""
        return bytes_of(self.evidence.own_arrays, self.atoms, self.shares, self.curve_log, self.curve_middle)

    def explain(self, hypotheses: NDArray[np.intp]) -> tuple[Floats, Floats, Floats]:
        """At the likeliest severity of some hypotheses (n, R): what each reading would be, in SI; the standard deviations by which it
        misses, given the others; the probability that it is a blunder."""
        best = self.best[hypotheses]
        spot, step = Spot(self.atoms.spot.row[best], self.atoms.spot.part[best]), self.step(hypotheses)
        scores, odd = self.evidence.scores(spot, step)
        expected = self.evidence.expected(spot, step)
        back = [[off_scale(float(v), r.instrument) for v, r in zip(row, self.readings, strict=True)] for row in expected]
        return np.array(back).reshape(expected.shape), scores, odd

    def step(self, hypothesis: NDArray[np.intp]) -> Floats:
        """Grid spacing in ln severity of some hypotheses, 0 for those without severity."""
        return grid_step(self.workup, hypothesis)

    def parts(self) -> dict[str | None, float]:
        """P(part is at fault), None for nothing; in descending order, the sheet's order where equal."""
        total: dict[str | None, float] = {}
        for item, p in zip(self.workup.hypotheses.items, self.probability, strict=True):
            total[item.part] = total.get(item.part, 0.0) + float(p)
        return in_order(total)


def update(workup: Workup, items: tuple[Item, ...]) -> Belief:
    """Belief after ``items``; of readings over time the last one. It builds on the longest beginning of them whose belief is known: a few
    more are taken in one after another, many at once."""
    items = lasting(items)
    beliefs = workup.memo.beliefs
    known = max((len(kept) for kept in beliefs if kept == items[: len(kept)]), default=-1)
    belief: Belief | None = beliefs[items[:known]] if known >= 0 else None
    steps = range(known + 1, len(items) + 1) if len(items) - known <= _ONE_BY_ONE else [len(items)]
    for n in steps:
        breathe()
        belief = _taken_in(workup, items[:n], belief)
        workup.memo.keep(belief)
    assert belief is not None
    return belief


def _taken_in(workup: Workup, items: tuple[Item, ...], before: Belief | None) -> Belief:
    """The belief before, with the items since."""
    evidence = Fit(workup, items, before.evidence if before else None)
    if before is None:
        pieces = Pieces.of(workup)
        leaves, shares, _ = integrate(evidence, pieces, np.arange(len(pieces.curve)))
    else:
        # The likeliest pieces first: by what they come to it is known which others may matter at all.
        pieces, was = before.pieces, before.shares
        ceiling = was.ceiling + sum(_most_added(workup, item) for item in items[len(before.items) :])
        ahead = ceiling > ceiling.max() - AHEAD
        leaves, found, best = integrate(evidence, pieces, np.flatnonzero(ahead))
        others = ~ahead & (ceiling > best - REACH)
        shares = Shares(np.minimum(was.log, ceiling), ceiling, np.zeros(len(ceiling), dtype=bool)).with_some(ahead, found)
        if others.any():
            more, found, _ = integrate(evidence, pieces, np.flatnonzero(others), best)
            leaves, shares = Leaves.join([leaves, more]), shares.with_some(others, found)
    evidence.settle()
    return _settled(evidence, pieces, leaves, shares, before)


def _most_added(workup: Workup, item: Item) -> float:
    """The most that an item can add to a log likelihood: a reading hit exactly, with none but the meter's own uncertainty."""
    if isinstance(item, Observation):
        return float(log_factor(workup, item).max())
    return max(-math.log(on_scale(item)[1] * math.sqrt(2.0 * math.pi)), 0.0)


def _settled(evidence: Fit, pieces: Pieces, leaves: Leaves, shares: Shares, before: Belief | None) -> Belief:
    workup = evidence.workup
    curves, hypotheses = workup.curves, workup.hypotheses
    starts = np.searchsorted(pieces.curve, np.arange(len(curves.length)))
    curve_log = np.logaddexp.reduceat(shares.log, starts)
    looked_at = np.logical_or.reduceat(shares.live, starts)
    total = float(logsumexp(curve_log[looked_at]))
    mass = np.exp(np.where(looked_at, curve_log, np.minimum(curve_log, total - REACH)) - total)
    mass /= mass.sum()
    probability = np.zeros(len(hypotheses.items))
    np.add.at(probability, curves.hypothesis, mass)
    middle = before.curve_middle.copy() if before else np.zeros(len(mass))
    points = (np.arange(ATOMS_PER_CURVE) + 0.5) / ATOMS_PER_CURVE
    found, position = quantiles(leaves.curve, leaves, np.append(points, 0.5))
    middle[found] = position[:, -1]
    worth = (curves.length[found] > 1) & (mass[found] > _WORTH_POINTS)
    atoms, best = _atoms(workup, mass, middle, found[worth], position[worth, :-1])
    severity: list[tuple[float, float, float] | None]
    severity = list(before.severity) if before else [None] * len(hypotheses.items)
    owner = curves.hypothesis[leaves.curve]
    for h, spread in zip(*quantiles(owner, leaves, np.array([0.5, 0.05, 0.95])), strict=True):
        if hypotheses.items[h].swept:
            severity[h] = _severity(hypotheses.severities[h], spread)
    return Belief(
        workup, evidence.items, probability, tuple(severity), atoms, best, evidence, pieces, shares, curve_log, middle, total
    )  # fmt: skip


def _severity(grid: Floats, position: Floats) -> tuple[float, float, float]:
    """Ohms at three positions (3,) on a hypothesis' grid."""
    value, low, high = (math.exp(grid[0] + where * (grid[1] - grid[0])) for where in position.tolist())
    return value, low, high


def grid_step(workup: Workup, hypothesis: NDArray[np.intp]) -> Floats:
    """Grid spacing in ln severity of each hypothesis, 0 for one without severity."""
    return workup.hypotheses.spacing[hypothesis]


def _atoms(workup: Workup, mass: Floats, middle: Floats, wide: NDArray[np.intp], position: Floats) -> tuple[Atoms, NDArray[np.intp]]:
    """The posterior as points: of equal mass at the positions (W, count) of the curves ``wide`` (W,), one in the middle of every other; and
    for each hypothesis the middle point of its heaviest curve."""
    curves, count = workup.curves, ATOMS_PER_CURVE
    single = np.setdiff1d(np.arange(len(mass)), wide)
    curve = np.concatenate([single, np.repeat(wide, count)])
    at = np.concatenate([middle[single], position.ravel()])
    low = np.clip(at.astype(int), 0, np.maximum(curves.length[curve] - 2, 0))
    number = np.arange(len(curve))
    place = np.where(number < len(single), 0, (number - len(single)) % count)  # along its own curve
    last = np.where(number < len(single), 0, count - 1)
    step = grid_step(workup, curves.hypothesis[curve])
    origin = np.array([grid[0] for grid in curves.grid])[curve]
    atoms = Atoms(
        hypothesis=curves.hypothesis[curve],
        spot=Spot(curves.start[curve] + low, at - low),
        log_ohms=origin + at * step,
        mass=mass[curve] / (last + 1),
        left=number - (place > 0),
        right=number + (place < last),
    )
    heaviest = np.zeros(len(workup.hypotheses.items), dtype=np.intp)
    order = np.argsort(mass, kind="stable")
    heaviest[curves.hypothesis[order]] = order
    centre = np.zeros(len(mass), dtype=np.intp)
    middles = place == (last + 1) // 2
    centre[curve[middles]] = number[middles]
    return atoms, centre[heaviest]
