"""Circuits that are no rows of the workup, supposed for a while: readings are predicted for them and weighed as for the single faults."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ...base.arrays import Floats
from ...base.judgement import OWN_RULE, judged
from ...base.patience import breathe
from ...base.quantity import show
from ...circuit.network import Cases, Network
from ...circuit.operate import Points, dead_points, operating_points
from ...circuit.sensitivity import Tolerances
from ...circuit.unplug import measured_alone, taken_off
from ...evidence.asked import Measurement, Setup
from ...evidence.items import observations
from ...evidence.registry import outcomes_of, word_sort
from ..predict.chances import log_factor
from ..predict.curves import Curves
from ..predict.table import Solved, Table
from ..predict.workup import Workup
from .belief import Belief
from .fit import blunder_chance, insulation_sigma
from .likelihood import Precision, log_likelihood

__all__ = ["SHOWN_NATS", "Beyond", "Trial", "seen_where", "shown_by", "size_of"]

SHOWN_NATS = judged("SHOWN_NATS", 1.0, "nat", "evidence for something beside a sound circuit, from which on it has shown itself", OWN_RULE)
_AT_ONCE = 2_000_000  # numbers of the spreads, or covariances, of cases that are weighed together
_FAR = 5.0  # standard deviations from which on a reading does not fit a diagram


@dataclass(frozen=True, slots=True)
class Beyond:
    """An explanation beyond one lasting fault: its ``kind`` (``two``, ``sometimes``, ``loaded``, ``touching``, ``diagram``, ``undrawn``),
    the parts at fault, the words for it, and its log evidence with prior, on the scale of `Belief.log_evidence`. ``silent`` marks what
    explains nothing clearly better than a sound circuit does: a fault that comes and goes and may have been away, a load too small to be
    seen. ``beside`` names the part that a load which is not drawn would stand beside."""

    kind: str
    parts: tuple[str, ...]
    words: str
    log_joint: float
    silent: bool = False
    beside: str = ""


class Trial:
    """Readings predicted for circuits that are no rows of the workup, weighed with the sound circuit's tolerances."""

    def __init__(self, belief: Belief):
        evidence = belief.evidence
        self.belief, self.workup = belief, belief.workup
        self.tests = tuple(r.test for r in belief.readings)
        self.elsewhere = evidence.elsewhere
        sound = np.zeros(1, dtype=np.intp)
        self.spread = evidence.spread(sound)[0]
        self.value, self.scale = evidence.value, evidence.scale
        self.sound = evidence.prediction.value[0]
        self.own = evidence.uncertainty(sound, insulation=False)[0]
        self.far = _FAR * np.sqrt(self.own**2 + (self.spread**2).sum(axis=1))

    @cached_property
    def by_setup(self) -> dict[Setup, list[int]]:
        """The readings by set-up, those that need the meter in the circuit left out: they are taken as in a sound one."""
        columns: dict[Setup, list[int]] = {}
        for i, test in enumerate(self.tests):
            if not self.elsewhere[i] and test.setup.between is None:
                columns.setdefault(test.setup, []).append(i)
        return columns

    def predicted(self, network: Network, cases: Cases) -> tuple[Floats, Floats]:
        """(M, R) numbers and strays of cases of a network (of any state: it is set to each reading's)."""
        count = cases.count
        value, stray = np.tile(self.sound, (count, 1)), np.zeros((count, len(self.tests)))
        for setup, numbers in self.by_setup.items():
            breathe()
            tests, which = self._each_once(numbers)
            shown = shown_by(network, cases, setup, tests)
            value[:, numbers], stray[:, numbers] = (own[:, which] for own in shown)
        return value, stray

    def _each_once(self, numbers: list[int]) -> tuple[tuple[Measurement, ...], NDArray[np.intp]]:
        """The tests of some readings, each once, and which of them each reading is of."""
        place = {test: k for k, test in enumerate(dict.fromkeys(self.tests[i] for i in numbers))}
        return tuple(place), np.array([place[self.tests[i]] for i in numbers], dtype=np.intp)

    def log_likelihood(self, value: Floats, stray: Floats, stretch: Floats | None = None) -> Floats:
        """(M,) of all readings; ``stretch`` (M, R, n) is what the severities that each case stands for do to the numbers."""
        return self.with_spread(value, stray, stretch, self.spread)

    def of_two(self, value: Floats, stray: Floats, stretch: Floats, rows: NDArray[np.intp]) -> Floats:
        """(M,) the same of two faults, which are by themselves as at ``rows`` (2, M), roughly: with the sound circuit's tolerances, or each
        reading with those of the fault that it shows, whichever fits better. Of what is dead a sound circuit's are many times too large."""
        evidence, logs = self.belief.evidence, self.log_likelihood(value, stray, stretch)
        most = self._cases_at_once(self.spread.shape[1])
        for start in range(0, len(value), most):
            breathe()
            own = slice(start, start + most)
            known, which = np.unique(rows[:, own], return_inverse=True)
            alone, spread = evidence.prediction.value[known], evidence.spread(known)
            one, other = which.reshape(2, -1)
            nearer = np.abs(alone[one] - value[own]) <= np.abs(alone[other] - value[own])
            both = np.where(nearer[:, :, None], spread[one], spread[other])
            logs[own] = np.maximum(logs[own], self._log_likelihood(value[own], stray[own], both, stretch[own]))
        return logs

    def _cases_at_once(self, tolerances: int) -> int:
        readings = max(1, len(self.tests))
        return max(1, _AT_ONCE // (readings * max(readings if readings <= tolerances else 1, tolerances)))

    def with_spread(self, value: Floats, stray: Floats, stretch: Floats | None, spread: Floats) -> Floats:
        """(M,) the same of cases with tolerances of their own, ``spread`` (R, K)."""
        triangle = np.asarray(np.linalg.qr(spread.T, mode="r"))
        shared = triangle.T  # as few columns as there are readings
        return self._log_likelihood(value, stray, np.broadcast_to(shared, (len(value), *shared.shape)), stretch)

    def spread_in(self, network: Network, cases: Cases) -> Floats:
        """(M, R, K) what tolerances do to the readings in cases of a network; what is supposed has none of its own."""
        count = cases.count
        every, spread = np.arange(count), np.tile(self.spread, (count, 1, 1))
        for setup, numbers in self.by_setup.items():
            breathe()
            tests, which = self._each_once(numbers)
            spread[:, numbers] = self.workup.spread_of_setup(setup, tests, every, supposed_table(network, cases, setup))[:, which]
        return self.belief.evidence.sagging(spread)

    def _log_likelihood(self, value: Floats, stray: Floats, spread: Floats, stretch: Floats | None) -> Floats:
        most = self._cases_at_once(spread.shape[2])
        parts = [slice(start, start + most) for start in range(0, len(value), most)] or [slice(0, 0)]
        return np.concatenate(
            [self._log_of_some(value[own], stray[own], spread[own], None if stretch is None else stretch[own]) for own in parts]
        )

    def _log_of_some(self, value: Floats, stray: Floats, spread: Floats, stretch: Floats | None) -> Floats:
        if stretch is not None:
            spread = np.concatenate([spread, stretch], axis=2)
        precision = Precision.of(spread, np.hypot(self.own, insulation_sigma(value, stray)))
        widths = self.belief.evidence.slipped.widths_where(value)
        return log_likelihood(self.value - value, precision, widths, blunder_chance(stray, widths))


def shown_by(network: Network, cases: Cases, setup: Setup, tests: tuple[Measurement, ...]) -> tuple[Floats, Floats]:
    """(M, T) numbers and strays of tests of one set-up in cases of a network."""
    return supposed_table(network, cases, setup).stray(tests)


def supposed_table(network: Network, cases: Cases, setup: Setup) -> Table:
    """Cases of a network solved in one set-up."""
    at = network.at(setup.state)
    if setup.without:
        off = taken_off(at, setup.without)
        off[len(at.elements) - 1] |= at.bridge is not None and measured_alone(setup.without) is not None
        cases = cases.also(Cases.opening(cases.count, off))
    dead = setup.instrument == "ohms"

    def solve(rows: NDArray[np.intp]) -> Points:
        some = cases.at(rows)
        return dead_points(at, some, setup.state) if dead else operating_points(at, some, at.positions(setup.state))

    nothing = np.full(cases.count, -1)
    return Table(setup, at, Curves.apart(cases.count), Tolerances.of(at), nothing, Solved(cases.count, solve), lambda points: None)


def seen_where(belief: Belief, network: Network, case: Cases) -> float:
    """What is seen and known says, in nats, of one case of a network that is no row of the workup."""
    seen = 0.0
    for item in observations(belief.items):
        sort = word_sort(item)
        if sort.from_circuit and item.state:
            column = list(outcomes_of(belief.workup.sheet, item)).index(item.outcome)
            seen += math.log(float(sort.chances(_Supposed(belief.workup, network, case), item.test)[1, column]))
        else:
            seen += float(log_factor(belief.workup, item)[0])
    return seen


class _Supposed:
    """A sound circuit and another one, as what is seen asks for them."""

    def __init__(self, workup: Workup, network: Network, case: Cases):
        self.sheet, self.causes, self.network = workup.sheet, workup.causes[:1], network
        sound = Cases.healthy()
        if network.bridge:  # what is supposed is not there
            sound = sound.with_ohms(len(network.elements) - 1, math.inf)
        self.cases = Cases.joined([sound, case])

    def points(self, state: str) -> Points:
        """Both, in a state."""
        at = self.network.at(state)
        return operating_points(at, self.cases, at.positions(state))

    def by_cause(self, numbers: Floats) -> Floats:
        """The same of both: neither is a fault of the sheet."""
        return np.repeat(numbers[:1], 2, axis=0)


def size_of(workup: Workup, curve: int, place: float) -> str:
    grid = workup.curves.grid[curve]
    return f" ({show(math.exp(float(np.interp(place, np.arange(len(grid)), grid))), 'Ω')})" if len(grid) > 1 else ""
