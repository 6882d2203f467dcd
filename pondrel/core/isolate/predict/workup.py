"""A *workup*: a sheet prepared for isolation, what every test would show under every hypothesis. A pure function of the sheet; what has
been worked out is kept in a memo that the caller may own."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import replace
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from ...base.arrays import Floats
from ...base.judgement import judged
from ...base.patience import breathe
from ...circuit.fault import Fault
from ...circuit.laws import nonlinear_amps
from ...circuit.measure import TEST_OHMS, TEST_VOLTS
from ...circuit.network import Network
from ...circuit.operate import Points
from ...circuit.part import Law
from ...circuit.paths import Path, load_paths
from ...circuit.sensitivity import BODY_COLUMN, Tolerances
from ...circuit.sheet import Sheet
from ...circuit.wear import BODY_MOVES, BODY_SHARED
from ...evidence.asked import Measurement, Question, Setup
from ...evidence.registry import on_offer, word_sort
from ...evidence.safety import is_allowed
from ...learn import NO_WEIGHTS, Weights
from ...meter.instrument import instrument
from .hypotheses import Hypotheses, Hypothesis, weighed
from .measurable import available_tests
from .memo import Memo
from .responses import Responses
from .scale import compress_ohms, scale_uncertainty
from .table import Curves, Prediction, Profile, Table, Tears

__all__ = ["UNRELIABLE_VOLTS", "Workup"]

Made = TypeVar("Made")

UNRELIABLE_VOLTS = judged("UNRELIABLE_VOLTS", 6.0, "V", "how vague a number is taken to be that hangs on insulation")
VISIBLE_SIGMA, VISIBLE_WORDS = 2.0, 0.5  # by a number; by how much likelier or less likely a word becomes
_DIODE_MATTERS = 0.05  # on the compressed scale of ohms
# Share of a voltmeter's own ohms from which on it loads a point, and how many times more ohms that has without its diodes if they hold it.
_LOADED, _DIODE_HOLDS = 0.01, 1.3
_HALF_OPEN = 0.8  # share of the way between a diode open and shut, in the middle of it
_BARE_WITHIN = 1.0  # on the compressed scale of ohms
_THROUGH_A_DIODE = 0.03  # share of an ohmmeter's current that a junction may take


class Workup:
    """A sheet with its responses, and the memo of what has been worked out of them. ``weights`` are what the record has taught of how
    likely its parts and their modes are."""

    def __init__(self, sheet: Sheet, memo: Memo | None = None, weights: Weights = NO_WEIGHTS):
        self.sheet = sheet
        self.memo = memo or Memo()
        self.weights = weights

    def weighed_by(self, weights: Weights) -> Workup:
        """The same sheet with other factors: what its circuit does is shared, what is believed is not."""
        return Workup(self.sheet, self.memo.beside(), weights)

    def _once(self, what: str, make: Callable[[], Made]) -> Made:
        return self.memo.once(what, make)

    @property
    def responses(self) -> Responses:
        """The circuit under every fault."""
        return self._once("responses", lambda: Responses.of(self.sheet))

    @property
    def network(self) -> Network:
        """The circuit."""
        return self.responses.network

    @property
    def hypotheses(self) -> Hypotheses:
        """What may be wrong on the sheet."""
        if not self.weights:
            return self.responses.hypotheses
        return self.memo.once(("hypotheses", self.weights), lambda: weighed(self.responses.hypotheses, self.weights))

    @property
    def curves(self) -> Curves:
        """All rows; where a severity melts a fuse, a curve with the fuse melted and one with it bridged."""
        return self.responses.curves

    @property
    def swept_element(self) -> NDArray[np.intp]:
        """(M,) number of the element whose resistance is the row's severity, −1 for none."""
        return self.responses.swept_element

    @property
    def _available(self) -> dict[Measurement, None]:
        """Every test that the sheet's places allow, in order."""
        return self._once("available", self._make_available)

    def _make_available(self) -> dict[Measurement, None]:
        return dict.fromkeys(available_tests(self.sheet))

    @property
    def offered(self) -> tuple[Measurement, ...]:
        """Every test that the sheet's places allow, ohms through diodes left out: such a number depends on the meter."""
        return self._once("offered", self._make_offered)

    def _make_offered(self) -> tuple[Measurement, ...]:
        tests = tuple(self._available)
        if not self._junctions:
            return tests
        doubtful: set[Measurement] = set()
        for setup, numbers in _by_setup(tests).items():
            if setup.instrument == "ohms":
                own = tuple(tests[i] for i in numbers)
                doubtful |= {t for t, opens in zip(own, self._opens_a_diode(own).tolist(), strict=True) if opens}
        return tuple(t for t in tests if t not in doubtful)

    @property
    def paths(self) -> tuple[Path, ...]:
        """The way of current through each load."""
        return self._once("paths", self._make_paths)

    def _make_paths(self) -> tuple[Path, ...]:
        return load_paths(self.sheet)

    @property
    def visible(self) -> NDArray[np.bool_]:
        """(M,) whether any test on offer would show the row apart from a sound circuit; a sound circuit itself counts as visible.

        A fault that nothing can show, such as a ground wire chafed through to ground, cannot be blamed for anything either.
        """
        return self._once("visible", self._make_visible)

    def _make_visible(self) -> NDArray[np.bool_]:
        # What an ammeter shows, volts show too; its set-ups are the dear ones to solve.
        tests, prediction = self.on_offer
        sound = prediction.value[:1]
        # What sound parts scatter over hides a fault as well as the meter does; but a supply can be read for itself.
        scatter = np.sqrt((self.sound_spread[:, ~self.supplies] ** 2).sum(axis=1))
        sigma = np.sqrt(scale_uncertainty(sound, tests) ** 2 + scatter**2 + (UNRELIABLE_VOLTS * prediction.stray) ** 2)
        apart = np.abs(prediction.value - sound) / sigma
        seen: NDArray[np.bool_] = apart.max(axis=1) >= VISIBLE_SIGMA
        for question in self.questions:
            sort = word_sort(question)
            if sort.shows_more:
                words = sort.chances(self, question)
                seen |= np.abs(words - words[0]).max(axis=1) >= VISIBLE_WORDS
        seen[0] = True
        return seen

    @property
    def prior_of_nothing(self) -> float:
        """Prior of "nothing on this sheet is wrong", with the share of faults and severities that nothing would show."""
        return self.memo.once(("prior_of_nothing", self.weights), self._make_prior_of_nothing)

    def _make_prior_of_nothing(self) -> float:
        curves, given = self.curves, self.hypotheses.prior
        hidden = 0.0
        for c, h in enumerate(curves.hypothesis):
            rows = slice(curves.start[c], curves.start[c] + curves.length[c])
            hidden += given[h] * curves.share[c] * float((~self.visible[rows]).mean())
        return float(given[0] + hidden)

    def working_state(self, part: str, element: str) -> str:
        """The state in which a sound circuit sends most current through an element."""
        number = self.network.keys.index((part, element)) if (part, element) in self.network.keys else 0
        amps = {state: abs(float(self.table(Setup(state, "volts")).points.amps[0, number])) for state in self.sheet.states}
        return max(amps, key=lambda state: amps[state])

    def table(self, setup: Setup) -> Table:
        """The table of a set-up, solved once; with the battery off states that differ only in what needs power share one."""
        setup = self.responses.resting(setup)
        tables = self.memo.tables_for(setup)
        if setup not in tables:
            tables[setup] = self.responses.solve(setup)
        return tables[setup]

    @property
    def questions(self) -> tuple[Question, ...]:
        """What can be found out without a number."""
        return self._once("questions", self._make_questions)

    def _make_questions(self) -> tuple[Question, ...]:
        return tuple(question for question in on_offer(self.sheet) if is_allowed(self.sheet, question))

    @property
    def causes(self) -> tuple[Hypothesis, ...]:
        """The faults (H), nothing first."""
        return self.hypotheses.items

    def points(self, state: str) -> Points:
        """The live circuit in a state, a point per row."""
        return self.table(Setup(state, "volts")).points

    def by_cause(self, numbers: Floats) -> Floats:
        """(M, …) rows from numbers by fault (H, …)."""
        return np.repeat(numbers[self.curves.hypothesis], self.curves.length, axis=0)

    @property
    def on_offer(self) -> tuple[tuple[Measurement, ...], Prediction]:
        """The volts and ohms tests on offer, and what they would show: weighed anew after every reading."""
        return self._once("on_offer", self._make_on_offer)

    def _make_on_offer(self) -> tuple[tuple[Measurement, ...], Prediction]:
        tests = tuple(t for t in self.offered if t.instrument != "amps")
        return tests, self.predict(tests)

    def predict(self, tests: tuple[Measurement, ...]) -> Prediction:
        """What tests would show, for every row; kept by test."""
        if not tests:
            return Prediction.none(self.curves.rows)
        known = {test: found for test in tests if (found := self.memo.offered.get(test) or self.memo.own.get(test)) is not None}
        missing = tuple(dict.fromkeys(test for test in tests if test not in known))
        for setup, numbers in _by_setup(missing).items():
            chosen = tuple(missing[i] for i in numbers)
            breathe()
            found = self.table(setup).predict(chosen, self.curves)
            if self._junctions and not setup.between:
                found = replace(found, stray=np.maximum(found.stray, self._hangs_on_a_diode(setup, chosen, found)))
            known |= {test: found.take([i]) for i, test in enumerate(chosen)}
        for test in missing:
            kept = self.memo.offered if test in self._available else self.memo.own
            kept[test] = known[test]
        return Prediction.join([known[test] for test in tests], np.arange(len(tests)))

    def predict_reading(self, test: Measurement, shown: float) -> Prediction:
        """What a test that was taken shows, for every row; ``shown`` is what it did show, on its scale.

        Where an ohmmeter's own volts may open a diode, it is put into the circuit; tests that are only weighed do with the circuit's
        small-signal ohms. Whether they do open it nobody knows of a meter: some lay two volts at their leads, some too little. Nor does
        anybody know whether electronics without power have a way for current at all. So each row is taken at its word with the diodes
        open, or shut, or with nothing inside of what sleeps, whichever comes nearest to what was shown; and anything between open and
        shut may be what a meter makes of a diode that is half open.
        """
        ways = self._ways(test)
        nearest, found = _nearest(ways, shown, self._asleep), ways[0]
        for number, way in enumerate(ways[1:], 1):
            found = found.where((nearest != number)[:, None], way)
        if self._reading_setup(test) == test.setup:
            return found
        open_ones, shut_ones = ways[0], ways[1]
        gap = np.abs(shut_ones.value - open_ones.value)
        between = np.abs(2.0 * shown - shut_ones.value - open_ones.value) < _HALF_OPEN * gap
        half_open = replace(
            shut_ones,
            value=np.where(between, shown, shut_ones.value),
            slope=np.zeros_like(gap),
            stray=np.maximum(shut_ones.stray, gap / math.sqrt(12.0) / max(shown, 0.1)),
        )
        return found.where(~(between & (gap > _DIODE_MATTERS) & (nearest < 2)[:, None]), half_open)

    def _ways(self, test: Measurement) -> tuple[Prediction, ...]:
        """What a test may show: as the meter finds it; and of ohms, as far as the sheet has such, with its diodes shut, and with nothing
        inside of what sleeps."""
        if not self._reduced(test):
            return (self.predict((test,)),)
        if test not in self.memo.exact:
            setup = self._reading_setup(test)
            first = self.predict((test,)) if setup == test.setup else self.table(setup).predict((test,), self.curves)
            self.memo.exact[test] = (first, *(self._way(first, table, test) for table in self._reduced(test)))
        return self.memo.exact[test]

    def _way(self, first: Prediction, table: Table, test: Measurement) -> Prediction:
        value, _, stray = table.numbers((test,))
        return replace(
            first, value=value, slope=self.curves.gradient(value[:, 0])[:, None], stray=stray,
            regime=first.regime + 1 + first.regime.max(), tears=Tears.none(len(value), 1), edge=np.zeros_like(value),
        )  # fmt: skip

    def _reduced(self, test: Measurement) -> tuple[Table, ...]:
        """The dead circuit of a test of ohms without what may not conduct."""
        if test.setup.instrument != "ohms":
            return ()
        shut = (self._without(test.setup, asleep=False),) if self._junctions else ()
        return (*shut, self._without(test.setup, asleep=True)) if self._asleep else shut

    def _reading_setup(self, test: Measurement) -> Setup:
        dead = test.setup.instrument == "ohms"
        return Setup(test.state, "ohms", (test.red, test.black), test.without) if dead and self._junctions else test.setup

    @property
    def _junctions(self) -> bool:
        return self._once("junctions", self._make_junctions)

    def _make_junctions(self) -> bool:
        return any(e.law is Law.JUNCTION for e in self.network.elements)

    @property
    def _asleep(self) -> bool:
        return self._once("asleep", lambda: any(e.asleep for e in self.network.elements))

    def _hangs_on_a_diode(self, setup: Setup, tests: tuple[Measurement, ...], prediction: Prediction) -> NDArray[np.bool_]:
        """(M, T) where a diode carries a good part of the meter's own current: the number then depends on the meter, and is not counted
        on. An ohmmeter drives that current, a voltmeter draws it from a point that little else holds."""
        red, black = self.table(setup).leads(tests)
        between = self.table(setup).points.looks_into(red, black)
        loads = np.array([instrument(t.instrument).burden_ohms for t in tests]) * _LOADED
        weak = between > loads if setup.instrument == "volts" else np.ones(between.shape, dtype=bool)
        if not weak.any():
            return weak
        without = self._without(setup).points.looks_into(red, black)
        if setup.instrument == "volts":
            return weak & (without > _DIODE_HOLDS * between)
        ceiling = np.array([instrument(t.instrument).open_ohms for t in tests])
        return np.abs(prediction.value - compress_ohms(without, ceiling)) > _DIODE_MATTERS

    def _without(self, setup: Setup, asleep: bool = False) -> Table:
        """A set-up with every junction taken out, and with what is ``asleep`` too where that is asked for."""
        setup = self.responses.resting(setup)
        if (setup, asleep) not in self.memo.reduced:
            self.memo.reduced[setup, asleep] = self.responses.reduced(setup, asleep)
        return self.memo.reduced[setup, asleep]

    def _opens_a_diode(self, tests: tuple[Measurement, ...]) -> NDArray[np.bool_]:
        """(T,) whether an ohmmeter's own volts would open a diode of the sound circuit, in tests of one set-up: its number then depends on
        the meter. Looked at is the current that every junction would take at the volts that the meter puts across it."""
        points = self.table(tests[0].setup).points
        network = points.network
        mine = [(settled, int(np.flatnonzero(rows == 0)[0])) for rows, _, settled in points.shares if (rows == 0).any()]
        if len(mine) != 1:
            return np.ones(len(tests), dtype=bool)  # what pulses has no ohms to speak of
        settled, sound = mine[0]
        node = network.node
        red, black = np.array([node(t.red) for t in tests]), np.array([node(t.black) for t in tests])
        into = points.looks_into(red, black, np.zeros(1, dtype=np.intp))[0]
        amps = TEST_VOLTS / (TEST_OHMS + into)  # (T,)
        own = np.flatnonzero(network.law == Law.JUNCTION)
        volts = np.clip(settled.across_by(sound, own, red, black) * amps, -TEST_VOLTS, TEST_VOLTS)  # (J, T)
        ohms = np.maximum(network.ohms[own], 1e-3)[:, None]
        law = (network.law[own], volts.T, network.volts[own], network.amps[own], network.shape[own])
        drawn, _ = nonlinear_amps(*law, np.broadcast_to(ohms, volts.shape).T)
        conducts: NDArray[np.bool_] = (np.abs(drawn) > _THROUGH_A_DIODE * amps[:, None]).any(axis=1)
        return conducts

    def spread(self, tests: tuple[Measurement, ...], rows: NDArray[np.intp]) -> Floats:
        """(len(rows), T, K): what each tolerance does to the tests' numbers. Setups share the sheet's parts and so their tolerances; those
        of a state are its own."""
        parts: list[Floats] = [np.zeros((len(rows), 0, self.tolerances))]
        order: list[int] = []
        for setup, numbers in _by_setup(tests).items():
            parts.append(self.spread_of_setup(setup, tuple(tests[i] for i in numbers), rows))
            order += numbers
        return np.concatenate(parts, axis=1)[:, np.argsort(np.array(order, dtype=int))]

    def spread_of_setup(self, setup: Setup, tests: tuple[Measurement, ...], rows: NDArray[np.intp], table: Table | None = None) -> Floats:
        """(len(rows), T, K): the spread of tests of one set-up; ``table`` where it is not that of the set-up as it is."""
        table = table or self.table(setup)
        spread = np.zeros((len(rows), len(tests), self.tolerances))
        states = list(self.sheet.states)
        shared = table.spread(tests, rows)
        first, own = shared.shape[2], states.index(setup.state)
        spread[:, :, :first] = shared
        spread[:, :, first + 1 + own] = shared[:, :, BODY_COLUMN] * (BODY_MOVES / BODY_SHARED)
        spread[:, :, first + 1 + len(states) + own] = table.swing(tests, rows)
        return spread

    def reading_spread(self, test: Measurement, shown: float, rows: NDArray[np.intp]) -> Floats:
        """(len(rows), K): the spread of a test that was taken and did show ``shown``, on its scale."""
        spread = self._kept_spreads((test,), (self._reading_setup(test),), rows)[:, 0]
        reduced = self._reduced(test)
        if not reduced:
            return spread
        nearest, spread = _nearest(self._ways(test), shown, self._asleep)[rows], spread.copy()
        for number, table in enumerate(reduced, 1):
            own = np.flatnonzero(nearest == number)
            if own.size:
                spread[own] = self.spread_of_setup(test.setup, (test,), rows[own], table)[:, 0]
        return spread

    def weighing_spreads(self, tests: tuple[Measurement, ...], rows: NDArray[np.intp]) -> Floats:
        """(len(rows), T, K): the spreads of tests that are only weighed."""
        return self._kept_spreads(tests, tuple(test.setup for test in tests), rows)

    def _kept_spreads(self, tests: tuple[Measurement, ...], setups: tuple[Setup, ...], rows: NDArray[np.intp]) -> Floats:
        """(len(rows), T, K), kept row by row: the same tests are looked at after every new reading."""
        kept = [self.memo.spread(test, setup, self.curves.rows, self.tolerances) for test, setup in zip(tests, setups, strict=True)]
        todo: dict[Setup, list[int]] = {}
        for i, (known, _) in enumerate(kept):
            if not known[rows].all():
                todo.setdefault(setups[i], []).append(i)
        for setup, numbers in todo.items():
            breathe()
            missing = np.zeros(self.curves.rows, dtype=bool)
            missing[rows] = ~np.logical_and.reduce([kept[i][0][rows] for i in numbers])
            lacking = np.flatnonzero(missing)
            asked = self.spread_of_setup(setup, tuple(tests[i] for i in numbers), lacking)
            for place, i in enumerate(numbers):
                known, spread = kept[i]
                spread[lacking], known[lacking] = asked[:, place], True
        return np.stack([spread[rows] for _, spread in kept], axis=1) if kept else np.empty((len(rows), 0, self.tolerances))

    @property
    def plain_offer(self) -> tuple[tuple[Measurement, ...], Prediction]:
        """Of `on_offer` what goes against battery minus, and all ohms: the other volts are differences of these."""
        return self._once("plain_offer", self._make_plain_offer)

    def _make_plain_offer(self) -> tuple[tuple[Measurement, ...], Prediction]:
        tests, prediction = self.on_offer
        columns = [i for i, t in enumerate(tests) if t.instrument == "ohms" or t.black == self.sheet.minus]
        return tuple(tests[i] for i in columns), prediction.take(columns)

    @property
    def sound_spread(self) -> Floats:
        """(T, K): what the tolerances do to the tests of `on_offer` in a sound circuit."""
        return self._once("sound_spread", self._make_sound_spread)

    def _make_sound_spread(self) -> Floats:
        spread: Floats = self.spread(self.on_offer[0], np.zeros(1, dtype=np.intp))[0]
        return spread

    @property
    def column_on_offer(self) -> dict[Measurement, int]:
        """Where each test of `on_offer` stands among them."""
        return self._once("column_on_offer", self._make_column_on_offer)

    def _make_column_on_offer(self) -> dict[Measurement, int]:
        return {test: i for i, test in enumerate(self.on_offer[0])}

    @property
    def supplies(self) -> NDArray[np.bool_]:
        """(K,) which tolerances are volts of a source: what both sides of a vehicle share, and what drifts from reading to reading."""
        return self._once("supplies", self._make_supplies)

    def _make_supplies(self) -> NDArray[np.bool_]:
        tolerances = Tolerances.of(self.network)
        laws = np.array([self.network.elements[i].law in (Law.EMF, Law.LIMITED) for i in tolerances.element], dtype=bool)
        return np.pad(laws & tolerances.of_volts[: len(laws)], (0, self.tolerances - len(laws)))

    @property
    def sag(self) -> int:
        """Which tolerance is how far the supply sags: it is nought here, since it goes by the order of the readings."""
        return self._once("sag", lambda: Tolerances.of(self.network).count)

    @property
    def tolerances(self) -> int:
        """Number K of tolerances: those that the sheet's parts have between them, how far the supply sags while one measures, and two for
        each state: how far the body moves in it, and how what chatters divides its time."""
        return self._once("tolerances", self._make_tolerances)

    def _make_tolerances(self) -> int:
        return self.sag + 1 + 2 * len(self.sheet.states)

    def profile(self, state: str, row: int, faults: tuple[Fault, ...]) -> Profile:
        """The circuit in a state with ``faults`` and fuses melted as in ``row``; the sound one is kept."""

        def solved() -> Profile:
            return self.responses.profile(state, row, faults, self.tolerances)

        return solved() if faults or row else self.memo.once(("sound", state), solved)


def _nearest(ways: tuple[Prediction, ...], shown: float, bare: bool) -> NDArray[np.intp]:
    """(M,) number of the prediction of a test that comes nearest to what was shown. The last one is ``bare`` where nothing sleeps in it:
    that is taken at its word, or else what sleeps has a way, of unknown ohms."""
    misses = np.abs(np.stack([way.value[:, 0] for way in ways]) - shown)
    if bare:
        misses[-1] = np.where(misses[-1] < _BARE_WITHIN, misses[-1], np.inf)
    nearest: NDArray[np.intp] = misses.argmin(axis=0)
    return nearest


def _by_setup(tests: tuple[Measurement, ...]) -> dict[Setup, list[int]]:
    groups: dict[Setup, list[int]] = {}
    for i, test in enumerate(tests):
        groups.setdefault(test.setup, []).append(i)
    return groups
