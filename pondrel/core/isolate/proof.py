"""When to stop: which suspects no test can tell apart, which readings prove one, and whether a part may be condemned.

Readings are a *direct proof* of a target when, taken by themselves and without any prior, they fit the target and no other single fault
of any severity, nor a sound circuit. One may do, such as 4 V across a joint under load; up to five may do it together: 12.4 V into a
plug pin and 0.3 V out of it is the drop across the pin; 12.6 V across a fuse and no short behind it is a fuse that failed by itself;
feed in, nothing out and a coil that is fed is a dead relay contact.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..arrays import Floats
from .advise import Advice, describe, gains, minutes_for, worth_offering
from .belief import Belief, Spot, interpolate
from .hypotheses import GRID
from .likelihood import own_variance
from .offer import Test
from .responses import BRIDGED_SHARE, UNRELIABLE_VOLTS
from .scale import scale_uncertainty

__all__ = ["CERTAIN", "Standing", "direct_proof", "inseparable", "percent", "proof_tests", "standing"]

CERTAIN = 0.95
FITS, EXCLUDES = 2.5, 4.0  # standard deviations
_LEAST_PROBABILITY = 0.005  # suspects below this are not worth telling apart
_TELLS_APART = 3.0
_NEARLY_ALL = 0.85
_MOST_LOOKED_AT = 12
_TESTS_AT_ONCE = 32
MOST_PROOF_READINGS = 5
_STEPS = 193
_MOST_SUSPECTS = 24


@dataclass(frozen=True, slots=True)
class Standing:
    """Where the job stands: the leading target (parts that cannot be told apart), its probability, its proof, what is missing."""

    target: tuple[str, ...]
    probability: float
    proof: tuple[int, ...]
    ready: bool
    says: str


def _positions(belief: Belief, hypothesis: int) -> tuple[Spot, Floats]:
    """Spots close together along all visible curves of a hypothesis, and the grid step at each; a melted fuse counts as melted, since
    nobody proves that a fuse was not bridged."""
    curves, visible = belief.workup.curves, belief.workup.visible
    rows, parts = [], []
    for c in np.flatnonzero((curves.hypothesis == hypothesis) & (curves.share > BRIDGED_SHARE)):
        if curves.length[c] == 1:
            rows.append(curves.start[[c]])
            parts.append(np.zeros(1))
            continue
        at = np.linspace(0.0, GRID - 1, _STEPS)
        low = np.minimum(at.astype(int), GRID - 2)
        rows.append(curves.start[c] + low)
        parts.append(at - low)
    spot = Spot(np.concatenate(rows), np.concatenate(parts))
    seen = visible[spot.near]
    if seen.any():
        spot = Spot(spot.row[seen], spot.part[seen])
    return spot, np.full(len(spot.part), float(belief.step(np.array([hypothesis]))[0]))


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
    tests = tuple(t for t in workup.offered if t.instrument == "ohms" or (t.instrument == "volts" and t.black == workup.sheet.minus))
    prediction = workup.predict(tests)
    everywhere = {}
    for h in suspects:
        spot, step = _positions(belief, h)
        everywhere[h] = interpolate(prediction, Spot(spot.row, spot.part), step)  # (spots, T)
    found = set()
    for one in suspects:
        own = np.flatnonzero(belief.atoms.hypothesis == one)
        own = own[belief.atoms.mass[own] >= 0.01 * belief.atoms.mass[own].sum()]
        own = own[:: max(1, len(own) // 3)]
        spot = Spot(belief.atoms.spot.row[own], belief.atoms.spot.part[own])
        here = interpolate(prediction, spot, belief.step(np.full(len(own), one)))
        sigma = np.hypot(scale_uncertainty(here, tests), UNRELIABLE_VOLTS * prediction.stray[spot.near])
        for other in suspects:
            apart = np.array([_nearest(everywhere[other], at, s) for at, s in zip(here, sigma, strict=True)])
            if (apart < _TELLS_APART).mean() >= _NEARLY_ALL:
                found.add((one, other))
    return found


def _nearest(curve: Floats, point: Floats, sigma: Floats) -> float:
    """Least distance, in the worst test's standard deviations, between ``point`` (T,) and a curve (S, T) with straight lines between
    its points near the closest one."""
    offset = (curve - point) / sigma
    closest = int(np.abs(offset).max(axis=1).argmin())
    least = float(np.abs(offset[closest]).max())
    share = np.linspace(0.0, 1.0, 17)[1:, None]
    for neighbour in (closest - 1, closest + 1):
        if 0 <= neighbour < len(offset) and least > 0:
            between = offset[closest] * (1 - share) + offset[neighbour] * share
            least = min(least, float(np.abs(between).max(axis=1).min()))
    return least


class _Alone:
    """Every hypothesis at every severity against a few readings taken by themselves."""

    def __init__(self, belief: Belief):
        evidence = belief.evidence
        found = [_positions(belief, h) for h in range(len(belief.workup.hypotheses.items))]
        spot = Spot(np.concatenate([s.row for s, _ in found]), np.concatenate([s.part for s, _ in found]))
        self.starts = np.cumsum([0, *(len(s.row) for s, _ in found)])[:-1]
        residual = evidence.value - evidence.expected(spot, np.concatenate([step for _, step in found]))  # (S, R)
        spread = evidence.spread
        vague = np.hypot(evidence.uncertainty, UNRELIABLE_VOLTS * evidence.prediction.stray)
        covariance = spread @ np.swapaxes(spread, 1, 2) + own_variance(vague)
        # Of very many readings the ones that exclude most by themselves are looked at.
        variance = np.diagonal(covariance, axis1=1, axis2=2)[spot.near]
        excluded = np.minimum(np.minimum.reduceat(residual**2 / variance, self.starts, axis=0), EXCLUDES**2).sum(axis=0)
        self.chosen = np.sort(np.argsort(-excluded, kind="stable")[:_MOST_LOOKED_AT])
        self.residual = residual[:, self.chosen]
        self.covariance = covariance[:, self.chosen[:, None], self.chosen][spot.near]  # (S, R, R)

    def chain(self, first: int, own: NDArray[np.bool_]) -> tuple[int, ...]:
        """Readings from ``first`` on, each the one that excludes most beside those before, until all but ``own`` is excluded; () if
        five do not do it. Conditioning one reading at a time is a Cholesky step: C' = C − c·c'/C_ii, r' = r − c·r_i/C_ii."""
        residual, covariance = self.residual.copy(), self.covariance.copy()
        square = np.zeros(len(residual))
        chosen: list[int] = []
        following = first
        while True:
            i = following
            chosen.append(i)
            column, pivot, miss = covariance[:, :, i].copy(), covariance[:, i, i].copy(), residual[:, i].copy()
            square += miss**2 / pivot
            residual -= column * (miss / pivot)[:, None]
            covariance -= column[:, :, None] * (column / pivot[:, None])[:, None, :]
            least = np.minimum.reduceat(square, self.starts)
            if least[own].min() > FITS**2:
                return ()
            if least[~own].min() >= EXCLUDES**2:
                return tuple(sorted(int(self.chosen[j]) for j in chosen))
            left = [j for j in range(residual.shape[1]) if j not in chosen]
            if len(chosen) == MOST_PROOF_READINGS or not left:
                return ()
            ahead = square[:, None] + residual[:, left] ** 2 / np.maximum(covariance[:, left, left], 1e-12)
            excluded = np.minimum(np.minimum.reduceat(ahead, self.starts, axis=0)[~own], EXCLUDES**2).sum(axis=0)
            following = left[int(np.argmax(np.round(excluded, 9)))]


