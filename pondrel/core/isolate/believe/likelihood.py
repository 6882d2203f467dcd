"""How well predicted readings explain those taken: correlated Gaussian tolerances, and a few readings that may be blunders.

    y = m + S·t + e,   t ~ N(0, I) tolerances,  e ~ N(0, diag(u²)) the meter

so that the readings of one hypothesis have covariance C = S·Sᵀ + diag(u²). Each reading is, with a small probability, a blunder
(misread, mistyped, wrong place) and then says nothing but that it lies somewhere on the instrument's scale. Sets of up to two
blunders are summed over, exactly up to eight readings; with P = C⁻¹ and q = P·r, leaving readings O out of a Gaussian of residual r
costs no new factorisation: r'P'r' = r'q − q_O'·(P_OO)⁻¹·q_O and |C'| = |C|·|P_OO|.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from itertools import combinations
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ...base.arrays import Floats
from ...base.judgement import judged
from ...base.special import logsumexp

__all__ = ["BLUNDER", "Precision", "along", "blunder_probability", "log_likelihood", "own_variance", "standard_scores"]

BLUNDER = judged("BLUNDER", 0.02, "share", "readings that are misread, mistyped or taken at the wrong place")
_FEW = 24  # readings whose inverse covariance is kept whole, however few tolerances there are
_STICK_OUT = 8  # of more readings than this, only those that miss most are tried as pairs of blunders


@dataclass(frozen=True, eq=False)
class Precision:
    """Inverse covariances (L, R, R) of R readings and the log determinants (L,) of the covariances.

    Of few readings the inverse itself is kept, ``whole`` (L, R, R). Where readings outnumber tolerances it is what each reading has to
    itself less what all share: diag(``own``) − W'·W with W = ``shared`` (L, K, R), the Cholesky factor of I + S'·D⁻¹·S taken off D⁻¹·S
    (Woodbury's identity).
    """

    log_det: Floats
    whole: Floats | None = None
    own: Floats | None = None
    shared: Floats | None = None

    @staticmethod
    def is_whole(readings: int, tolerances: int) -> bool:
        """Whether the inverse itself is kept of so many readings."""
        return readings <= max(tolerances, _FEW)

    @classmethod
    def of(cls, spread: Floats, uncertainty: Floats) -> Precision:
        """From tolerance sensitivities (L, R, K) and standard deviations (L, R) that each reading has to itself."""
        readings, tolerances = spread.shape[-2:]
        if cls.is_whole(readings, tolerances):
            covariance = spread @ np.swapaxes(spread, -1, -2) + own_variance(uncertainty)
            return cls(np.linalg.slogdet(covariance)[1], np.linalg.inv(covariance))
        own = 1.0 / np.broadcast_to(uncertainty, spread.shape[:-1]) ** 2
        weighed = np.swapaxes(spread * own[..., None], -1, -2)  # (L, K, R)
        factor = np.linalg.cholesky(np.eye(tolerances) + weighed @ spread)
        log_det = 2.0 * np.log(np.diagonal(factor, axis1=-2, axis2=-1)).sum(axis=-1) - np.log(own).sum(axis=-1)
        return cls(log_det, own=own, shared=np.linalg.inv(factor) @ weighed)

    @property
    def bytes_each(self) -> int:
        """What one row takes in memory."""
        return sum(part[:1].nbytes for part in (self.whole, self.own, self.shared) if part is not None)

    @property
    def matrix(self) -> Floats:
        """(L, R, R) the inverse covariances."""
        if self.whole is not None:
            return self.whole
        own, shared = self._parts
        return own[..., :, None] * np.eye(own.shape[-1]) - np.swapaxes(shared, -1, -2) @ shared

    @property
    def _parts(self) -> tuple[Floats, Floats]:
        assert self.own is not None and self.shared is not None
        return self.own, self.shared

    def times(self, columns: Floats) -> Floats:
        """(L, R, n) the inverse covariance times columns (L, R, n)."""
        if self.whole is not None:
            product: Floats = np.matmul(self.whole, columns)
            return product
        own, shared = self._parts
        rest: Floats = own[..., None] * columns - np.matmul(np.swapaxes(shared, -1, -2), np.matmul(shared, columns))
        return rest

    @property
    def diagonal(self) -> Floats:
        """(L, R)."""
        if self.whole is not None:
            return np.diagonal(self.whole, axis1=-2, axis2=-1)
        own, shared = self._parts
        left: Floats = own - np.einsum("...kr,...kr->...r", shared, shared)
        return left

    def column(self, reading: NDArray[np.intp]) -> Floats:
        """(L, R) one column of each inverse, that of a ``reading`` (L,)."""
        every = np.arange(len(reading))
        if self.whole is not None:
            column: Floats = self.whole[every, reading]
            return column
        own, shared = self._parts
        column = -np.einsum("lkr,lk->lr", shared, shared[every, :, reading])
        column[every, reading] += own[every, reading]
        return column

    def between(self, one: NDArray[np.intp], other: NDArray[np.intp]) -> Floats:
        """(L, n) the numbers of each inverse that stand where readings ``one`` and ``other`` (L, n) meet, two different ones."""
        if self.whole is not None:
            count = self.whole.shape[-1]
            flat = self.whole.reshape(*self.whole.shape[:-2], count * count)
            return np.take_along_axis(flat, one * count + other, -1)
        of_one, of_other = (np.take_along_axis(self._parts[1], which[..., None, :], -1) for which in (one, other))
        met: Floats = -(of_one * of_other).sum(axis=-2)
        return met

    def at(self, index: NDArray[Any]) -> Precision:
        """The precisions of some rows."""
        whole, own, shared = (None if part is None else part[index] for part in (self.whole, self.own, self.shared))
        return Precision(self.log_det[index], whole, own, shared)

    def joined(self, other: Precision) -> Precision:
        """These rows and others after them."""
        pairs = ((self.whole, other.whole), (self.own, other.own), (self.shared, other.shared))
        whole, own, shared = (None if one is None or two is None else np.concatenate([one, two]) for one, two in pairs)
        return Precision(np.concatenate([self.log_det, other.log_det]), whole, own, shared)

    def bordered(self, shared: Floats, variance: Floats) -> Precision:
        """With one reading more, of ``variance`` (L,) and covariances ``shared`` (L, R) with those before (inverse by bordering)."""
        assert self.whole is not None
        before = self.whole
        pull = np.einsum("lij,lj->li", before, shared)
        rest = variance - (shared * pull).sum(axis=1)
        count = shared.shape[1]
        matrix = np.empty((len(variance), count + 1, count + 1))
        matrix[:, :count, :count] = before + pull[:, :, None] * (pull / rest[:, None])[:, None, :]
        matrix[:, :count, count] = matrix[:, count, :count] = -pull / rest[:, None]
        matrix[:, count, count] = 1.0 / rest
        return Precision(self.log_det + np.log(rest), matrix)


def own_variance(uncertainty: Floats) -> Floats:
    """(…, R, R) diagonal matrices of the variances that readings have to themselves, from standard deviations (…, R)."""
    return uncertainty[..., :, None] ** 2 * np.eye(uncertainty.shape[-1])


def log_likelihood(residual: Floats, precision: Precision, scale: Floats, blunder: Floats) -> Floats:
    """Log likelihood (…) of residuals (…, R), summed over the sets of blunders.

    ``blunder`` (…, R) is the probability that a reading says nothing, ``scale`` (R,) its range, over which such a number is spread
    evenly (one over its density). Where it is raised above BLUNDER (stray volts on a floating point) agreement is not held against
    the hypothesis: the raised part is odds only.
    """
    if residual.shape[-1] == 0:
        return np.zeros(residual.shape[:-1])
    logs: Floats = logsumexp(_terms(residual, precision, scale, blunder)[0], axis=-1)
    return logs


def blunder_probability(residual: Floats, precision: Precision, scale: Floats, blunder: Floats) -> Floats:
    """(…, R) probability that each reading is a blunder, given the hypothesis whose residuals these are."""
    if residual.shape[-1] == 0:
        return np.zeros(residual.shape)
    count = residual.shape[-1]
    terms, pairs = _terms(residual, precision, scale, blunder, with_members=True)
    weight = np.exp(terms - logsumexp(terms, axis=-1, keepdims=True))
    chances: Floats = weight[..., 1 : 1 + count] + np.einsum("...p,...pr->...r", weight[..., 1 + count :], pairs)
    return chances


def _terms(residual: Floats, precision: Precision, scale: Floats, blunder: Floats, with_members: bool = False) -> tuple[Floats, Floats]:
    """Log weight of every set of blunders (…, 1 + R + pairs): none, each reading, each pair; and who is in the pairs (…, pairs, R)."""
    count = residual.shape[-1]
    pull = precision.times(residual[..., None])[..., 0]
    square = np.einsum("...i,...i->...", residual, pull)
    gaussian = -0.5 * (square + precision.log_det + count * math.log(2 * math.pi)) + count * math.log1p(-BLUNDER)
    odds = np.log(blunder) - np.log1p(-blunder) - np.log(scale) + 0.5 * math.log(2 * math.pi)  # (…, R)
    diagonal = precision.diagonal
    terms = [gaussian[..., None], gaussian[..., None] + odds + 0.5 * (pull**2 / diagonal - np.log(diagonal))]
    members = np.zeros((*residual.shape[:-1], 0, count))
    if count >= 2:
        first, second = _pairs(pull**2 / diagonal)  # (…, pairs)
        p11, p22 = np.take_along_axis(diagonal, first, -1), np.take_along_axis(diagonal, second, -1)
        p12 = precision.between(first, second)
        q1, q2 = np.take_along_axis(pull, first, -1), np.take_along_axis(pull, second, -1)
        det = p11 * p22 - p12**2
        relief = (p22 * q1**2 - 2 * p12 * q1 * q2 + p11 * q2**2) / det
        both = np.take_along_axis(np.broadcast_to(odds, pull.shape), first, -1) + np.take_along_axis(
            np.broadcast_to(odds, pull.shape), second, -1
        )
        terms.append(gaussian[..., None] + both + 0.5 * (relief - np.log(det)))
        if with_members:
            members = np.zeros((*first.shape, count))
            np.put_along_axis(members, first[..., None], 1.0, -1)
            np.put_along_axis(members, second[..., None], 1.0, -1)
    return np.concatenate(terms, axis=-1), members


def _pairs(sticking_out: Floats) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
    """Pairs of readings (…, pairs) that may both be blunders: all of a few readings, those that stick out most of many."""
    count = sticking_out.shape[-1]
    most = min(count, _STICK_OUT)
    if most == count:
        chosen = np.broadcast_to(np.arange(count), sticking_out.shape)
    else:
        chosen = np.sort(np.argpartition(-sticking_out, most - 1, axis=-1)[..., :most], axis=-1)
    first, second = np.array(list(combinations(range(most), 2))).T
    return chosen[..., first], chosen[..., second]


def along(residual: Floats, reach: Floats, precision: Precision, scale: Floats, blunder: Floats) -> tuple[Floats, Floats, Floats]:
    """Of n stretches, on each of which the residuals run from ``residual`` − ``reach`` to ``residual`` + ``reach`` (n, R): the log
    likelihood in the middle (n,), the most that it comes to anywhere on the stretch (n,), and the square of half its length in standard
    deviations (n,). Of pairs of blunders those with the likeliest one are looked at."""
    count = residual.shape[-1]
    both = precision.times(np.stack([residual, reach], axis=2))
    pull, lift = both[:, :, 0], both[:, :, 1]
    square, cross, length = (residual * pull).sum(axis=1), (residual * lift).sum(axis=1), (reach * lift).sum(axis=1)
    gaussian = -0.5 * (precision.log_det + count * math.log(2 * math.pi)) + count * math.log1p(-BLUNDER)
    odds = np.log(blunder) - np.log1p(-blunder) - np.log(scale) + 0.5 * math.log(2 * math.pi)
    diagonal = precision.diagonal
    # Leaving reading i out: r'Pr loses q_i²/P_ii, and so do the two other forms.
    one = _Left(odds - 0.5 * np.log(diagonal), pull**2 / diagonal, pull * lift / diagonal, lift**2 / diagonal)
    sets = [_Left.nothing(len(residual)), one]
    if count > 1:
        every = np.arange(len(residual))
        left = _least(square[:, None] - one.square, cross[:, None] - one.cross, length[:, None] - one.length)
        best = (one.odds - 0.5 * left).argmax(axis=1)
        column, own = precision.column(best), diagonal[every, best][:, None]
        other = np.maximum(diagonal - column**2 / own, 1e-300)
        pull2, lift2 = pull - column * pull[every, best][:, None] / own, lift - column * lift[every, best][:, None] / own
        first = one.at(every, best)
        pair = _Left(
            first.odds + odds - 0.5 * np.log(other), first.square + pull2**2 / other, first.cross + pull2 * lift2 / other,
            first.length + lift2**2 / other,
        )  # fmt: skip
        pair.odds[every, best] = -np.inf
        for form in (pair.square, pair.cross, pair.length):
            form[every, best] = 0.0
        sets.append(pair)
    weight, square_of, cross_of, length_of = (np.concatenate(parts, axis=1) for parts in zip(*(s.forms for s in sets), strict=True))
    square_of, cross_of, length_of = square[:, None] - square_of, cross[:, None] - cross_of, length[:, None] - length_of
    middle = gaussian + logsumexp(weight - 0.5 * square_of, axis=1)
    most = gaussian + logsumexp(weight - 0.5 * _least(square_of, cross_of, length_of), axis=1)
    return middle, most, length


@dataclass(frozen=True, eq=False)
class _Left:
    """What leaving sets of readings out (n, sets) does: the log ``odds`` of that, and what the three quadratic forms lose."""

    odds: Floats
    square: Floats
    cross: Floats
    length: Floats

    @property
    def forms(self) -> tuple[Floats, Floats, Floats, Floats]:
        return self.odds, self.square, self.cross, self.length

    @classmethod
    def nothing(cls, count: int) -> _Left:
        """Leaving nothing out."""
        return cls(*(np.zeros((count, 1)) for _ in range(4)))

    def at(self, stretch: NDArray[np.intp], reading: NDArray[np.intp]) -> _Left:
        """One set of each stretch, (n, 1)."""
        return _Left(*(form[stretch, reading][:, None] for form in self.forms))


def _least(square: Floats, cross: Floats, length: Floats) -> Floats:
    """Least of (r + t·g)'P(r + t·g) for t in [−1, 1], from r'Pr, r'Pg and g'Pg."""
    t = np.clip(-cross / np.maximum(length, 1e-30), -1.0, 1.0)
    return square + t * (2.0 * cross + t * length)


def standard_scores(residual: Floats, precision: Floats, doubtful: NDArray[np.bool_]) -> Floats:
    """(R,) how many standard deviations each reading lies from what the trusted others make of it.

    ``residual`` (R,) and ``precision`` (R, R) under one hypothesis; readings marked in ``doubtful`` (R,) are not trusted by the rest.
    """
    scores = np.zeros(len(residual))
    # The trusted ones all do without the same readings; of the doubtful ones each does without all others.
    groups = [np.flatnonzero(~doubtful), *np.flatnonzero(doubtful)[:, None]]
    for group in groups:
        out = np.setdiff1d(np.flatnonzero(doubtful), group)
        kept = np.setdiff1d(np.arange(len(residual)), out)
        own = precision[np.ix_(kept, kept)]
        if out.size:  # the precision of what is left is a Schur complement
            own = own - precision[np.ix_(kept, out)] @ np.linalg.solve(precision[np.ix_(out, out)], precision[np.ix_(out, kept)])
        at = np.searchsorted(kept, group)
        scores[group] = (own[at] @ residual[kept]) / np.sqrt(np.maximum(np.diagonal(own)[at], 1e-18))
    return scores
