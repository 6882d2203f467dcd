"""The likelihood integrated over ln severity, along every curve of a workup, by stretches that are parted where it pays.

A curve falls into *pieces*, the halves of its grid intervals, each with the tolerances of the row it touches. A piece on which nothing
that was read differs from a sound circuit is as likely as that. Any other is parted in four, and again, until it is shorter than a
standard deviation of all readings together, so that a sharp answer is as exact as a vague one; what cannot come near the best any more is
left as it is. How high the likelihood comes on a stretch is told from the readings at both ends, as if they changed evenly between them.

A piece far behind the best is left alone: it keeps a ceiling, the most that its share could have become since it was looked at, and is
looked at again when that comes within reach of the best. A piece left out is less than e⁻¹⁶ of the whole.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ...base.arrays import Floats
from ...base.patience import breathe
from ..predict.prediction import Spot
from ..predict.workup import Workup
from .fit import Fit, either
from .likelihood import along

__all__ = ["AHEAD", "REACH", "Leaves", "Pieces", "Shares", "integrate", "quantiles"]

# Nats behind the largest share: what is looked at first, and what is looked at all.
AHEAD, REACH = 6.0, 16.0
# What is this far behind the largest share of all, or of the same curve, needs no closer look.
_NO_MATTER, _NO_MATTER_HERE = 16.0, 9.0
_SHORT = 0.45  # standard deviations of all readings together, of half a stretch: the midpoint stands for such
_SHADES = 0.05  # nats of the tolerances' log determinant by which two rows differ
_PARTS, _DEEPEST = 4, 6
_AT_ONCE, _LEAST_AT_ONCE = 1_000_000, 64  # numbers of the precisions of the stretches that are looked at together; stretches
_KEPT_PROMISE = 3.0  # nats by which parting a stretch may disappoint


@dataclass(frozen=True, eq=False)
class Pieces:
    """The pieces of all curves: ``curve`` (P,), grid ``row`` below, from ``low`` to ``high`` in parts of its interval, ``near`` row whose
    tolerances hold, grid ``step``, and the logarithm of the piece's ``prior``. A curve of one row is one piece without length."""

    curve: NDArray[np.intp]
    row: NDArray[np.intp]
    low: Floats
    high: Floats
    near: NDArray[np.intp]
    step: Floats
    prior: Floats

    @classmethod
    def of(cls, workup: Workup) -> Pieces:
        """The pieces of a workup."""
        curves = workup.curves
        count = np.where(curves.length > 1, 2 * (curves.length - 1), 1)
        curve = np.repeat(np.arange(len(count)), count)
        number = np.arange(len(curve)) - np.repeat(np.cumsum(count) - count, count)
        swept = curves.length[curve] > 1
        row = curves.start[curve] + number // 2
        upper = np.where(swept, number % 2, 0)
        step = np.array([grid[1] - grid[0] if len(grid) > 1 else 0.0 for grid in curves.grid])[curve]
        # The integrals leave out the severities that nothing shows; their share of the prior counts as "nothing wrong".
        prior = np.concatenate([[workup.prior_of_nothing], workup.hypotheses.prior[1:]])
        share = prior[curves.hypothesis] * curves.share / np.where(curves.length > 1, count, 1)
        low, high = upper * 0.5, np.where(swept, upper * 0.5 + 0.5, 0.0)
        return cls(curve, row, low, high, row + upper, step, np.log(share)[curve])


@dataclass(frozen=True, eq=False)
class Leaves:
    """Stretches of curves that one likelihood stands for: ``curve`` (n,), ``low`` and ``high`` (n,) in grid steps from the curve's start,
    and the logarithm (n,) of likelihood times prior on the stretch."""

    curve: NDArray[np.intp]
    low: Floats
    high: Floats
    log: Floats

    @classmethod
    def join(cls, parts: list[Leaves]) -> Leaves:
        """All of them."""
        return cls(*(np.concatenate([getattr(part, name) for part in parts]) for name in ("curve", "low", "high", "log")))

    def at(self, index: NDArray[Any]) -> Leaves:
        """Some of them."""
        return Leaves(self.curve[index], self.low[index], self.high[index], self.log[index])


