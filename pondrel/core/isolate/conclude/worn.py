"""What the readings say of the joints that are not at fault: worn, within limits; and what a verdict of "nothing wrong" rests on.

A joint's ohms follow from the log as any tolerance does: with S what the tolerances do to the readings and C their covariance, the mean of
a tolerance is S'C⁻¹r, and what is left of its variance 1 − S'C⁻¹S (the linear Gaussian model; any text on Kalman filters).
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from ...base.judgement import OWN_RULE, judged
from ...circuit.fault import LEAST_LOSS, LEAST_LOSS_ALONG
from ...circuit.sensitivity import Tolerances
from ...circuit.wear import film_ohms, working_amps
from ..believe.belief import Belief
from ..predict.prediction import Spot

__all__ = ["Coverage", "Worn", "coverage", "worn_joints"]

WORTH_SAYING = judged("WORN_FROM", 0.4, "share", "of what a sound connection may lose, from which on it is said to be worn", OWN_RULE)
_SURE = 2.0  # standard deviations by which a joint is worse than what is usual
UNTOUCHED = judged("UNTOUCHED", 0.3, "times", "a part whose fault is left so likely by the readings was not tested by them", OWN_RULE)


@dataclass(frozen=True, slots=True)
class Worn:
    """A connection that is worse than usual and within its limit: ``ohms`` with their standard deviation ``give``, the ``volts`` that it
    loses at working current, and the ``limit`` of those."""

    part: str
    ohms: float
    give: float
    volts: float
    limit: float


@dataclass(frozen=True, slots=True)
class Coverage:
    """Which parts the readings have tested, in the sheet's order, and which they have not."""

    tested: tuple[str, ...]
    untested: tuple[str, ...]


def worn_joints(belief: Belief) -> tuple[Worn, ...]:
    """The connections that the readings show to be worn, under the hypothesis that leads; the worst first."""
    if not belief.readings:
        return ()
    workup, leading = belief.workup, int(belief.probability.argmax())
    network, sheet = workup.network, workup.sheet
    spot, step = _spot(belief, leading), belief.step(np.array([leading]))
    row = spot.near
    spread = belief.evidence.spread(row)[0]  # (R, K)
    precision = belief.evidence.precision(row).matrix[0]
    residual = belief.evidence.value - belief.evidence.expected(spot, step)[0]
    odd = belief.explain(np.array([leading]))[2][0] > 0.5
    kept = np.flatnonzero(~odd)
    if kept.size < len(odd):
        covariance = np.linalg.inv(precision)[np.ix_(kept, kept)]
        precision, spread, residual = np.linalg.inv(covariance), spread[kept], residual[kept]
    pull = spread.T @ (precision @ residual)  # (K,)
    tolerances, films, amps = Tolerances.of(network), film_ohms(network), working_amps(sheet)
    found = []
    for k, element in enumerate(tolerances.element.tolist()):
        part = network.keys[element][0]
        if films[element] <= 0.0 or not tolerances.is_ohms(k) or amps[element] <= 0.0 or part == workup.hypotheses.items[leading].part:
            continue
        along = np.zeros(spread.shape[1])
        along[k] = 1.0
        along[len(tolerances.element) : tolerances.count] = tolerances.shared[k]
        seen = spread @ along
        mean, left = float(along @ pull), float(along @ along - seen @ precision @ seen)
        unit = float(network.ohms[element] * tolerances.sigma[k])
        ohms, give = float(network.ohms[element]) + unit * mean, abs(unit) * math.sqrt(max(left, 0.0))
        kind = sheet.parts[part].kind
        limit = (LEAST_LOSS_ALONG if kind.symbol in ("wire", "switch") else LEAST_LOSS) * sheet.supply_volts
        if ohms - _SURE * give > network.ohms[element] and ohms * amps[element] >= WORTH_SAYING * limit:
            found.append(Worn(part, ohms, give, float(ohms * amps[element]), limit))
    worst = {own.part: own for own in sorted(found, key=lambda own: own.volts / own.limit)}
    return tuple(sorted(worst.values(), key=lambda own: -own.volts / own.limit))


def _spot(belief: Belief, hypothesis: int) -> Spot:
    return belief.atoms.spot.at(belief.best[[hypothesis]])


def coverage(belief: Belief) -> Coverage:
    """What the readings have tested: a part whose every fault they leave less likely than it was, beside a sound circuit."""
    items, prior = belief.workup.hypotheses.items, belief.workup.hypotheses.prior
    sound = max(float(belief.probability[0] / prior[0]), 1e-300)
    left: dict[str, float] = {}
    before: dict[str, float] = {}
    for item, now, was in zip(items[1:], belief.probability[1:].tolist(), prior[1:].tolist(), strict=True):
        assert item.part is not None
        left[item.part] = left.get(item.part, 0.0) + now / sound
        before[item.part] = before.get(item.part, 0.0) + was
    tested = tuple(part for part in left if left[part] < UNTOUCHED * before[part])
    return Coverage(tested, tuple(part for part in left if part not in tested))
