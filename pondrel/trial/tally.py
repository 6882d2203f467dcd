"""What came of many cases on the bench: shares, minutes, calibration; and how near the adviser comes to the optimal policy.

The optimal policy is computed exactly where that can be done: in small worlds of a few faults of a sheet, whose tests have one outcome for
each. There the expected minutes of the adviser's own choosing stand beside the least that any policy needs.
"""

from __future__ import annotations

import math
import random
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from ..core.base.arrays import Floats
from ..core.evidence.asked import Measurement, Question
from ..core.isolate import Workup, World, update
from ..core.isolate.advise.advice import worth_offering
from ..core.isolate.advise.effort import Situation
from ..core.isolate.advise.plan import Choice, Moment
from ..core.isolate.predict.scale import scale_uncertainty
from ..core.isolate.predict.workup import UNRELIABLE_VOLTS
from .bench import Case, Outcome, hidden_cases

__all__ = ["Decile", "Gap", "Tally", "calibration", "case_weights", "optimal_gap", "optimal_minutes", "tally"]

SMALL_WORLD, SMALL_TESTS = 7, 12
_SEPARATE = 4.0


@dataclass(frozen=True, slots=True)
class Tally:
    """Cases of one sheet and order: how many, how many right, proved, wrongly condemned, overlooked; mean tests and minutes."""

    cases: int
    right: int
    proved: int
    wrong_condemned: int
    overlooked: int
    tests: float
    minutes: float
    blunders: int

    def as_json(self) -> dict[str, float]:
        """Numbers and shares."""
        count = max(self.cases, 1)
        return {
            "cases": self.cases, "right": self.right / count, "proved": self.proved / count,
            "wrong_condemned": self.wrong_condemned / count, "overlooked": self.overlooked / count, "tests": self.tests,
            "minutes": self.minutes, "blunders": self.blunders,
        }  # fmt: skip


def tally(outcomes: Sequence[Outcome]) -> Tally:
    """Count outcomes."""
    count = max(len(outcomes), 1)
    return Tally(
        len(outcomes),
        sum(o.right for o in outcomes),
        sum(o.proved for o in outcomes),
        sum(o.wrong_condemned for o in outcomes),
        sum(o.overlooked for o in outcomes),
        sum(o.tests for o in outcomes) / count,
        sum(o.minutes for o in outcomes) / count,
        sum(o.blunders for o in outcomes),
    )


@dataclass(frozen=True, slots=True)
class Decile:
    """Probabilities that were stated between two tenths: how many, their mean, and how often they were right."""

    low: float
    count: float
    stated: float
    true: float


def calibration(stated: Sequence[tuple[float, bool, float]]) -> tuple[tuple[Decile, ...], float]:
    """Stated probabilities (p, was it so, weight) by tenths, and the Brier score. Weights make faults as frequent as their priors say."""
    p, y, w = (np.array(column, dtype=float) for column in zip(*stated, strict=True))
    deciles = []
    for k in range(10):
        own = (p >= k / 10) & ((p < (k + 1) / 10) | (k == 9))
        if own.any():
            weight = w[own]
            effective = float(weight.sum() ** 2 / (weight**2).sum())
            deciles.append(Decile(k / 10, effective, float(weight @ p[own] / weight.sum()), float(weight @ y[own] / weight.sum())))
    return tuple(deciles), float(w @ (p - y) ** 2 / w.sum())


def case_weights(workup: Workup, cases: Sequence[Case], chosen: Sequence[int]) -> list[float]:
    """How often each of the chosen cases would come up if faults came as their priors say, those left out shared among those chosen."""
    weights = [_weight(workup, case, cases) for case in cases]
    kept = set(chosen)
    total, own = (sum(w for i, w in enumerate(weights) if cases[i].part is not None and i in some) for some in (range(len(cases)), kept))
    return [weights[i] * (total / own if cases[i].part is not None else 1.0) for i in chosen]


def _weight(workup: Workup, case: Case, cases: Sequence[Case]) -> float:
    if case.part is None:
        return workup.prior_of_nothing
    alike = [c for c in cases if (c.part, c.mode) == (case.part, case.mode)]
    curves = workup.curves
    h = next(h for h, item in enumerate(workup.hypotheses.items) if (item.part, item.mode) == (case.part, case.mode))
    rows = curves.of(np.flatnonzero(curves.hypothesis == h))
    return float(workup.hypotheses.prior[h] * workup.visible[rows].mean()) / len(alike)


@dataclass(frozen=True, slots=True)
class Gap:
    """Expected minutes of ways of choosing in a small world: the adviser's, one step ahead only, and the least that is possible."""

    adviser: float
    greedy: float
    optimal: float