@dataclass(frozen=True, eq=False)
class Shares:
    """Per piece (P,): the logarithm of likelihood times prior on it when it was last looked at, the most that this may have come to since,
    and whether it is ``live``: looked at now and within reach of the best."""

    log: Floats
    ceiling: Floats
    live: NDArray[np.bool_]

    def with_some(self, chosen: NDArray[np.bool_], other: Shares) -> Shares:
        """These, with those of the chosen pieces (P,) from another."""
        return Shares(*(np.where(chosen, getattr(other, name), getattr(self, name)) for name in ("log", "ceiling", "live")))


@dataclass(frozen=True, eq=False)
class _Stretches:
    """Parts of pieces that are being looked at: which ``piece`` (n,), from ``low`` to ``high`` (n,) in parts of its interval."""

    piece: NDArray[np.intp]
    low: Floats
    high: Floats

    def at(self, index: NDArray[Any]) -> _Stretches:
        return _Stretches(self.piece[index], self.low[index], self.high[index])

    def parted(self) -> _Stretches:
        share = np.arange(_PARTS + 1) / _PARTS
        ends = self.low[:, None] + share * (self.high - self.low)[:, None]
        return _Stretches(np.repeat(self.piece, _PARTS), ends[:, :-1].ravel(), ends[:, 1:].ravel())


def integrate(evidence: Fit, pieces: Pieces, chosen: NDArray[np.intp], best: float = -np.inf) -> tuple[Leaves, Shares, float]:
    """Leaves of some pieces and the shares of those; the ``best`` share of a leaf is known so far and comes back."""
    leaves, shares, promised = _integrated(evidence, pieces, chosen, best, True)
    reached = max(best, float(shares.log.max(initial=-np.inf)))
    if reached < promised - _KEPT_PROMISE:
        # Where nothing fits by far, a stretch's middle may promise what no part of it holds, and what was left aside by that may matter.
        leaves, shares, _ = _integrated(evidence, pieces, chosen, best, False)
        reached = max(best, float(shares.log.max(initial=-np.inf)))
    near = leaves.log > reached - REACH
    return leaves.at(near), replace(shares, live=shares.live & (shares.log > reached - REACH)), reached


def _integrated(evidence: Fit, pieces: Pieces, chosen: NDArray[np.intp], best: float, promises: bool) -> tuple[Leaves, Shares, float]:
    """All leaves of some pieces, their shares, and the best share; with ``promises`` also that of what is yet to be parted, so that what
    lies far behind is left alone early."""
    curves = evidence.curves
    log = np.full(len(pieces.curve), -np.inf)  # of all pieces, to be added up
    live = np.zeros(len(pieces.curve), dtype=bool)
    best_here = np.full(len(curves.length), -np.inf)
    found: list[Leaves] = []

    def keep(some: _Stretches, share: Floats) -> None:
        """Stretches that are not parted any more."""
        np.logaddexp.at(log, some.piece, share)
        live[some.piece] = True
        start = pieces.row[some.piece] - curves.start[pieces.curve[some.piece]]
        found.append(Leaves(pieces.curve[some.piece], start + some.low, start + some.high, share))

    single = pieces.step[chosen] == 0.0
    seen = evidence.seen[pieces.row[chosen]] | evidence.seen[pieces.row[chosen] + ~single] | single
    evidence.prepare(np.unique(np.append(pieces.near[chosen[seen]], 0)))
    sound = evidence.log_likelihood(Spot(np.zeros(1, dtype=np.intp), np.zeros(1)), np.zeros(1))[0] - evidence.factor[0]
    alike = chosen[~seen]
    of_alike = pieces.prior[alike] + sound + evidence.factor[pieces.near[alike]]
    alone = chosen[single]
    of_alone = pieces.prior[alone] + evidence.log_likelihood(Spot(pieces.row[alone], np.zeros(len(alone))), np.zeros(len(alone)))
    best = max(best, of_alike.max(initial=-np.inf), of_alone.max(initial=-np.inf))
    np.maximum.at(best_here, pieces.curve[alike], of_alike)
    for some, share in ((alike, of_alike), (alone, of_alone)):
        keep(_Stretches(some, pieces.low[some], pieces.high[some]), share)

    rest = chosen[seen & ~single]
    open_ones = _Stretches(rest, pieces.low[rest], pieces.high[rest])
    for depth in range(_DEEPEST + 1):
        if not open_ones.piece.size:
            break
        breathe()
        middle, most, short = _looked_at(evidence, pieces, open_ones)
        settled = middle if promises else middle[short]
        best = max(best, float(settled.max(initial=-np.inf)))
        curve = pieces.curve[open_ones.piece]
        np.maximum.at(best_here, curve if promises else curve[short], settled)
        no_matter = most < np.maximum(best - _NO_MATTER, best_here[curve] - _NO_MATTER_HERE)
        done = short | no_matter | (depth == _DEEPEST)
        keep(open_ones.at(done), np.where(short, middle, most)[done])
        open_ones = open_ones.at(~done).parted()
    return Leaves.join(found), Shares(log, log, live), best


