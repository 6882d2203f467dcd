"""The path diagram's geometry and the current paths, worked out from the sheet alone: feed at the top, ground at the bottom.

Nodes are ranked by the longest way down from battery plus, with every segment pointing the way current falls when all contacts are
closed (a harmonic potential over segments of equal resistance). Columns follow chains depth-first, the longest first, so that a
series circuit is one straight line; a node that joins columns is a horizontal bar. Units are abstract: one per column and rank.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from .part import Law
from .sheet import Sheet

__all__ = ["Bar", "Drawing", "Path", "Segment", "Tree", "draw", "load_paths"]


@dataclass(frozen=True, slots=True)
class Segment:
    """A two-terminal stretch of a part, from its upper to its lower node. ``element`` as in the kind's elements."""

    part: str
    element: str
    top: str
    bottom: str


@dataclass(frozen=True, slots=True)
class Bar:
    """A node as drawn: from column ``left`` to ``right`` at height ``row`` (ranks, fractional where bars would touch)."""

    node: str
    left: int
    right: int
    row: float
    columns: tuple[int, ...]


@dataclass(frozen=True, slots=True)
class DrawnSegment:
    """A segment in its ``column`` from ``top`` to ``bottom`` (rows); its symbol sits at ``middle``."""

    segment: Segment
    column: int
    top: float
    bottom: float
    middle: float


@dataclass(frozen=True)
class Drawing:
    """A sheet's diagram: ``columns`` and ``rows`` of extent, bars of nodes, segments of parts."""

    columns: int
    rows: float
    bars: tuple[Bar, ...]
    segments: tuple[DrawnSegment, ...]


@dataclass(frozen=True)
class Path:
    """The way of current through one load, or through another part that no load's way passes: ``nodes`` from battery plus to minus and the
    ``segments`` between them, one fewer. ``load`` names it: a part, with its element where it has several."""

    load: str
    nodes: tuple[str, ...]
    segments: tuple[Segment, ...]

    @cached_property
    def parts(self) -> tuple[str, ...]:
        """The parts of its segments, in order."""
        return tuple(segment.part for segment in self.segments)

    @property
    def subject(self) -> str:
        """The part that it is called by, empty for a battery that feeds nothing."""
        return next((segment.part for segment in self.segments if _name_of(segment) == self.load), "")


class Tree:
    """A sheet's segments, each pointing downwards, with node ranks."""

    def __init__(self, sheet: Sheet):
        self.sheet = sheet
        raw = [
            (part.name, element.name, *(self._node(part.name, pin) for pin in (element.a, element.b)))
            for part in sheet.parts.values()
            for element in part.elements()
            if element.drawn and np.isfinite(element.ohms)
        ]
        self.nodes = tuple(dict.fromkeys(node for _, _, a, b in raw for node in (a, b)))
        driven = {
            (part.name, element.name)
            for part in sheet.parts.values()
            for element in part.elements()
            if element.law in (Law.EMF, Law.LIMITED) and element.volts > 0.0 and not part.kind.posts
        }
        # What is driven by a source of its own, as by a pull-up, stands as if it hung from battery plus.
        potential = self._potential([(sheet.plus, a) if (part, name) in driven else (a, b) for part, name, a, b in raw])
        self.segments = tuple(
            Segment(part, name, a, b) if self._above(potential, a, b) else Segment(part, name, b, a) for part, name, a, b in raw
        )

    def _node(self, part: str, pin: str) -> str:
        return self.sheet.node_of(self.sheet.parts[part], pin)

    def _potential(self, edges: list[tuple[str, str]]) -> dict[str, float]:
        index = {node: i for i, node in enumerate(self.nodes)}
        laplacian = np.eye(len(index)) * 1e-6
        for a, b in edges:
            i, j = index[a], index[b]
            laplacian[[i, j, i, j], [i, j, j, i]] += (1.0, 1.0, -1.0, -1.0)
        rhs = np.zeros(len(index))
        for node, volts in ((self.sheet.plus, 1.0), (self.sheet.minus, 0.0)):
            laplacian[index[node]] = 0.0
            laplacian[index[node], index[node]] = 1.0
            rhs[index[node]] = volts
        return dict(zip(self.nodes, np.round(np.linalg.solve(laplacian, rhs), 9).tolist(), strict=True))

    def _above(self, potential: dict[str, float], a: str, b: str) -> bool:
        if self.sheet.minus in (a, b):  # nothing hangs below battery minus, even where no current tells which way is down
            return b == self.sheet.minus
        return (-potential[a], self.nodes.index(a)) < (-potential[b], self.nodes.index(b))

    @cached_property
    def below(self) -> dict[str, list[Segment]]:
        """Segments by upper node."""
        hanging: dict[str, list[Segment]] = {node: [] for node in self.nodes}
        for segment in self.segments:
            hanging[segment.top].append(segment)
        return hanging

    @cached_property
    def rank(self) -> dict[str, int]:
        """Longest way from the top, in segments (sources left out); battery minus below everything."""
        rank = dict.fromkeys(self.nodes, 0)
        drawn = [s for s in self.segments if not self.is_source(s)]
        for _ in self.nodes:  # relaxation; the segments form no cycle, so this many rounds suffice
            moved = False
            for s in drawn:
                if rank[s.bottom] < rank[s.top] + 1:
                    rank[s.bottom] = rank[s.top] + 1
                    moved = True
            if not moved:
                break
        rank[self.sheet.minus] = max(rank.values())
        return rank

    @cached_property
    def depth(self) -> dict[str, int]:
        """Longest way down from each node, in segments."""
        depth = dict.fromkeys(self.nodes, 0)
        for node in sorted(self.nodes, key=lambda n: -self.rank[n]):
            depth[node] = max((depth[s.bottom] + 1 for s in self.below[node] if not self.is_source(s)), default=0)
        return depth

    def is_source(self, segment: Segment) -> bool:
        """Whether the segment is a battery's: it stands beside the paths that it feeds."""
        return segment.element == "" and bool(self.sheet.parts[segment.part].kind.posts)


