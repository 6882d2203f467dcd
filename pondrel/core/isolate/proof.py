"""When to stop: which suspects no test can tell apart, which readings prove one, and whether a part may be condemned.

A reading is a *direct proof* of a target when, taken by itself, it fits the target and no other single fault of any severity, nor a
sound circuit. Two readings in the same state count as one: 12.4 V into a plug pin and 0.3 V out of it is the drop across the pin.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import combinations

import numpy as np
from numpy.typing import NDArray

from .advise import UNRELIABLE_VOLTS, Advice, available_tests, describe, gains, minutes_for, scale_uncertainty
from .belief import Belief, Spot, interpolate
from .hypotheses import GRID

__all__ = ["CERTAIN", "Standing", "direct_proof", "inseparable", "percent", "proof_tests", "standing"]

Floats = NDArray[np.float64]

CERTAIN = 0.95
FITS, EXCLUDES = 2.5, 4.0  # standard deviations
_LEAST_PROBABILITY = 0.005  # suspects below this are not worth telling apart
_TELLS_APART = 3.0
_NEARLY_ALL = 0.85
_STEPS = 65
_MOST_SUSPECTS = 24


@dataclass(frozen=True, slots=True)
class Standing:
    """Where the job stands: the leading target (parts that cannot be told apart), its probability, its proof, what is missing."""

    target: tuple[str, ...]
    probability: float
    proof: tuple[int, ...]
    ready: bool
    says: str


def _positions(belief: Belief, hypothesis: int) -> tuple[Spot, float]:
    """Spots along all curves of a hypothesis."""
    curves = belief.workup.curves
    rows, parts = [], []
    for c in np.flatnonzero(curves.hypothesis == hypothesis):
        if curves.length[c] == 1:
            rows.append(curves.start[[c]])
            parts.append(np.zeros(1))
            continue
        at = np.linspace(0.0, GRID - 1, _STEPS)
        low = np.minimum(at.astype(int), GRID - 2)
        rows.append(curves.start[c] + low)
        parts.append(at - low)
    step = float(belief.step(np.array([hypothesis]))[0])
    return Spot(np.concatenate(rows), np.concatenate(parts)), step


def inseparable(belief: Belief) -> tuple[tuple[str, ...], ...]:
    """Groups of suspect parts, two or more, whose faults no available test would tell apart; the likeliest first.

    Two faults are alike when nearly everything that either may be at its likely severities, the other can mimic at some severity.
    Groups are cliques, taken greedily by probability: being alike is not handed on from neighbour to neighbour.
    """
    items = belief.workup.hypotheses.items
    order = np.argsort(-belief.probability, kind="stable").tolist()
    suspects = [h for h in order if belief.probability[h] >= _LEAST_PROBABILITY and items[h].part]
    suspects = suspects[:_MOST_SUSPECTS]
    mimics = _mimics(belief, suspects)
    cliques: list[list[int]] = []
    for h in suspects:
        home = next((c for c in cliques if all((h, m) in mimics and (m, h) in mimics for m in c)), None)
        if home is None:
            cliques.append([h])
        else:
            home.append(h)
    groups = [tuple(dict.fromkeys(str(items[h].part) for h in clique)) for clique in cliques]
    return tuple(g for i, g in enumerate(groups) if len(g) > 1 and not any(set(g) <= set(other) for other in groups[:i]))


def _mimics(belief: Belief, suspects: list[int]) -> set[tuple[int, int]]:
    """Pairs (one, other) of hypotheses such that nearly all of ``one`` looks like ``other`` at some severity in every test."""
    workup = belief.workup
    tests = tuple(t for t in available_tests(workup) if t.instrument == "ohms" or (t.instrument == "volts" and t.black == workup.sheet.minus))
    prediction = workup.predict(tests)

    def shown(spot: Spot, step: float) -> Floats:
        return interpolate(prediction, spot, np.full(len(spot.part), step))  # (spots, T)

    everywhere = {h: shown(*_positions(belief, h)) for h in suspects}
    found = set()
    for one in suspects:
        own = np.flatnonzero(belief.atoms.hypothesis == one)
        own = own[:: max(1, len(own) // 3)]
        spot = Spot(belief.atoms.spot.row[own], belief.atoms.spot.part[own])
        here = shown(spot, float(belief.step(np.array([one]))[0]))
        sigma = np.hypot(scale_uncertainty(here, tests), UNRELIABLE_VOLTS * prediction.stray[spot.near])
        for other in suspects:
            apart = (np.abs(everywhere[other][None] - here[:, None]) / sigma[:, None]).max(axis=2).min(axis=1)
            if (apart < _TELLS_APART).mean() >= _NEARLY_ALL:
                found.add((one, other))
    return found


def _misses(belief: Belief, chosen: tuple[int, ...]) -> Floats:
    """(H,) how far, in standard deviations, the chosen readings by themselves lie from each hypothesis at its nearest severity."""
    evidence = belief.evidence
    pick = np.array(chosen)
    stray = evidence.prediction.stray
    made = []
    for h in range(len(belief.workup.hypotheses.items)):
        spot, step = _positions(belief, h)
        residual = evidence.value[pick] - evidence.expected(spot, np.full(len(spot.part), step))[:, pick]
        spread = evidence.spread[spot.near][:, pick, :]
        covariance = spread @ np.swapaxes(spread, 1, 2) + np.diag(evidence.uncertainty[pick] ** 2)
        covariance += (UNRELIABLE_VOLTS * stray[spot.near][:, pick, None]) ** 2 * np.eye(len(pick))
        square = np.einsum("mi,mi->m", residual, np.linalg.solve(covariance, residual[..., None])[..., 0])
        made.append(float(np.sqrt(square.min())))
    return np.array(made)


def _own(belief: Belief, target: tuple[str, ...]) -> NDArray[np.bool_]:
    return np.array([item.part in target for item in belief.workup.hypotheses.items])


def direct_proof(belief: Belief, target: tuple[str, ...]) -> tuple[int, ...]:
    """Indices of the readings that prove the target by themselves: one, or two of the same state; empty where none do."""
    own, readings = _own(belief, target), belief.readings
    singles = [(i,) for i in range(len(readings))]
    pairs = [
        (i, j)
        for i, j in combinations(range(len(readings)), 2)
        if readings[i].state == readings[j].state and readings[i].instrument == readings[j].instrument == "volts"
    ]
    for chosen in (*singles, *pairs):
        miss = _misses(belief, chosen)
        if miss[own].min() <= FITS and miss[~own].min() >= EXCLUDES:
            return chosen
    return ()


def proof_tests(belief: Belief, target: tuple[str, ...], most: int = 3) -> tuple[Advice, ...]:
    """Tests whose expected number would prove the target by itself, the cheapest first."""
    workup = belief.workup
    own = _own(belief, target)
    lead = int(np.argmax(np.where(own, belief.probability, -1.0)))
    atom = belief.best[lead]
    spots = [_positions(belief, h) for h in np.flatnonzero(~own)]
    everywhere = Spot(np.concatenate([s.row for s, _ in spots]), np.concatenate([s.part for s, _ in spots]))
    steps = np.concatenate([np.full(len(s.part), step) for s, step in spots])
    here = Spot(belief.atoms.spot.row[[atom]], belief.atoms.spot.part[[atom]])
    taken = {r.test for r in belief.readings}
    tests = tuple(t for t in available_tests(workup) if t not in taken)
    prediction = workup.predict(tests)
    mine = interpolate(prediction, here, belief.step(np.array([lead])))  # (1, T)
    others = interpolate(prediction, everywhere, steps)
    near, which = np.unique(everywhere.near, return_inverse=True)
    variance = (workup.spread(tests, near) ** 2).sum(axis=2)[which]
    vague = UNRELIABLE_VOLTS * np.maximum(prediction.stray[everywhere.near], prediction.stray[here.near])
    sigma = np.sqrt(variance + vague**2 + scale_uncertainty(mine, tests) ** 2)
    proves = (np.abs(others - mine) / sigma).min(axis=0) >= EXCLUDES + 1.0
    found = sorted((minutes_for(workup.sheet, tests[i], belief.readings), i) for i in np.flatnonzero(proves).tolist())
    chosen = tuple(tests[i] for _, i in found[:most])
    return tuple(describe(belief, test, float(bits), proves=True) for test, bits in zip(chosen, gains(belief, chosen), strict=True))


def standing(belief: Belief, groups: tuple[tuple[str, ...], ...] | None = None) -> Standing:
    """Whether a part may be condemned: one target at 0.95 or more and a direct proof of it."""
    groups = inseparable(belief) if groups is None else groups
    parts = belief.parts()
    totals: dict[tuple[str, ...], float] = {}
    for part, p in parts.items():
        members = next((g for g in groups if part in g), () if part is None else (part,))
        totals[members] = totals.get(members, 0.0) + p
    target = max(totals, key=lambda members: totals[members])
    probability = min(totals[target], 1.0)
    if not target:
        if probability >= CERTAIN:
            return Standing((), probability, (), True, "Every reading is as it should be: the fault is not on this sheet.")
        return Standing((), probability, (), False, "No part stands accused yet.")
    names = " or ".join(target)
    proof = direct_proof(belief, target) if probability >= CERTAIN / 2 else ()
    if probability < CERTAIN:
        return Standing(target, probability, proof, False, f"{names} leads with {percent(probability)}; {percent(CERTAIN)} is wanted.")
    if not proof:
        return Standing(target, probability, proof, False, f"{names} at {percent(probability)}, but no reading proves it directly yet.")
    numbers = " and ".join(str(i + 1) for i in proof)
    return Standing(target, probability, proof, True, f"{names} at {percent(probability)}, proved by reading {numbers}.")


def percent(probability: float) -> str:
    """A probability as a person reads it: never 0 % or 100 %, which nobody knows."""
    if probability > 0.995:
        return "over 99 %"
    return f"{probability:.0%}".replace("%", " %") if probability >= 0.01 else "under 1 %"


