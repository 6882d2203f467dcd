"""Where contacts move between two rows of a curve, and the circuit on either side of that place.

From all released the contacts of both rows go the same way up to a position in which one control moves its contact at one row and not at
the other. How far that control is from its threshold there is, as any response of a linear circuit, a bilinear function of the resistance
that changes (Bode 1945): from three points follows the place. It is then looked at on both sides; where that does not show it, it is found
by parting.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ...base.arrays import Floats
from ...base.patience import breathe
from ...circuit.network import Cases, Network, Positions
from ...circuit.operate import beyond_threshold, first_difference, operating_points
from ...circuit.points import Points
from .curves import Curves

__all__ = ["Torn", "find_torn", "sloped"]

_CLOSE = 1e-6  # of a grid's step, on either side of a place: so near it is looked at
_NEARER, _MOST_STEPS = 1e-8, 12  # how near the last two steps are to each other; more are not made
_LOOKS = 3  # times that a place is looked for between places where nothing moved
_PARTS, _ROUNDS = 100, 3  # a place that is found by parting is known to the hundredth of a hundredth of a hundredth


@dataclass(frozen=True, eq=False)
class Torn:
    """Both sides of n tears: the ``row`` (n,) below each, its place ``at`` (n,) on the way to the next row, and ``points`` (2n) just below
    and then just above, with the elements ``swept`` (2n,) there, −1 where a point chatters."""

    row: NDArray[np.intp]
    at: Floats
    points: Points
    swept: NDArray[np.intp]


def sloped(points: Points, element: NDArray[np.intp]) -> NDArray[np.intp]:
    """(M,) the swept elements, −1 where a row chatters: it is a mean of two circuits, and neither's slope is its own."""
    return np.where(points.chatter & ~points.steady, -1, element)


def find_torn(
    network: Network, cases: Cases, positions: Positions, curves: Curves, element: NDArray[np.intp], points: Points
) -> Torn | None:
    """The tears of all rows (``cases`` M, with their ``points``), None where there is none; ``element`` (M,) is the one whose ohms are the
    row's severity. A fuse that melts between two rows tears nothing."""
    flags, same_curve = points.contacts(), curves.of_row[:-1] == curves.of_row[1:]
    moved = (flags[:-1] != flags[1:]).any(axis=1) & same_curve & (curves.fuses[:-1] == curves.fuses[1:])
    row = np.flatnonzero(moved & (element[:-1] >= 0))
    if not row.size:
        return None
    logs = np.concatenate(curves.grid)
    search = _Search(network, positions, cases.at(row), element[row], logs[row], logs[row + 1] - logs[row], flags[row])
    return search.torn(row)


