"""When to stop: which suspects no test can tell apart, which readings prove one, and whether a part may be condemned.

Readings are a *direct proof* of a target when, taken by themselves and without any prior, they fit the target and no other single fault
of any severity, nor a sound circuit. One may do, such as 4 V across a joint under load; up to five may do it together: 12.4 V into a
plug pin and 0.3 V out of it is the drop across the pin; 12.6 V across a fuse and no short behind it is a fuse that failed by itself;
feed in, nothing out and a coil that is fed is a dead relay contact.
"""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from functools import partial
from typing import Any

import numpy as np
from cachetools import LRUCache
from numpy.typing import NDArray

from ...base.arrays import Floats
from ...base.judgement import OWN_RULE, judged
from ...base.patience import breathe
from ...base.ties import first_of_most, in_order, ranks
from ...evidence.asked import Measurement
from ...evidence.items import Reading
from ..advise.advice import Advice, described_with, gains, worth_offering
from ..advise.effort import Situation, minutes_for
from ..believe.belief import Belief, grid_step
from ..believe.fit import DRIFT, Fit
from ..believe.likelihood import Precision, own_variance
from ..predict.hypotheses import GRID
from ..predict.prediction import Prediction, Spot, interpolate, touched
from ..predict.responses import BRIDGED_SHARE
from ..predict.scale import scale_uncertainty
from ..predict.workup import UNRELIABLE_VOLTS, Workup
from .suspects import Target

__all__ = ["CERTAIN", "SURE", "Standing", "direct_proof", "inseparable", "percent", "proof_tests", "standing"]

CERTAIN = judged("CERTAIN", 0.95, "share", "from here on a target is named", OWN_RULE)
# From which on no further test is asked for if there is a proof: one slip in between is ruled out by then. To send a vehicle away as sound
# takes more, for want of a proof.
SURE = judged("SURE", 0.997, "share", "from here on no further test is asked for where there is a proof", OWN_RULE)
SURE_OF_NOTHING = judged("SURE_OF_NOTHING", 0.998, "share", "from here on a vehicle is sent away as sound", OWN_RULE)
FITS = judged("FITS", 2.5, "σ", "a reading fits what misses it by no more", OWN_RULE)
EXCLUDES = judged("EXCLUDES", 4.0, "σ", "a reading excludes what misses it by as much", OWN_RULE)
_WANTED = (EXCLUDES + 1.0) ** 2  # of a proof that is only expected
_LEAST_PROBABILITY = 0.005  # suspects below this are not worth telling apart
_TELLS_APART = 3.0
_NEARLY_ALL = 0.85
_MOSTLY_ALIKE = 0.5
_MOST_LOOKED_AT = 12
_TESTS_AT_ONCE = 32
_AT_ONCE = 2_000_000  # numbers of the inverse covariances that are used together
MOST_PROOF_READINGS = 5
_FIRSTS = 5  # readings that a proof is tried to begin with, if one is found
_STEPS, _KEPT_COLUMNS, _COLUMNS_AT_ONCE = 121, 64, 16
_KEPT_EXCLUDED = 4000  # readings: more than are ever weighed together
_AWAY = 0.02  # chance of what comes and goes from which on it is said
_MAY_BE_AWAY = ", unless it comes and goes and was away"
_MOST_SUSPECTS = 12


@dataclass(frozen=True, slots=True)
class Standing:
    """Where the job stands: the leading target (parts that cannot be told apart), its probability, its proof, what is missing; ``spoken``
    is what a person calls the target, with a capital letter."""

    target: tuple[str, ...]
    probability: float
    proof: tuple[int, ...]
    ready: bool
    says: str
    spoken: str = ""

    @property
    def named(self) -> bool:
        """Whether a part or group is as good as named: from here on its proof is what counts."""
        return bool(self.target) and self.probability >= CERTAIN

    @property
    def unsure(self) -> bool:
        """Whether all that is wanting is another test against a slip."""
        return not self.ready and self.probability >= CERTAIN and (bool(self.proof) or not self.target)

    def unprovable(self) -> Standing:
        """The same where a part is named and nothing that can be reached would prove it: testing ends, and that is said."""
        ends = "no test at these places can prove it. Swap or bridge it, or open it up and look."
        says = f"{self.spoken} at {percent(self.probability)}; {ends}"
        return replace(self, says=says)

    def settled(self) -> Standing:
        """The same where no test tells more."""
        return replace(self, ready=True, says=self.says.partition(": one more")[0] + ", and no test here tells more.")