def draw(sheet: Sheet) -> Drawing:
    """Geometry of a sheet's path diagram."""
    tree = Tree(sheet)
    column: dict[Segment, int] = {}
    used = 0
    for segment in tree.segments:
        if tree.is_source(segment):
            column[segment] = used
            used += 1
    seen: set[str] = {sheet.minus}

    def descend(node: str, here: int) -> None:
        nonlocal used
        first = True
        ways = [s for s in tree.below[node] if s not in column]
        for segment in sorted(ways, key=lambda s: (-tree.depth[s.bottom], tree.segments.index(s))):
            if not first:
                used += 1
            at = here if first else used - 1
            first = False
            column[segment] = at
            if segment.bottom not in seen:
                seen.add(segment.bottom)
                descend(segment.bottom, at)

    for root in (sheet.plus, *sorted(tree.nodes, key=lambda n: (tree.rank[n], tree.nodes.index(n)))):
        if (root == sheet.plus or root not in seen) and any(s not in column for s in tree.below[root]):
            seen.add(root)
            used += 1
            descend(root, used - 1)
    for segment in tree.segments:  # what no way down reaches stands in a column of its own
        if segment not in column:
            column[segment] = used
            used += 1
    column = _packed(tree, column)
    bars = _bars(tree, column)
    row = {bar.node: bar.row for bar in bars}
    drawn = []
    for segment in tree.segments:
        top, bottom = row[segment.top], row[segment.bottom]
        drawn.append(DrawnSegment(segment, column[segment], top, bottom, top + 0.5 if bottom - top < 1.6 else (top + bottom) / 2))
    return Drawing(max(column.values()) + 1, max(row.values()), tuple(bars), tuple(drawn))


def _packed(tree: Tree, column: dict[Segment, int]) -> dict[Segment, int]:
    """The same columns pushed together: one moves left into the first whose stretches stand clear of its own, above or below."""
    spans: dict[int, tuple[int, int]] = {}
    for segment, at in column.items():
        top, bottom = tree.rank[segment.top], tree.rank[segment.bottom]
        low, high = spans.get(at, (top, bottom))
        spans[at] = min(low, top), max(high, bottom)
    slots: list[list[tuple[int, int]]] = []
    home: dict[int, int] = {}
    for at, (top, bottom) in sorted(spans.items()):
        clear = (n for n, taken in enumerate(slots) if all(bottom < t or top > b for t, b in taken))
        home[at] = next(clear, len(slots))
        if home[at] == len(slots):
            slots.append([])
        slots[home[at]].append((top, bottom))
    return {segment: home[at] for segment, at in column.items()}


