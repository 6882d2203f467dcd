"""Chains of stretches, and their order from left to right in which the fewest lines cross.

A chain is a way down without a branch: drawn as one straight line. A vertex where chains meet is a bar across them, and a line crosses it
that passes its row between its ends without being of it. In a circuit that can be drawn without crossings there is an order with none
(Tamassia and Tollis, A unified approach to visibility representations of planar graphs, 1986); it is looked for from the order in which
the chains are found by going down, by taking single chains elsewhere for as long as that helps.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from .wiring import Stretch, Wiring

__all__ = ["Chain", "chains_of", "crossings", "ordered"]

BEGINNINGS, MANY_CHAINS = 6, 80
ROUNDS = 12  # at most; most circuits are through after three
_HAIR = 1e-9
CROSSING, REACH = 100.0, 1.0  # what a crossing costs beside a bar that is longer by one chain


@dataclass(frozen=True)
class Chain:
    """Stretches one below the other, from the row ``top`` to the row ``bottom``."""

    stretches: tuple[Stretch, ...]
    top: int
    bottom: int

    @property
    def ends(self) -> tuple[str, str]:
        """Its upper and its lower vertex."""
        return self.stretches[0].top, self.stretches[-1].bottom


def chains_of(wiring: Wiring) -> list[Chain]:
    """A wiring's chains, the source first, the others as they are found going down from battery plus, the longest way first."""
    ends = {wiring.sheet.plus, wiring.sheet.minus, *wiring.boxes}
    inner = {v for v in wiring.vertices if len(wiring.above[v]) == 1 and len(wiring.below[v]) == 1 and v not in ends}
    rank = wiring.rank
    found = [Chain((wiring.source,), rank[wiring.sheet.plus], rank[wiring.sheet.minus])]
    depth = _depths(wiring)
    seen: set[str] = {wiring.sheet.minus}
    heads = [v for v in sorted(wiring.vertices, key=lambda v: (v != wiring.sheet.plus, rank[v])) if v not in inner]

    def down(vertex: str) -> None:
        seen.add(vertex)
        for head in sorted(wiring.below[vertex], key=lambda s: -depth[s.bottom]):
            line = [head]
            while line[-1].bottom in inner:
                line.append(wiring.below[line[-1].bottom][0])
            found.append(Chain(tuple(line), rank[vertex], rank[line[-1].bottom]))
            if line[-1].bottom not in seen:
                down(line[-1].bottom)

    for vertex in heads:
        if vertex not in seen:
            down(vertex)
    return found


def _depths(wiring: Wiring) -> dict[str, int]:
    depth = dict.fromkeys(wiring.vertices, 0)
    for vertex in sorted(wiring.vertices, key=lambda v: -wiring.rank[v]):
        depth[vertex] = max((depth[s.bottom] + 1 for s in wiring.below[vertex]), default=0)
    return depth


