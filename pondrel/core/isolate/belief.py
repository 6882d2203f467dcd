"""Belief: the probability of every hypothesis given the readings, with severity integrated.

Between the grid severities a prediction follows a cubic Hermite through values and exact slopes; where contacts move between two
grid points each side of the place has a cubic of its own, and where a fuse melts each side keeps its straight line up to the middle.
The integral over ln severity is taken in coarse steps over the whole span and in fine ones around its peak, which is looked for between
the coarse steps too, so that a sharp answer is as exact as a vague one.

Evidence is taken in one item at a time, and curves that have fallen far behind are left alone: each keeps a ceiling, the most that its
evidence could have become since, and is looked at again when the leaders fall back to within reach of it. What is left out is less than
e⁻²⁰ of the whole. The same items in the same order give the same answer to the last digit.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from scipy.special import logsumexp

from ..arrays import Floats
from .evidence import Finding, Item, Reading
from .hypotheses import GRID
from .likelihood import BLUNDER, Precision, blunder_probability, log_likelihood, own_variance, standard_scores
from .outcome import log_factor
from .responses import Prediction, Workup
from .scale import off_scale, on_scale

__all__ = ["Atoms", "Belief", "Evidence", "Spot", "grid_step", "insulation_sigma", "interpolate", "update"]

# Steps of the two integrations over ln severity, and the log likelihood below its peak at which the second stops looking.
COARSE_STEPS, FINE_STEPS, NEGLIGIBLE = 144, 160, 7.0
ATOMS_PER_CURVE = 10
UNSEEN = 0.1  # standard deviations of its own by which a reading may be off and still count as a sound circuit's
# A curve whose log evidence is this far behind the best is left alone, until it may have come within reach again.
LEFT_ALONE, REACH = 42.0, 22.0
# How far a supply wanders from reading to reading, as a share of its own tolerance: 60 mV of a battery. Common practice, no source.
DRIFT = 0.09
ELSEWHERE_SIGMA = 0.25  # how near a blunder comes to what another place shows
_IMPOSSIBLE = -1e6  # log likelihood; finite, so that sums stay finite
STRAY = 0.3  # share of readings on a floating point that show stray volts. Common practice, no source.
# The range of an instrument's scale over which a blunder may fall: volts, compressed ohms, amperes.
_SCALE = {"volts": 30.0, "ohms": 16.0, "continuity": 7.0, "amps": 60.0, "clamp": 60.0}


@dataclass(frozen=True, eq=False)
class Spot:
    """Positions on curves: ``row`` (…) the grid row below and ``part`` (…) in [0, 1] towards the next; 0 on curves of one row."""

    row: NDArray[np.intp]
    part: Floats

    @property
    def near(self) -> NDArray[np.intp]:
        """The nearer grid row."""
        return self.row + (self.part > 0.5)

    def at(self, index: NDArray) -> Spot:
        """Some of the spots."""
        return Spot(self.row[index], self.part[index])


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
    """The items against some rows of a workup, ready to be evaluated anywhere on their curves.

    ``rows`` (L,) are the rows that count, ``place`` (M,) their numbers among those, −1 for the others. Per such row ``spread`` (L, R, K)
    holds the readings' sensitivities to tolerances, ``uncertainty`` (L, R) what each reading has to itself (meter, insulation, drift;
    ``edge`` (L, R) besides, what it has beside a threshold),
    ``precision`` the inverse of the covariance that the two make, ``blunder`` (L, R) the chance that a reading says nothing, and
    ``factor`` (L,) what findings add to the log likelihood.
    """

    def __init__(self, workup: Workup, items: tuple[Item, ...], rows: NDArray[np.intp]):
        self.workup, self.curves, self.rows = workup, workup.curves, rows
        self.place = np.full(self.curves.rows, -1)
        self.place[rows] = np.arange(len(rows))
        self.readings = tuple(item for item in items if isinstance(item, Reading))
        pairs = np.array([on_scale(r) for r in self.readings]).reshape(len(self.readings), 2)
        self.value = pairs[:, 0]
        self.scale = blunder_widths(workup, self.readings)
        columns = [_column(workup, r) for r in self.readings]
        self.prediction = Prediction.join(columns, np.arange(len(columns))) if columns else Prediction.none(self.curves.rows)
        value, stray = self.prediction.value[rows], self.prediction.stray[rows]
        both = [_spread(workup, r, rows) for r in self.readings]
        self.spread = np.stack([s for s, _ in both], axis=1) if both else np.zeros((len(rows), 0, workup.tolerances))
        own = np.stack([o for _, o in both], axis=1) if both else np.zeros((len(rows), 0))
        drift = np.abs(self.spread[:, :, workup.supplies]).sum(axis=2) * DRIFT
        self.uncertainty = np.sqrt(pairs[:, 1] ** 2 + insulation_sigma(value, stray) ** 2 + drift**2 + own**2)
        self.edge = self.prediction.edge[rows]
        self.blunder = BLUNDER + STRAY * stray
        self.precision = Precision.of(self.spread, np.hypot(self.uncertainty, self.edge))
        self.factor = np.where(workup.visible[rows], 0.0, _IMPOSSIBLE)
        for finding in items:
            if isinstance(finding, Finding):
                self.factor = self.factor + log_factor(workup, finding)[rows]

    def local(self, rows: NDArray[np.intp]) -> NDArray[np.intp]:
        """Where rows stand among those that count."""
        found = self.place[rows]
        assert (found >= 0).all()
        return found

    def unseen(self, curve: NDArray[np.intp]) -> NDArray[np.bool_]:
        """(C,) curves along all of which every reading would be what it is in a sound circuit, next to what it has to itself."""
        if not self.readings:
            return np.ones(len(curve), dtype=bool)
        rows = self.curves.of(curve) if curve.size else np.zeros(0, dtype=np.intp)
        sound = self.local(np.zeros(1, dtype=np.intp))[0]
        off = np.abs(self.prediction.value[rows] - self.prediction.value[0]) > UNSEEN * self.uncertainty[sound]
        vague = self.prediction.stray[rows] + self.edge[self.local(rows)] > 0.01
        seen = (off | vague).any(axis=1)
        starts = np.cumsum([0, *self.curves.length[curve]])[:-1]
        return ~np.logical_or.reduceat(seen, starts) if curve.size else np.zeros(0, dtype=bool)

    def expected(self, spot: Spot, step: Floats) -> Floats:
        """(…, R) predicted readings on the instruments' scales."""
        return interpolate(self.prediction, spot, step)

    def log_likelihood(self, spot: Spot, step: Floats) -> Floats:
        """(…) of all items; next to impossible at severities that nothing can show."""
        return self.weighed(spot, self.value - self.expected(spot, step))

    def weighed(self, spot: Spot, residual: Floats) -> Floats:
        """(…) log likelihood of all items at spots where the readings miss by ``residual`` (…, R)."""
        made = np.zeros(spot.part.shape)
        # Tolerances are known at the rows; between two of them the one shades into the other.
        for row, weight in ((spot.row, 1.0 - spot.part), (spot.row + (spot.part > 0.0), spot.part)):
            at = self.local(row)
            made += weight * (self.factor[at] + log_likelihood(residual, self.precision.at(at), self.scale, self.blunder[at]))
        return made

    def scores(self, spot: Spot, step: Floats) -> tuple[Floats, Floats]:
        """(S, R) standard scores of the readings at S spots, and the probability of each being a blunder there."""
        near, residual = self.local(spot.near), self.value - self.expected(spot, step)
        odd = blunder_probability(residual, self.precision.at(near), self.scale, self.blunder[near])
        spread = self.spread[near]
        covariance = spread @ np.swapaxes(spread, 1, 2) + own_variance(np.hypot(self.uncertainty, self.edge)[near])
        rows = [standard_scores(r, c, o > 0.5) for r, c, o in zip(residual, covariance, odd, strict=True)]
        return np.array(rows).reshape(residual.shape), odd