def _bars(tree: Tree, column: dict[Segment, int]) -> list[Bar]:
    """Nodes as horizontal bars; bars of one rank that would touch are set apart."""
    bars: list[Bar] = []
    taken: dict[int, list[tuple[int, int, int]]] = {}
    for node in sorted(tree.nodes, key=lambda n: (tree.rank[n], tree.nodes.index(n))):
        columns = tuple(sorted({column[s] for s in tree.segments if node in (s.top, s.bottom)}))
        left, right, rank = columns[0], columns[-1], tree.rank[node]
        lanes = taken.setdefault(rank, [])
        lane = 0
        while any(ln == lane and left <= r and right >= lf for lf, r, ln in lanes):
            lane += 1
        lanes.append((left, right, lane))
        bars.append(Bar(node, left, right, rank + 0.22 * lane, columns))
    return bars


def load_paths(sheet: Sheet) -> tuple[Path, ...]:
    """One way of current through each load, in the sheet's order, then ways through the parts that none of those passes, such as a sensor's
    or a module's; never none."""
    tree = Tree(sheet)
    ways = _Ways(tree)
    loads = [segment for segment in tree.segments if sheet.parts[segment.part].kind.load == segment.element]
    paths = [ways.through(segment) for segment in loads]
    passed = {segment.part for path in paths for segment in path.segments}
    while left := [s for s in tree.segments if s.part not in passed and not tree.is_source(s)]:
        path = max((ways.of(segment) for segment in left), key=lambda way: sum(s in left for s in way.segments))
        fresh = [s for s in path.segments if s in left]
        # It is called by what it is there for, rather than by a wire that leads there.
        own = next((s for s in fresh if sheet.parts[s.part].kind.symbol not in _FUSED_LINE), fresh[0])
        passed.update(s.part for s in fresh)
        paths.append(Path(_name_of(own), path.nodes, path.segments))
    # A sheet that feeds nothing still has its battery to look at.
    return tuple(paths) or (Path("battery", (sheet.plus, sheet.minus), ()),)


_LINE = ("wire", "contact", "splice")
_FUSED_LINE = (*_LINE, "fuse", "ground")


def _name_of(segment: Segment) -> str:
    return segment.part + (f".{segment.element}" if segment.element else "")


class _Ways:
    """The ways up and down from a segment: up by the longest from the top, down by the deepest. A line that neither hangs from battery plus
    nor leads to minus, such as a bus line's, is followed to both of its ends."""

    def __init__(self, tree: Tree):
        self.tree = tree
        self.order = {segment: i for i, segment in enumerate(tree.segments)}
        self.above: dict[str, list[Segment]] = {node: [] for node in tree.nodes}
        for segment in tree.segments:
            if not tree.is_source(segment):
                self.above[segment.bottom].append(segment)

    def through(self, segment: Segment) -> Path:
        """The way through a segment, called by it."""
        tree, order, sheet = self.tree, self.order, self.tree.sheet
        up, node = [], segment.top
        while node != sheet.plus and self.above[node]:
            up.append(max(self.above[node], key=lambda s: (tree.rank[s.top], -order[s])))
            node = up[-1].top
        down, node = [], segment.bottom
        while node != sheet.minus and (below := [s for s in tree.below[node] if not tree.is_source(s)]):
            down.append(max(below, key=lambda s: (tree.depth[s.bottom], -order[s])))
            node = down[-1].bottom
        way = (*reversed(up), segment, *down)
        return Path(_name_of(segment), (way[0].top, *(s.bottom for s in way)), way)

    def of(self, segment: Segment) -> Path:
        """The way through a segment, or the line that it belongs to."""
        path, sheet = self.through(segment), self.tree.sheet
        if not self._in_line(segment) or {sheet.plus, sheet.minus} & {path.nodes[0], path.nodes[-1]}:
            return path
        one, _ = self._farthest(segment.top)
        _, line = self._farthest(one)
        nodes = [one]
        for own in line:
            nodes.append(own.bottom if nodes[-1] == own.top else own.top)
        return Path(_name_of(segment), tuple(nodes), line)

    def _in_line(self, segment: Segment) -> bool:
        return self.tree.sheet.parts[segment.part].kind.symbol in _LINE

    def _farthest(self, start: str) -> tuple[str, tuple[Segment, ...]]:
        """The end of the line that is farthest from a node, and the way there."""
        reached: dict[str, tuple[Segment, ...]] = {start: ()}
        queue = [start]
        for node in queue:
            for segment in self.tree.segments:
                if node in (segment.top, segment.bottom) and self._in_line(segment):
                    far = segment.bottom if node == segment.top else segment.top
                    if far not in reached:
                        reached[far] = (*reached[node], segment)
                        queue.append(far)
        return max(reached.items(), key=lambda found: len(found[1]))
