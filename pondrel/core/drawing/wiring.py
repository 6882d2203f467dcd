"""What a diagram joins: nodes and boxes as vertices, stretches of parts as edges that all point down.

A part of two ends is a stretch. One with more, whose inside nobody can reach (a sensor, a module, a starter), is a box that its pins
hang on. Which way is down is told by where current would go if every contact were closed: by the potential in a network of equal
resistances from battery plus to battery minus, each a little different from the next so that no two nodes stand level by chance.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from ..circuit.sheet import Part, Sheet

__all__ = ["Stretch", "Wiring"]

BOXED = frozenset({"module", "driver", "regulator", "sensor", "alternator", "diode", "motor", "splice"})  # symbols
LEAST_BOXED = 3  # pins
_LEAK = 1e-7  # towards minus, for what hangs in the air: it hangs down
_LIFT = 1e-6  # towards plus, for what neither post feeds by a wire
_SKEW = 0.9  # of neighbouring resistances; any number without a pattern does


@dataclass(frozen=True, slots=True)
class Stretch:
    """An edge of a diagram from its upper vertex to its lower: an ``element`` of a part, or where ``pin`` is given the lead to that pin of
    a box."""

    part: str
    element: str
    top: str
    bottom: str
    pin: str = ""


class Wiring:
    """A sheet as a graph. Vertices are nodes by their names and boxes by ``box:`` and the part's name."""

    def __init__(self, sheet: Sheet):
        self.sheet = sheet
        self.boxes = {_box(part): part for part in sheet.parts.values() if _is_boxed(part)}
        # What feeds the sheet stands beside what it feeds.
        source = next(part for part in sheet.parts.values() if part.kind.posts)
        self.source = Stretch(source.name, "", sheet.plus, sheet.minus)
        loose = [stretch for part in sheet.parts.values() if part is not source for stretch in self._stretches_of(part)]
        named = dict.fromkeys(v for s in (self.source, *loose) for v in (s.top, s.bottom))
        self.vertices = tuple(named)
        self._at = {vertex: i for i, vertex in enumerate(self.vertices)}
        height = self._height(loose)
        self.stretches = tuple(s if self._above(height, s.top, s.bottom) else _turned(s) for s in loose)

    def _stretches_of(self, part: Part) -> Iterable[Stretch]:
        if _is_boxed(part):
            for pin, node in part.pins.items():
                yield Stretch(part.name, "", node, _box(part), pin)
            return
        drawn = set()
        for element in part.elements():
            if not element.drawn or not np.isfinite(element.ohms):
                continue
            a, b = (self.sheet.node_of(part, pin) for pin in (element.a, element.b))
            if a != b and frozenset((a, b)) not in drawn:  # two elements side by side in one part are drawn once
                drawn.add(frozenset((a, b)))
                yield Stretch(part.name, element.name, a, b)

    def _height(self, loose: list[Stretch]) -> np.ndarray:
        """The potential of every vertex, 1 at battery plus and 0 at battery minus."""
        at, sheet, size = self._at, self.sheet, len(self._at)
        matrix = np.eye(size) * _LEAK
        right = np.zeros(size)
        for n, s in enumerate(loose):
            siemens = 1.0 + _SKEW * ((n * 0.618034) % 1.0)
            i, j = at[s.top], at[s.bottom]
            matrix[[i, j, i, j], [i, j, j, i]] += (siemens, siemens, -siemens, -siemens)
        for vertex in self._lifted(loose):
            matrix[at[vertex], at[vertex]] += _LIFT
            right[at[vertex]] += _LIFT
        for node, height in ((sheet.plus, 1.0), (sheet.minus, 0.0)):
            matrix[at[node]] = 0.0
            matrix[at[node], at[node]] = 1.0
            right[at[node]] = height
        solved: np.ndarray = np.linalg.solve(matrix, right)
        return solved

    def _lifted(self, loose: list[Stretch]) -> Iterable[str]:
        """Vertices that battery plus does not feed, other than minus: a bus, or a signal with a pull-up in its module."""
        fed, todo = {self.sheet.plus}, [self.sheet.plus]
        beside: dict[str, list[str]] = {}
        for s in loose:
            beside.setdefault(s.top, []).append(s.bottom)
            beside.setdefault(s.bottom, []).append(s.top)
        while todo:
            vertex = todo.pop()
            for other in beside.get(vertex, ()):
                if other not in fed and other != self.sheet.minus:
                    fed.add(other)
                    todo.append(other)
        return (v for v in self.vertices if v not in fed and v != self.sheet.minus)

    def _above(self, height: np.ndarray, one: str, other: str) -> bool:
        if self.sheet.minus in (one, other):  # nothing hangs below battery minus
            return other == self.sheet.minus
        if self.sheet.plus in (one, other):
            return one == self.sheet.plus
        i, j = self._at[one], self._at[other]
        return bool((-height[i], i) < (-height[j], j))

    @cached_property
    def below(self) -> dict[str, list[Stretch]]:
        """Stretches by their upper vertex."""
        hanging: dict[str, list[Stretch]] = {vertex: [] for vertex in self.vertices}
        for stretch in self.stretches:
            hanging[stretch.top].append(stretch)
        return hanging

    @cached_property
    def above(self) -> dict[str, list[Stretch]]:
        """Stretches by their lower vertex."""
        holding: dict[str, list[Stretch]] = {vertex: [] for vertex in self.vertices}
        for stretch in self.stretches:
            holding[stretch.bottom].append(stretch)
        return holding

    @cached_property
    def rank(self) -> dict[str, int]:
        """The row of every vertex: the longest way from the top, battery minus below everything; what nothing feeds from above stands no
        higher than what it leads to asks for."""
        order = self._downwards()
        rank = dict.fromkeys(self.vertices, 0)
        for vertex in order:
            for s in self.below[vertex]:
                rank[s.bottom] = max(rank[s.bottom], rank[vertex] + 1)
        rank[self.sheet.minus] = max(max(rank.values()), 1)
        for vertex in reversed(order):
            if vertex != self.sheet.plus and not self.above[vertex] and self.below[vertex]:
                rank[vertex] = min(rank[s.bottom] for s in self.below[vertex]) - 1
        return rank

    def _downwards(self) -> list[str]:
        """Vertices so that every stretch leads from an earlier to a later one."""
        left = {vertex: len(self.above[vertex]) for vertex in self.vertices}
        order = [vertex for vertex in self.vertices if not left[vertex]]
        for vertex in order:
            for s in self.below[vertex]:
                left[s.bottom] -= 1
                if not left[s.bottom]:
                    order.append(s.bottom)
        return order


def _is_boxed(part: Part) -> bool:
    return part.kind.symbol in BOXED and len(part.pins) >= LEAST_BOXED


def _box(part: Part) -> str:
    return f"box:{part.name}"


def _turned(stretch: Stretch) -> Stretch:
    return Stretch(stretch.part, stretch.element, stretch.bottom, stretch.top, stretch.pin)
