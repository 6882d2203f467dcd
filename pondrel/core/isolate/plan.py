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
from ..circuit.sheet import Sheet
from .advise import CAREFUL, Outlook, Weighed, access_gained, is_hazardous, last_done, minutes_for
from .belief import Belief
from .evidence import outcomes_of
from .likelihood import BLUNDER
from .offer import Check, Test
from .outcome import chances
from .scale import off_scale

__all__ = ["Branch", "Node", "Place", "World"]

MOST_OUTCOMES = 4
APART = 3.0  # standard deviations between two suspects' numbers from which on they are different outcomes
CERTAIN_ENOUGH = 0.95
_LEAST_SHARE = 0.02  # outcomes rarer than this are not followed
_LEAST_BITS = 0.02
_DEEPEST = 9
_CANDIDATES, _BY_BITS = 22, 12
LOOKED_AHEAD, FOLLOWED = 4, 4  # tests tried as the next one, and tests followed after each
_SLOWEST = 0.2  # bits a minute that are told, roughly, where nothing is followed any more


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
class Place:
    """Where one stands: masses of the atoms (A,), access gained, the vehicle's state, tests done."""

    mass: Floats
    gained: frozenset[str]
    last: tuple[str, bool]
    done: frozenset[int] = field(default_factory=frozenset)