def _looked_at(evidence: Fit, pieces: Pieces, stretches: _Stretches) -> tuple[Floats, Floats, NDArray[np.bool_]]:
    """Of stretches (n,): log likelihood times prior by the middle, the most that it may be, and whether the middle will do. So many at once
    as have their precisions side by side in memory."""
    count, readings = len(stretches.piece), len(evidence.readings)
    most = max(_LEAST_AT_ONCE, _AT_ONCE // max(1, readings * min(readings, evidence.workup.tolerances)))
    if count <= most:
        return _looked_at_some(evidence, pieces, stretches)
    order = np.argsort(pieces.near[stretches.piece], kind="stable")
    log, least, short = np.empty(count), np.empty(count), np.empty(count, dtype=bool)
    for start in range(0, count, most):
        breathe()
        own = order[start : start + most]
        log[own], least[own], short[own] = _looked_at_some(evidence, pieces, stretches.at(own))
    return log, least, short


def _looked_at_some(evidence: Fit, pieces: Pieces, stretches: _Stretches) -> tuple[Floats, Floats, NDArray[np.bool_]]:
    piece = stretches.piece
    near, middle = pieces.near[piece], (stretches.low + stretches.high) / 2.0
    spots = Spot(pieces.row[piece][:, None], np.stack([stretches.low, middle, stretches.high], axis=1))
    low, at, high = np.moveaxis(evidence.expected(spots, pieces.step[piece][:, None]), 1, 0)
    residual, reach = evidence.value - at, (low - high) / 2.0
    precision = evidence.precision(near)
    widths = evidence.slipped.widths_where(low, high)
    blunder = evidence.blunder(near, widths)
    log, most, length = along(residual, reach, precision, widths, blunder)
    beside = np.flatnonzero(evidence.beside[near])
    if beside.size:
        vague_precision = evidence.precision(near[beside], vague=True)
        vague = along(residual[beside], reach[beside], vague_precision, widths[beside], blunder[beside])
        log[beside], most[beside] = either(log[beside], vague[0]), either(most[beside], vague[1])
    short = length <= _SHORT**2
    # Where tolerances change from row to row, those of the one shade into those of the other.
    other = 2 * pieces.row[piece] + 1 - near
    shades = np.flatnonzero(short)
    shades = shades[np.abs(precision.log_det[shades] - evidence.precision(other[shades]).log_det) > _SHADES]
    if shades.size:
        own = np.where(near > pieces.row[piece], middle, 1.0 - middle)[shades]
        log[shades] = own * log[shades] + (1.0 - own) * evidence.missed_by(residual[shades], other[shades])
    width = np.log((stretches.high - stretches.low) / (pieces.high - pieces.low)[piece])
    more = width + pieces.prior[piece] + evidence.factor[near]
    return log + more, most + more, short


def quantiles(owner: NDArray[np.intp], leaves: Leaves, shares: Floats) -> tuple[NDArray[np.intp], Floats]:
    """Owners (U,) in ascending order, each with the positions (U, Q) below which ``shares`` (Q,) of its leaves' mass lie."""
    order = np.lexsort((leaves.low, owner))
    owner, low, high, log = owner[order], leaves.low[order], leaves.high[order], leaves.log[order]
    starts = np.flatnonzero(np.r_[True, np.diff(owner) > 0]) if owner.size else np.zeros(0, dtype=np.intp)
    if not starts.size:
        return owner, np.zeros((0, len(shares)))
    ends = np.append(starts[1:], len(owner))
    mass = np.exp(log - np.repeat(np.maximum.reduceat(log, starts), ends - starts))
    reached = np.cumsum(mass)
    before = reached[starts] - mass[starts]
    wanted = before[:, None] + shares * (reached[ends - 1] - before)[:, None]
    at = np.clip(np.searchsorted(reached, wanted), starts[:, None], ends[:, None] - 1)
    part = np.clip((wanted - reached[at] + mass[at]) / np.maximum(mass[at], 1e-300), 0.0, 1.0)
    return owner[starts], low[at] + part * (high - low)[at]