def _column(workup: Workup, reading: Reading) -> Prediction:
    """What one reading would be, for every row; on the good side what the sound circuit gives."""
    made = workup.predict_reading(reading.test)
    return made.of_row(0) if reading.good else made


def _spread(workup: Workup, reading: Reading, rows: NDArray[np.intp]) -> tuple[Floats, Floats]:
    """(L, K) what each tolerance does to a reading, and (L,) what its own circuit's tolerances do if that is another one."""
    if not reading.good:
        return workup.kept_spread(reading.test, rows), np.zeros(len(rows))
    sound = workup.kept_spread(reading.test, np.zeros(1, dtype=np.intp))[0]
    shared = np.where(workup.supplies, sound, 0.0)
    own = math.sqrt(float((sound[~workup.supplies] ** 2).sum()))
    return np.broadcast_to(shared, (len(rows), len(shared))), np.full(len(rows), own)


def blunder_widths(workup: Workup, readings: tuple[Reading, ...]) -> Floats:
    """(R,) one over the density of a blunder at each reading: half of them lie anywhere on the scale, half are what a sound circuit shows
    at another place or in another state."""
    made = []
    for reading in readings:
        width = _SCALE.get(reading.instrument, _SCALE["volts"])
        tests, prediction = workup.on_offer
        alike = [i for i, t in enumerate(tests) if t.instrument == ("ohms" if reading.meter.dead else "volts")]
        if not alike or reading.meter.unit == "A":
            made.append(width)
            continue
        offset = (on_scale(reading)[0] - prediction.value[0, alike]) / ELSEWHERE_SIGMA
        density = float(np.exp(-0.5 * offset**2).mean()) / (ELSEWHERE_SIGMA * math.sqrt(2.0 * math.pi))
        made.append(1.0 / (0.5 / width + 0.5 * density))
    return np.array(made)


