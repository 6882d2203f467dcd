"""Belief: the probability of every hypothesis given the readings, with severity integrated.

Between the grid severities a prediction follows a cubic Hermite through values and exact slopes; where contacts move between two
grid points each side of the place has a cubic of its own, and where a fuse melts each side keeps its straight line up to the middle.
The integral over ln severity is taken twice: over the whole span, then again over the part that holds all but a negligible share, so
that a sharp answer is as exact as a vague one.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.special import logsumexp

from ..arrays import Floats
from .evidence import Reading
from .hypotheses import GRID
from .likelihood import BLUNDER, Precision, blunder_probability, log_likelihood, own_variance, standard_scores
from .responses import Prediction, Workup
from .scale import off_scale, on_scale

__all__ = ["Atoms", "Belief", "Evidence", "Spot", "insulation_sigma", "interpolate", "update"]

# Steps of the two integrations over ln severity, and the log-likelihood below its peak at which the second stops looking.
COARSE_STEPS, FINE_STEPS, NEGLIGIBLE = 384, 256, 20.0
ATOMS_PER_CURVE = 12
_IMPOSSIBLE = -1e6  # log likelihood; finite, so that sums stay finite
STRAY = 0.3  # share of readings on a floating point that show stray volts. Common practice, no source.
# The range of an instrument's scale over which a blunder may fall: volts, compressed ohms, amperes.
_SCALE = {"volts": 30.0, "ohms": 16.0, "amps": 60.0}


@dataclass(frozen=True, eq=False)
class Spot:
    """Positions on curves: ``row`` (…) the grid row below and ``part`` (…) in [0, 1] towards the next; 0 on curves of one row."""

    row: NDArray[np.intp]
    part: Floats

    @property
    def near(self) -> NDArray[np.intp]:
        """The nearer grid row."""
        return self.row + (self.part > 0.5)


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


def interpolate(prediction: Prediction, spot: Spot, step: Floats) -> Floats:
    """Predicted values (…, T) at spots (…); ``step`` (…) is the grid spacing in ln severity of each spot's curve, 0 where there is none."""
    low, high = spot.row, np.minimum(spot.row + (step > 0), len(prediction.value) - 1)
    t, step = spot.part[..., None], step[..., None]
    v0, v1 = prediction.value[low], prediction.value[high]
    s0, s1 = prediction.slope[low] * step, prediction.slope[high] * step
    smooth = _hermite(t, v0, s0, v1, s1)
    jumps = prediction.regime[low] != prediction.regime[high]
    made = np.where(jumps, np.where(t <= 0.5, v0 + s0 * t, v1 - s1 * (1 - t)), smooth)
    tears = prediction.tears
    index = np.where(step > 0.0, tears.index[low], -1)
    if (index >= 0).any():  # on either side of a tear its own cubic
        at, below, above = tears.at[index], tears.below[index], tears.above[index]
        left = _hermite(t / at, v0, s0 * at, below, tears.below_slope[index] * step * at)
        rest = 1.0 - at
        right = _hermite((t - at) / rest, above, tears.above_slope[index] * step * rest, v1, s1 * rest)
        made = np.where(index >= 0, np.where(t <= at, left, right), made)
    return made


def _hermite(t: Floats, v0: Floats, s0: Floats, v1: Floats, s1: Floats) -> Floats:
    """The cubic through values ``v0`` at 0 and ``v1`` at 1 with slopes ``s0`` and ``s1`` there."""
    return v0 * (1 + 2 * t) * (1 - t) ** 2 + s0 * t * (1 - t) ** 2 + v1 * t * t * (3 - 2 * t) + s1 * t * t * (t - 1)


def insulation_sigma(value: Floats, stray: Floats) -> Floats:
    """Standard deviation of a number that hangs on insulation: nobody knows the leak, so what it lets through is as uncertain as large."""
    return np.abs(value) * stray


