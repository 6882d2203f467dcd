"""How a bus runs on its sheet: the trunk from end to end, who hangs on it where, and which parts lie between one stop and the next."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from itertools import pairwise

from ..circuit.part import Law
from ..circuit.sheet import Sheet

__all__ = ["BusPlan", "Stop", "Stretch", "bus_plan"]

# By kind of part: its pin on the line that is followed, and the one on the other line, empty where there is one line only.
_PAIR, _SINGLE = ("high", "low"), ("line", "")
_MODULES: Mapping[str, tuple[str, str]] = {"bus_transceiver": _PAIR, "low_speed_transceiver": _PAIR, "lin_node": _SINGLE}
_LISTENERS: Mapping[str, tuple[str, str]] = {"bus_listener": _PAIR, "low_speed_listener": _PAIR, "lin_listener": _SINGLE}
_ENDS: Mapping[str, tuple[str, str]] = {"bus_terminator": _PAIR}
_ON_A_BUS = {**_MODULES, **_LISTENERS, **_ENDS}
_MOST_OHMS = 10.0  # of what a line runs through: wires, plugs, joints
_FEWEST = 2


@dataclass(frozen=True, slots=True)
class Stretch:
    """The parts of both lines between two stops, and what lies there besides wires: a plug, a joint; empty for nothing."""

    parts: tuple[str, ...]
    says: str


@dataclass(frozen=True, slots=True)
class Stop:
    """A place along the trunk: the modules, end resistors and listeners on it by part (listeners on its stubs, too), and its stubs with
    the modules at their ends."""

    modules: tuple[str, ...]
    ends: tuple[str, ...]
    listeners: tuple[str, ...]
    stubs: tuple[tuple[Stretch, tuple[str, ...]], ...]


@dataclass(frozen=True, slots=True)
class BusPlan:
    """The trunk: stops in order, and the stretches between them, one fewer."""

    stops: tuple[Stop, ...]
    stretches: tuple[Stretch, ...]

    @property
    def modules(self) -> tuple[str, ...]:
        """All modules by part, in the order of the trunk."""
        return tuple(name for stop in self.stops for name in (*stop.modules, *(own for _, far in stop.stubs for own in far)))


Edges = dict[str, dict[str, str]]


def bus_plan(sheet: Sheet) -> BusPlan | None:
    """How the bus of a sheet runs; None where fewer than two modules are joined to one."""
    at: dict[str, list[str]] = {}
    other_line: dict[str, str] = {}
    for name, part in sheet.parts.items():
        pins = _ON_A_BUS.get(part.kind.name)
        if pins:
            node = part.pins[pins[0]]
            at.setdefault(node, []).append(name)
            if pins[1]:
                other_line[node] = part.pins[pins[1]]
    start = next((node for node, names in at.items() if any(sheet.parts[name].kind.name in _MODULES for name in names)), "")
    if not start:
        return None
    edges = _edges(sheet)
    trunk = _trunk(sheet, edges, at, start)
    stops, stretches, parts = [], [], []
    reached = set(trunk)
    last = ""
    for place, node in enumerate(trunk):
        if place:
            parts.append(edges[trunk[place - 1]][node])
        stubs = tuple(_stubs(sheet, edges, at, other_line, node, reached))
        own = [*at.get(node, []), *(name for _, names in stubs for name in names if sheet.parts[name].kind.name in _LISTENERS)]
        if not own and not stubs:
            continue
        if last:
            stretches.append(_stretch(sheet, [*parts, *_other_parts(edges, other_line, last, node)]))
        modules, ends, listeners = (
            tuple(name for name in own if sheet.parts[name].kind.name in kinds) for kinds in (_MODULES, _ENDS, _LISTENERS)
        )
        far = ((stretch, tuple(name for name in names if sheet.parts[name].kind.name in _MODULES)) for stretch, names in stubs)
        stops.append(Stop(modules, ends, listeners, tuple((stretch, names) for stretch, names in far if names)))
        last, parts = node, []
    plan = BusPlan(tuple(stops), tuple(stretches))
    return plan if len(plan.modules) >= _FEWEST else None


def _edges(sheet: Sheet) -> Edges:
    """Which nodes are joined by what a line runs through, and by which part."""
    edges: Edges = {}
    for name, part in sheet.parts.items():
        if part.kind.name in _ON_A_BUS:
            continue
        for element in part.elements():
            a, b = part.pins.get(element.a), part.pins.get(element.b)
            if a and b and element.law is Law.OHMIC and element.ohms < _MOST_OHMS:
                edges.setdefault(a, {})[b] = name
                edges.setdefault(b, {})[a] = name
    return edges


def _ways(edges: Edges, start: str, closed: set[str]) -> dict[str, str]:
    """Each node that can be reached, with the one before it on the shortest way."""
    before = {start: ""}
    queue = [start]
    for node in queue:
        for other in edges.get(node, {}):
            if other not in before and other not in closed:
                before[other] = node
                queue.append(other)
    return before


def _way(before: Mapping[str, str], node: str) -> list[str]:
    found = [node]
    while before[found[-1]]:
        found.append(before[found[-1]])
    return found


def _trunk(sheet: Sheet, edges: Edges, at: Mapping[str, list[str]], start: str) -> list[str]:
    """The way between the two ends that are farthest apart; between the two stops that are, where fewer than two ends are drawn."""
    reached = _ways(edges, start, set())
    stops = [node for node in at if node in reached]
    ends = [node for node in stops if any(sheet.parts[name].kind.name in _ENDS for name in at[node])]
    between = ends if len(ends) >= _FEWEST else stops
    ways = [_way(_ways(edges, first, set()), last) for first in between for last in between if first != last]
    longest = max(ways, key=len, default=[start])
    # Read from where the sheet begins, as far as the first module lies on it.
    return longest[::-1] if start in longest[(len(longest) + 1) // 2 :] else longest


def _stubs(
    sheet: Sheet, edges: Edges, at: Mapping[str, list[str]], other_line: Mapping[str, str], node: str, reached: set[str]
) -> list[tuple[Stretch, tuple[str, ...]]]:
    """What hangs on a node beside the trunk, one stub each way."""
    found = []
    for first, part in edges.get(node, {}).items():
        if first in reached:
            continue
        before = _ways(edges, first, reached)
        reached |= set(before)
        far = [own for own in before if own in at]
        names = tuple(name for own in far for name in at[own] if sheet.parts[name].kind.name not in _ENDS)
        if not names:
            continue
        parts = [part, *(edges[one][before[one]] for one in before if before[one])]
        others = [name for own in far for name in _other_parts(edges, other_line, node, own)]
        found.append((_stretch(sheet, [*parts, *others]), names))
    return found


def _other_parts(edges: Edges, other_line: Mapping[str, str], first: str, last: str) -> list[str]:
    """The parts of the other line between two stops; none where it is not known where that line is there."""
    a, b = other_line.get(first), other_line.get(last)
    if a is None or b is None or a == b:
        return []
    before = _ways(edges, a, set())
    if b not in before:
        return []
    way = _way(before, b)
    return [edges[one][two] for one, two in pairwise(way)]


def _stretch(sheet: Sheet, parts: list[str]) -> Stretch:
    own = tuple(dict.fromkeys(parts))
    named = [name for name in own if sheet.parts[name].kind.symbol != "wire"]
    return Stretch(own, ", ".join(sheet.parts[name].called for name in named))