@dataclass(frozen=True, eq=False)
class Belief:
    """P(hypothesis | items) (H,), severities in ohms as (median, 5 %, 95 %) per swept hypothesis, and what they rest on.

    ``atoms`` are the posterior as points, ``best`` (H,) the one of greatest mass of each hypothesis. ``curve_log`` (C,) is each curve's log
    evidence with its prior, for curves left alone a ceiling of it; ``live`` (C,) marks those that are not; ``log_evidence`` their sum.
    """

    workup: Workup
    items: tuple[Item, ...]
    probability: Floats
    severity: tuple[tuple[float, float, float] | None, ...]
    atoms: Atoms
    best: NDArray[np.intp]
    evidence: Evidence
    live: NDArray[np.bool_]
    curve_log: Floats
    curve_spot: Spot
    log_evidence: float

    @property
    def readings(self) -> tuple[Reading, ...]:
        """The items that are numbers."""
        return self.evidence.readings

    @cached_property
    def whole(self) -> Evidence:
        """The items against every row: a proof has no prior and leaves nobody out."""
        return Evidence(self.workup, self.items, np.arange(self.workup.curves.rows))

    @cached_property
    def numbers(self) -> tuple[int, ...]:
        """Which item, counted from 0, each reading is."""
        return tuple(i for i, item in enumerate(self.items) if isinstance(item, Reading))

    def explain(self, hypotheses: NDArray[np.intp]) -> tuple[Floats, Floats, Floats]:
        """At the likeliest severity of some hypotheses (n, R): what each reading would be, in SI; the standard deviations by which it
        misses, given the others; the probability that it is a blunder."""
        best = self.best[hypotheses]
        spot, step = Spot(self.atoms.spot.row[best], self.atoms.spot.part[best]), self.step(hypotheses)
        known = self.evidence
        if (known.place[spot.near] < 0).any():
            known = Evidence(self.workup, self.items, np.unique(spot.near))
        scores, odd = known.scores(spot, step)
        expected = known.expected(spot, step)
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
        return dict(sorted(total.items(), key=lambda pair: -pair[1]))


