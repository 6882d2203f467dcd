"""The measurements that a sheet's places allow."""

from __future__ import annotations

from itertools import combinations

from ...circuit.paths import Segment, Tree
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


def _conductors(sheet: Sheet) -> list[tuple[str, str]]:
    """Of every stretch without a branch the two ends of a wire, or else of a joint, that a hand with a clamp can get at, the easiest one:
    upper end first."""
    tree = Tree(sheet)
    ends: dict[str, list[Segment]] = {}
    for segment in tree.segments:
        for node in (segment.top, segment.bottom):
            ends.setdefault(node, []).append(segment)
    stretch = {segment: number for number, segment in enumerate(tree.segments)}
    for joined in ends.values():
        if len(joined) == 2 and stretch[joined[0]] != stretch[joined[1]]:
            kept, gone = sorted(stretch[segment] for segment in joined)
            stretch = {segment: kept if number == gone else number for segment, number in stretch.items()}
    nodes = set(sheet.nodes())
    best: dict[int, tuple[tuple[bool, bool, float], Segment]] = {}
    for segment in tree.segments:
        kind = sheet.parts[segment.part].kind
        places = [sheet.places[node] for node in (segment.top, segment.bottom) if node in sheet.places]
        between = [other for other in ends[segment.top] if {other.top, other.bottom} == {segment.top, segment.bottom}]
        named = {segment.top, segment.bottom} <= nodes
        if (kind.symbol == "wire" or kind.joint or kind.holder) and not kind.grounds and named and places and len(between) == 1:
            ease = (kind.symbol != "wire", all(place.behind for place in places), min(place.minutes for place in places))
            known = best.get(stretch[segment])
            if known is None or ease < known[0]:
                best[stretch[segment]] = ease, segment
    return [(segment.top, segment.bottom) for _, segment in best.values()]


def _alternating(sheet: Sheet, state: str) -> list[tuple[str, str]]:
    """Pairs of places at the pins of one part that gives alternating volts in a state."""
    found: dict[tuple[str, str], None] = {}
    for part in sheet.parts.values():
        if any(element.alternates for element in part.elements(sheet.position(state, part.name))):
            found.update(dict.fromkeys(combinations([node for node in part.pins.values() if node in sheet.places], 2)))
    return list(found)


def available_tests(sheet: Sheet) -> tuple[Measurement, ...]:
    """The tests worth weighing: every place against either battery post, neighbouring places against each other (volts in every
    state, ohms with the battery off in those that differ then), amps across each fuse holder within reach, and a clamp around each
    stretch without a branch. In states that nobody can hold only a scope tells.

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
    conductors = _conductors(sheet)
    tests = []
    for state in sheet.states:
        if state in sheet.passing:  # over before a meter has settled
            tests += [Measurement(state, "scope", *pair) for pair in pairs]
            continue
        tests += [Measurement(state, "volts", *pair) for pair in pairs]
        tests += [Measurement(state, "ac", *pair) for pair in _alternating(sheet, state)]
        if sheet.resting[state] == state:  # with the battery off many states are one and the same
            tests += [Measurement(state, "ohms", *pair) for pair in pairs if pair[0] != sheet.plus or frozenset(pair) in neighbours]
        tests += [Measurement(state, "amps", *pair) for pair in holders]
        tests += [Measurement(state, "clamp", *pair) for pair in conductors]
    return tuple(test for test in tests if is_allowed(sheet, test))
