"""When to stop: which suspects no test can tell apart, which readings prove one, and whether a part may be condemned.

Readings are a *direct proof* of a target when, taken by themselves and without any prior, they fit the target and no other single fault
of any severity, nor a sound circuit. One may do, such as 4 V across a joint under load; up to five may do it together: 12.4 V into a
plug pin and 0.3 V out of it is the drop across the pin; 12.6 V across a fuse and no short behind it is a fuse that failed by itself;
feed in, nothing out and a coil that is fed is a dead relay contact.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..arrays import Floats
from .advise import Advice, access_gained, describe, gains, last_done, minutes_for, worth_offering
from .against import DRIFT, Spot, interpolate
from .belief import Belief, grid_step
from .hypotheses import GRID
from .likelihood import own_variance
from .offer import Test
from .responses import BRIDGED_SHARE, UNRELIABLE_VOLTS, Prediction, Workup
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
_STEPS = 121
_MOST_SUSPECTS = 12


@dataclass(frozen=True, slots=True)
class Standing:
    """Where the job stands: the leading target (parts that cannot be told apart), its probability, its proof, what is missing."""

    target: tuple[str, ...]
    probability: float
    proof: tuple[int, ...]
    ready: bool
    says: str


def _positions(workup: Workup, hypothesis: int) -> tuple[Spot, Floats]:
    """Spots close together along all visible curves of a hypothesis, and the grid step at each; a melted fuse counts as melted, since
    nobody proves that a fuse was not bridged."""
    curves, visible = workup.curves, workup.visible
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
    return spot, np.full(len(spot.part), float(grid_step(workup, np.array([hypothesis]))[0]))


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
    tests, prediction = workup.plain_offer
    everywhere = {h: _everywhere(workup, prediction, h) for h in suspects}
    reach = {h: (values.min(axis=0), values.max(axis=0)) for h, values in everywhere.items()}
    found = set()
    for one in suspects:
        own = np.flatnonzero(belief.atoms.hypothesis == one)
        own = own[belief.atoms.mass[own] >= 0.01 * belief.atoms.mass[own].sum()]
        own = own[:: max(1, len(own) // 3)]
        spot = Spot(belief.atoms.spot.row[own], belief.atoms.spot.part[own])
        here = interpolate(prediction, spot, belief.step(np.full(len(own), one)))
        sigma = np.hypot(scale_uncertainty(here, tests), UNRELIABLE_VOLTS * prediction.stray[spot.near])
        for other in suspects:
            low, high = reach[other]
            if ((np.maximum(low - here, here - high) / sigma).max(axis=1) >= _TELLS_APART).mean() > 1.0 - _NEARLY_ALL:
                continue  # some test shows what the other cannot
            apart = np.array([_nearest(everywhere[other], at, s) for at, s in zip(here, sigma, strict=True)])
            if (apart < _TELLS_APART).mean() >= _NEARLY_ALL:
                found.add((one, other))
    return found


def _everywhere(workup: Workup, prediction: Prediction, hypothesis: int) -> Floats:
    """(spots, T) what a hypothesis can make the tests show, at any severity; kept with the workup."""
    if hypothesis not in workup.everywhere:
        workup.everywhere[hypothesis] = interpolate(prediction, *_positions(workup, hypothesis))
    return workup.everywhere[hypothesis]


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


@dataclass(frozen=True, eq=False)
class _Others:
    """Spots on the curves of some hypotheses against the readings: ``owner`` (S,) which hypothesis, ``residual`` (S, R), and the stretch of
    severity that each spot stands for, as what half of it does to the readings, ``stretch`` (S, R). Spots of one owner stand together."""

    spot: Spot
    step: Floats
    owner: NDArray[np.intp]
    residual: Floats
    stretch: Floats

    @classmethod
    def of(cls, belief: Belief, hypotheses: NDArray[np.intp]) -> _Others:
        """All severities of some hypotheses."""
        workup, evidence = belief.workup, belief.evidence
        found = [_positions(workup, h) for h in hypotheses.tolist()]
        spot = Spot(np.concatenate([s.row for s, _ in found]), np.concatenate([s.part for s, _ in found]))
        step = np.concatenate([step for _, step in found])
        owner = np.repeat(np.arange(len(found)), [len(s.row) for s, _ in found])
        expected = evidence.expected(spot, step)
        return cls(spot, step, owner, evidence.value - expected, stretches(expected, owner))

    def at(self, index: NDArray) -> _Others:
        """Some of the spots."""
        return _Others(self.spot.at(index), self.step[index], self.owner[index], self.residual[index], self.stretch[index])


def stretches(values: Floats, owner: NDArray[np.intp]) -> Floats:
    """(S, T) half of what lies between a spot's neighbours on the same curve."""
    last = len(owner) - 1
    every = np.arange(len(owner))
    before, after = np.maximum(every - 1, 0), np.minimum(every + 1, last)
    before, after = np.where(owner[before] == owner, before, every), np.where(owner[after] == owner, after, every)
    return np.abs(values[after] - values[before]) / 4.0 * np.sign(values[after] - values[before])


