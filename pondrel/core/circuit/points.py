"""The operating points of many cases, and what a meter or an eye finds there: worked out for the nodes, elements and cases asked for."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..base.arrays import Floats
from ..base.judgement import judged
from .network import Network
from .settle import Share

__all__ = ["Points", "Push"]

LEAST_DWELL = judged("LEAST_DWELL", 0.02, "share", "of its time that something pulsing spends at a level for a scope to show it as one")

Rows = NDArray[np.intp]
Push = Callable[[Share, Rows], Floats]  # (share, its rows) -> (m, K)
_AT_ONCE = 1_000_000  # numbers worked out at once
_FEW = 400  # cases, so few that the calls cost more than what is padded


@dataclass(frozen=True, eq=False)
class Points:
    """Operating points of ``count`` cases. A case that chatters or pulses is the mean of its positions; most have but one.

    ``shares`` hold the cases by base and number of ports, each with its weight in the mean; ``cycling`` (M, C) marks controlled contacts
    that find no rest, ``restless`` (M,) cases in which Newton finds none; ``steady`` (M,) where the cycling is slow and sets its own mean;
    ``pulled`` (M, C) per controlled contact whether its control holds.
    """

    network: Network
    count: int
    shares: tuple[Share, ...]
    cycling: NDArray[np.bool_]
    restless: NDArray[np.bool_]
    steady: NDArray[np.bool_]
    pulled: NDArray[np.bool_]

    @cached_property
    def chatter(self) -> NDArray[np.bool_]:
        """(M,) cases without rest: contacts that hurry to and fro, or a circuit that Newton does not settle."""
        return self.cycling.any(axis=1) | self.restless

    @cached_property
    def swings(self) -> NDArray[np.bool_]:
        """(M,) cases that hurry between just two positions."""
        count = np.zeros(self.count, dtype=int)
        for share in self.shares:
            np.add.at(count, share.rows, 1)
        swings: NDArray[np.bool_] = self.cycling.any(axis=1) & ~self.restless & (count == 2)
        return swings

    def swing(self, red: Rows, black: Rows) -> Floats:
        """(m, T) of such a case how far the volts from nodes ``red`` to ``black`` (T,) move from one position to the other; 0 of others."""
        swung = np.zeros((self.count, len(red)))
        if self.swings.any():
            for share, place in self._bundles(len(red)):
                swung[place] += (1.0 if share.second else -1.0) * share.between(red, black)
        return np.where(self.swings[:, None], swung, 0.0)

    @cached_property
    def _places(self) -> list[NDArray[np.int32]]:
        places = []
        for share in self.shares:
            place = np.full(self.count, -1, dtype=np.int32)
            place[share.rows] = np.arange(len(share.rows))
            places.append(place)
        return places

    def _bundles(self, width: int, by_port: int | None = None) -> Iterator[tuple[Share, Rows]]:
        """The shares, and which cases each is of; no more at once than ``width`` numbers a case allow, and as many for every port, or
        ``by_port``."""
        for share in self.shares:
            most = max(1, _AT_ONCE // max(1, width + share.ports.width * (width if by_port is None else by_port)))
            if len(share.rows) <= most:
                yield share, share.rows
                continue
            for start in range(0, len(share.rows), most):
                chosen = np.arange(start, min(start + most, len(share.rows)))
                yield share.at(chosen, share.rows[chosen]), share.rows[chosen]

    def _mean(self, shape: tuple[int, ...], made: Callable[[Share], Floats]) -> Floats:
        """(m, …) the mean over the positions."""
        mean = np.zeros((self.count, *shape))
        for share, place in self._bundles(int(np.prod(shape))):
            own = made(share)
            if (share.weight != 1.0).any():
                own = own * share.weight.reshape(-1, *(1 for _ in shape))
            mean[place] += own
        return mean

    def between(self, red: Rows, black: Rows) -> Floats:
        """(m, T) volts from nodes ``red`` to ``black`` (T,), −1 for battery minus."""
        return self._mean((len(red),), lambda share: share.between(red, black))

    def volts_across(self, elements: Rows) -> Floats:
        """(m, K) volts across elements (K,)."""
        return self._mean((len(elements),), lambda share: share.across(elements))

    def amps_through(self, elements: Rows) -> Floats:
        """(m, K) amperes through elements (K,)."""
        return self._mean((len(elements),), lambda share: share.amps(elements))

    def lets_through(self, elements: Rows) -> NDArray[np.bool_]:
        """(m, K) whether elements (K,) let current through in any of the positions."""
        lets = np.zeros((self.count, len(elements)), dtype=bool)
        for share, place in self._bundles(len(elements)):
            lets[place] |= share.lets_through(elements)
        return lets

    @property
    def volts(self) -> Floats:
        """(M, N) by node."""
        every = np.arange(len(self.network.nodes))
        return self.between(every, np.full_like(every, -1))

    @property
    def amps(self) -> Floats:
        """(M, E) by element."""
        return self.amps_through(np.arange(len(self.network.keys)))

    @property
    def conducts(self) -> NDArray[np.bool_]:
        """(M, E) whether an element lets current through in any of the positions."""
        return self.lets_through(np.arange(len(self.network.keys)))

    def alternating(self, red: Rows, black: Rows) -> Floats:
        """(m, T) effective value of what the volts from nodes ``red`` to ``black`` (T,) swing about their mean, over the positions."""
        mean = self.between(red, black)
        square = np.zeros_like(mean)
        for share, place in self._bundles(len(red)):
            square[place] += share.weight[:, None] * (share.between(red, black) - mean[place]) ** 2
        root: Floats = np.sqrt(square)
        return root

    def at_level(self, red: int, black: int, upper: bool) -> Points:
        """Every case in the one of its positions in which the volts from node ``red`` to ``black`` are highest (``upper``) or lowest: what
        a scope shows as a level of what pulses slowly beside what coils and capacitors store. Positions that are too short to be a level
        do not count."""
        best, choice = np.full(self.count, -np.inf), np.full(self.count, -1)
        pair = np.array([red]), np.array([black])
        for number, share in enumerate(self.shares):
            volts = share.between(*pair)[:, 0] * (1.0 if upper else -1.0)
            better = (volts > best[share.rows]) & (share.weight >= LEAST_DWELL)
            best[share.rows[better]], choice[share.rows[better]] = volts[better], number
        shares = []
        for number, share in enumerate(self.shares):
            own = np.flatnonzero(choice[share.rows] == number)
            if own.size:
                shares.append(share.at(own, share.rows[own], np.ones(len(own))))
        still = np.zeros_like(self.cycling)
        return Points(self.network, self.count, tuple(shares), still, self.restless, self.steady, self.pulled)

    def ohms_of(self, elements: Rows) -> Floats:
        """(M, K) ohms of straight elements (K,) where they conduct, the mean over the positions in which they do; infinite where in
        none."""
        ohms, time = np.zeros((2, self.count, len(elements)))
        for share, place in self._bundles(len(elements)):
            on = share.lets_through(elements) * share.weight[:, None]
            ohms[place] += on * share.ohms_along(elements)
            time[place] += on
        return np.where(time > 0.0, ohms / np.maximum(time, 1e-12), np.inf)

    def looks_into(self, red: Rows, black: Rows) -> Floats:
        """(m, T) ohms between nodes, small-signal, the mean over the positions."""
        return self._mean((len(red),), lambda share: share.looks_into(red, black))

    def across_by(self, elements: Rows, red: Rows, black: Rows) -> Floats | None:
        """(M, K, T) volts across elements (K,) per ampere put into nodes ``red`` and taken out at ``black`` (T,), small-signal; None where
        a case has several positions."""
        if len(self.shares) != 1:
            return None
        return self.shares[0].across_by(elements, red, black)

    def change(self, red: Rows, black: Rows, push: Push, elements: Rows, squared: bool = False, room: int = 0) -> Floats:
        """(m, T, K) change of the volts between nodes, or with ``squared`` of the ohms between them, as ``elements`` are pushed: (K,), or
        (M, K) where every case has its own. ``push`` gives how far γ of each one's line rises. With ``room`` for more numbers than K there
        are as many, the others nought."""
        width = elements.shape[-1]
        changed = np.zeros((self.count, len(red), max(width, room)))
        for share, place in self._bundles(len(red) * width, len(red) + width):
            response = share.respond(elements if elements.ndim == 1 else elements[share.rows], red, black)
            if squared:
                response *= response
            pushes = push(share, share.rows)
            whole = bool((share.weight == 1.0).all())
            response *= (pushes if whole else pushes * share.weight[:, None])[:, None, :]
            if whole:
                changed[place, :, :width] = response
            else:
                changed[place, :, :width] += response
        return changed

    def of(self, rows: Rows) -> Points:
        """Some of the cases, in any order, kept together so that they are quick to ask."""
        shares = []
        for number, share in enumerate(self.shares):
            found = self._places[number][rows]
            place = np.flatnonzero(found >= 0)
            if place.size:
                shares.append(share.at(found[place].astype(np.intp), place))
        cycling, restless, steady, pulled = (own[rows] for own in (self.cycling, self.restless, self.steady, self.pulled))
        return Points(self.network, len(rows), Share.gathered(shares, few=len(rows) <= _FEW), cycling, restless, steady, pulled)

    @classmethod
    def merged(cls, count: int, parts: Sequence[tuple[Points, Rows, Rows]]) -> Points:
        """Points of ``count`` cases from those of others: (points, which of their rows, in ascending order or any, where they go)."""
        contacts = parts[0][0].cycling.shape[1]
        cycling, pulled = np.zeros((count, contacts), dtype=bool), np.zeros((count, contacts), dtype=bool)
        restless, steady = np.zeros(count, dtype=bool), np.zeros(count, dtype=bool)
        shares: list[Share] = []
        for points, taken, target in parts:
            for number, share in enumerate(points.shares):
                found = points._places[number][taken]
                here = np.flatnonzero(found >= 0)
                if here.size:
                    shares.append(share.at(found[here].astype(np.intp), target[here]))
            cycling[target], pulled[target] = points.cycling[taken], points.pulled[taken]
            restless[target], steady[target] = points.restless[taken], points.steady[taken]
        return cls(parts[0][0].network, count, Share.gathered(shares), cycling, restless, steady, pulled)

    def contacts(self) -> NDArray[Any]:
        """(M, …) what tells one position of a case's contacts from another."""
        return np.concatenate([self.pulled, self.cycling, self.restless[:, None]], axis=1)