@dataclass(frozen=True, eq=False)
class _Mesh:
    """Spots close together along all visible curves of every hypothesis, one after another, the grid ``step`` at each and its ``owner``; a
    melted fuse counts as melted, since nobody proves that a fuse was not bridged. ``rows`` (L,) are those that any spot is nearest to, and
    ``which`` (S,) of them each is. ``columns`` keeps what readings are there, ``excluded`` how far each by itself excludes the hypotheses.
    """

    spot: Spot
    step: Floats
    owner: NDArray[np.intp]
    rows: NDArray[np.intp]
    which: NDArray[np.intp]
    columns: OrderedDict[Reading, Floats]
    excluded: LRUCache[tuple[Reading, float], float]

    @classmethod
    def of(cls, workup: Workup) -> _Mesh:
        """That of a workup, made once."""
        return workup.memo.once("mesh", lambda: cls._made(workup))

    @classmethod
    def _made(cls, workup: Workup) -> _Mesh:
        curves, visible = workup.curves, workup.visible
        rows, parts, owners = [], [], []
        for h in range(len(workup.hypotheses.items)):
            own: list[tuple[NDArray[np.intp], Floats]] = []
            for c in np.flatnonzero((curves.hypothesis == h) & (curves.share > BRIDGED_SHARE)):
                at = np.linspace(0.0, GRID - 1, _STEPS) if curves.length[c] > 1 else np.zeros(1)
                low = np.minimum(at.astype(int), max(curves.length[c] - 2, 0))
                own.append((curves.start[c] + low, at - low))
            row, part = (np.concatenate(arrays) for arrays in zip(*own, strict=True))
            seen = visible[row + (part > 0.5)]
            chosen = seen if seen.any() else np.ones(len(row), dtype=bool)
            rows.append(row[chosen])
            parts.append(part[chosen])
            owners.append(np.full(int(chosen.sum()), h))
        owner = np.concatenate(owners)
        spot = Spot(np.concatenate(rows), np.concatenate(parts))
        rows_near, which = np.unique(spot.near, return_inverse=True)
        return cls(spot, grid_step(workup, owner), owner, rows_near, which, OrderedDict(), LRUCache(_KEPT_EXCLUDED))

    def expected(self, evidence: Fit, used: NDArray[np.intp]) -> Floats:
        """(S, R) what some of the readings would be."""
        found = np.zeros((len(self.owner), len(used)))
        for start in range(0, len(used), _COLUMNS_AT_ONCE):
            block = used[start : start + _COLUMNS_AT_ONCE].tolist()
            missing = [i for i in block if evidence.readings[i] not in self.columns]
            if missing:
                values = interpolate(Prediction.join([evidence.columns[i].prediction for i in missing]), self.spot, self.step)
                self.columns.update((evidence.readings[i], values[:, k].copy()) for k, i in enumerate(missing))
            for place, i in enumerate(block, start):
                found[:, place] = self.columns[evidence.readings[i]]
                self.columns.move_to_end(evidence.readings[i])
            while len(self.columns) > _KEPT_COLUMNS:
                self.columns.popitem(last=False)
        return found

    def scatter(self, evidence: Fit, used: NDArray[np.intp]) -> Floats:
        """(L, R) variances of some of the readings at the rows, each by itself, where insulation proves nothing."""
        scatter: Floats = evidence.scatter(self.rows, used) + (UNRELIABLE_VOLTS * evidence.stray(self.rows, used)) ** 2
        return scatter