class _Alone:
    """Every hypothesis at every severity against a few readings taken by themselves."""

    def __init__(self, belief: Belief, lead: int):
        workup, evidence = belief.workup, belief.evidence
        others = _Others.of(belief, np.arange(len(workup.hypotheses.items)))
        residual, near = others.residual, others.spot.near
        self.owner = others.owner
        rows, which = np.unique(near, return_inverse=True)
        spread, vague = _unsure(belief, rows)
        covariance = spread @ np.swapaxes(spread, 1, 2) + own_variance(vague)
        # Of very many readings the ones that exclude most by themselves are looked at.
        variance = np.diagonal(covariance, axis1=1, axis2=2)[which] + others.stretch**2
        starts = np.searchsorted(self.owner, np.arange(len(workup.hypotheses.items)))
        excluded = np.minimum(np.minimum.reduceat(residual**2 / variance, starts, axis=0), EXCLUDES**2).sum(axis=0)
        # What is most probably a blunder proves nothing.
        good = np.flatnonzero(belief.explain(np.array([lead]))[2][0] < 0.5)
        self.chosen = np.sort(good[np.argsort(-excluded[good], kind="stable")[:_MOST_LOOKED_AT]])
        # What was seen, done or known counts from the start: twice the log of how much less likely it is than for the likeliest.
        self.square = 2.0 * (evidence.factor.max() - evidence.factor[near])
        self.residual = residual[:, self.chosen]
        stretch = others.stretch[:, self.chosen]
        self.covariance = covariance[:, self.chosen[:, None], self.chosen][which] + stretch[:, :, None] * stretch[:, None, :]  # (S, R, R)

    def chain(self, first: int, own: NDArray[np.bool_]) -> tuple[int, ...]:
        """Readings from ``first`` on, each the one that excludes most beside those before, until all but ``own`` is excluded; () if
        five do not do it. Conditioning one reading at a time is a Cholesky step: C' = C − c·c'/C_ii, r' = r − c·r_i/C_ii. What is
        excluded stays so, and is dropped."""
        residual, covariance, owner = self.residual, self.covariance, self.owner
        mine = own[owner]
        square = np.where(mine, 0.0, np.maximum(self.square - self.square[mine].min(), 0.0))
        chosen: list[int] = []
        following = first
        while True:
            i = following
            chosen.append(i)
            column, pivot, miss = covariance[:, :, i], covariance[:, i, i], residual[:, i]
            square = square + miss**2 / pivot
            stays = np.where(mine, square <= FITS**2, square < EXCLUDES**2)
            if not (stays & mine).any():
                return ()
            if not (stays & ~mine).any():
                return tuple(sorted(int(self.chosen[j]) for j in chosen))
            left = [j for j in range(residual.shape[1]) if j not in chosen]
            if len(chosen) == MOST_PROOF_READINGS or not left:
                return ()
            residual = (residual - column * (miss / pivot)[:, None])[stays]
            covariance = (covariance - column[:, :, None] * (column / pivot[:, None])[:, None, :])[stays]
            square, mine, owner = square[stays], mine[stays], owner[stays]
            diagonal = np.maximum(np.diagonal(covariance, axis1=1, axis2=2)[:, left], 1e-12)
            ahead = np.minimum(square[:, None] + residual[:, left] ** 2 / diagonal, EXCLUDES**2)[~mine]
            # By hypothesis: what a reading is worth against the severity that it excludes least.
            starts = np.flatnonzero(np.r_[True, np.diff(owner[~mine]) > 0])
            excluded = (np.minimum.reduceat(ahead, starts, axis=0) - np.minimum.reduceat(square[~mine], starts)[:, None]).sum(axis=0)
            following = left[int(np.argmax(np.round(excluded, 9)))]


