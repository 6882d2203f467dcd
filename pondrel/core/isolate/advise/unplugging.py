"""Tests with something unplugged, for suspects that no test of the circuit as it stands tells apart: the plug between them parted, the load
off, or a part measured by itself. Each costs its minutes of unplugging, and none is offered where a mark forbids it."""

from __future__ import annotations

import math
from collections.abc import Iterator

import numpy as np

from ...base.ties import in_order
from ...circuit.fault import mode_of
from ...circuit.part import Effect, Span
from ...circuit.sheet import Part, Sheet
from ...circuit.unplug import alone, joins_two_ends, plug_of
from ...circuit.unpluggable import comes_off
from ...evidence.asked import Measurement
from ...evidence.safety import is_allowed
from ..believe.belief import Belief
from .advice import Advice, described_with, gains, skipped
from .live import fed_best

__all__ = ["by_itself", "unplugging"]

_MOST_NAMES = 4  # things whose unplugging is weighed: each is a circuit of its own
_MOST_LIVE = 2  # of those, with which volts are taken too
_WORTH_BITS = 0.05  # the least that such a test tells


def unplugging(belief: Belief, suspects: tuple[str, ...], most: int = 2) -> tuple[Advice, ...]:
    """The best tests with something unplugged that part some suspects, by what they tell a minute."""
    sheet, missing = belief.workup.sheet, skipped(belief)
    taken = {reading.test for reading in belief.readings}
    tests = tuple(
        test
        for test in dict.fromkeys(_tests(belief, suspects))
        if test not in taken and not {test.red, test.black, *test.without} & missing and is_allowed(sheet, test)
    )
    if not tests:
        return ()
    told = described_with(belief, tests, gains(belief, tests))
    return tuple(in_order({a: a.gain_bits / a.minutes for a in told if a.gain_bits >= _WORTH_BITS}))[:most]


def by_itself(belief: Belief, part: str, mode: str, chance: float, chance_of_load: float) -> tuple[Advice, ...]:
    """A winding that seems to have lost turns, measured by itself: with its plug off, a load beside it that nobody drew is out of the way.
    What that tells is which of the two it is. Nothing where it cannot be measured so, or was."""
    sheet = belief.workup.sheet
    entry, failing = sheet.parts[part], mode_of(sheet, part, mode)
    touched = {name for name, effect in failing.effects if effect is Effect.VALUE}
    element = next((e for e in entry.elements() if e.name in touched), None)
    if element is None or failing.severity is None or failing.severity.span is not Span.TURNS:
        return ()
    if not {element.a, element.b} <= set(entry.pins):
        return ()
    test = Measurement(next(iter(sheet.resting.values())), "ohms", entry.pins[element.a], entry.pins[element.b], (alone(part),))
    reached = {test.red, test.black} <= set(sheet.places)
    if not reached or test in {r.test for r in belief.readings} or skipped(belief) & {test.red, test.black, "ohms", part}:
        return ()
    if not is_allowed(sheet, test):
        return ()
    both = chance + chance_of_load
    bits = -sum(p * math.log2(p / both) for p in (chance, chance_of_load))
    return described_with(belief, (test,), np.array([bits]))


def _tests(belief: Belief, suspects: tuple[str, ...]) -> Iterator[Measurement]:
    sheet = belief.workup.sheet
    parts = [sheet.parts[name] for name in suspects]
    nodes = {node for part in parts for node in part.pins.values()}
    reached = [node for node in sheet.places if node in nodes and node not in (sheet.plus, sheet.minus)]
    states = [state for state in sheet.states if sheet.resting[state] == state]
    for part in parts:
        own = [node for node in part.pins.values() if node in sheet.places]
        if not joins_two_ends(part) and len(part.pins) == 2 and own and not part.kind.posts:
            red, black = part.pins.values()
            yield Measurement(states[0], "ohms", red, black, (alone(part.name),))
    for number, name in enumerate(_between(sheet, suspects, nodes)):
        for node in reached:
            for state in states[:2]:
                yield Measurement(state, "ohms", node, sheet.minus, (name,))
            if number < _MOST_LIVE:
                yield Measurement(fed_best(belief.workup, node)[0], "volts", node, sheet.minus, (name,))


def _between(sheet: Sheet, suspects: tuple[str, ...], nodes: set[str]) -> list[str]:
    """What can be unplugged among the suspects or right beside them: plugs first, then what hangs on a plug of its own."""
    beside = [
        part for part in sheet.parts.values() if part.name in suspects or nodes & (set(part.pins.values()) - {sheet.plus, sheet.minus})
    ]
    found = [plug_of(sheet, part.name) for part in sorted(beside, key=lambda part: _ease(sheet, part)) if comes_off(sheet, part)]
    return list(dict.fromkeys(name for name in found if name))[:_MOST_NAMES]


def _ease(sheet: Sheet, part: Part) -> tuple[bool, bool]:
    return plug_of(sheet, part.name) == part.name, not part.kind.holder