def inseparable(belief: Belief) -> tuple[tuple[str, ...], ...]:
    """Groups of suspect parts, two or more, whose faults no available test would tell apart; the likeliest first.

    Two faults are alike when nearly everything that either may be at its likely severities, the other can mimic at some severity.
    Groups are cliques, taken greedily by probability: being alike is not handed on from neighbour to neighbour. Parts whose likely faults
    can be told apart are no group because some unlikely one of each cannot.
    """
    items = belief.workup.hypotheses.items
    order = np.argsort(ranks(belief.probability), kind="stable").tolist()
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
    alike: dict[frozenset[str], float] = {}
    for clique, group in zip(cliques, groups, strict=True):
        key = frozenset(group)
        alike[key] = alike.get(key, 0.0) + float(belief.probability[clique].sum())
    parts = belief.parts()

    def mostly(group: tuple[str, ...]) -> bool:
        """Whether most of what its parts may be is alike, and no mere corner of it."""
        within = sum(mass for key, mass in alike.items() if len(key) > 1 and key <= set(group))
        return within >= _MOSTLY_ALIKE * sum(parts[part] for part in group)

    groups = [group for group in groups if len(group) > 1 and mostly(group)]
    return tuple(g for i, g in enumerate(groups) if not any(set(g) <= set(other) for other in groups[:i]))


def _mimics(belief: Belief, suspects: list[int]) -> set[tuple[int, int]]:
    """Pairs (one, other) of hypotheses such that nearly all of ``one`` looks like ``other`` at some severity in every test."""
    workup = belief.workup
    if not suspects:
        return set()
    tests, atoms = workup.plain_offer, belief.atoms
    everywhere = _everywhere(workup, suspects)
    reach = {h: (values.min(axis=0), values.max(axis=0)) for h, values in everywhere.items()}
    chosen = np.concatenate([_worth_a_look(belief, one) for one in suspects])
    values, strays = workup.at_spots(tests, atoms.spot.at(chosen), belief.step(atoms.hypothesis[chosen]))
    sigmas = np.hypot(scale_uncertainty(values, tests), UNRELIABLE_VOLTS * strays)
    found = set()
    for one in suspects:
        breathe()
        own = atoms.hypothesis[chosen] == one
        here, sigma = values[own], sigmas[own]
        for other in suspects:
            low, high = reach[other]
            if ((np.maximum(low - here, here - high) / sigma).max(axis=1) >= _TELLS_APART).mean() > 1.0 - _NEARLY_ALL:
                continue  # some test shows what the other cannot
            apart = np.array([_nearest(everywhere[other], at, s) for at, s in zip(here, sigma, strict=True)])
            if (apart < _TELLS_APART).mean() >= _NEARLY_ALL:
                found.add((one, other))
    return found