def update(workup: Workup, items: tuple[Item, ...]) -> Belief:
    """Belief after ``items``, taken in one after another. Deterministic: the same sheet and items give the same numbers."""
    known = next((n for n in range(len(items), -1, -1) if items[:n] in workup.beliefs), -1)
    belief = workup.beliefs[items[:known]] if known >= 0 else None
    for n in range(max(known + 1, 0), len(items) + 1):
        belief = _taken_in(workup, items[:n], belief)
        workup.keep(belief)
    assert belief is not None
    return belief


def _taken_in(workup: Workup, items: tuple[Item, ...], before: Belief | None) -> Belief:
    """The belief before, with the last of the items."""
    curves = workup.curves
    everyone = np.arange(len(curves.length))
    ceiling = np.full(len(everyone), -np.inf)
    if before is None:
        evidence = Evidence(workup, items, np.arange(curves.rows))
        looked = _Looked.at(evidence, everyone)
    else:
        alive = np.flatnonzero(before.live)
        evidence = Evidence(workup, items, curves.of(alive))
        looked = _Looked.at(evidence, alive)
        ceiling = np.where(before.live, -np.inf, before.curve_log + _most_density(items[-1]))
        back = np.flatnonzero(ceiling > looked.log_joint.max() - REACH)
        if back.size:
            alive = np.union1d(alive, back)
            evidence = Evidence(workup, items, curves.of(alive))
            looked = _Looked.at(evidence, alive)
    return _settled(workup, items, evidence, looked, ceiling, before)


def _most_density(item: Item) -> float:
    """The most that an item can add to a log likelihood: a reading hit exactly, with none but the meter's own uncertainty."""
    if isinstance(item, Finding):
        return 3.0  # the largest ratio of a finding
    return max(-math.log(on_scale(item)[1] * math.sqrt(2.0 * math.pi)), 0.0)


def _settled(
    workup: Workup, items: tuple[Item, ...], evidence: Evidence, looked: _Looked, ceiling: Floats, before: Belief | None
) -> Belief:
    curves, hypotheses = workup.curves, workup.hypotheses
    curve_log = ceiling
    curve_log[looked.curve] = looked.log_joint
    total = float(logsumexp(looked.log_joint))
    curve_mass = np.exp(curve_log - total)
    curve_mass[looked.curve] = np.exp(looked.log_joint - total)
    unseen = np.setdiff1d(np.arange(len(curves.length)), looked.curve)
    curve_mass[unseen] = np.minimum(curve_mass[unseen], math.exp(-REACH))
    curve_mass /= curve_mass.sum()
    probability = np.zeros(len(hypotheses.items))
    np.add.at(probability, curves.hypothesis, curve_mass)
    row, part = np.zeros(len(curve_mass), dtype=np.intp), np.zeros(len(curve_mass))
    if before is not None:
        row[:], part[:] = before.curve_spot.row, before.curve_spot.part
    row[looked.curve], part[looked.curve] = looked.spot.row, looked.spot.part
    spot = Spot(row, part)
    atoms, best = _atoms(workup, looked, curve_mass, spot)
    severity: list[tuple[float, float, float] | None]
    severity = list(before.severity) if before is not None else [None] * len(hypotheses.items)
    for h, found in _severities(workup, looked.swept, curve_mass).items():
        severity[h] = found
    live = np.zeros(len(curve_mass), dtype=bool)
    live[looked.curve[looked.log_joint > looked.log_joint.max() - LEFT_ALONE]] = True
    live[0] = True
    if not live[looked.curve].all():  # what is left out now is not looked at again before it comes within reach
        evidence = Evidence(workup, items, curves.of(np.flatnonzero(live)))
    return Belief(workup, items, probability, tuple(severity), atoms, best, evidence, live, curve_log, spot, total)


