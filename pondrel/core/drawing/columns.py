"""Columns of chains that stand in an order: as far to the left as the order lets them, then in line with what they hang on.

Two chains whose rows meet keep their order, so pushing them together makes no lines cross that did not. Chains that meet in one vertex,
one above and one below it, may share a column: the way goes straight on.
"""

from __future__ import annotations

from collections.abc import Sequence

from .order import Chain

__all__ = ["columns_of"]

ROUNDS = 6


def columns_of(chains: Sequence[Chain]) -> list[int]:
    """The column of each of the chains, which are given from left to right."""
    count = len(chains)
    left_of: list[list[int]] = [[] for _ in range(count)]  # the chains that stay left of it
    right_of: list[list[int]] = [[] for _ in range(count)]
    for j in range(count):
        for i in range(j):
            if _apart(chains[i], chains[j]):
                left_of[j].append(i)
                right_of[i].append(j)
    column = [0] * count
    for j in range(count):
        column[j] = max((column[i] + 1 for i in left_of[j]), default=0)
    width = max(column)
    mates = _mates(chains)
    for turn in range(ROUNDS):
        moved = False
        for j in range(1, count) if turn % 2 else reversed(range(1, count)):
            low = max((column[i] + 1 for i in left_of[j]), default=0)
            high = min((column[i] - 1 for i in right_of[j]), default=width)
            best = min(range(low, high + 1), key=lambda at: (_pull(at, column, mates[j]), abs(at - column[j])))
            moved |= best != column[j]
            column[j] = best
        if not moved:
            break
    return column


def _apart(one: Chain, other: Chain) -> bool:
    """Whether two chains cannot share a column: their rows meet, other than by one going on where the other ends."""
    if one.bottom < other.top or other.bottom < one.top:
        return False
    straight_on = (one.bottom == other.top and one.ends[1] == other.ends[0]) or (other.bottom == one.top and other.ends[1] == one.ends[0])
    return not straight_on


def _mates(chains: Sequence[Chain]) -> list[list[tuple[int, bool]]]:
    """For every chain those that it meets, and whether they go straight on from it."""
    at: dict[str, list[int]] = {}
    for n, chain in enumerate(chains):
        for vertex in chain.ends:
            at.setdefault(vertex, []).append(n)
    mates: list[list[tuple[int, bool]]] = []
    for n, chain in enumerate(chains):
        near = [m for vertex in chain.ends for m in at[vertex] if m != n and m != 0]
        mates.append([(m, not _apart(chain, chains[m])) for m in near])
    return mates


def _pull(at: int, column: Sequence[int], mates: Sequence[tuple[int, bool]]) -> float:
    """How far a chain would stand from those that it meets; out of line with what it goes on from counts most."""
    return sum((3.0 if straight and column[m] != at else 0.0) + abs(column[m] - at) for m, straight in mates)