def _worth_a_look(belief: Belief, hypothesis: int) -> NDArray[np.intp]:
    """A few atoms of a hypothesis, spread over what it may be at its likely severities."""
    own = np.flatnonzero(belief.atoms.hypothesis == hypothesis)
    own = own[belief.atoms.mass[own] >= 0.01 * belief.atoms.mass[own].sum()]
    few: NDArray[np.intp] = own[:: max(1, len(own) // 3)]
    return few


def _everywhere(workup: Workup, hypotheses: list[int]) -> dict[int, Floats]:
    """By hypothesis (spots, T) what it can make the tests of `plain_offer` show, at any severity; kept with the workup."""
    kept, mesh = workup.memo.everywhere, _Mesh.of(workup)
    found = {h: kept[h] for h in hypotheses if h in kept}
    missing = [h for h in hypotheses if h not in found]
    if missing:
        own = np.flatnonzero(np.isin(mesh.owner, missing))
        values, _ = workup.at_spots(workup.plain_offer, mesh.spot.at(own), mesh.step[own])
        for h in missing:
            found[h] = workup.memo.kept(kept, h, partial(np.compress, mesh.owner[own] == h, values, axis=0))
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
    def of(cls, belief: Belief, used: NDArray[np.intp]) -> _Others:
        """All severities of all hypotheses, against some of the readings."""
        mesh, evidence = _Mesh.of(belief.workup), belief.evidence
        expected = mesh.expected(evidence, used)
        return cls(mesh.spot, mesh.step, mesh.owner, evidence.value[used] - expected, stretches(expected, mesh.owner))

    def at(self, index: NDArray[Any]) -> _Others:
        """Some of the spots."""
        return _Others(self.spot.at(index), self.step[index], self.owner[index], self.residual[index], self.stretch[index])


def stretches(values: Floats, owner: NDArray[np.intp]) -> Floats:
    """(S, T) half of what lies between a spot's neighbours on the same curve."""
    last = len(owner) - 1
    every = np.arange(len(owner))
    before, after = np.maximum(every - 1, 0), np.minimum(every + 1, last)
    before, after = np.where(owner[before] == owner, before, every), np.where(owner[after] == owner, after, every)
    return (values[after] - values[before]) / 4.0


class _Alone:
    """Every hypothesis at every severity against a few readings taken by themselves."""

    def __init__(self, belief: Belief, lead: int):
        self.belief, self.mesh = belief, _Mesh.of(belief.workup)
        evidence, self.owner, self.which = belief.evidence, self.mesh.owner, self.mesh.which
        # What is most probably a blunder proves nothing; of very many readings the ones that exclude most by themselves are looked at.
        good = np.flatnonzero(belief.explain(np.array([lead]))[2][0] < 0.5)
        keys, known = evidence.keys(good), self.mesh.excluded
        missing = good[[key not in known for key in keys]]
        for start in range(0, len(missing), _COLUMNS_AT_ONCE):
            some = missing[start : start + _COLUMNS_AT_ONCE]
            known.update(zip(evidence.keys(some), self._excluded(some).tolist(), strict=True))
        excluded = np.zeros(len(evidence.readings))
        excluded[good] = [known[key] for key in keys]
        self.chosen = np.sort(good[np.argsort(ranks(excluded[good]), kind="stable")[:_MOST_LOOKED_AT]])
        self.order = np.argsort(ranks(excluded[self.chosen]), kind="stable").tolist()
        # What was seen, done or known counts from the start: twice the log of how much less likely it is than for the likeliest.
        self.square = 2.0 * (evidence.factor.max() - evidence.factor[self.mesh.spot.near])
        others = _Others.of(belief, self.chosen)
        self.residual, self.stretch = others.residual, others.stretch
        self.variance = self.mesh.scatter(evidence, self.chosen)[self.which] + self.stretch**2
        # What tolerances do is worked out at the rows that are asked for.
        shape = len(self.mesh.rows), len(self.chosen)
        self._known, self._vague = np.zeros(shape[0], dtype=bool), np.empty(shape)
        self._spread = np.empty((*shape, belief.workup.tolerances))

    def _excluded(self, some: NDArray[np.intp]) -> Floats:
        """(n,) how far some readings, each by itself, exclude the hypotheses."""
        others = _Others.of(self.belief, some)
        starts = np.searchsorted(self.owner, np.arange(len(self.belief.workup.hypotheses.items)))
        miss = others.residual**2 / (self.mesh.scatter(self.belief.evidence, some)[self.which] + others.stretch**2)
        excluded: Floats = np.minimum(np.minimum.reduceat(miss, starts, axis=0), EXCLUDES**2).sum(axis=0)
        return excluded

    def _covariance(self, spots: NDArray[np.intp]) -> Floats:
        """(S, R, R) of the readings at some spots."""
        rows, which = np.unique(self.which[spots], return_inverse=True)
        missing = rows[~self._known[rows]]
        self._spread[missing], self._vague[missing] = _unsure(self.belief, self.mesh.rows[missing], self.chosen)
        self._known[missing] = True
        spread, stretch = self._spread[rows], self.stretch[spots]
        covariance = spread @ np.swapaxes(spread, 1, 2) + own_variance(self._vague[rows])
        return covariance[which] + stretch[:, :, None] * stretch[:, None, :]

    def chain(self, first: int, own: NDArray[np.bool_]) -> tuple[int, ...]:
        """Readings from ``first`` on, each the one that excludes most beside those before, until all but ``own`` is excluded; () if
        five do not do it. Conditioning one reading at a time is a Cholesky step: C' = C − c·c'/C_ii, r' = r − c·r_i/C_ii. What is
        excluded stays so, and is dropped: most of it by the first reading, for which variances are enough."""
        mine = own[self.owner]
        square = np.where(mine, 0.0, np.maximum(self.square - self.square[mine].min(), 0.0))
        square = square + self.residual[:, first] ** 2 / self.variance[:, first]
        spots = np.flatnonzero(np.where(mine, square <= FITS**2, square < EXCLUDES**2))
        residual, covariance = self.residual[spots], self._covariance(spots)
        square, mine, owner = square[spots], mine[spots], self.owner[spots]
        chosen = [first]
        while True:
            if not mine.any():
                return ()
            if mine.all():
                return tuple(sorted(int(self.chosen[j]) for j in chosen))
            left = [j for j in range(residual.shape[1]) if j not in chosen]
            if len(chosen) == MOST_PROOF_READINGS or not left:
                return ()
            column, pivot, miss = covariance[:, :, chosen[-1]], covariance[:, chosen[-1], chosen[-1]], residual[:, chosen[-1]]
            residual = residual - column * (miss / pivot)[:, None]
            covariance = covariance - column[:, :, None] * (column / pivot[:, None])[:, None, :]
            diagonal = np.maximum(np.diagonal(covariance, axis1=1, axis2=2), 1e-12)
            ahead = square[:, None] + residual**2 / diagonal
            # By hypothesis: what a reading is worth against the severity that it excludes least.
            starts = np.flatnonzero(np.r_[True, np.diff(owner[~mine]) > 0])
            capped = np.minimum(ahead[~mine][:, left], EXCLUDES**2)
            excluded = (np.minimum.reduceat(capped, starts, axis=0) - np.minimum.reduceat(square[~mine], starts)[:, None]).sum(axis=0)
            chosen.append(left[first_of_most(excluded)])
            square = ahead[:, chosen[-1]]
            stays = np.where(mine, square <= FITS**2, square < EXCLUDES**2)
            residual, covariance = residual[stays], covariance[stays]
            square, mine, owner = square[stays], mine[stays], owner[stays]


def _unsure(belief: Belief, rows: NDArray[np.intp], used: NDArray[np.intp]) -> tuple[Floats, Floats]:
    """(L, R, K) what tolerances do to some of the readings at some rows, and (L, R) what each has to itself where insulation proves
    nothing."""
    evidence = belief.evidence
    spread = evidence.spread(rows, used)
    return spread, np.hypot(evidence.uncertainty(rows, used, spread), UNRELIABLE_VOLTS * evidence.stray(rows, used))


def _some_at_once(belief: Belief, used: NDArray[np.intp], near: NDArray[np.intp]) -> Iterator[NDArray[np.intp]]:
    """Numbers of spots, by their rows ``near`` (S,), so many at once as have the inverse covariances of the readings side by side in
    memory."""
    each = max(1, len(used) * min(max(len(used), 1), belief.workup.tolerances))
    most, order = max(16, _AT_ONCE // each), np.argsort(near, kind="stable")
    for start in range(0, len(near), most):
        breathe()
        yield order[start : start + most]


def _inverse(belief: Belief, used: NDArray[np.intp], near: NDArray[np.intp]) -> tuple[Precision, Floats]:
    """Inverse covariances (S) of some readings at rows (S,), and what tolerances do to them (rows, R, K) at each of those once."""
    rows, which = np.unique(near, return_inverse=True)
    spread, vague = _unsure(belief, rows, used)
    return Precision.of(spread, vague).at(which), spread


def _own(belief: Belief, target: tuple[str, ...]) -> NDArray[np.bool_]:
    return np.array([item.part in target for item in belief.workup.hypotheses.items])


def _lead(belief: Belief, own: NDArray[np.bool_]) -> int:
    """The likeliest hypothesis of a target."""
    return int(np.argmax(np.where(own, belief.probability, -1.0)))


def direct_proof(belief: Belief, target: tuple[str, ...]) -> tuple[int, ...]:
    """Indices of the fewest readings found that prove the target by themselves; empty where none do."""
    own = _own(belief, target)
    alone = _Alone(belief, _lead(belief, own))
    found: list[tuple[int, ...]] = []
    for tried, first in enumerate(alone.order):
        breathe()
        if found and (tried >= _FIRSTS or len(found[-1]) == 1):
            break
        chain = alone.chain(first, own)
        if chain:
            found.append(chain)
    return min(found, key=lambda c: (len(c), c), default=())


def proof_tests(belief: Belief, target: tuple[str, ...], most: int = 3) -> tuple[Advice, ...]:
    """Tests whose expected number would, with the readings already taken, prove the target, the cheapest first; where none would, those
    that bring most towards it, per minute."""
    sheet = belief.workup.sheet
    own = _own(belief, target)
    lead = _lead(belief, own)
    others = _Standing.of(belief, lead, own)
    here = Situation.of(sheet, belief.items)
    minutes = {test: minutes_for(sheet, test, here) for test in worth_offering(belief)}
    tests = sorted(minutes, key=lambda test: minutes[test])
    proving: list[Measurement] = []
    helping: list[tuple[float, Measurement]] = []
    for start in range(0, len(tests), _TESTS_AT_ONCE):
        breathe()
        block = tuple(tests[start : start + _TESTS_AT_ONCE])
        missing = others.after(block).tolist()
        proving += [test for test, left in zip(block, missing, strict=True) if left == 0.0]
        if len(proving) >= most:
            break
        helping += [((others.missing - left) / minutes[test], test) for test, left in zip(block, missing, strict=True)]
    worth = in_order({test: rate for rate, test in helping if rate * minutes[test] > 0.1})
    best = tuple(proving[:most]) or tuple(worth)[:most]
    told = described_with(belief, best, gains(belief, best))
    return tuple(replace(advice, proves=True) for advice in told) if proving else told


class _Standing:
    """What the readings ``used``, those that fit the leading hypothesis, do not exclude yet if it is true: ``others`` (S spots) with how
    far they are excluded so far (S,), in squared standard deviations, and how much that lacks, in whole hypotheses (``missing``)."""

    def __init__(self, belief: Belief, lead: int, used: NDArray[np.intp], others: _Others, so_far: Floats):
        self.belief, self.used, self.others, self.so_far = belief, used, others, so_far
        self.starts = np.flatnonzero(np.r_[True, np.diff(others.owner) > 0]) if len(so_far) else np.zeros(0, dtype=np.intp)
        self.missing = float((1.0 - np.minimum.reduceat(so_far, self.starts) / _WANTED).sum()) if len(so_far) else 0.0
        atom = belief.best[lead]
        self.here, self.step = Spot(belief.atoms.spot.row[[atom]], belief.atoms.spot.part[[atom]]), belief.step(np.array([lead]))

    @classmethod
    def of(cls, belief: Belief, lead: int, target: NDArray[np.bool_]) -> _Standing:
        """Of all hypotheses but the target's."""
        _, scores, odd = belief.explain(np.array([lead]))
        used = np.flatnonzero((np.abs(scores[0]) <= FITS) & (odd[0] < 0.5))
        every = _Others.of(belief, used)
        others = every.at(np.flatnonzero(~target[every.owner]))
        so_far = np.empty(len(others.owner))
        for own in _some_at_once(belief, used, others.spot.near):
            some = others.at(own)
            inverse, _ = _inverse(belief, used, some.spot.near)
            both = np.stack([some.residual, some.stretch], axis=2)
            pulled = inverse.times(both)
            within = np.swapaxes(both, 1, 2) @ pulled  # (s, 2, 2)
            so_far[own] = within[:, 0, 0] - within[:, 0, 1] ** 2 / (1.0 + within[:, 1, 1])
        factor, here = belief.evidence.factor, belief.atoms.spot.at(belief.best[[lead]]).near[0]
        so_far += 2.0 * np.maximum(factor[here] - factor[others.spot.near], 0.0)
        stands = np.flatnonzero(so_far < _WANTED)
        return cls(belief, lead, used, others.at(stands), so_far[stands])

    def after(self, tests: tuple[Measurement, ...]) -> Floats:
        """(T,) how much the exclusion would lack after each test's number."""
        belief, others = self.belief, self.others
        if not self.starts.size:
            return np.zeros(len(tests))
        workup, near = belief.workup, others.spot.near
        mine, stray = workup.at_spots(tests, self.here, self.step)  # (1, T)
        prediction = workup.predict(tests, touched(others.spot, others.step))
        there = interpolate(prediction, others.spot, others.step)
        ahead = stretches(there, others.owner)  # (S, T)
        excluded = np.empty((len(near), len(tests)))
        for chosen in _some_at_once(belief, self.used, near):
            some = others.at(chosen)
            inverse, spread = _inverse(belief, self.used, near[chosen])
            rows, which = np.unique(near[chosen], return_inverse=True)
            new = workup.spread(tests, rows)  # (rows, T, K)
            loose = UNRELIABLE_VOLTS * np.maximum(prediction.stray[prediction.place(rows)], stray)
            drift = np.abs(new[:, :, workup.supplies]).sum(axis=2) * DRIFT
            own = loose**2 + drift**2 + scale_uncertainty(mine, tests) ** 2  # (rows, T)
            # By row what the tolerances share, by spot what its severity shares with all readings besides.
            shared = (spread @ np.swapaxes(new, 1, 2))[which]  # (s, R, T): a low battery moves all readings alike
            shared += some.stretch[:, :, None] * ahead[chosen][:, None, :]
            known = np.concatenate([some.residual[:, :, None], some.stretch[:, :, None], shared], axis=2)
            pulled = inverse.times(known)
            # That of a spot is that of its row and the square of what its stretch does: Sherman and Morrison's formula.
            stretched = (some.stretch[:, :, None] * pulled).sum(axis=1)  # (s, 2 + T)
            eased = 1.0 + stretched[:, 1]
            told = (shared * pulled[:, :, 2:]).sum(axis=1) - stretched[:, 2:] ** 2 / eased[:, None]
            moved = (shared * pulled[:, :, :1]).sum(axis=1) - stretched[:, 2:] * (stretched[:, 0] / eased)[:, None]
            variance = ((new**2).sum(axis=2) + own)[which] + ahead[chosen] ** 2 - told
            excluded[chosen] = self.so_far[chosen, None] + (mine - there[chosen] - moved) ** 2 / np.maximum(variance, 1e-9)
        left: Floats = (1.0 - np.minimum(np.minimum.reduceat(excluded, self.starts, axis=0) / _WANTED, 1.0)).sum(axis=0)
        return left


def standing(
    belief: Belief,
    targets: Sequence[Target],
    alike: Sequence[tuple[str, ...]] = (),
    elsewhere: tuple[str, float] = ("", 0.0),
    contradiction: str = "",
    silent: float = 0.0,
    away: float = 0.0,
) -> Standing:
    """Whether a part may be condemned: one target at 0.95 or more and a direct proof of it; below 0.997 one more test is asked for first.

    ``targets`` are what may be repaired, the likeliest first; ``alike`` groups that no test separates: what evidence of another sort has
    taken out of one need not be excluded by a reading. ``elsewhere`` says the likeliest explanation that is no fault of one part, and
    its probability; a ``contradiction`` lets nothing be condemned. ``silent`` is the chance of what no
    test of a vehicle that works can tell from nothing: a sound vehicle is called so in spite of it. ``away`` is that part of it which comes
    and goes, and is said.
    """
    target, probability = targets[0].members, targets[0].probability
    if contradiction:
        return Standing(target, probability, (), False, contradiction)
    words, other = elsewhere
    if other > probability:
        return Standing(target, probability, (), False, words)
    if not belief.items:
        return Standing(target, probability, (), False, "No part stands accused yet.")
    if not target:
        now = min(probability / max(1.0 - silent, probability), 1.0)
        unless = _MAY_BE_AWAY if away > _AWAY else ""
        if now >= SURE_OF_NOTHING:
            return Standing((), now, (), True, f"Every reading is as it should be: the fault is not on this sheet{unless}.")
        if now >= CERTAIN:
            return Standing((), now, (), False, f"Nothing on this sheet is wrong, to {percent(now)}{unless}: one more test to be sure.")
        return Standing((), probability, (), False, "No part stands accused yet.")
    names = " or ".join(belief.workup.sheet.parts[name].spoken for name in target)
    spoken = names[:1].upper() + names[1:]

    def at(proof: tuple[int, ...], ready: bool, says: str) -> Standing:
        return Standing(target, probability, proof, ready, f"{spoken} {says}", spoken)

    if probability < CERTAIN:
        return at((), False, f"leads with {percent(min(probability, CERTAIN - 0.01))}; a part is named from {percent(CERTAIN)} on.")
    excused = next((group for group in alike if set(target) <= set(group)), target)
    proof = tuple(belief.numbers[i] for i in direct_proof(belief, excused))
    if not proof:
        return at(proof, False, f"at {percent(probability)}, but no reading proves it directly yet.")
    *most, last = [str(i + 1) for i in proof]
    numbers = f"readings {', '.join(most)} and {last}" if most else f"reading {last}"
    if probability < SURE:
        return at(proof, False, f"at {percent(probability)}, proved by {numbers}: one more test against a slip.")
    return at(proof, True, f"at {percent(probability)}, proved by {numbers}.")


def percent(probability: float) -> str:
    """A probability as a person reads it: never 0 % or 100 %, which nobody knows."""
    if probability > 0.995:
        return "over 99 %"
    return f"{probability:.0%}".replace("%", " %") if probability >= 0.01 else "under 1 %"