class _Search:
    """Looks for the places of n tears: the cases ``own`` (n) with the element ``swept`` (n,) in them, the logarithm of its ohms at the
    start of each way and by how much it rises (n,), and how contacts stand at the start, ``flags`` (n, …)."""

    def __init__(
        self, network: Network, positions: Positions, own: Cases, swept: NDArray[np.intp], start: Floats, step: Floats,
        flags: NDArray[np.bool_],
    ):  # fmt: skip
        self.network, self.positions, self.own, self.swept = network, positions, own, swept
        self.start, self.step, self.flags = start, step, flags
        self.low, self.high, self.at = np.zeros(own.count), np.ones(own.count), np.full(own.count, 0.5)
        self.found: list[tuple[Points, NDArray[np.intp], NDArray[np.intp]]] = []  # points, which of them, and where they go

    def torn(self, row: NDArray[np.intp]) -> Torn:
        """The tears above rows (n,)."""
        count = self.own.count
        todo = np.arange(count)
        for _ in range(_LOOKS):
            todo = self._looked_for(todo)
            if not todo.size:
                break
        left = np.setdiff1d(np.arange(count), np.concatenate([target[: len(target) // 2] for *_, target in self.found] or [todo[:0]]))
        if left.size:
            self.at[left] = self._parted(left)
            self.found.append((self._beside(left), np.arange(2 * len(left)), np.concatenate([left, left + count])))
        both = Points.merged(2 * count, self.found)
        return Torn(row, self.at, both, sloped(both, np.concatenate([self.swept, self.swept])))

    def _between(self, which: NDArray[np.intp], share: Floats) -> Cases:
        """Some of the cases at shares of their way."""
        breathe()
        ohms = np.exp(self.start[which] + share * self.step[which])
        changed = Cases(len(which), np.arange(len(which)), self.swept[which], ohms, np.zeros(len(which), dtype=np.int8))
        return self.own.at(which).also(changed)

    def _solved(self, which: NDArray[np.intp], share: Floats) -> Points:
        return operating_points(self.network, self._between(which, share), self.positions)

    def _beside(self, which: NDArray[np.intp]) -> Points:
        """(2n) just below and just above the places."""
        return self._solved(np.concatenate([which, which]), np.concatenate([self.at[which] - _CLOSE, self.at[which] + _CLOSE]))

    def _looked_for(self, which: NDArray[np.intp]) -> NDArray[np.intp]:
        """Those of some tears at whose places nothing moved, where that was not all that could be tried."""
        told = first_difference(self.network, self._between(which, self.low[which]), self._between(which, self.high[which]), self.positions)
        known = np.flatnonzero(told[1] >= 0) if told is not None else np.zeros(0, dtype=np.intp)
        if told is None or not known.size:
            return known
        sought, pulled, control = which[known], told[0][known], told[1][known]

        def beyond(some: NDArray[np.intp], share: Floats) -> Floats:
            return beyond_threshold(self.network, self._between(sought[some], share), self.positions, pulled[some], control[some])

        self.at[sought] = _crossed(self.low[sought], self.high[sought], self.step[sought], beyond)
        both = self._beside(sought)
        below, above = both.contacts().reshape(2, len(sought), -1)
        before, after = (below == self.flags[sought]).all(axis=1), (above == self.flags[sought]).all(axis=1)
        here = np.flatnonzero(before & ~after)
        if here.size:
            self.found.append(
                (both, np.concatenate([here, here + len(sought)]), np.concatenate([sought[here], sought[here] + self.own.count]))
            )
        self.low[sought] = np.where(before & after, self.at[sought] + _CLOSE, self.low[sought])
        self.high[sought] = np.where(~before, self.at[sought] - _CLOSE, self.high[sought])
        left: NDArray[np.intp] = sought[~(before & ~after)]
        return left

    def _parted(self, which: NDArray[np.intp]) -> Floats:
        """(n,) the first places found where contacts are no longer as they are at the start of the way."""
        low, width, inner = np.zeros(len(which)), 1.0, np.arange(1, _PARTS)
        for _ in range(_ROUNDS):
            width /= _PARTS
            shares = low[:, None] + width * inner
            seen = self._solved(np.repeat(which, len(inner)), shares.ravel()).contacts().reshape(*shares.shape, -1)
            same = (seen == self.flags[which][:, None]).all(axis=2)
            low = low + width * np.where(same.all(axis=1), len(inner), (~same).argmax(axis=1))
        return np.clip(low + width / 2.0, _CLOSE, 1.0 - _CLOSE)


def _crossed(low: Floats, high: Floats, step: Floats, beyond: Callable[[NDArray[np.intp], Floats], Floats]) -> Floats:
    """(n,) where between shares ``low`` and ``high`` of their way numbers change their sign; in the middle where they do not. Each is
    taken as (p + q·R)/(r + R) through the last three points, R in units of that at the start of the way; ``step`` (n,) is by how much the
    logarithm of R rises on all of it."""
    count, low, high = len(low), low.copy(), high.copy()
    at, every = (low + high) / 2.0, np.arange(count)
    below, above = beyond(np.concatenate([every, every]), np.concatenate([low, high])).reshape(2, count)
    todo = np.flatnonzero((below >= 0.0) != (above >= 0.0))
    last, further = np.zeros((2, count))  # a third point: the end that was let go
    for _ in range(_MOST_STEPS):
        if not todo.size:
            break
        own, value = at[todo], beyond(todo, at[todo])
        same = (value >= 0.0) == (below[todo] >= 0.0)
        before = low[todo], below[todo], high[todo], above[todo]
        last[todo], further[todo] = np.where(same, before[:2], before[2:])
        low[todo], below[todo] = np.where(same, [own, value], before[:2])
        high[todo], above[todo] = np.where(same, before[2:], [own, value])
        with np.errstate(invalid="ignore", divide="ignore"):
            guess = np.log(
                _root([np.exp(share[todo] * step[todo]) for share in (low, high, last)], [below[todo], above[todo], further[todo]])
            )
            guess /= step[todo]
        # A place that was hit stands at an end of what is left.
        inside = np.isfinite(guess) & (guess > low[todo] - _NEARER) & (guess < high[todo] + _NEARER)
        at[todo] = np.where(value == 0.0, own, np.where(inside, guess, (low[todo] + high[todo]) / 2.0))
        todo = todo[(np.abs(at[todo] - own) > _NEARER) & (high[todo] - low[todo] > _NEARER)]
    return np.clip(at, _CLOSE, 1.0 - _CLOSE)


def _root(at: Sequence[Floats], value: Sequence[Floats]) -> Floats:
    """(n,) where a bilinear function is nothing of which three places and values (n,) are known: it leaves the cross-ratio of four as it
    is. NaN or beyond where the three do not tell."""
    a, b, c = at
    own, nearest, other = value
    ratio = nearest * (own - other) * (a - b) / (other * (own - nearest) * (a - c))
    root: Floats = b + (b - c) * ratio / (1.0 - ratio)
    return root