class Evidence:
    """The readings against all rows of a workup, ready to be evaluated anywhere on the curves.

    ``spread`` (M, R, K) holds the readings' sensitivities to tolerances, ``uncertainty`` (M, R) that of the meter and of
    insulation, ``precision`` the inverse of the covariance that the two make, ``blunder`` (M, R) the chance that a reading says nothing.
    """

    def __init__(self, workup: Workup, readings: tuple[Reading, ...]):
        self.curves = workup.curves
        tests = tuple(r.test for r in readings)
        rows = np.arange(self.curves.rows)
        pairs = np.array([on_scale(r) for r in readings]).reshape(len(readings), 2)
        self.value = pairs[:, 0]
        self.scale = np.array([_SCALE[r.instrument] for r in readings])
        self.prediction = workup.predict(tests)
        self.spread = workup.spread(tests, rows)  # (M, R, K)
        self.blunder = BLUNDER + STRAY * self.prediction.stray  # (M, R)
        self.uncertainty = np.hypot(pairs[:, 1], insulation_sigma(self.prediction.value, self.prediction.stray))  # (M, R)
        self.precision = Precision.of(self.spread, self.uncertainty)
        self.hidden = np.where(workup.visible, 0.0, _IMPOSSIBLE)  # (M,)

    def expected(self, spot: Spot, step: Floats) -> Floats:
        """(…, R) predicted readings on the instruments' scales."""
        return interpolate(self.prediction, spot, step)

    def log_likelihood(self, spot: Spot, step: Floats) -> Floats:
        """(…) of all readings; next to impossible at severities that nothing can show."""
        near, residual = spot.near, self.value - self.expected(spot, step)
        return self.hidden[near] + log_likelihood(residual, self.precision.at(near), self.scale, self.blunder[near])

    def scores(self, spot: Spot, step: Floats) -> tuple[Floats, Floats]:
        """(S, R) standard scores of the readings at S spots, and the probability of each being a blunder there."""
        near, residual = spot.near, self.value - self.expected(spot, step)
        odd = blunder_probability(residual, self.precision.at(near), self.scale, self.blunder[near])
        spread = self.spread[near]
        covariance = spread @ np.swapaxes(spread, 1, 2) + own_variance(self.uncertainty[near])
        rows = [standard_scores(r, c, o > 0.5) for r, c, o in zip(residual, covariance, odd, strict=True)]
        return np.array(rows).reshape(residual.shape), odd


@dataclass(frozen=True, eq=False)
class Belief:
    """P(hypothesis | readings) (H,), severities in ohms as (median, 5 %, 95 %) per swept hypothesis, and what they rest on.

    At each hypothesis's likeliest severity: ``expected`` (H, R) is what each reading would be, in SI; ``scores`` (H, R) the standard
    deviations by which it misses, given the others; ``odd`` (H, R) the probability that it is a blunder.
    """

    workup: Workup
    readings: tuple[Reading, ...]
    probability: Floats
    severity: tuple[tuple[float, float, float] | None, ...]
    scores: Floats
    odd: Floats
    expected: Floats
    atoms: Atoms
    best: NDArray[np.intp]  # (H,) the atom of greatest mass of each hypothesis
    evidence: Evidence

    def step(self, hypothesis: NDArray[np.intp]) -> Floats:
        """Grid spacing in ln severity of some hypotheses, 0 for those without severity."""
        return _step(self.workup, hypothesis)

    def parts(self) -> dict[str | None, float]:
        """P(part is at fault), None for nothing; in descending order, the sheet's order where equal."""
        total: dict[str | None, float] = {}
        for item, p in zip(self.workup.hypotheses.items, self.probability, strict=True):
            total[item.part] = total.get(item.part, 0.0) + float(p)
        return dict(sorted(total.items(), key=lambda pair: -pair[1]))


def update(workup: Workup, readings: tuple[Reading, ...]) -> Belief:
    """Belief after ``readings``. Deterministic: the same sheet and readings give the same numbers."""
    evidence = Evidence(workup, readings)
    curves, hypotheses = workup.curves, workup.hypotheses
    single = np.flatnonzero(curves.length == 1)
    swept = _integrate(evidence, np.flatnonzero(curves.length > 1))
    log_evidence = np.empty(len(curves.length))
    log_evidence[single] = evidence.log_likelihood(Spot(curves.start[single], np.zeros(len(single))), np.zeros(len(single)))
    log_evidence[swept.curve] = swept.log_evidence
    # The integrals leave out the severities that nothing shows; their share of the prior counts as "nothing wrong".
    prior = np.concatenate([[workup.prior_of_nothing], hypotheses.prior[1:]])
    joint = log_evidence + np.log(curves.share) + np.log(prior[curves.hypothesis])
    curve_mass = np.exp(joint - logsumexp(joint))
    probability = np.zeros(len(hypotheses.items))
    np.add.at(probability, curves.hypothesis, curve_mass)
    atoms, best = _atoms(workup, single, swept, curve_mass)
    step = _step(workup, atoms.hypothesis)[best]
    best_spot = Spot(atoms.spot.row[best], atoms.spot.part[best])
    expected = evidence.expected(best_spot, step)
    back = np.array([[off_scale(float(v), r.instrument) for v, r in zip(row, readings, strict=True)] for row in expected])
    scores, odd = evidence.scores(best_spot, step)
    return Belief(
        workup=workup,
        readings=readings,
        probability=probability,
        severity=_severities(workup, swept, curve_mass),
        scores=scores,
        odd=odd,
        expected=back.reshape(len(best), len(readings)),
        atoms=atoms,
        best=best,
        evidence=evidence,
    )


def _step(workup: Workup, hypothesis: NDArray[np.intp]) -> Floats:
    """Grid spacing in ln severity of each hypothesis, 0 for one without severity."""
    spacing = np.array([g[1] - g[0] if len(g) > 1 else 0.0 for g in workup.hypotheses.severities])
    return spacing[hypothesis]