def _unsure(belief: Belief, rows: NDArray[np.intp]) -> tuple[Floats, Floats]:
    """(L, R, K) what tolerances do to the readings at some rows, and (L, R) what each has to itself where insulation proves nothing."""
    evidence = belief.evidence
    spread = evidence.spread(rows)
    return spread, np.hypot(evidence.uncertainty(rows, 0, spread), UNRELIABLE_VOLTS * evidence.prediction.stray[rows])


def _own(belief: Belief, target: tuple[str, ...]) -> NDArray[np.bool_]:
    return np.array([item.part in target for item in belief.workup.hypotheses.items])


def _lead(belief: Belief, own: NDArray[np.bool_]) -> int:
    """The likeliest hypothesis of a target."""
    return int(np.argmax(np.where(own, belief.probability, -1.0)))


def direct_proof(belief: Belief, target: tuple[str, ...]) -> tuple[int, ...]:
    """Indices of the fewest readings found that prove the target by themselves; empty where none do."""
    own = _own(belief, target)
    alone = _Alone(belief, _lead(belief, own))
    chains = [alone.chain(first, own) for first in range(len(alone.chosen))]
    return min((c for c in chains if c), key=lambda c: (len(c), c), default=())


def proof_tests(belief: Belief, target: tuple[str, ...], most: int = 3) -> tuple[Advice, ...]:
    """Tests whose expected number would, with the readings already taken, prove the target, the cheapest first; where none would, those
    that bring most towards it, per minute."""
    sheet = belief.workup.sheet
    own = _own(belief, target)
    others = _Others.of(belief, np.flatnonzero(~own))
    lead = _lead(belief, own)
    gained, last = access_gained(sheet, belief.items), last_done(belief.items)
    minutes = {test: max(minutes_for(sheet, test, gained, last), 0.1) for test in worth_offering(belief)}
    tests = sorted(minutes, key=lambda test: minutes[test])
    proving: list[Test] = []
    helping: list[tuple[float, Test]] = []
    for start in range(0, len(tests), _TESTS_AT_ONCE):
        block = tuple(tests[start : start + _TESTS_AT_ONCE])
        missing, before = _missing(belief, lead, others, block)
        proving += [test for test, left in zip(block, missing.tolist(), strict=True) if left == 0.0]
        if len(proving) >= most:
            break
        helping += [
            ((before - left) / minutes[test], test) for test, left in zip(block, missing.tolist(), strict=True) if before - left > 0.1
        ]
    helping.sort(key=lambda pair: -round(pair[0], 6))
    best = tuple(proving[:most]) or tuple(test for _, test in helping[:most])
    return tuple(describe(belief, test, float(bits), proves=bool(proving)) for test, bits in zip(best, gains(belief, best), strict=True))