def optimal_gap(workup: Workup, seed: int) -> Gap:
    """A small world of a sheet: a few of its faults and a sound circuit, and the tests that tell most of them apart."""
    rng = random.Random(seed)
    cases = hidden_cases(workup)
    chosen = [cases[0], *rng.sample(cases[1:], min(SMALL_WORLD - 1, len(cases) - 1))]
    world = _table_world(workup, chosen)
    full = frozenset(range(len(chosen)))
    return Gap(
        _policy_minutes(world, full, world.start, world.wisest),
        _policy_minutes(world, full, world.start, world.best),
        optimal_minutes(world),
    )


def _table_world(workup: Workup, cases: Sequence[Case]) -> World:
    """The world in which every case gives every test one outcome; of tests that part the cases alike the cheapest few are kept."""
    belief = update(workup, ())
    rows = np.array([case.row for case in cases])
    tests: list[Measurement | Question] = [t for t in worth_offering(belief) if t.instrument != "amps"]
    measured = tuple(t for t in tests if isinstance(t, Measurement))
    prediction = workup.predict(measured, np.unique(rows))
    place = prediction.place(rows)
    value = prediction.value[place]
    sigma = np.hypot(scale_uncertainty(value, measured), UNRELIABLE_VOLTS * prediction.stray[place])
    parted: dict[tuple[int, ...], list[tuple[Measurement | Question, Floats]]] = {}
    for i, test in enumerate(tests):
        classes = _classes(value[:, i], sigma[:, i])
        parted.setdefault(classes, []).append((test, np.eye(max(classes) + 1)[list(classes)]))
    for question in workup.questions:
        words = tuple(workup.chances_at(question, rows).argmax(axis=1).tolist())
        numbers = {word: k for k, word in enumerate(sorted(set(words)))}
        classes = tuple(numbers[word] for word in words)
        parted.setdefault(classes, []).append((question, np.eye(max(classes) + 1)[list(classes)]))
    found = [pair for classes, alike in parted.items() if max(classes) > 0 for pair in alike[:2]]
    found.sort(key=lambda pair: -pair[1].shape[1])
    found = found[:SMALL_TESTS]
    owner = _owners(cases, [matrix for _, matrix in found])
    start = Moment(np.full(len(cases), 1.0 / len(cases)), Situation())
    return World(workup.sheet, [t for t, _ in found], [m for _, m in found], [()] * len(found), owner, start)


def _classes(value: Floats, sigma: Floats) -> tuple[int, ...]:
    order = np.argsort(value, kind="stable")
    classes = np.zeros(len(value), dtype=int)
    k = 0
    for before, after in pairwise(order.tolist()):
        k += int(value[after] - value[before] > _SEPARATE * math.hypot(sigma[before], sigma[after]))
        classes[after] = k
    return tuple(classes.tolist())


def _owners(cases: Sequence[Case], outcomes: Sequence[Floats]) -> list[str | None]:
    """The target of each case; cases that no test parts are one."""
    owners: list[str | None] = [case.part for case in cases]
    for i in range(len(cases)):
        for j in range(i):
            if all((m[i] == m[j]).all() for m in outcomes):
                owners[i] = owners[j]
                break
    return owners


def _policy_minutes(world: World, alive: frozenset[int], place: Moment, choose: Choice) -> float:
    """Expected minutes of a policy over the cases that are still alive, as a share of all."""
    if len({int(world.target[a].argmax()) for a in alive}) <= 1:
        return 0.0
    i = choose([place])[0]
    if i is None:
        return 0.0
    minutes = float(world.minutes(place)[i]) * len(alive) / len(place.mass)
    for outcome in range(world.outcomes[i].shape[1]):
        left = frozenset(a for a in alive if world.outcomes[i][a, outcome] > 0.5)
        if left:
            minutes += _policy_minutes(world, left, world.after(place, i, outcome), choose)
    return minutes


def optimal_minutes(world: World) -> float:
    """The least expected minutes of any policy: exact, by dynamic programming over the cases still alive and where one stands. Every
    outcome must be certain."""
    known: dict[tuple[frozenset[int], Situation], float] = {}
    count = len(world.start.mass)

    def least(alive: frozenset[int], place: Moment) -> float:
        if len({int(world.target[a].argmax()) for a in alive}) <= 1:
            return 0.0
        key = (alive, place.at)
        if key not in known:
            best = math.inf
            for i in range(len(world.tests)):
                outcomes = world.outcomes[i]
                parts = [frozenset(a for a in alive if outcomes[a, k] > 0.5) for k in range(outcomes.shape[1])]
                parts = [part for part in parts if part]
                if len(parts) < 2:
                    continue
                minutes = float(world.minutes(place)[i])
                if minutes < best:
                    then = world.after(place, i, 0)
                    for part in parts:
                        minutes += least(part, then) * len(part) / len(alive)
                    best = min(best, minutes)
            known[key] = 0.0 if math.isinf(best) else best
        return known[key]

    return least(frozenset(range(count)), world.start)
