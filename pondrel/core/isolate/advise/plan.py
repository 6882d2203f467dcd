"""The next few tests as a decision tree, and the minutes that an order of attack is expected to take.

The posterior's atoms and a few dozen tests make a small world. In it every test has two to four outcomes: ranges of its number between
which the suspects fall apart, or the words of what is seen. An atom gives each outcome with the chance that its number falls into the
range, so nothing is taken to be sharper than the meter and the tolerances allow. In this world trees are cheap: the tree that is drawn, the
look two steps ahead, and the expected minutes of the orders of attack, all with access once gained for nothing.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from ...base.arrays import Floats
from ...base.patience import breathe
from ...base.special import ndtr, xlogy
from ...base.ties import first_of_most, ranks
from ...circuit.sheet import Sheet
from ...evidence.asked import Measurement, Question
from ...evidence.registry import outcomes_of
from ..believe.belief import Belief
from ..believe.likelihood import BLUNDER
from ..predict.scale import off_scale
from .advice import CAREFUL, Weighed, is_hazardous
from .effort import Situation, minutes_for

__all__ = ["Branch", "Moment", "Node", "World"]

MOST_OUTCOMES = 4
APART = 3.0  # standard deviations between two suspects' numbers from which on they are different outcomes
CERTAIN_ENOUGH = 0.95
_LEAST_SHARE = 0.02  # outcomes rarer than this are not followed
_LEAST_BITS = 0.02
_DEEPEST = 9
_NEARLY_AS_GOOD = 0.75  # of the most that a test tells per minute: what tells less is not tried as the next one
_CANDIDATES, _BY_BITS = 22, 12
LOOKED_AHEAD, FOLLOWED = 4, 6  # tests tried as the next one, and tests followed after each
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

    test: Measurement | Question | None
    minutes: float
    targets: tuple[tuple[str | None, float], ...]
    branches: tuple[Branch, ...] = ()


@dataclass(frozen=True)
class Moment:
    """Where one stands: masses of the atoms (A,), how the vehicle and the leads stand, tests done."""

    mass: Floats
    at: Situation
    done: frozenset[int] = field(default_factory=frozenset)


Choice = Callable[[Sequence[Moment]], list[int | None]]  # of each place the test that comes next there


class World:
    """A small world: ``tests``, for each the chances (A, outcomes) of its outcomes for every atom and the ``edges`` of its ranges, the
    ``names`` of the targets and which of them each atom stands for (A, G), and where one starts."""

    def __init__(
        self,
        sheet: Sheet,
        tests: Sequence[Measurement | Question],
        outcomes: Sequence[Floats],
        edges: Sequence[tuple[float, ...]],
        owner: Sequence[str | None],
        start: Moment,
    ):
        self.sheet, self.tests, self.outcomes, self.edges, self.start = sheet, tuple(tests), list(outcomes), list(edges), start
        self.number = {test: i for i, test in enumerate(self.tests)}
        self.names = list(dict.fromkeys(owner))
        self.target = np.zeros((len(owner), len(self.names)))
        self.target[np.arange(len(owner)), [self.names.index(name) for name in owner]] = 1.0
        self.careful = np.array([CAREFUL if is_hazardous(sheet, test) else 1.0 for test in self.tests])
        self._all = np.concatenate(self.outcomes, axis=1) if self.outcomes else np.zeros((len(owner), 0))
        owners = self.target.argmax(axis=1)
        self._by_target = np.argsort(owners, kind="stable")
        self._ends = np.searchsorted(owners[self._by_target], np.arange(len(self.names)))
        self._first = np.cumsum([0, *(o.shape[1] for o in self.outcomes)])[:-1]
        self._minutes: dict[Situation, Floats] = {}

    @classmethod
    def of(
        cls, belief: Belief, groups: Sequence[tuple[str, ...]] = (), more: Sequence[Measurement | Question] = (), by: Weighed | None = None
    ) -> World:
        """The world of a belief: what is worth most of the tests on offer, and ``more``. Parts of a group are one target."""
        weighed = by or Weighed.of(belief)
        outlook = weighed.outlook
        bits = dict(zip(weighed.order, ranks([float(weighed.bits[i]) for i in weighed.order]).tolist(), strict=True))
        by_bits = sorted(weighed.order, key=lambda i: (bits[i], i))[:_BY_BITS]
        chosen = list(dict.fromkeys([*weighed.order[:_CANDIDATES], *by_bits]))
        found = [weighed.tests[i] for i in chosen if weighed.bits[i] >= _LEAST_BITS / 2.0]
        tests: tuple[Measurement | Question, ...] = tuple(dict.fromkeys([*found, *more]))
        readings = tuple(t for t in tests if isinstance(t, Measurement))
        mean, sigma, _ = outlook.told(readings)
        outcomes: list[Floats] = []
        edges: list[tuple[float, ...]] = []
        at = iter(range(len(readings)))
        for test in tests:
            if isinstance(test, Question):
                outcomes.append(belief.workup.chances_at(test, outlook.near))
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
        start = Moment(outlook.mass, Situation.of(sheet, belief.items))
        return cls(sheet, tests, outcomes, edges, owner, start)

    def minutes(self, place: Moment) -> Floats:
        """(T,) minutes of each test from a place."""
        if place.at not in self._minutes:
            self._minutes[place.at] = np.array([minutes_for(self.sheet, test, place.at) for test in self.tests])
        return self._minutes[place.at]

    def bits(self, mass: Floats) -> Floats:
        """(P, T) what each test tells about the target when the atoms have some masses (P, A)."""
        if not len(self.tests):
            return np.zeros((len(mass), 0))
        joint = np.add.reduceat(mass[:, self._by_target, None] * self._all[self._by_target], self._ends, axis=1)  # (P, G, outcomes)
        each, outcome = mass @ self.target, joint.sum(axis=1)
        terms = _xlogx(joint).sum(axis=1) - _xlogx(outcome)
        total = np.maximum(each.sum(axis=1), 1e-300)
        nats = np.add.reduceat(terms, self._first, axis=1) + (_xlogx(total) - _xlogx(each).sum(axis=1))[:, None]
        bits: Floats = np.maximum(nats / total[:, None] / math.log(2.0), 0.0)
        return bits

    def after(self, place: Moment, i: int, outcome: int) -> Moment:
        """Where one stands when a test has come out so; masses are not brought back to 1."""
        return Moment(place.mass * self.outcomes[i][:, outcome], place.at.after(self.sheet, self.tests[i]), place.done | {i})

    def targets(self, place: Moment) -> tuple[tuple[str | None, float], ...]:
        """The leading targets with their probabilities."""
        each = place.mass @ self.target
        each = each / max(each.sum(), 1e-300)
        return tuple((self.names[k], float(each[k])) for k in np.argsort(ranks(each), kind="stable")[:3] if each[k] > 0.02)

    def settled(self, place: Moment) -> bool:
        """Whether one target is certain enough."""
        each = place.mass @ self.target
        return bool(each.max() >= CERTAIN_ENOUGH * each.sum())

    def _rates(self, places: Sequence[Moment]) -> Floats:
        """(P, T) what each test not done yet tells per minute from some places, those that tell next to nothing 0."""
        bits = self.bits(np.array([place.mass for place in places]))
        for own, place in zip(bits, places, strict=True):
            own[list(place.done)] = 0.0
        minutes = np.array([self.minutes(place) for place in places])
        return np.where(bits >= _LEAST_BITS, self.careful * bits / minutes, 0.0)

    def best(self, places: Sequence[Moment]) -> list[int | None]:
        """The test that tells most per minute from each place; None where none tells anything."""
        if not self.tests:
            return [None] * len(places)
        return [first_of_most(rates) if rates.max() > 0.0 else None for rates in self._rates(places)]

    def wisest(self, places: Sequence[Moment]) -> list[int | None]:
        """Of the tests that tell most per minute the one after which least time is expected to be needed: two steps ahead."""
        ways = [self.foresight(place) for place in places]
        return [soonest(way) for way in ways]

    def foresight(self, place: Moment) -> dict[int, float]:
        """The tests that tell most per minute from a place, each with the minutes that are expected if it comes next (`ahead`)."""
        if not self.tests:
            return {}
        rates = self._rates([place])[0]
        tried = [int(i) for i in np.argsort(ranks(rates), kind="stable")[:LOOKED_AHEAD] if rates[i] > _NEARLY_AS_GOOD * rates.max()]
        return {i: self.ahead(place, i) for i in tried}

    def ahead(self, place: Moment, i: int) -> float:
        """Minutes that are expected until something is certain if test ``i`` comes next, and after it always what tells most per minute."""
        breathe()
        minutes, total = float(self.minutes(place)[i]) / float(self.careful[i]), float(place.mass.sum())
        return minutes + self._expected(self._follow(place, i, total), self.best, total, FOLLOWED)

    def _follow(self, place: Moment, i: int, total: float) -> list[Moment]:
        """Where a test may lead, but for what is rare."""
        reached = place.mass @ self.outcomes[i]
        return [self.after(place, i, k) for k, mass in enumerate(reached.tolist()) if mass / total >= _LEAST_SHARE]

    def left(self, place: Moment) -> float:
        """Minutes for what is not known where nothing is followed any more."""
        each = place.mass @ self.target
        each = each / each.sum()
        return float(-xlogy(each, each).sum()) / math.log(2.0) / _SLOWEST

    def tree(self, depth: int = 3, first: Measurement | Question | None = None) -> Node:
        """The best order's plan for the next ``depth`` tests, beginning with ``first`` if it is one of the world's."""
        return self._node(self.start, depth, self.number.get(first) if first else None)

    def _node(self, place: Moment, depth: int, first: int | None = None) -> Node:
        targets = self.targets(place)
        i = None if depth == 0 or self.settled(place) else self.wisest([place])[0] if first is None else first
        if i is None:
            return Node(None, 0.0, targets)
        total, branches = place.mass.sum(), []
        test = self.tests[i]
        words = list(outcomes_of(self.sheet, test)) if isinstance(test, Question) else []
        ends = (-math.inf, *self.edges[i], math.inf)
        for outcome in range(self.outcomes[i].shape[1]):
            then = self.after(place, i, outcome)
            share = float(then.mass.sum() / total)
            if share < _LEAST_SHARE:
                continue
            low, high = (0.0, 0.0) if words else (_back(ends[k], self.tests[i].instrument) for k in (outcome, outcome + 1))
            branches.append(Branch(low, high, words[outcome] if words else "", share, self._node(then, depth - 1)))
        return Node(self.tests[i], float(self.minutes(place)[i]), targets, tuple(branches))

    def expected_minutes(self, choose: Choice) -> float:
        """Minutes that a way of choosing the next test is expected to take until a target is certain, or nothing tells more."""
        return self._expected([self.start], choose, float(self.start.mass.sum()), _DEEPEST)

    def _expected(self, places: list[Moment], choose: Choice, total: float, depth: int) -> float:
        minutes = 0.0
        for left in range(depth, -1, -1):
            open_ones = [place for place in places if not self.settled(place)]
            if not open_ones:
                break
            if left == 0:
                return minutes + sum(self.left(place) * float(place.mass.sum()) / total for place in open_ones)
            places = []
            for place, i in zip(open_ones, choose(open_ones), strict=True):
                if i is not None:
                    minutes += float(self.minutes(place)[i]) * float(place.mass.sum()) / total
                    places += self._follow(place, i, total)
        return minutes

    def in_turn(self, way: Sequence[Measurement | Question]) -> Choice:
        """A way of choosing: the given tests one after another, as long as they tell anything; then what tells most per minute."""
        numbers = [self.number[test] for test in way if test in self.number]

        def choose(places: Sequence[Moment]) -> list[int | None]:
            return [next((i for i in numbers if i not in place.done), best) for place, best in zip(places, self.best(places), strict=True)]

        return choose


def soonest(minutes: Mapping[int, float]) -> int | None:
    """The test after which the fewest minutes are expected, the first of those that equal it; None of none."""
    tests = sorted(minutes)
    return tests[first_of_most([-minutes[i] for i in tests])] if tests else None


def _xlogx(x: Floats) -> Floats:
    return x * np.log(np.maximum(x, 1e-300))


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
