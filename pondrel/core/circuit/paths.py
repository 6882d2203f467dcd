"""The ways of current through a circuit, worked out from the sheet alone: which node is above which, and one way through every load.

Which way is down is told by the way current falls when all contacts are closed: a harmonic potential over segments of equal resistance.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from .part import Law
from .sheet import Sheet

__all__ = ["Path", "Segment", "Tree", "load_paths"]


@dataclass(frozen=True, slots=True)
class Segment:
    """A two-terminal stretch of a part, from its upper to its lower node. ``element`` as in the kind's elements."""

    part: str
    element: str
    top: str
    bottom: str


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
        if not any(s in left for s in path.segments):  # what lies beside a line's own wires is on no way along that line
            path = ways.through(left[0])
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
