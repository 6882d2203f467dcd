"""Orders of attack: where a person starts, and what comes next. Best value is Pondrel's own; the others are schools of the trade.

Every order proposes from the same tests on offer and stops by the same rule, so that their minutes can be compared.
"""

from __future__ import annotations

import random
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from ...base.ties import ranks
from ...circuit.kinds import FAMILIES
from ...circuit.paths import Path
from ...evidence.asked import Measurement, Question
from ...evidence.registry import word_sort
from ..believe.belief import Belief
from .advice import Advice, Outlook, describe, gains, question_gain, worth_looking, worth_offering
from .plan import World

__all__ = ["ORDERS", "Alternative", "alternatives", "led_by", "next_by_order"]

_LONGEST = 16  # tests of an order that are followed

# The names of the orders, with what they mean.
ORDERS: Mapping[str, str] = {
    "best": "best value: what tells most per minute",
    "fuse": "from the fuse: along the current to ground",
    "part": "from the part outwards",
    "half": "half-split: between what is alive and what is dead",
    "module": "module first: codes and the module's own pins",
    "random": "anywhere: what comes first to hand",
}


def next_by_order(belief: Belief, order: str, advised: Sequence[Advice], rng: random.Random | None = None) -> Measurement | Question | None:
    """What an order would test next; the best value's advice where its own way is at an end. None: nothing tells anything more."""
    best = advised[0].test if advised else None
    if best is None or order == "best":
        return best
    if order == "random":
        everything: list[Measurement | Question] = [*worth_offering(belief), *worth_looking(belief)]
        return (rng or random.Random(0)).choice(everything) if everything else None
    offered = {(t.state, t.red): t for t in worth_offering(belief) if t.instrument == "volts" and t.black == belief.workup.sheet.minus}
    for test in _WAYS[order](belief):
        if isinstance(test, Question) or offered.get((test.state, test.red)) == test:
            return test
    return best


def led_by(belief: Belief, order: str, advised: tuple[Advice, ...], certain: bool) -> tuple[Advice, ...]:
    """The advice with the test that an order would do next in front; once a part is as good as named, every order goes for its proof."""
    test = None if certain else next_by_order(belief, order, advised)
    if test is None or test == advised[0].test:
        return advised
    known = next((a for a in advised if a.test == test), None)
    if known is None:
        outlook = Outlook(belief)
        bits = question_gain(belief.workup, outlook, test) if isinstance(test, Question) else float(gains(belief, (test,), outlook)[0])
        known = describe(belief, test, bits)
    return (known, *(a for a in advised if a.test != test))[: max(len(advised), 2)]


def _paths(belief: Belief) -> list[tuple[Path, str]]:
    """The loads' paths, the most suspected first, each with the state in which its load works."""
    workup, parts = belief.workup, belief.parts()
    paths = []
    for path in workup.paths:
        part, _, element = path.load.partition(".")
        if path.load in workup.sheet.parts:
            part, element = path.load, ""
        paths.append((path, workup.working_state(part, element)))
    suspicion = [sum(parts.get(name, 0.0) for name in path.parts) for path, _ in paths]
    return [paths[i] for i in np.argsort(ranks(suspicion), kind="stable")]


def _along(belief: Belief, path: Path, state: str) -> list[Measurement]:
    sheet = belief.workup.sheet
    return [Measurement(state, "volts", node, sheet.minus) for node in path.nodes if node in sheet.places and node != sheet.minus]


def _from_fuse(belief: Belief) -> list[Measurement | Question]:
    """Every path from its top to its bottom."""
    return [test for path, state in _paths(belief) for test in _along(belief, path, state)]


def _from_part(belief: Belief) -> list[Measurement | Question]:
    """At the load first, then up to the feed and down to ground in turn."""
    ordered: list[Measurement | Question] = []
    for path, state in _paths(belief):
        tests = _along(belief, path, state)
        load = path.load.partition(".")[0] if path.load not in belief.workup.sheet.parts else path.load
        at = path.parts.index(load) + 0.5 if load in path.parts else 0.0
        rank = {node: i for i, node in enumerate(path.nodes)}
        ordered += sorted(tests, key=lambda t: (abs(rank[t.red] - at), rank[t.red]))
    return ordered


def _half_split(belief: Belief) -> list[Measurement | Question]:
    """The place with as much suspicion above as below."""
    ranked: list[tuple[float, Measurement | Question]] = []
    parts = belief.parts()
    for path, state in _paths(belief):
        weights = [parts.get(name, 0.0) for name in path.parts]
        total = sum(weights)
        for test in _along(belief, path, state):
            above = sum(weights[: path.nodes.index(test.red)])
            # The more of the suspicion lies on a path, the sooner it is split.
            ranked.append((abs(above - total / 2.0) - total, test))
    return [test for _, test in sorted(ranked, key=lambda pair: round(pair[0], 9))]


def _module_first(belief: Belief) -> list[Measurement | Question]:
    """Codes and what modules report, then their pins, then as from the part."""
    sheet = belief.workup.sheet
    told = [question for question in worth_looking(belief) if word_sort(question).told_by_module(sheet, question)]
    pins = {node for part in sheet.parts.values() if part.kind in FAMILIES["Modules, their pins and buses"] for node in part.pins.values()}
    tests = [test for test in _from_part(belief) if test.red in pins]
    return [*told, *tests, *_from_part(belief)]


_WAYS: Mapping[str, Callable[[Belief], list[Measurement | Question]]] = {
    "fuse": _from_fuse, "part": _from_part, "half": _half_split, "module": _module_first,
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Alternative:
    """An order of attack: its name and words, the test it would do next, and the minutes it is expected to take from here."""

    name: str
    words: str
    test: Measurement | Question | None
    minutes: float


def alternatives(belief: Belief, groups: Sequence[tuple[str, ...]], advised: Sequence[Advice]) -> tuple[Alternative, ...]:
    """Every order but chance's, side by side."""
    ways = {name: way(belief)[:_LONGEST] for name, way in _WAYS.items()}
    world = World.of(belief, groups, tuple(dict.fromkeys(test for way in ways.values() for test in way)))
    compared = [Alternative("best", ORDERS["best"], advised[0].test if advised else None, world.expected_minutes(world.wisest))]
    for name, way in ways.items():
        compared.append(Alternative(name, ORDERS[name], next_by_order(belief, name, advised), world.expected_minutes(world.in_turn(way))))
    return tuple(compared)
