"""A *workup*: a sheet prepared for isolation, what every test would show under every hypothesis. A pure function of the sheet; what has
been worked out is kept in a memo that the caller may own."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
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
from ...circuit.part import Law
from ...circuit.paths import Path, load_paths
from ...circuit.points import Points
from ...circuit.sensitivity import BODY_COLUMN, Tolerances
from ...circuit.sheet import Sheet
from ...circuit.wear import BODY_MOVES, BODY_SHARED
from ...evidence.asked import Measurement, Question, Setup
from ...evidence.registry import on_offer, word_sort
from ...evidence.safety import is_allowed
from ...learn import NO_WEIGHTS, Weights
from ...meter.instrument import instrument
from .curves import Curves
from .hypotheses import Hypotheses, Hypothesis, weighed
from .measurable import available_tests
from .memo import Memo
from .prediction import Prediction, Spot, Tears, interpolate, touched
from .responses import Responses
from .scale import compress_ohms, scale_uncertainty
from .table import Profile, Table

__all__ = ["UNRELIABLE_VOLTS", "Column", "Workup"]

Made = TypeVar("Made")

UNRELIABLE_VOLTS = judged("UNRELIABLE_VOLTS", 6.0, "V", "how vague a number is taken to be that hangs on insulation")
VISIBLE_SIGMA, VISIBLE_WORDS = 2.0, 0.5  # by a number; by how much likelier or less likely a word becomes
_DIODE_MATTERS = 0.05  # on the compressed scale of ohms
# Share of a voltmeter's own ohms from which on it loads a point, and how many times more ohms that has without its diodes if they hold it.
_LOADED, _DIODE_HOLDS = 0.01, 1.3
_HALF_OPEN = 0.8  # share of the way between a diode open and shut, in the middle of it
_BARE_WITHIN = 1.0  # on the compressed scale of ohms
_AT_ONCE = 48  # tests
_THROUGH_A_DIODE = 0.03  # share of an ohmmeter's current that a junction may take


@dataclass(frozen=True, eq=False)
class Column:
    """What one reading would be at every row: its ``prediction`` (M, 1), the ``edge`` (M,) by how much it is vague beside a threshold, and
    which ``way`` (M,) the meter is taken to have found there."""

    prediction: Prediction
    edge: Floats
    way: NDArray[np.int8]


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
        seen = np.zeros(self.curves.rows, dtype=bool)
        seen[0] = True
        # What sound parts scatter over hides a fault as well as the meter does; but a supply can be read for itself.
        scatter = np.sqrt((self.sound_spread[:, ~self.supplies] ** 2).sum(axis=1))
        sigma = np.hypot(scale_uncertainty(self.sound_values[None], self.on_offer)[0], scatter)
        for setup, numbers in _by_setup(self.on_offer).items():
            for block in _spread_out(numbers):
                rows = np.flatnonzero(~seen)
                if not rows.size:
                    break
                tests = tuple(self.on_offer[i] for i in block)
                value, stray = self._numbers(setup, tests, rows)
                apart = np.abs(value - self.sound_values[block]) / np.hypot(sigma[block], UNRELIABLE_VOLTS * stray)
                seen[rows] = apart.max(axis=1) >= VISIBLE_SIGMA
        for question in self.questions:
            if word_sort(question).shows_more:
                rows = np.concatenate([[0], np.flatnonzero(~seen)])
                words = self.chances_at(question, rows)
                seen[rows[1:]] |= np.abs(words[1:] - words[0]).max(axis=1) >= VISIBLE_WORDS
        return seen

    def _numbers(self, setup: Setup, tests: tuple[Measurement, ...], rows: NDArray[np.intp]) -> tuple[Floats, Floats]:
        """(m, T) values and strays of tests of one set-up at some rows."""
        breathe()
        value, stray = self.table(setup).stray(tests, rows)
        return value, self._stray(setup, tests, value, stray, rows)

    def chances_at(self, question: Question, rows: NDArray[np.intp]) -> Floats:
        """(m, outcomes) how likely each outcome of something seen, done or known is at some rows; in the order of `outcomes_of`."""
        known = self.memo.chances.get(question)
        if known is not None:
            return known[rows]
        kept = self.memo.chances_of_rows.setdefault(question, {})
        missing = [row for row in dict.fromkeys(rows.tolist()) if row not in kept]
        if missing:
            asked = np.array([0, *(row for row in missing if row)])
            for row, chance in zip(asked.tolist(), word_sort(question).chances(_SomeRows(self, asked), question), strict=True):
                kept[row] = chance
        return np.stack([kept[row] for row in rows.tolist()])

    def answer_if_sound(self, question: Question) -> int:
        """Number of the likeliest outcome on a sound circuit."""
        return int(self.chances_at(question, np.zeros(1, dtype=np.intp))[0].argmax())

    def chances(self, question: Question) -> Floats:
        """(M, outcomes) the same of all rows."""
        if question not in self.memo.chances:
            self.memo.chances[question] = word_sort(question).chances(self, question)
            self.memo.chances_of_rows.pop(question, None)
        return self.memo.chances[question]

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
        number = np.array([self.network.keys.index((part, element)) if (part, element) in self.network.keys else 0])
        sound = np.zeros(1, dtype=np.intp)
        amps = {state: abs(float(self.points(state).of(sound).amps_through(number)[0, 0])) for state in self.sheet.states}
        return max(amps, key=lambda state: amps[state])

    def table(self, setup: Setup) -> Table:
        """The table of a set-up; with the battery off states that differ only in what needs power share one."""
        setup = self.responses.resting(setup)
        tables = self.memo.tables_for(setup)
        if setup not in tables:
            tables[setup] = self.responses.table(setup)
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

    def sound_volts(self, state: str) -> Floats:
        """(N,) volts of the nodes of the sound circuit in a state."""

        def solved() -> Floats:
            every = np.arange(len(self.network.nodes))
            volts: Floats = self.points(state).of(np.zeros(1, dtype=np.intp)).between(every, np.full_like(every, -1))[0]
            return volts

        return self.memo.once(("sound volts", state), solved)

    def by_cause(self, numbers: Floats) -> Floats:
        """(M, …) rows from numbers by fault (H, …)."""
        return np.repeat(numbers[self.curves.hypothesis], self.curves.length, axis=0)

    @property
    def on_offer(self) -> tuple[Measurement, ...]:
        """The volts and ohms tests on offer: weighed anew after every reading."""
        return self._once("on_offer", lambda: tuple(t for t in self.offered if t.instrument != "amps"))

    @property
    def sound_values(self) -> Floats:
        """(T,) what the tests of `on_offer` show in a sound circuit."""
        return self._once("sound_values", self._make_sound_values)

    def _make_sound_values(self) -> Floats:
        values = np.zeros(len(self.on_offer))
        for setup, numbers in _by_setup(self.on_offer).items():
            values[numbers] = self.table(setup).values(tuple(self.on_offer[i] for i in numbers), np.zeros(1, dtype=np.intp))[0]
        return values

    def predict(self, tests: tuple[Measurement, ...], rows: NDArray[np.intp] | None = None) -> Prediction:
        """What tests would show at some rows, ascending, or at all."""
        count = self.curves.rows if rows is None else len(rows)
        if not tests:
            return Prediction.none(rows, count)
        parts, order = [], []
        for setup, numbers in _by_setup(tests).items():
            chosen = tuple(tests[i] for i in numbers)
            breathe()
            found = self.table(setup).predict(chosen, rows)
            parts.append(replace(found, stray=self._stray(setup, chosen, found.value, found.stray, rows)))
            order += numbers
        joined = Prediction.join(parts)
        return joined if order == list(range(len(tests))) else joined.take(np.argsort(np.array(order)))

    def values(self, tests: tuple[Measurement, ...], rows: NDArray[np.intp] | None = None) -> Floats:
        """(m, T) the numbers alone that tests would show, at some rows or at all."""
        shown: Floats = np.concatenate([self.table(test.setup).values((test,), rows) for test in tests], axis=1)
        return shown

    def at_spots(self, tests: tuple[Measurement, ...], spot: Spot, step: Floats) -> tuple[Floats, Floats]:
        """(…, T) what tests would show at spots (…), and how far that hangs on insulation alone at the nearer row; ``step`` (…) is the grid
        spacing of each spot's curve."""
        found = self.predict(tests, touched(spot, step))
        return interpolate(found, spot, step), found.stray[found.place(spot.near)]

    def _stray(self, setup: Setup, tests: tuple[Measurement, ...], value: Floats, stray: Floats, rows: NDArray[np.intp] | None) -> Floats:
        """(m, T) strays, with what hangs on a diode."""
        if not self._junctions or setup.between:
            return stray
        return np.maximum(stray, self._hangs_on_a_diode(setup, tests, value, rows))

    def reading(self, test: Measurement, shown: float) -> Column:
        """What a test that was taken shows, for every row; ``shown`` is what it did show, on its scale.

        Where an ohmmeter's own volts may open a diode, it is put into the circuit; tests that are only weighed do with the circuit's
        small-signal ohms. Whether they do open it nobody knows of a meter: some lay two volts at their leads, some too little. Nor does
        anybody know whether electronics without power have a way for current at all. So each row is taken at its word with the diodes
        open, or shut, or with nothing inside of what sleeps, whichever comes nearest to what was shown; and anything between open and
        shut may be what a meter makes of a diode that is half open.
        """
        key = (test, shown) if self._reduced(test) else test
        return self.memo.kept(self.memo.columns, key, lambda: self._made_reading(test, shown))

    def prepare(self, tests: tuple[Measurement, ...]) -> None:
        """Work out together what several tests show at every row, for `reading` to find."""
        missing = tuple(dict.fromkeys(t for t in tests if t not in self.memo.columns and not self._reduced(t)))
        if len(missing) < 2:
            return
        for setup, numbers in _by_setup(missing).items():
            for start in range(0, len(numbers), _AT_ONCE):
                chosen = tuple(missing[i] for i in numbers[start : start + _AT_ONCE])
                found = self.predict(chosen)
                edge = self.table(setup).edge(found)
                for i, test in enumerate(chosen):
                    column = Column(found.take([i]).alone(), edge[:, i].copy(), np.zeros(self.curves.rows, dtype=np.int8))
                    self.memo.kept(self.memo.columns, test, lambda column=column: column)  # type: ignore[misc]

    def _made_reading(self, test: Measurement, shown: float) -> Column:
        ways = self._ways(test) if self._reduced(test) else self._made_ways(test)
        first, edge = ways[0].prediction, ways[0].edge
        if len(ways) == 1:
            return ways[0]
        nearest, found = _nearest(ways, shown, self._asleep), first
        for number, way in enumerate(ways[1:], 1):
            found = found.where((nearest != number)[:, None], way.prediction)
        edge = np.where(nearest == 0, edge, 0.0)
        if self._reading_setup(test) == test.setup:
            return Column(found, edge, nearest)
        open_ones, shut_ones = first, ways[1].prediction
        gap = np.abs(shut_ones.value - open_ones.value)
        between = np.abs(2.0 * shown - shut_ones.value - open_ones.value) < _HALF_OPEN * gap
        half_open = replace(
            shut_ones,
            value=np.where(between, shown, shut_ones.value),
            slope=np.zeros_like(gap),
            stray=np.maximum(shut_ones.stray, gap / math.sqrt(12.0) / max(shown, 0.1)),
        )
        halfway = between & (gap > _DIODE_MATTERS) & (nearest < 2)[:, None]
        return Column(found.where(~halfway, half_open), np.where(halfway[:, 0], 0.0, edge), nearest)

    def _ways(self, test: Measurement) -> tuple[Column, ...]:
        """What a test may show: as the meter finds it; and of ohms, as far as the sheet has such, with its diodes shut, and with nothing
        inside of what sleeps."""
        return self.memo.kept(self.memo.columns, ("ways", test), lambda: self._made_ways(test))

    def _made_ways(self, test: Measurement) -> tuple[Column, ...]:
        setup, nothing = self._reading_setup(test), np.zeros(self.curves.rows)
        table = self.table(setup)
        first = self.predict((test,)) if setup == test.setup else table.predict((test,))
        ways = [Column(first, table.edge(first)[:, 0], nothing.astype(np.int8))]
        for reduced in self._reduced(test):
            value, stray = reduced.stray((test,))
            regime = first.regime + 1 + first.regime.max()
            slope = self.curves.gradient(value[:, 0])[:, None]
            way = Prediction(None, value, slope, regime, stray, Tears.none(len(value), 1))
            ways.append(Column(way, nothing, nothing.astype(np.int8)))
        return tuple(ways)

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

    def _hangs_on_a_diode(
        self, setup: Setup, tests: tuple[Measurement, ...], value: Floats, rows: NDArray[np.intp] | None
    ) -> NDArray[np.bool_]:
        """(m, T) where a diode carries a good part of the meter's own current: the number then depends on the meter, and is not counted
        on. An ohmmeter drives that current, a voltmeter draws it from a point that little else holds."""
        table = self.table(setup)
        red, black = table.leads(tests)
        between = table.points_at(rows).looks_into(red, black)
        loads = np.array([instrument(t.instrument).burden_ohms for t in tests]) * _LOADED
        weak = between > loads if setup.instrument == "volts" else np.ones(between.shape, dtype=bool)
        if not weak.any():
            return weak
        without = self._without(setup).points_at(rows).looks_into(red, black)
        if setup.instrument == "volts":
            return weak & (without > _DIODE_HOLDS * between)
        ceiling = np.array([instrument(t.instrument).open_ohms for t in tests])
        return np.abs(value - compress_ohms(without, ceiling)) > _DIODE_MATTERS

    def _without(self, setup: Setup, asleep: bool = False) -> Table:
        """A set-up with every junction taken out, and with what is ``asleep`` too where that is asked for."""
        setup = self.responses.resting(setup)
        if (setup, asleep) not in self.memo.reduced:
            self.memo.reduced[setup, asleep] = self.responses.reduced(setup, asleep)
        return self.memo.reduced[setup, asleep]

    def _opens_a_diode(self, tests: tuple[Measurement, ...]) -> NDArray[np.bool_]:
        """(T,) whether an ohmmeter's own volts would open a diode of the sound circuit, in tests of one set-up: its number then depends on
        the meter. Looked at is the current that every junction would take at the volts that the meter puts across it."""
        table, sound = self.table(tests[0].setup), np.zeros(1, dtype=np.intp)
        points = table.points_at(sound)
        network = points.network
        own = np.flatnonzero(network.law == Law.JUNCTION)
        red, black = table.leads(tests)
        per_ampere = points.across_by(own, red, black)
        if per_ampere is None:
            return np.ones(len(tests), dtype=bool)  # what pulses has no ohms to speak of
        amps = TEST_VOLTS / (TEST_OHMS + points.looks_into(red, black)[0])  # (T,)
        volts = np.clip(per_ampere[0] * amps, -TEST_VOLTS, TEST_VOLTS)  # (J, T)
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
        states = list(self.sheet.states)
        spread = table.spread(tests, rows, self.tolerances)
        first, own = table.tolerances.count, states.index(setup.state)
        spread[:, :, first + 1 + own] = spread[:, :, first + BODY_COLUMN] * (BODY_MOVES / BODY_SHARED)
        spread[:, :, first + 1 + len(states) + own] = table.swing(tests, rows)
        return spread

    def reading_spreads(self, tests: tuple[Measurement, ...], shown: tuple[float, ...], rows: NDArray[np.intp]) -> Floats:
        """(len(rows), T, K): the spreads of tests that were taken and did show ``shown``, on their scales."""
        groups: dict[Setup, list[int]] = {}
        for i, test in enumerate(tests):
            groups.setdefault(self._reading_setup(test), []).append(i)
        spread: Floats = np.empty((len(rows), len(tests) if len(groups) > 1 else 0, self.tolerances))
        for setup, numbers in groups.items():
            breathe()
            made = self.spread_of_setup(setup, tuple(tests[i] for i in numbers), rows)
            if len(groups) == 1:
                spread = made
            else:
                spread[:, numbers] = made
        for i, test in enumerate(tests):
            reduced = self._reduced(test)
            if not reduced:
                continue
            nearest = self.reading(test, shown[i]).way[rows]
            for number, table in enumerate(reduced, 1):
                own = np.flatnonzero(nearest == number)
                if own.size:
                    spread[own, i] = self.spread_of_setup(test.setup, (test,), rows[own], table)[:, 0]
        return spread

    @property
    def plain_offer(self) -> tuple[Measurement, ...]:
        """Of `on_offer` what goes against battery minus, and all ohms: the other volts are differences of these."""
        return self._once("plain_offer", lambda: tuple(t for t in self.on_offer if t.instrument == "ohms" or t.black == self.sheet.minus))

    @property
    def sound_spread(self) -> Floats:
        """(T, K): what the tolerances do to the tests of `on_offer` in a sound circuit."""
        return self._once("sound_spread", lambda: self.spread(self.on_offer, np.zeros(1, dtype=np.intp))[0])

    @property
    def column_on_offer(self) -> dict[Measurement, int]:
        """Where each test of `on_offer` stands among them."""
        return self._once("column_on_offer", lambda: {test: i for i, test in enumerate(self.on_offer)})

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