def _own(belief: Belief, target: tuple[str, ...]) -> NDArray[np.bool_]:
    return np.array([item.part in target for item in belief.workup.hypotheses.items])


def direct_proof(belief: Belief, target: tuple[str, ...]) -> tuple[int, ...]:
    """Indices of the fewest readings found that prove the target by themselves; empty where none do."""
    own, alone = _own(belief, target), _Alone(belief)
    chains = [alone.chain(first, own) for first in range(len(alone.chosen))]
    return min((c for c in chains if c), key=lambda c: (len(c), c), default=())


def proof_tests(belief: Belief, target: tuple[str, ...], most: int = 3) -> tuple[Advice, ...]:
    """Tests whose expected number would, with the readings already taken, prove the target; the cheapest first."""
    sheet = belief.workup.sheet
    own = _own(belief, target)
    found = [_positions(belief, h) for h in np.flatnonzero(~own).tolist()]
    others = Spot(np.concatenate([s.row for s, _ in found]), np.concatenate([s.part for s, _ in found]))
    steps = np.concatenate([step for _, step in found])
    lead = int(np.argmax(np.where(own, belief.probability, -1.0)))
    tests = sorted(worth_offering(belief), key=lambda t: minutes_for(sheet, t, belief.readings))
    chosen: list[Test] = []
    for start in range(0, len(tests), _TESTS_AT_ONCE):
        block = tuple(tests[start : start + _TESTS_AT_ONCE])
        proves = _would_prove(belief, lead, others, steps, block)
        chosen += [test for test, good in zip(block, proves, strict=True) if good]
        if len(chosen) >= most:
            break
    best = tuple(chosen[:most])
    return tuple(describe(belief, test, float(bits), proves=True) for test, bits in zip(best, gains(belief, best), strict=True))