@dataclass(frozen=True, eq=False)
class _Integral:
    """The swept curves integrated: per ``curve`` (C,) positions (C, F) in grid steps, each position's share (C, F) of the curve's
    evidence, and the logarithm of that evidence (C,)."""

    curve: NDArray[np.intp]
    position: Floats
    share: Floats
    log_evidence: Floats


def _integrate(evidence: Evidence, curve: NDArray[np.intp]) -> _Integral:
    """Integrate the likelihood over ln severity along the given curves."""
    curves, span = evidence.curves, GRID - 1
    if not curve.size:
        return _Integral(curve, np.zeros((0, FINE_STEPS)), np.zeros((0, FINE_STEPS)), np.zeros(0))
    start = curves.start[curve]
    step = np.array([curves.grid[c][1] - curves.grid[c][0] for c in curve])[:, None]

    def look(position: Floats) -> Floats:
        row = np.minimum(position.astype(int), span - 1)
        return evidence.log_likelihood(Spot(start[:, None] + row, position - row), np.broadcast_to(step, position.shape))

    every = np.arange(len(curve))
    coarse = np.broadcast_to((np.arange(COARSE_STEPS) + 0.5) / COARSE_STEPS * span, (len(curve), COARSE_STEPS))
    seen = look(coarse)
    worth = seen > seen.max(axis=1, keepdims=True) - NEGLIGIBLE
    margin = 1.5 * span / COARSE_STEPS
    first = np.maximum(coarse[every, worth.argmax(axis=1)] - margin, 0.0)
    last = np.minimum(coarse[every, COARSE_STEPS - 1 - worth[:, ::-1].argmax(axis=1)] + margin, float(span))
    fine = first[:, None] + (np.arange(FINE_STEPS) + 0.5) / FINE_STEPS * (last - first)[:, None]
    looked = look(fine)
    total = logsumexp(looked, axis=1)
    return _Integral(curve, fine, np.exp(looked - total[:, None]), total + np.log((last - first) / FINE_STEPS / span))


def _atoms(workup: Workup, single: NDArray[np.intp], swept: _Integral, curve_mass: Floats) -> tuple[Atoms, NDArray[np.intp]]:
    """The posterior as points of equal mass along each curve, and for each hypothesis the middle point of its heaviest curve."""
    curves, count = workup.curves, ATOMS_PER_CURVE
    middle = (np.arange(count) + 0.5) / count
    reached = np.cumsum(swept.share, axis=1)
    index = np.minimum((reached[:, None, :] < middle[:, None]).sum(axis=2), FINE_STEPS - 1)  # (C, count)
    at = np.take_along_axis(swept.position, index, axis=1)
    low = np.minimum(at.astype(int), GRID - 2)
    origin = np.array([curves.grid[c][0] for c in swept.curve]).reshape(-1, 1)
    step = np.array([curves.grid[c][1] - curves.grid[c][0] for c in swept.curve]).reshape(-1, 1)
    of_curve = np.concatenate([single, np.repeat(swept.curve, count)])
    number = np.arange(len(of_curve))
    place = np.concatenate([np.zeros(len(single), dtype=int), np.tile(np.arange(count), len(swept.curve))])  # along its own curve
    last = np.where(number < len(single), 0, count - 1)
    atoms = Atoms(
        hypothesis=curves.hypothesis[of_curve],
        spot=Spot(
            np.concatenate([curves.start[single], (curves.start[swept.curve][:, None] + low).ravel()]),
            np.concatenate([np.zeros(len(single)), (at - low).ravel()]),
        ),
        log_ohms=np.concatenate([np.zeros(len(single)), (origin + at * step).ravel()]),
        mass=curve_mass[of_curve] / (last + 1),
        left=number - (place > 0),
        right=number + (place < last),
    )
    heaviest = {int(curves.hypothesis[c]): c for c in np.argsort(curve_mass, kind="stable")}
    centre = {int(of_curve[i]): i for i in number[place == (last + 1) // 2]}
    return atoms, np.array([centre[int(heaviest[h])] for h in range(len(workup.hypotheses.items))])


def _severities(workup: Workup, swept: _Integral, curve_mass: Floats) -> tuple[tuple[float, float, float] | None, ...]:
    """Median, 5 % and 95 % of each swept hypothesis, in ohms, over its curves together."""
    made: list[tuple[float, float, float] | None] = [None] * len(workup.hypotheses.items)
    owner = workup.curves.hypothesis[swept.curve]
    for h in np.unique(owner).tolist():
        own = np.flatnonzero(owner == h)
        weight = (swept.share[own] * np.maximum(curve_mass[swept.curve[own]], 1e-300)[:, None]).ravel()
        order = np.argsort(swept.position[own].ravel(), kind="stable")
        where, reached = swept.position[own].ravel()[order], np.cumsum(weight[order]) / weight.sum()
        grid = workup.hypotheses.severities[h]
        value, low, high = (
            math.exp(grid[0] + where[min(int(np.searchsorted(reached, q)), len(where) - 1)] * (grid[1] - grid[0]))
            for q in (0.5, 0.05, 0.95)
        )
        made[h] = (value, low, high)
    return tuple(made)