def _missing(belief: Belief, lead: int, others: _Others, tests: tuple[Test, ...]) -> tuple[Floats, float]:
    """(T,) how much the exclusion of the other hypotheses would lack after each test's number, if the leading hypothesis is true, in whole
    hypotheses; and how much it lacks now."""
    workup, evidence = belief.workup, belief.evidence
    atom = belief.best[lead]
    here = Spot(belief.atoms.spot.row[[atom]], belief.atoms.spot.part[[atom]])
    near = others.spot.near
    rows, which = np.unique(near, return_inverse=True)
    spread, vague = _unsure(belief, rows)
    inverse = np.linalg.inv(spread @ np.swapaxes(spread, 1, 2) + own_variance(vague))[which]
    pulled = (inverse @ others.residual[:, :, None])[:, :, 0]
    eased = 1.0 + np.einsum("sr,srq,sq->s", others.stretch, inverse, others.stretch, optimize=True)
    so_far = (others.residual * pulled).sum(axis=1) - (others.stretch * pulled).sum(axis=1) ** 2 / eased
    so_far += 2.0 * np.maximum(evidence.factor[here.near[0]] - evidence.factor[near], 0.0)
    wanted = (EXCLUDES + 1.0) ** 2
    stands = so_far < wanted
    if not stands.any():
        return np.zeros(len(tests)), 0.0
    others, so_far = others.at(stands), so_far[stands]
    rows, which = np.unique(others.spot.near, return_inverse=True)
    spread, vague = _unsure(belief, rows)
    starts = np.flatnonzero(np.r_[True, np.diff(others.owner) > 0])
    before = float((1.0 - np.minimum.reduceat(so_far, starts) / wanted).sum())
    prediction = workup.predict(tests)
    mine = interpolate(prediction, here, belief.step(np.array([lead])))  # (1, T)
    new = workup.weighing_spreads(tests, rows)  # (rows, T, K)
    loose = UNRELIABLE_VOLTS * np.maximum(prediction.stray[rows], prediction.stray[here.near])
    drift = np.abs(new[:, :, workup.supplies]).sum(axis=2) * DRIFT
    own = loose**2 + drift**2 + scale_uncertainty(mine, tests) ** 2  # (rows, T)
    there = interpolate(prediction, others.spot, others.step)
    # Severity is one more thing that all readings share.
    stretch = np.concatenate([others.stretch, stretches(there, others.owner)], axis=1)  # (S, R + T)
    old = np.concatenate([spread[which], stretch[:, : others.stretch.shape[1], None]], axis=2)  # (S, R, K + 1)
    ahead = np.concatenate([new[which], stretch[:, others.stretch.shape[1] :, None]], axis=2)  # (S, T, K + 1)
    covariance = old @ np.swapaxes(old, 1, 2) + own_variance(vague[which])
    shared = ahead @ np.swapaxes(old, 1, 2)  # (S, T, R): a low battery moves all readings alike
    gain = shared @ np.linalg.inv(covariance)
    variance = (ahead**2).sum(axis=2) + own[which] - (gain * shared).sum(axis=2)
    miss = mine - there - (gain @ others.residual[:, :, None])[:, :, 0]
    after = so_far[:, None] + miss**2 / np.maximum(variance, 1e-9)  # (S, T)
    return (1.0 - np.minimum(np.minimum.reduceat(after, starts, axis=0) / wanted, 1.0)).sum(axis=0), before


def standing(
    belief: Belief,
    groups: tuple[tuple[str, ...], ...] | None = None,
    share: float = 1.0,
    also: Mapping[str | None, float] | None = None,
    contradiction: str = "",
) -> Standing:
    """Whether a part may be condemned: one target at 0.95 or more and a direct proof of it.

    ``share`` is that of single lasting faults among all explanations, ``also`` what parts have besides by faults that come and go; a
    ``contradiction`` lets nothing be condemned.
    """
    groups = inseparable(belief) if groups is None else groups
    totals: dict[tuple[str, ...], float] = {}
    for part, p in belief.parts().items():
        members = next((g for g in groups if part in g), () if part is None else (part,))
        totals[members] = totals.get(members, 0.0) + p * share + (also or {}).get(part, 0.0)
    target = max(totals, key=lambda members: totals[members])
    probability = min(totals[target], 1.0)
    if contradiction:
        return Standing(target, probability, (), False, contradiction)
    if not target:
        if probability >= CERTAIN:
            return Standing((), probability, (), True, "Every reading is as it should be: the fault is not on this sheet.")
        return Standing((), probability, (), False, "No part stands accused yet.")
    names = " or ".join(target)
    if probability < CERTAIN:
        leads = f"{names} leads with {percent(min(probability, CERTAIN - 0.01))}; {percent(CERTAIN)} is wanted."
        return Standing(target, probability, (), False, leads)
    proof = tuple(belief.numbers[i] for i in direct_proof(belief, target))
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
