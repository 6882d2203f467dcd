"""The next few tests as a decision tree, and the minutes that an order of attack is expected to take.

The posterior's atoms and a few dozen tests make a small world. In it every test has two to four outcomes: ranges of its number between
which the suspects fall apart, or the words of what is seen. An atom gives each outcome with the chance that its number falls into the
range, so nothing is taken to be sharper than the meter and the tolerances allow. In this world trees are cheap: the tree that is drawn, the
look two steps ahead, and the expected minutes of the orders of attack, all with access once gained for nothing.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray
from scipy.special import ndtr, xlogy

from ..arrays import Floats
from .advise import Outlook, Weighed, access_gained, is_hazardous, last_done, minutes_for
from .belief import Belief
from .evidence import outcomes_of
from .offer import Check, Test
from .outcome import chances
from .scale import off_scale

__all__ = ["Branch", "Node", "World"]

MOST_OUTCOMES = 4
APART = 3.0  # standard deviations between two suspects' numbers from which on they are different outcomes
CERTAIN_ENOUGH = 0.95
_LEAST_SHARE = 0.02  # outcomes rarer than this are not followed
_LEAST_BITS = 0.02
_DEEPEST = 9
_CANDIDATES, _BY_BITS = 22, 12


@dataclass(frozen=True)
class Branch:
    """One outcome of a test: ``low`` to ``high`` on the instrument's own scale (SI), or a ``word``; its probability; what follows."""

    low: float
    high: float
    word: str
    share: float
    then: Node


@dataclass(frozen=True)
class Node:
    """A point in the plan: the ``test`` that comes next with its minutes, or none where something is certain or nothing tells more;
    ``targets`` are the leading ones with their probabilities."""

    test: Test | Check | None
    minutes: float
    targets: tuple[tuple[str | None, float], ...]
    branches: tuple[Branch, ...] = ()


@dataclass(frozen=True)
class _Place:
    """Where one stands: masses of the atoms (A,), access gained, the vehicle's state, tests done."""

    mass: Floats
    gained: frozenset[str]
    last: tuple[str, bool]
    done: frozenset[int] = field(default_factory=frozenset)