class World:
    """A small world: ``tests``, for each the chances (A, outcomes) of its outcomes for every atom and the ``edges`` of its ranges, the
    ``names`` of the targets and which of them each atom stands for (A, G), and where one starts."""

    def __init__(
        self,
        sheet: Sheet,
        tests: Sequence[Test | Check],
        outcomes: Sequence[Floats],
        edges: Sequence[tuple[float, ...]],
        owner: Sequence[str | None],
        start: Place,
    ):
        self.sheet, self.tests, self.outcomes, self.edges, self.start = sheet, tuple(tests), list(outcomes), list(edges), start
        self.number = {test: i for i, test in enumerate(self.tests)}
        self.names = list(dict.fromkeys(owner))
        self.target = np.zeros((len(owner), len(self.names)))
        self.target[np.arange(len(owner)), [self.names.index(name) for name in owner]] = 1.0
        self.careful = np.array([CAREFUL if is_hazardous(sheet, test) else 1.0 for test in self.tests])
        self._all = np.concatenate(self.outcomes, axis=1) if self.outcomes else np.zeros((len(owner), 0))
        self._first = np.cumsum([0, *(o.shape[1] for o in self.outcomes)])[:-1]

    @classmethod
    def of(
        cls, belief: Belief, groups: Sequence[tuple[str, ...]] = (), more: Sequence[Test | Check] = (), by: Weighed | None = None
    ) -> World:
        """The world of a belief: what is worth most of the tests on offer, and ``more``. Parts of a group are one target."""
        outlook, weighed = Outlook(belief), by or Weighed.of(belief)
        by_bits = sorted(weighed.order, key=lambda i: -weighed.bits[i])[:_BY_BITS]
        chosen = list(dict.fromkeys([*weighed.order[:_CANDIDATES], *by_bits]))
        found = [weighed.tests[i] for i in chosen if weighed.bits[i] >= _LEAST_BITS / 2.0]
        tests: tuple[Test | Check, ...] = tuple(dict.fromkeys([*found, *more]))
        readings = tuple(t for t in tests if isinstance(t, Test))
        mean: Floats = np.zeros((0, 0))
        sigma: Floats = np.zeros((0, 0))
        if readings:
            spread = np.stack([belief.workup.weighing_spread(t, outlook.rows) for t in readings], axis=1)
            mean, sigma = outlook.forecast(readings, belief.workup.predict(readings), spread)
        outcomes: list[Floats] = []
        edges: list[tuple[float, ...]] = []
        at = iter(range(len(readings)))
        for test in tests:
            if isinstance(test, Check):
                outcomes.append(chances(belief.workup, test)[outlook.near])
                edges.append(())
                continue
            i = next(at)
            own = _edges(mean[i], sigma[i], outlook.mass)
            below = ndtr((np.array(own)[:, None] - mean[i]) / sigma[i]) if own else np.zeros((0, len(outlook.mass)))
            stacked = np.concatenate([np.zeros((1, len(outlook.mass))), below, np.ones((1, len(outlook.mass)))])
            # Blunders are not forgotten: a few readings say nothing.
            outcomes.append((1.0 - BLUNDER) * np.diff(stacked, axis=0).T + BLUNDER / (len(own) + 1))
            edges.append(own)
        items = belief.workup.hypotheses.items
        owner = [next((g[0] for g in groups if items[h].part in g), items[h].part) for h in outlook.hypothesis]
        sheet = belief.workup.sheet
        start = Place(outlook.mass, access_gained(sheet, belief.items), last_done(belief.items))
        return cls(sheet, tests, outcomes, edges, owner, start)

    def minutes(self, place: Place, i: int) -> float:
        """Minutes of a test from a place."""
        return max(minutes_for(self.sheet, self.tests[i], place.gained, place.last), 0.05)

    def bits(self, mass: Floats) -> Floats:
        """(T,) what each test tells about the target when the atoms have some masses."""
        joint = self.target.T @ (mass[:, None] * self._all)  # (G, all outcomes)
        each, total = mass @ self.target, float(mass.sum())
        if total <= 0.0 or not len(self.tests):
            return np.zeros(len(self.tests))
        terms = xlogy(joint, joint).sum(axis=0) - xlogy(joint.sum(axis=0), joint.sum(axis=0))
        nats = np.add.reduceat(terms, self._first) - xlogy(each, each).sum() + xlogy(total, total)
        return np.maximum(nats / total / math.log(2.0), 0.0)

    def after(self, place: Place, i: int, outcome: int) -> Place:
        """Where one stands when a test has come out so; masses are not brought back to 1."""
        test = self.tests[i]
        gained = set(place.gained)
        for name in (test.red, test.black):
            if name in self.sheet.places and self.sheet.places[name].behind:
                gained.add(str(self.sheet.places[name].behind))
        dead = isinstance(test, Test) and test.setup.instrument == "ohms"
        last = (test.state, dead) if test.state else place.last
        return Place(place.mass * self.outcomes[i][:, outcome], frozenset(gained), last, place.done | {i})

    def targets(self, place: Place) -> tuple[tuple[str | None, float], ...]:
        """The leading targets with their probabilities."""
        each = place.mass @ self.target
        each = each / max(each.sum(), 1e-300)
        return tuple((self.names[k], float(each[k])) for k in np.argsort(-each, kind="stable")[:3] if each[k] > 0.02)

    def settled(self, place: Place) -> bool:
        """Whether one target is certain enough."""
        each = place.mass @ self.target
        return bool(each.max() >= CERTAIN_ENOUGH * each.sum())

    def _rates(self, place: Place) -> tuple[Floats, Floats]:
        """(T,) what each test not done yet tells per minute from a place, those that tell next to nothing 0; and the minutes."""
        bits = self.bits(place.mass)
        bits[list(place.done)] = 0.0
        minutes = np.array([self.minutes(place, i) if bits[i] >= _LEAST_BITS else 1.0 for i in range(len(self.tests))])
        return np.where(bits >= _LEAST_BITS, np.round(self.careful * bits / minutes, 9), 0.0), minutes

    def best(self, place: Place) -> int | None:
        """The test that tells most per minute from a place; None where none tells anything."""
        rates, _ = self._rates(place)
        return int(rates.argmax()) if rates.size and rates.max() > 0.0 else None

    def wisest(self, place: Place) -> int | None:
        """Of the tests that tell most per minute the one after which least time is expected to be needed: two steps ahead."""
        rates, _ = self._rates(place)
        tried = [int(i) for i in np.argsort(-rates, kind="stable")[:LOOKED_AHEAD] if rates[i] > 0.0]
        return min(tried, key=lambda i: (round(self.ahead(place, i), 6), i), default=None)

    def ahead(self, place: Place, i: int) -> float:
        """Minutes that are expected until something is certain if test ``i`` comes next, and after it always what tells most per minute."""
        minutes, total = self.minutes(place, i) / float(self.careful[i]), float(place.mass.sum())
        for outcome in range(self.outcomes[i].shape[1]):
            then = self.after(place, i, outcome)
            if then.mass.sum() / total >= _LEAST_SHARE:
                minutes += self._expected(then, self.best, total, FOLLOWED)
        return minutes

    def _left(self, place: Place) -> float:
        """Minutes for what is not known where nothing is followed any more."""
        each = place.mass @ self.target
        each = each / each.sum()
        return float(-xlogy(each, each).sum()) / math.log(2.0) / _SLOWEST

    def tree(self, depth: int = 3) -> Node:
        """The best order's plan for the next ``depth`` tests."""
        return self._node(self.start, depth)

    def _node(self, place: Place, depth: int) -> Node:
        targets = self.targets(place)
        i = None if depth == 0 or self.settled(place) else self.wisest(place)
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

    def expected_minutes(self, choose: Callable[[Place], int | None]) -> float:
        """Minutes that a way of choosing the next test is expected to take until a target is certain, or nothing tells more."""
        return self._expected(self.start, choose, float(self.start.mass.sum()), _DEEPEST)

    def _expected(self, place: Place, choose: Callable[[Place], int | None], total: float, depth: int) -> float:
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

    def in_turn(self, way: Sequence[Test | Check]) -> Callable[[Place], int | None]:
        """A way of choosing: the given tests one after another, as long as they tell anything; then what tells most per minute."""
        numbers = [self.number[test] for test in way if test in self.number]

        def choose(place: Place) -> int | None:
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