def _would_prove(belief: Belief, lead: int, others: Spot, steps: Floats, tests: tuple[Test, ...]) -> NDArray[np.bool_]:
    """(T,) whether each test's number, if the leading hypothesis is true, leaves nothing else beside the readings so far."""
    workup, evidence = belief.workup, belief.evidence
    atom = belief.best[lead]
    here = Spot(belief.atoms.spot.row[[atom]], belief.atoms.spot.part[[atom]])
    prediction = workup.predict(tests)
    mine = interpolate(prediction, here, belief.step(np.array([lead])))  # (1, T)
    near, which = np.unique(others.near, return_inverse=True)
    new = workup.spread(tests, near)  # (rows, T, K)
    old = evidence.spread[near]  # (rows, R, K)
    vague = UNRELIABLE_VOLTS * np.maximum(prediction.stray[near], prediction.stray[here.near])
    new_variance = (new**2).sum(axis=2) + vague**2 + scale_uncertainty(mine, tests) ** 2  # (rows, T)
    old_vague = np.hypot(evidence.uncertainty, UNRELIABLE_VOLTS * evidence.prediction.stray)[near]  # (rows, R)
    covariance = old @ np.swapaxes(old, 1, 2) + own_variance(old_vague)
    inverse = np.linalg.inv(covariance)
    shared = new @ np.swapaxes(old, 1, 2)  # (rows, T, R): a low battery moves all readings alike
    gain = shared @ inverse
    new_variance -= (gain * shared).sum(axis=2)
    old_miss = evidence.value - evidence.expected(others, steps)  # (S, R)
    new_miss = mine - interpolate(prediction, others, steps) - (gain[which] @ old_miss[:, :, None])[:, :, 0]
    so_far = np.einsum("sr,srq,sq->s", old_miss, inverse[which], old_miss)
    return (so_far[:, None] + new_miss**2 / new_variance[which]).min(axis=0) >= (EXCLUDES + 1.0) ** 2


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
        return Standing(
            target,
            probability,
            proof,
            False,
            f"{names} leads with {percent(min(probability, CERTAIN - 0.01))}; {percent(CERTAIN)} is wanted.",
        )
    if not proof:
        return Standing(target, probability, proof, False, f"{names} at {percent(probability)}, but no reading proves it directly yet.")
    *most, last = [str(i + 1) for i in proof]
    numbers = f"readings {', '.join(most)} and {last}" if most else f"reading {last}"
    return Standing(target, probability, proof, True, f"{names} at {percent(probability)}, proved by {numbers}.")


def percent(probability: float) -> str:
    """A probability as a person reads it: never 0 % or 100 %, which nobody knows."""
    if probability > 0.995:
        return "over 99 %"
    return f"{probability:.0%}".replace("%", " %") if probability >= 0.01 else "under 1 %"