class World:
    """The small world of a belief: ``tests``, for each the chances (A, outcomes) of its outcomes, and the targets of the atoms."""

    def __init__(self, belief: Belief, groups: Sequence[tuple[str, ...]] = (), more: Sequence[Test | Check] = ()):
        outlook = Outlook(belief)
        self.belief, self.sheet = belief, belief.workup.sheet
        weighed = Weighed.of(belief)
        by_bits = sorted(weighed.order, key=lambda i: -weighed.bits[i])[:_BY_BITS]
        chosen = list(dict.fromkeys([*weighed.order[:_CANDIDATES], *by_bits]))
        self.tests: tuple[Test | Check, ...] = tuple(
            dict.fromkeys([*(weighed.tests[i] for i in chosen if weighed.bits[i] >= _LEAST_BITS / 2.0), *more])
        )
        self.number = {test: i for i, test in enumerate(self.tests)}
        items = belief.workup.hypotheses.items
        owner = [next((g[0] for g in groups if items[h].part in g), items[h].part) for h in outlook.hypothesis]
        self.names = list(dict.fromkeys(owner))
        self.target = np.zeros((len(owner), len(self.names)))
        self.target[np.arange(len(owner)), [self.names.index(name) for name in owner]] = 1.0
        self.start = _Place(outlook.mass, access_gained(self.sheet, belief.items), last_done(belief.items))
        self.outcomes: list[Floats] = []
        self.edges: list[tuple[float, ...]] = []
        readings = tuple(t for t in self.tests if isinstance(t, Test))
        prediction = belief.workup.predict(readings)
        spread = np.stack([belief.workup.weighing_spread(t, outlook.rows) for t in readings], axis=1) if readings else None
        mean, sigma = outlook.forecast(readings, prediction, spread) if spread is not None else (np.zeros((0, 0)), np.zeros((0, 0)))
        at = iter(range(len(readings)))
        for test in self.tests:
            if isinstance(test, Check):
                self.outcomes.append(chances(belief.workup, test)[outlook.near])
                self.edges.append(())
            else:
                i = next(at)
                edges = _edges(mean[i], sigma[i], outlook.mass)
                below = ndtr((np.array(edges)[:, None] - mean[i]) / sigma[i]) if edges else np.zeros((0, len(outlook.mass)))
                stacked = np.concatenate([np.zeros((1, len(outlook.mass))), below, np.ones((1, len(outlook.mass)))])
                # Neither is a blunder forgotten: a few readings say nothing.
                self.outcomes.append(0.985 * np.diff(stacked, axis=0).T + 0.015 / (len(edges) + 1))
                self.edges.append(edges)
        self.careful = [0.85 if is_hazardous(self.sheet, test) else 1.0 for test in self.tests]

    def minutes(self, place: _Place, i: int) -> float:
        """Minutes of a test from a place."""
        return max(minutes_for(self.sheet, self.tests[i], place.gained, place.last), 0.05)

    def bits(self, place: _Place, i: int) -> float:
        """What a test tells about the target from a place."""
        joint = (self.outcomes[i] * place.mass[:, None]).T @ self.target
        each, outcome = joint.sum(axis=0), joint.sum(axis=1)
        total = each.sum()
        nats = float(xlogy(joint, joint).sum() - xlogy(each, each).sum() - xlogy(outcome, outcome).sum() + xlogy(total, total))
        return max(nats / total / math.log(2.0), 0.0) if total > 0.0 else 0.0

    def after(self, place: _Place, i: int, outcome: int) -> _Place:
        """Where one stands when a test has come out so; masses are not brought back to 1."""
        test = self.tests[i]
        gained = set(place.gained)
        for name in (test.red, test.black):
            if name in self.sheet.places and self.sheet.places[name].behind:
                gained.add(str(self.sheet.places[name].behind))
        dead = isinstance(test, Test) and test.setup.instrument == "ohms"
        last = (test.state, dead) if test.state else place.last
        return _Place(place.mass * self.outcomes[i][:, outcome], frozenset(gained), last, place.done | {i})

    def targets(self, place: _Place) -> tuple[tuple[str | None, float], ...]:
        """The leading targets with their probabilities."""
        each = place.mass @ self.target
        each = each / max(each.sum(), 1e-300)
        return tuple((self.names[k], float(each[k])) for k in np.argsort(-each, kind="stable")[:3] if each[k] > 0.02)

    def settled(self, place: _Place) -> bool:
        """Whether one target is certain enough."""
        each = place.mass @ self.target
        return bool(each.max() >= CERTAIN_ENOUGH * each.sum())

    def best(self, place: _Place) -> int | None:
        """The test that tells most per minute from a place; None where none tells anything."""
        rated = [
            (round(self.careful[i] * bits / self.minutes(place, i), 9), -i)
            for i in range(len(self.tests))
            if i not in place.done and (bits := self.bits(place, i)) >= _LEAST_BITS
        ]
        return -max(rated)[1] if rated else None

    def ahead(self, place: _Place, i: int) -> float:
        """Minutes that are expected until something is certain if test ``i`` comes next: its own, and after each of its outcomes what is
        left to be told divided by what the best test then tells per minute."""
        minutes, total = self.minutes(place, i), place.mass.sum()
        for outcome in range(self.outcomes[i].shape[1]):
            then = self.after(place, i, outcome)
            share = then.mass.sum() / total
            if share < _LEAST_SHARE or self.settled(then):
                continue
            minutes += share * self._left(then)
        return minutes

    def _left(self, place: _Place) -> float:
        each = place.mass @ self.target
        each = each / each.sum()
        bits = float(-xlogy(each, each).sum()) / math.log(2.0)
        rates = [self.careful[i] * self.bits(place, i) / self.minutes(place, i) for i in range(len(self.tests)) if i not in place.done]
        return bits / max([*rates, 0.02])

    def tree(self, depth: int = 3) -> Node:
        """The best order's plan for the next ``depth`` tests."""
        return self._node(self.start, depth)

    def _node(self, place: _Place, depth: int) -> Node:
        targets = self.targets(place)
        i = None if depth == 0 or self.settled(place) else self.best(place)
        if i is None:
            return Node(None, 0.0, targets)
        total, branches = place.mass.sum(), []
        words = list(outcomes_of(self.sheet, self.tests[i].kind, self.tests[i].subject)) if isinstance(self.tests[i], Check) else []  # type: ignore[union-attr]
        ends = (-math.inf, *self.edges[i], math.inf)
        for outcome in range(self.outcomes[i].shape[1]):
            then = self.after(place, i, outcome)
            share = float(then.mass.sum() / total)
            if share < _LEAST_SHARE:
                continue
            low, high = (0.0, 0.0) if words else (_back(ends[k], self.tests[i].instrument) for k in (outcome, outcome + 1))
            branches.append(Branch(low, high, words[outcome] if words else "", share, self._node(then, depth - 1)))
        return Node(self.tests[i], self.minutes(place, i), targets, tuple(branches))

    def expected_minutes(self, choose: Callable[[_Place], int | None]) -> float:
        """Minutes that a way of choosing the next test is expected to take until a target is certain, or nothing tells more."""
        return self._expected(self.start, choose, float(self.start.mass.sum()), _DEEPEST)

    def _expected(self, place: _Place, choose: Callable[[_Place], int | None], total: float, depth: int) -> float:
        if self.settled(place):
            return 0.0
        if depth == 0:
            return self._left(place) * float(place.mass.sum()) / total
        i = choose(place)
        if i is None:
            return 0.0
        minutes = self.minutes(place, i) * float(place.mass.sum()) / total
        for outcome in range(self.outcomes[i].shape[1]):
            then = self.after(place, i, outcome)
            if then.mass.sum() / total >= _LEAST_SHARE:
                minutes += self._expected(then, choose, total, depth - 1)
        return minutes

    def in_turn(self, way: Sequence[Test | Check]) -> Callable[[_Place], int | None]:
        """A way of choosing: the given tests one after another, as long as they tell anything; then what tells most per minute."""
        numbers = [self.number[test] for test in way if test in self.number]

        def choose(place: _Place) -> int | None:
            return (
                next((i for i in numbers if i not in place.done), None) if numbers and not set(numbers) <= place.done else self.best(place)
            )

        return choose


def _back(value: float, instrument: str) -> float:
    if math.isinf(value):
        return value
    return off_scale(value, instrument)


def _edges(mean: Floats, sigma: Floats, mass: Floats) -> tuple[float, ...]:
    """Where to part a test's numbers: in the widest gaps between suspects, in standard deviations; by thirds where there is no gap."""
    order = np.argsort(mean, kind="stable")
    m, s, w = mean[order], sigma[order], mass[order]
    gap = np.diff(m) / np.maximum(np.maximum(s[1:], s[:-1]), 1e-9)
    wide: NDArray[np.intp] = np.flatnonzero(gap >= APART)
    if wide.size:
        best = np.sort(wide[np.argsort(-np.diff(m)[wide], kind="stable")[: MOST_OUTCOMES - 1]])
        return tuple(float((m[k] + m[k + 1]) / 2.0) for k in best)
    if m[-1] - m[0] < APART * s.min():
        return ()
    reached = np.cumsum(w) / w.sum()
    thirds = [float(m[min(int(np.searchsorted(reached, q)), len(m) - 1)]) for q in (0.33, 0.67)]
    return tuple(dict.fromkeys(thirds))
