"""The measurements that a sheet's places allow."""

from __future__ import annotations

from itertools import combinations

from ...circuit.layout import Tree
from ...circuit.sheet import Sheet
from ...evidence.asked import Measurement
from ...evidence.safety import is_allowed

__all__ = ["available_tests"]


def _neighbours(sheet: Sheet) -> frozenset[frozenset[str]]:
    """Pairs of places with no other place on the way between them, battery posts aside."""
    posts = {sheet.plus, sheet.minus}
    beside: dict[str, set[str]] = {}
    for segment in Tree(sheet).segments:
        beside.setdefault(segment.top, set()).add(segment.bottom)
        beside.setdefault(segment.bottom, set()).add(segment.top)
    found = set()
    for place in sheet.places:
        seen, todo = {place}, [place]
        while todo:
            for node in beside.get(todo.pop(), set()) - seen:
                seen.add(node)
                if node in sheet.places:
                    found.add(frozenset((place, node)))
                elif node not in posts:
                    todo.append(node)
    return frozenset(found)


def available_tests(sheet: Sheet) -> tuple[Measurement, ...]:
    """The tests worth weighing: every place against either battery post, neighbouring places against each other (volts in every
    state, ohms with the battery off in those that differ then), and amps across each fuse holder within reach.

    Lead order follows the sheet: battery minus takes black, battery plus or the place named first takes red.
    """
    neighbours = _neighbours(sheet)
    pairs = []
    for first, second in combinations(sheet.places, 2):
        red, black = (second, first) if first == sheet.minus or second == sheet.plus else (first, second)
        if sheet.minus == black or sheet.plus == red or frozenset((red, black)) in neighbours:
            pairs.append((red, black))
    holders = [
        (part.pins["a"], part.pins["b"])
        for part in sheet.parts.values()
        if part.kind.holder and {part.pins["a"], part.pins["b"]} <= set(sheet.places)
    ]
    tests = []
    for state in sheet.states:
        tests += [Measurement(state, "volts", *pair) for pair in pairs]
        if sheet.resting[state] == state:  # with the battery off many states are one and the same
            tests += [Measurement(state, "ohms", *pair) for pair in pairs if pair[0] != sheet.plus or frozenset(pair) in neighbours]
        tests += [Measurement(state, "amps", *pair) for pair in holders]
    return tuple(test for test in tests if is_allowed(sheet, test))