class _Meetings:
    """Where chains meet, as arrays (vertices x chains): ``member``, and ``away``, how many lines cross where a bar reaches over one."""

    def __init__(self, wiring: Wiring, chains: Sequence[Chain]):
        vertices = list(dict.fromkeys(v for chain in chains for v in chain.ends))
        at = {vertex: i for i, vertex in enumerate(vertices)}
        self.ends = np.array([[at[v] for v in chain.ends] for chain in chains])  # (chains, 2)
        self.member = np.zeros((len(vertices), len(chains)), dtype=bool)
        self.member[self.ends.ravel(), np.repeat(np.arange(len(chains)), 2)] = True
        row = np.array([wiring.rank[v] for v in vertices])[:, None]
        top, bottom = np.array([chain.top for chain in chains]), np.array([chain.bottom for chain in chains])
        # Of two bars on one row that reach over each other one gives way up or down, and crosses what the other has there.
        beside = (top == row) | (row == bottom)
        self.away = np.where((top < row) & (row < bottom), 1.0, np.where(beside, 0.5, 0.0)) * ~self.member

    def reach(self, order: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """The first and the last place (vertices,) of every vertex's bar; where none of these chains is of it, a first beyond its last."""
        member = self.member[:, order]
        some = member.any(1)
        last = member.shape[1] - 1
        return np.where(some, member.argmax(1), last + 1), np.where(some, last - member[:, ::-1].argmax(1), -1)

    def before(self, order: np.ndarray) -> np.ndarray:
        """How many lines a bar (vertices x places + 1) would cross in all places before one."""
        counts = np.zeros((self.away.shape[0], len(order) + 1))
        np.cumsum(self.away[:, order], axis=1, out=counts[:, 1:])
        return counts

    def crossed(self, order: np.ndarray) -> float:
        """How many lines cross in an order."""
        low, high = self.reach(order)
        before, every = self.before(order), np.arange(len(low))
        return float((before[every, np.maximum(high, 0)] - before[every, np.minimum(low + 1, len(order))])[high > low].sum())

    def cost(self, order: np.ndarray) -> float:
        """What an order costs."""
        low, high = self.reach(order)
        return CROSSING * self.crossed(order) + REACH * float((high - low)[high > low].sum())

    def costs_of_taking(self, chain: int, rest: np.ndarray) -> np.ndarray:
        """What the orders cost in which a chain stands before each place but the first of the ``rest``, and after its last (places,)."""
        low, high = self.reach(rest)
        before = self.before(rest)
        gaps = np.arange(1, len(rest) + 1)
        own = np.unique(self.ends[chain])
        others = np.ones(len(low), dtype=bool)
        others[own] = False
        wide = others & (high > low)
        ones, ends = low[wide], high[wide]
        # Bars of others: those that the chain comes to stand in are longer by one, and cross it where it passes their row.
        over = (ones[:, None] < gaps) & (gaps <= ends[:, None])  # (bars, gaps)
        settled = (before[wide, ends] - before[wide, ones + 1]).sum()
        crossed = settled + self.away[wide, chain] @ over
        length = (ends - ones).sum() + over.sum(0)
        for vertex in own:  # its own bars reach as far as it stands
            if high[vertex] < 0:
                continue
            count = before[vertex]
            first, last = low[vertex], high[vertex]
            left, right = np.minimum(gaps, first), np.maximum(gaps - 1, last)
            inside = count[last] - count[first + 1] if last > first else 0.0
            crossed = crossed + inside + (count[first] - count[left]) + (count[right + 1] - count[last + 1])
            length = length + np.where(gaps <= first, last - gaps + 1, np.where(gaps > last, gaps - first, last - first + 1))
        total: np.ndarray = CROSSING * crossed + REACH * length
        return total


def ordered(wiring: Wiring, chains: Sequence[Chain]) -> list[Chain]:
    """The chains from left to right, the source first."""
    meetings = _Meetings(wiring, chains)
    best, least = _improved(meetings, np.arange(len(chains)))
    # Where lines still cross, other beginnings may lead to an order without.
    dice = np.random.default_rng(len(chains))
    for _ in range(BEGINNINGS if len(chains) <= MANY_CHAINS else 1):
        if least < CROSSING / 2:
            break
        other, cost = _improved(meetings, np.concatenate(([0], 1 + dice.permutation(len(chains) - 1))))
        if cost < least - _HAIR:
            best, least = other, cost
    return [chains[n] for n in best]


def _improved(meetings: _Meetings, order: np.ndarray) -> tuple[np.ndarray, float]:
    """The order that taking one chain after the other elsewhere leads to, and what it costs."""
    best = meetings.cost(order)
    for _ in range(ROUNDS):
        before = best
        for chain in range(1, len(order)):
            rest = order[order != chain]
            costs = meetings.costs_of_taking(chain, rest)
            least = int(costs.argmin())
            if costs[least] < best - _HAIR:
                best, order = float(costs[least]), np.insert(rest, least + 1, chain)
        if best >= before - _HAIR:
            break
    return order, best


def crossings(wiring: Wiring, chains: Sequence[Chain]) -> float:
    """How many lines cross when chains stand in this order; a half where bars on one row have to give way."""
    return _Meetings(wiring, chains).crossed(np.arange(len(chains)))
