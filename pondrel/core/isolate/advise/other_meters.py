"""Tests with a low-impedance voltmeter or a test lamp, for suspects that a plain voltmeter leaves together: stray volts vanish under the
one, and a bad joint that carries no current gives way under the other. None is offered where a mark forbids it."""

from __future__ import annotations

from collections.abc import Iterator

from ...base.ties import in_order
from ...evidence.asked import Measurement
from ...evidence.safety import is_allowed
from ..believe.belief import Belief
from .advice import Advice, described_with, gains, skipped
from .live import fed_best

__all__ = ["other_meters"]

_WORTH_BITS = 0.1  # the least that such a test tells
_MOST_NODES = 3  # places looked at
_MOST_LAMPS = 1  # of those, with a lamp: that is a circuit of its own
_FED_SHARE = 0.5  # of the supply that a place has in some state when all is sound


def other_meters(belief: Belief, suspects: tuple[str, ...], most: int = 1) -> tuple[Advice, ...]:
    """The best such tests that part some suspects, by what they tell a minute."""
    sheet, missing = belief.workup.sheet, skipped(belief)
    taken = {reading.test for reading in belief.readings}
    tests = tuple(
        test
        for test in _tests(belief, suspects)
        if test not in taken and not {test.red, test.black, test.instrument, test.state} & missing and is_allowed(sheet, test)
    )
    if not tests:
        return ()
    told = described_with(belief, tests, gains(belief, tests))
    return tuple(in_order({a: a.gain_bits / a.minutes for a in told if a.gain_bits >= _WORTH_BITS}))[:most]


def _tests(belief: Belief, suspects: tuple[str, ...]) -> Iterator[Measurement]:
    """Either meter at the places of the suspects that are fed when all is sound, each in the state that feeds it best."""
    workup, sheet = belief.workup, belief.workup.sheet
    nodes = dict.fromkeys(node for name in suspects for node in sheet.parts[name].pins.values())
    reached = [node for node in nodes if node in sheet.places and node not in (sheet.plus, sheet.minus)]
    found = []
    for node in reached:
        state, volts = fed_best(workup, node)
        if volts > _FED_SHARE * sheet.supply_volts:
            found.append((node, state))
    for place, (node, state) in enumerate(reversed(found[-_MOST_NODES:])):  # the farthest from the fuse first
        for meter in ("lowz", "lamp") if place < _MOST_LAMPS else ("lowz",):
            yield Measurement(state, meter, node, sheet.minus)
