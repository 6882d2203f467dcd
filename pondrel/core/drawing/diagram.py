"""A sheet's diagram: columns and rows of what is drawn, in strips one below the other where it is too wide for one."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

from ..circuit.sheet import Sheet
from .columns import columns_of
from .fold import cuts_of
from .order import Chain, chains_of, ordered
from .wiring import Stretch, Wiring

__all__ = ["Bar", "Box", "Diagram", "Drawn", "Strip", "draw"]


@dataclass(frozen=True, slots=True)
class Bar:
    """A node as drawn: from column ``left`` to ``right`` at height ``row``; ``columns`` are those that hang on it or that it hangs on.
    ``before`` and ``after`` say that it goes on in the strip above and below."""

    node: str
    left: int
    right: int
    row: int
    columns: tuple[int, ...]
    before: bool = False
    after: bool = False


@dataclass(frozen=True, slots=True)
class Box:
    """A part of many pins: from column ``left`` to ``right`` around ``row``; ``flat`` is one that is no more than a joint."""

    part: str
    left: int
    right: int
    row: int
    flat: bool
    before: bool = False
    after: bool = False


@dataclass(frozen=True, slots=True)
class Drawn:
    """A stretch in its ``column`` from ``top`` to ``bottom`` (rows)."""

    stretch: Stretch
    column: int
    top: int
    bottom: int


@dataclass(frozen=True)
class Strip:
    """A part of the diagram that is drawn by itself: ``columns`` and ``rows`` of extent."""

    columns: int
    rows: int
    bars: tuple[Bar, ...]
    boxes: tuple[Box, ...]
    drawn: tuple[Drawn, ...]


@dataclass(frozen=True)
class Diagram:
    """A sheet's diagram, from left to right in one strip after the other."""

    strips: tuple[Strip, ...]


def draw(sheet: Sheet, most_columns: int = 0) -> Diagram:
    """The diagram of a sheet; with ``most_columns`` in strips of at most so many, otherwise in one."""
    wiring = Wiring(sheet)
    chains = ordered(wiring, chains_of(wiring))
    columns = columns_of(chains)
    width = max(columns) + 1
    rails, boxes = frozenset((sheet.plus, sheet.minus)), frozenset(wiring.boxes)
    firsts = [0, *cuts_of(chains, columns, most_columns, rails, boxes), width]
    placed = list(zip(chains, columns, strict=True))
    reach: dict[str, tuple[int, int]] = {}
    for chain, at in placed:
        for vertex in chain.ends:
            low, high = reach.get(vertex, (at, at))
            reach[vertex] = min(low, at), max(high, at)
    strips = []
    for first, end in pairwise(firsts):
        own = [(chain, at - first) for chain, at in placed if first <= at < end]
        before = {vertex for vertex, (low, _) in reach.items() if low < first}
        after = {vertex for vertex, (_, high) in reach.items() if high >= end}
        strips.append(_strip(wiring, own, end - first, before, after))
    return Diagram(tuple(strips))


def _strip(wiring: Wiring, placed: Sequence[tuple[Chain, int]], width: int, before: set[str], after: set[str]) -> Strip:
    rank, sheet = wiring.rank, wiring.sheet
    at: dict[str, list[int]] = {}
    for chain, column in placed:
        for vertex in (chain.stretches[0].top, *(s.bottom for s in chain.stretches)):
            at.setdefault(vertex, []).append(column)
    lanes = _lanes(wiring, at)
    # Rows that this strip has nothing on are left out.
    used = sorted({(rank[vertex], lanes[vertex]) for vertex in at})
    row = {vertex: used.index((rank[vertex], lanes[vertex])) for vertex in at}
    bars, boxes = [], []
    for vertex, columns in at.items():
        left, right, ends = min(columns), max(columns), tuple(sorted(set(columns)))
        goes = (vertex in before, vertex in after)
        if vertex in wiring.boxes:
            part = wiring.boxes[vertex]
            boxes.append(Box(part.name, left, right, row[vertex], part.kind.symbol == "splice", *goes))
        else:
            if vertex in (sheet.plus, sheet.minus) and any(goes):
                left, right = (0 if goes[0] else left), (width - 1 if goes[1] else right)
            bars.append(Bar(vertex, left, right, row[vertex], ends, *goes))
    drawn = [Drawn(s, column, row[s.top], row[s.bottom]) for chain, column in placed for s in chain.stretches]
    return Strip(width, max(row.values()), tuple(bars), tuple(boxes), tuple(drawn))


def _lanes(wiring: Wiring, at: dict[str, list[int]]) -> dict[str, int]:
    """Bars of one rank that would touch get rows of their own: the one that leads up above the other, the one that leads down below it."""
    lanes: dict[str, int] = {}
    taken: dict[int, list[tuple[int, int, int]]] = {}
    for vertex in sorted(at, key=lambda v: (wiring.rank[v], len(wiring.below[v]) - len(wiring.above[v]), min(at[v]))):
        left, right = min(at[vertex]), max(at[vertex])
        beside = taken.setdefault(wiring.rank[vertex], [])
        lane = 0
        while any(n == lane and left <= r and right >= lf for lf, r, n in beside):
            lane += 1
        beside.append((left, right, lane))
        lanes[vertex] = lane
    return lanes