@dataclass(frozen=True, eq=False)
class _Looked:
    """Some curves (C,) evaluated: log evidence with prior (C,), the likeliest spot of each (C,), and the integrals of the swept ones."""

    curve: NDArray[np.intp]
    log_joint: Floats
    spot: Spot
    swept: _Integral
    single: NDArray[np.intp]

    @classmethod
    def at(cls, evidence: Evidence, curve: NDArray[np.intp]) -> _Looked:
        """Evaluate curves whose rows the evidence holds."""
        workup, curves = evidence.workup, evidence.curves
        single = curve[curves.length[curve] == 1]
        wide = curve[curves.length[curve] > 1]
        unseen = evidence.unseen(wide)
        swept = _Integral.join(_integrate(evidence, wide[~unseen]), _flat(evidence, wide[unseen]))
        log_evidence = np.zeros(len(curves.length))
        at = Spot(curves.start[single], np.zeros(len(single)))
        log_evidence[single] = evidence.log_likelihood(at, np.zeros(len(single)))
        log_evidence[swept.curve] = swept.log_evidence
        # The integrals leave out the severities that nothing shows; their share of the prior counts as "nothing wrong".
        prior = np.concatenate([[workup.prior_of_nothing], workup.hypotheses.prior[1:]])
        joint = log_evidence[curve] + np.log(curves.share[curve]) + np.log(prior[curves.hypothesis[curve]])
        row, part = curves.start.copy(), np.zeros(len(curves.length))
        likeliest = np.take_along_axis(swept.position, swept.share.argmax(axis=1)[:, None], axis=1)[:, 0]
        low = np.minimum(likeliest.astype(int), GRID - 2)
        row[swept.curve] += low
        part[swept.curve] = likeliest - low
        return cls(curve, joint, Spot(row[curve], part[curve]), swept, single)


def grid_step(workup: Workup, hypothesis: NDArray[np.intp]) -> Floats:
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

    @classmethod
    def join(cls, one: _Integral, other: _Integral) -> _Integral:
        """Two sets of curves as one."""
        names = ("curve", "position", "share", "log_evidence")
        return cls(*(np.concatenate([getattr(one, name), getattr(other, name)]) for name in names))


def _flat(evidence: Evidence, curve: NDArray[np.intp]) -> _Integral:
    """Curves that no reading sees: as likely as a sound circuit all along, but for what findings say of them."""
    curves, span = evidence.curves, GRID - 1
    steps = COARSE_STEPS + FINE_STEPS
    position = np.broadcast_to((np.arange(steps) + 0.5) / steps * span, (len(curve), steps))
    factor = evidence.factor[evidence.local(curves.start[curve][:, None] + np.round(position).astype(int))]
    sound = Spot(np.zeros(1, dtype=np.intp), np.zeros(1))
    log = factor + evidence.log_likelihood(sound, np.zeros(1))[0] - evidence.factor[evidence.local(sound.row)][0]
    total = logsumexp(log, axis=1) if curve.size else np.zeros(0)
    return _Integral(curve, position, np.exp(log - total[:, None]), total - math.log(steps))


