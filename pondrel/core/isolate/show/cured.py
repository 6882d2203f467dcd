"""Whether readings taken again after a repair are those of a sound circuit, and how likely it is that what was found is gone."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

import numpy as np

from ...check import Finding, Verdict
from ...evidence.limits import findings_of
from ...remedy.again import Cured, Retaken
from ..believe.belief import Belief
from ..predict.prediction import Spot
from ..predict.scale import off_scale

__all__ = ["cured"]

WITHIN, OUTSIDE = 2.5, 4.0  # standard deviations, as where evidence is weighed
BAND = 2.0


def cured(belief: Belief, parts: Iterable[str]) -> Cured:
    """What readings taken again say: a belief that rests on them alone, and the parts that were mended."""
    named = frozenset(parts)
    items = belief.workup.hypotheses.items
    still = sum(float(p) for item, p in zip(items, belief.probability, strict=True) if item.part in named)
    sound = float(belief.probability[0])
    chance = sound / (sound + still) if sound + still > 0.0 else 0.0
    if not belief.readings:
        return Cured((), chance)
    nothing = np.zeros(1, dtype=np.intp)
    atom = belief.best[nothing]
    spot = Spot(belief.atoms.spot.row[atom], belief.atoms.spot.part[atom])
    middle = belief.evidence.expected(spot, belief.step(nothing))[0]
    spread = belief.evidence.spread(spot.near)
    own = belief.evidence.uncertainty(spot.near, None, spread)[0]
    sigma = np.sqrt((spread[0] ** 2).sum(axis=1) + own**2)
    # Each by itself: what one reading is off by must not be laid on the others.
    scores = (belief.evidence.value - middle) / sigma
    return Cured(tuple(_retaken(belief, i, middle, sigma, scores) for i in range(len(belief.readings))), chance)


def _retaken(belief: Belief, i: int, middle: Sequence[float], sigma: Sequence[float], scores: Sequence[float]) -> Retaken:
    reading = belief.readings[i]
    edges = (float(middle[i] - BAND * sigma[i]), float(middle[i] + BAND * sigma[i]))
    low, high = sorted(off_scale(edge, reading.instrument) for edge in edges)
    findings = findings_of(belief.workup.sheet, reading)
    return Retaken(reading, off_scale(float(middle[i]), reading.instrument), low, high, findings, _verdict(findings, abs(float(scores[i]))))


def _verdict(findings: Sequence[Finding], score: float) -> Verdict:
    """By the sheet's own limit; without one by the distance from a sound circuit."""
    if findings:
        return findings[0].verdict
    return Verdict.OUTSIDE if score >= OUTSIDE else Verdict.WITHIN if score <= WITHIN else Verdict.TOO_CLOSE