class _SomeRows:
    """Some rows of a workup, the sound one first, as what is seen asks for them."""

    def __init__(self, workup: Workup, rows: NDArray[np.intp]):
        self.workup, self.rows = workup, rows
        self.sheet, self.causes, self.network = workup.sheet, workup.causes, workup.network

    def points(self, state: str) -> Points:
        """Those rows in a state."""
        return self.workup.points(state).of(self.rows)

    def by_cause(self, numbers: Floats) -> Floats:
        """(m, …) the numbers (H, …) of their faults."""
        curves = self.workup.curves
        return numbers[curves.hypothesis[curves.of_row[self.rows]]]


def _nearest(ways: tuple[Column, ...], shown: float, bare: bool) -> NDArray[np.int8]:
    """(M,) number of the prediction of a test that comes nearest to what was shown. The last one is ``bare`` where nothing sleeps in it:
    that is taken at its word, or else what sleeps has a way, of unknown ohms."""
    misses = np.abs(np.stack([way.prediction.value[:, 0] for way in ways]) - shown).round(9)
    if bare:
        misses[-1] = np.where(misses[-1] < _BARE_WITHIN, misses[-1], np.inf)
    nearest: NDArray[np.int8] = misses.argmin(axis=0).astype(np.int8)
    return nearest


def _spread_out(numbers: list[int]) -> Iterator[list[int]]:
    """Numbers of tests in blocks, each of which has some from everywhere: what the first ones show need not be looked for again."""
    blocks = -(-len(numbers) // _AT_ONCE)
    yield from (numbers[start::blocks] for start in range(blocks))


def _by_setup(tests: tuple[Measurement, ...]) -> dict[Setup, list[int]]:
    groups: dict[Setup, list[int]] = {}
    for i, test in enumerate(tests):
        groups.setdefault(test.setup, []).append(i)
    return groups