def _integrate(evidence: Evidence, curve: NDArray[np.intp]) -> _Integral:
    """Integrate the likelihood over ln severity along the given curves."""
    curves, span = evidence.curves, GRID - 1
    if not curve.size:
        return _Integral(curve, np.zeros((0, COARSE_STEPS + FINE_STEPS)), np.zeros((0, COARSE_STEPS + FINE_STEPS)), np.zeros(0))
    start = curves.start[curve]
    step = np.array([curves.grid[c][1] - curves.grid[c][0] for c in curve])[:, None]

    def look(position: Floats) -> tuple[Spot, Floats]:
        row = np.minimum(position.astype(int), span - 1)
        spot = Spot(start[:, None] + row, position - row)
        return spot, evidence.value - evidence.expected(spot, np.broadcast_to(step, position.shape))

    every = np.arange(len(curve))
    coarse = np.broadcast_to((np.arange(COARSE_STEPS) + 0.5) / COARSE_STEPS * span, (len(curve), COARSE_STEPS))
    spot, residual = look(coarse)
    seen = evidence.weighed(spot, residual)
    # A sharp peak may lie between two steps: how high, the readings tell that would be met on the way from one to the next.
    way = np.abs(np.diff(residual, axis=1))
    reach = 0.5 * np.maximum(np.pad(way, ((0, 0), (1, 0), (0, 0))), np.pad(way, ((0, 0), (0, 1), (0, 0))))
    at_best = evidence.weighed(spot, np.sign(residual) * np.maximum(np.abs(residual) - reach, 0.0))
    worth = at_best > at_best.max(axis=1, keepdims=True) - NEGLIGIBLE
    width = span / COARSE_STEPS
    first = np.maximum(coarse[every, worth.argmax(axis=1)] - width, 0.0)
    last = np.minimum(coarse[every, COARSE_STEPS - 1 - worth[:, ::-1].argmax(axis=1)] + width, float(span))
    fine = first[:, None] + (np.arange(FINE_STEPS) + 0.5) / FINE_STEPS * (last - first)[:, None]
    looked = evidence.weighed(*look(fine))
    # Outside of the fine stretch the coarse steps stand for what little is there.
    outside = np.clip(np.minimum(coarse + width / 2, first[:, None]) - (coarse - width / 2), 0.0, width)
    outside += np.clip(coarse + width / 2 - np.maximum(coarse - width / 2, last[:, None]), 0.0, width)
    with np.errstate(divide="ignore"):
        log_weight = np.concatenate([np.log(outside), np.broadcast_to(np.log((last - first) / FINE_STEPS)[:, None], fine.shape)], axis=1)
    position, log = np.concatenate([coarse, fine], axis=1), np.concatenate([seen, looked], axis=1) + log_weight
    order = np.argsort(position, axis=1, kind="stable")
    position, log = np.take_along_axis(position, order, axis=1), np.take_along_axis(log, order, axis=1)
    total = logsumexp(log, axis=1)
    return _Integral(curve, position, np.exp(log - total[:, None]), total - math.log(span))


def _atoms(workup: Workup, looked: _Looked, curve_mass: Floats, at: Spot) -> tuple[Atoms, NDArray[np.intp]]:
    """The posterior as points of equal mass along each curve that was looked at, one point ``at`` (all curves) on every other; and for each
    hypothesis the middle point of its heaviest curve."""
    curves, count, swept = workup.curves, ATOMS_PER_CURVE, looked.swept
    single = np.setdiff1d(np.arange(len(curves.length)), swept.curve)
    middle = (np.arange(count) + 0.5) / count
    reached = np.cumsum(swept.share, axis=1)
    index = np.minimum((reached[:, None, :] < middle[:, None]).sum(axis=2), reached.shape[1] - 1)  # (C, count)
    place_at = np.take_along_axis(swept.position, index, axis=1)
    low = np.minimum(place_at.astype(int), GRID - 2)
    of_curve = np.concatenate([single, np.repeat(swept.curve, count)])
    number = np.arange(len(of_curve))
    place = np.concatenate([np.zeros(len(single), dtype=int), np.tile(np.arange(count), len(swept.curve))])  # along its own curve
    last = np.where(number < len(single), 0, count - 1)
    spot = Spot(
        np.concatenate([at.row[single], (curves.start[swept.curve][:, None] + low).ravel()]),
        np.concatenate([at.part[single], (place_at - low).ravel()]),
    )
    origin = np.array([grid[0] for grid in curves.grid])[of_curve]
    step = grid_step(workup, curves.hypothesis[of_curve])
    atoms = Atoms(
        hypothesis=curves.hypothesis[of_curve],
        spot=spot,
        log_ohms=origin + (spot.row - curves.start[of_curve] + spot.part) * step,
        mass=curve_mass[of_curve] / (last + 1),
        left=number - (place > 0),
        right=number + (place < last),
    )
    heaviest = {int(curves.hypothesis[c]): c for c in np.argsort(curve_mass, kind="stable")}
    centre = {int(of_curve[i]): i for i in number[place == (last + 1) // 2]}
    return atoms, np.array([centre[int(heaviest[h])] for h in range(len(workup.hypotheses.items))])


def _severities(workup: Workup, swept: _Integral, curve_mass: Floats) -> dict[int, tuple[float, float, float]]:
    """Median, 5 % and 95 % of the swept hypotheses that were looked at, in ohms, over the curves of each together."""
    made: dict[int, tuple[float, float, float]] = {}
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
    return made
