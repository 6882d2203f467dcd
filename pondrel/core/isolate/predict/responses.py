"""What every test would show under every hypothesis: the sheet solved for all faults and severities at once.

A *workup* is a sheet prepared for isolation. Its rows are (hypothesis, severity, fuse variant); every *setup* (a state, live or
with the battery off, perhaps with a meter in line) is solved for all rows in one batch and kept. From a setup's node voltages,
branch currents and transfer impedances follow, for any two probes: the number shown, its slope over severity, and its
sensitivity to the tolerance of every healthy part, which is what makes tolerances correlated between readings.

Sensitivities are exact first derivatives. With D = zᵖ·u (volts across an element per ampere into a probe), reciprocity gives
dV/d ln R = D·i and dZ/d ln R = D²·g (Tellegen's theorem; adjoint network method).
"""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ...base.arrays import Floats
from ...base.patience import breathe
from ...circuit.fault import Fault, apply_faults, mode_of
from ...circuit.laws import nonlinear_amps
from ...circuit.layout import Path, load_paths
from ...circuit.measure import TEST_OHMS, TEST_VOLTS, in_circuit, ohms_shown
from ...circuit.network import BLOW_FACTOR, Cases, Network
from ...circuit.operate import Points, Push, Settled, dead_points, operating_points
from ...circuit.part import Effect, Law
from ...circuit.sensitivity import Sensitivities, Tolerances
from ...circuit.sheet import Sheet
from ...evidence.asked import Measurement, Question, Setup
from ...evidence.registry import on_offer
from ...evidence.safety import is_allowed
from ...meter.instrument import instrument
from .hypotheses import Hypotheses, Hypothesis, enumerate_hypotheses
from .measurable import available_tests
from .scale import compress_ohms, scale_uncertainty

__all__ = ["Curves", "Prediction", "Table", "Tears", "Workup"]

# A melted fuse may have been bridged or replaced before the readings were taken. Common practice, no source.
BRIDGED_SHARE = 0.1
# A point that nothing within a megohm defines picks up stray volts from damp, dirt and its neighbours. Common practice, no source.
STRAY_OHMS = 1e6
# Ohms this high are those of dirt, damp and diodes that block: nobody knows them to better than half of them. Common practice, no source.
LEAK_OHMS, LEAK_VAGUENESS = 3e6, 0.035
# A number that hangs on insulation is not counted on to tell anything: it is taken to be this vague.
UNRELIABLE_VOLTS = 6.0
VISIBLE_SIGMA = 2.0
# How much of its time a chattering relay is pulled in nobody knows: a standard deviation of that share, and of one that sets itself. Where
# more goes to and fro than one contact, the mean shown is vague instead, as a share of it. Common practice, no source.
DUTY, OWN_DUTY, CHATTER_VAGUENESS = 0.2, 0.03, 0.3
KEPT_OWN = 200  # tests that are not on offer
KEPT_BETWEEN = 24  # set-ups with a meter in the circuit
KEPT_BELIEFS, KEPT_BELIEF_BYTES = 40, 120_000_000
KEPT_SPREADS, LEAST_SPREADS = 24_000_000, 72  # numbers; tests
_DIODE_MATTERS = 0.05  # on the compressed scale of ohms
# Share of a voltmeter's own ohms from which on it loads a point, and how many times more ohms that has without its diodes if they hold it.
_LOADED, _DIODE_HOLDS = 0.01, 1.3
_THROUGH_A_DIODE = 0.03  # share of an ohmmeter's current that a junction may take
_HALVINGS = 10  # a tear is placed to a thousandth of the grid's step
# A current's tolerances are not carried from reading to reading: it is taken to be this vague, as a share. Common practice, no source.
CLAMP_VAGUENESS = 0.08
# Between two severities with a threshold in between, what is read may be what belongs to the other side. Common practice, no source.
THRESHOLD_VAGUENESS = 0.4
PULSING_VAGUENESS = 0.05  # of a contact that sets its own mean. Common practice, no source.


@dataclass(frozen=True, eq=False)
class Profile:
    """A circuit in one state: ``volts`` (N,) of its ``nodes``, battery minus last, and what the tolerances do to them (N, K)."""

    nodes: tuple[str, ...]
    volts: Floats
    spread: Floats


@dataclass(frozen=True, eq=False)
class Curves:
    """The rows of a workup, as curves over severity.

    Curve c belongs to ``hypothesis[c]`` with share ``share[c]`` of it and occupies rows ``start[c] … start[c] + length[c] − 1``; its
    grid is ``grid[c]`` (ln ohms). ``blown`` (M, E) says which fuses have melted in a row.
    """

    hypothesis: NDArray[np.intp]
    share: Floats
    start: NDArray[np.intp]
    length: NDArray[np.intp]
    grid: tuple[Floats, ...]
    blown: NDArray[np.bool_]

    @property
    def rows(self) -> int:
        """Number of rows M."""
        return int(self.start[-1] + self.length[-1])

    def of(self, curves: NDArray[np.intp]) -> NDArray[np.intp]:
        """The rows of some curves."""
        return np.concatenate([np.arange(self.start[c], self.start[c] + self.length[c]) for c in curves])

    def gradient(self, values: Floats) -> Floats:
        """(M,) slopes per unit of ln severity of numbers (M,) of which only the values are known."""
        made = np.zeros_like(values)
        for start, length, grid in zip(self.start, self.length, self.grid, strict=True):
            if length > 1:
                made[start : start + length] = np.gradient(values[start : start + length], grid)
        return made


@dataclass(frozen=True, eq=False)
class Tears:
    """Where numbers jump between two rows of a curve because contacts move there: ``index`` (M, T) names the tear above a row in a test, −1
    for none; ``at`` (n,) is its place between the rows, in (0, 1), then the number and its slope on either side, (n,) each."""

    index: NDArray[np.intp]
    at: Floats
    below: Floats
    below_slope: Floats
    above: Floats
    above_slope: Floats

    @classmethod
    def none(cls, rows: int, tests: int) -> Tears:
        """No tear anywhere."""
        return cls(np.full((rows, tests), -1), *(np.zeros(0) for _ in range(5)))

    @classmethod
    def join(cls, parts: list[Tears], order: NDArray[np.intp]) -> Tears:
        """Tears of tests side by side, then put in ``order``."""
        starts = np.cumsum([0, *(len(part.at) for part in parts)])
        index = [np.where(part.index >= 0, part.index + start, -1) for part, start in zip(parts, starts, strict=False)]
        names = ("at", "below", "below_slope", "above", "above_slope")
        return cls(np.concatenate(index, axis=1)[:, order], *(np.concatenate([getattr(part, name) for part in parts]) for name in names))


@dataclass(frozen=True, eq=False)
class Prediction:
    """T tests over all rows, each array (M, T): ``value`` on the instrument's scale (ohms compressed), ``slope`` per unit of ln
    severity, ``regime`` numbering the discrete state (relays, fuses), and ``stray`` in [0, 1], how far the number hangs on insulation
    alone, where any few volts may show; ``tears`` where contacts move between two rows, ``edge`` how vague the number is beside one."""

    value: Floats
    slope: Floats
    regime: NDArray[np.intp]
    stray: Floats
    tears: Tears
    edge: Floats

    @classmethod
    def join(cls, parts: list[Prediction], order: NDArray[np.intp]) -> Prediction:
        """Predictions side by side, then put in ``order``."""

        def column(name: str) -> NDArray:
            return np.concatenate([getattr(p, name) for p in parts], axis=1)[:, order]

        tears = Tears.join([p.tears for p in parts], order)
        return cls(column("value"), column("slope"), column("regime"), column("stray"), tears, column("edge"))

    @classmethod
    def none(cls, rows: int) -> Prediction:
        """No test at all."""
        empty = np.zeros((rows, 0))
        return cls(empty, empty, empty.astype(int), empty, Tears.none(rows, 0), empty)

    def take(self, columns: NDArray[np.intp] | list[int] | slice) -> Prediction:
        """Some of the tests."""
        tears = replace(self.tears, index=self.tears.index[:, columns])
        value, slope, stray, edge = (a[:, columns] for a in (self.value, self.slope, self.stray, self.edge))
        return Prediction(value, slope, self.regime[:, columns], stray, tears, edge)

    def where(self, chosen: NDArray[np.bool_], other: Prediction) -> Prediction:
        """These numbers where ``chosen`` (M, T), those of another elsewhere; tears are kept only where all of a column is."""
        names = ("value", "slope", "regime", "stray", "edge")
        value, slope, regime, stray, edge = (np.where(chosen, getattr(self, name), getattr(other, name)) for name in names)
        index = np.where(chosen.all(axis=0), self.tears.index, -1)
        return Prediction(value, slope, regime, stray, replace(self.tears, index=index), edge)

    def of_row(self, row: int) -> Prediction:
        """The same numbers whatever is at fault: those of one row."""
        rows = len(self.value)
        value, stray = (np.repeat(a[[row]], rows, axis=0) for a in (self.value, self.stray))
        regime = np.repeat(self.regime[[row]], rows, axis=0)
        return Prediction(value, np.zeros_like(value), regime, stray, Tears.none(rows, value.shape[1]), np.zeros_like(value))


@dataclass(frozen=True, eq=False)
class Torn:
    """Both sides of n tears: the ``row`` (n,) below each, its place ``at`` (n,), and ``points`` (2n) just below and then just above."""

    row: NDArray[np.intp]
    at: Floats
    points: Points
    swept: NDArray[np.intp]  # (2n,)


@dataclass(frozen=True, eq=False)
class Table:
    """One setup solved for all rows; numbers between probes are worked out when asked for."""

    setup: Setup
    points: Points
    tolerances: Tolerances
    swept: NDArray[np.intp]  # (M,) the element whose ohms are the severity, −1 for none or where contacts chatter
    regime: NDArray[np.intp]
    find_torn: Callable[[], Torn | None]

    @cached_property
    def torn(self) -> Torn | None:
        """Where contacts move between two rows; looked for when a number is first asked for."""
        return self.find_torn()

    def predict(self, tests: tuple[Measurement, ...], curves: Curves) -> Prediction:
        """What the tests of this setup show, for every row."""
        value, slope, stray = self.numbers(tests)
        for i in (i for i, test in enumerate(tests) if test.instrument == "clamp"):
            slope[:, i] = curves.gradient(value[:, i])
        regime = np.repeat(self.regime[:, None], len(tests), axis=1)
        return Prediction(value, slope, regime, stray, self._tears(tests), _at_a_threshold(value, self.regime, curves))

    def _tears(self, tests: tuple[Measurement, ...]) -> Tears:
        made, torn = Tears.none(len(self.regime), len(tests)), self.torn
        if torn is None:
            return made
        count = len(torn.row)
        value, slope, _ = self.numbers(tests, torn.points, torn.swept)
        made.index[torn.row] = np.arange(count * len(tests)).reshape(count, len(tests))
        sides = (value[:count], slope[:count], value[count:], slope[count:])
        return Tears(made.index, np.repeat(torn.at, len(tests)), *(side.ravel() for side in sides))

    def numbers(
        self, tests: tuple[Measurement, ...], points: Points | None = None, swept: NDArray[np.intp] | None = None
    ) -> tuple[Floats, Floats, Floats]:
        """Value, slope and stray (M, T) of the tests, at other points than the table's own if some are given."""
        points, swept = (self.points, self.swept) if points is None or swept is None else (points, swept)
        red, black = self.leads(tests)
        between = points.looks_into(red, black)
        scale = self._scale(between, tests, points=points)
        dead = self.setup.instrument == "ohms" and not self.setup.between
        slope = np.zeros_like(between)
        own = np.flatnonzero(swept >= 0)
        if own.size:
            slope[own] = points.spread(own, red, black, swept[:, None], _own_push(dead), dead)[:, :, 0] * scale[own]
        if dead:
            return compress_ohms(between, np.array([instrument(t.instrument).open_ohms for t in tests])), slope, _leaky(between)
        padded = np.pad(points.volts, ((0, 0), (0, 1)))
        value = padded[:, red] - padded[:, black]
        if self.setup.instrument == "ohms":
            ceiling = np.array([instrument(t.instrument).open_ohms for t in tests])
            ohms = ohms_shown(value)
            return compress_ohms(ohms, ceiling), slope, _leaky(ohms)
        value = value * scale
        stray = np.zeros_like(between)
        if self.setup.instrument == "volts":
            vague = np.where(points.chatter & ~points.swing[0], np.where(points.steady, PULSING_VAGUENESS, CHATTER_VAGUENESS), 0.0)
            # A meter that loads the circuit takes stray volts away.
            hangs = np.array([instrument(t.instrument).burden_ohms > STRAY_OHMS / 10.0 for t in tests])
            stray = np.maximum(between / (between + STRAY_OHMS) * hangs, vague[:, None])
        for i in (i for i, test in enumerate(tests) if test.instrument == "clamp"):
            joins = points.network.between(tests[i].red, tests[i].black)
            signs = np.where(points.network.a == red[i], 1.0, -1.0)
            value[:, i] = (points.amps * signs)[:, joins].sum(axis=1)
            stray[:, i] = np.where(points.chatter, CHATTER_VAGUENESS, CLAMP_VAGUENESS)
        return value, slope, stray

    def spread(self, tests: tuple[Measurement, ...], rows: NDArray[np.intp]) -> Floats:
        """(len(rows), T, K): change of each shown number per standard deviation of each tolerance."""
        red, black = self.leads(tests)
        scale = self._scale(self.points.looks_into(red, black, rows), tests, rows) * [t.instrument != "clamp" for t in tests]
        return self._sensitivities.spread(rows, red, black) * scale[:, :, None]

    def swing(self, tests: tuple[Measurement, ...], rows: NDArray[np.intp]) -> Floats:
        """(len(rows), T): change of each shown number per standard deviation of the time that a chattering contact spends closed."""
        swings, nodes = self.points.swing
        if not swings[rows].any():
            return np.zeros((len(rows), len(tests)))
        red, black = self.leads(tests)
        padded = np.pad(nodes[rows], ((0, 0), (0, 1)))
        share = np.where(self.points.steady[rows], OWN_DUTY, DUTY)
        scale = self._scale(self.points.looks_into(red, black, rows), tests, rows) * [t.instrument != "clamp" for t in tests]
        return (padded[:, red] - padded[:, black]) * scale * share[:, None]

    @cached_property
    def _sensitivities(self) -> Sensitivities:
        return Sensitivities.of(self.tolerances, self.points, self.swept, self.setup.instrument == "ohms" and not self.setup.between)

    def leads(self, tests: tuple[Measurement, ...]) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
        """(T,) nodes under red and black."""
        node = self.points.network.node
        return np.array([node(t.red) for t in tests]), np.array([node(t.black) for t in tests])

    def _scale(
        self, between: Floats, tests: tuple[Measurement, ...], rows: NDArray[np.intp] | slice = slice(None), points: Points | None = None
    ) -> Floats:
        """Shown number per unit of what the probes see: a voltmeter divides with what it looks into, an ammeter reads its own drop."""
        if self.setup.instrument == "ohms" and self.setup.between:
            points = points or self.points
            red, black = self.leads(tests)
            padded = np.pad(points.volts[rows], ((0, 0), (0, 1)))
            volts = padded[:, red] - padded[:, black]
            ohms = ohms_shown(volts)
            open_ohms = np.array([instrument(t.instrument).open_ohms for t in tests])
            # R = r·v/(E − v), so dR/dv = r·E/(E − v)²; and d ln(1 + R) = dR/(1 + R).
            return np.where(ohms < open_ohms, TEST_OHMS * TEST_VOLTS / np.maximum(TEST_VOLTS - volts, 1e-6) ** 2 / (1.0 + ohms), 0.0)
        if self.setup.instrument == "ohms":
            return np.where(between < [instrument(t.instrument).open_ohms for t in tests], 1.0 / (1.0 + between), 0.0)
        burden = np.array([instrument(t.instrument).burden_ohms for t in tests])
        if self.setup.between:  # it stands in the network itself
            return np.broadcast_to(1.0 / burden if self.setup.instrument == "amps" else np.ones(len(tests)), between.shape)
        return burden / (burden + between)


def _leaky(ohms: Floats) -> Floats:
    """How far ohms hang on insulation, as a share of their number on the compressed scale."""
    return LEAK_VAGUENESS / (1.0 + LEAK_OHMS / np.maximum(ohms, 1e-3))


def _at_a_threshold(value: Floats, regime: NDArray[np.intp], curves: Curves) -> Floats:
    """(M, T) vagueness of rows on either side of a place where contacts move or a fuse melts: nobody knows the threshold so well."""
    curve = np.repeat(np.arange(len(curves.length)), curves.length)
    beside = np.flatnonzero((regime[:-1] != regime[1:]) & (curve[:-1] == curve[1:]))
    made = np.zeros_like(value)
    vague = THRESHOLD_VAGUENESS * np.abs(value[beside + 1] - value[beside])
    for side in (beside, beside + 1):
        made[side] = np.maximum(made[side], vague)
    return made


def _own_push(squared: bool) -> Push:
    """How far the line of the row's swept element rises per unit of ln severity."""

    def push(settled: Settled, at: NDArray[np.intp], own: NDArray[np.intp]) -> Floats:
        return settled.push(at, own, squared)[0]

    return push


class Workup:
    """A sheet prepared for isolation; solves each setup once, on first use. A pure function of the sheet."""

    def __init__(self, sheet: Sheet):
        self.sheet = sheet
        self.network = Network.of(sheet)
        self._tables: dict[Setup, Table] = {}
        self._own: list[Measurement] = []  # tests that are not on offer, in the order in which they were first asked for
        self._whole: dict[str, Points] = {}  # by state, every hypothesis at every severity with all fuses whole
        self._predictions: dict[Measurement, Prediction] = {}
        self.beliefs: OrderedDict[tuple[object, ...], Any] = OrderedDict()  # by their items
        self._belief_bytes: dict[tuple[object, ...], int] = {}
        self.chances: dict[Question, Floats] = {}  # by check, (M, outcomes)
        self._sound_profiles: dict[str, Profile] = {}  # by state
        self.kept: dict[str, Any] = {}  # what other modules make of it once
        self.everywhere: dict[int, Floats] = {}  # by hypothesis, (spots, T)
        self._exact: dict[Measurement, tuple[Prediction, Prediction]] = {}  # of ohms, with diodes open and shut
        self._blocked: dict[Setup, Table] = {}
        self._spreads: OrderedDict[tuple[Measurement, Setup], tuple[NDArray[np.bool_], Floats]] = OrderedDict()

    def keep(self, belief: Any) -> None:
        """Keep a belief for the next item to build on; the oldest go."""
        last = next(reversed(self.beliefs.values()), None)
        if last is not None:
            self._belief_bytes[last.items] = last.own_bytes  # it has grown since it was kept: it was asked for more rows
        self.beliefs[belief.items] = belief
        self._belief_bytes[belief.items] = belief.own_bytes
        while len(self.beliefs) > 1 and (len(self.beliefs) > KEPT_BELIEFS or sum(self._belief_bytes.values()) > KEPT_BELIEF_BYTES):
            gone, _ = self.beliefs.popitem(last=False)
            del self._belief_bytes[gone]

    @cached_property
    def hypotheses(self) -> Hypotheses:
        """What may be wrong on the sheet."""
        return enumerate_hypotheses(self.sheet, self.network)

    @cached_property
    def curves(self) -> Curves:
        """All rows; where a severity melts a fuse, a curve with the fuse melted and one with it bridged."""
        lengths = [len(grid) for grid in self.hypotheses.severities]
        melted = self._melted()
        starts = np.concatenate([[0], np.cumsum(lengths)])
        made: list[tuple[int, float, bool]] = []
        blown = []
        for h in range(len(lengths)):
            rows = melted[starts[h] : starts[h + 1]]
            if rows.any():
                made += [(h, 1.0 - BRIDGED_SHARE, True), (h, BRIDGED_SHARE, False)]
                blown += [rows, np.zeros_like(rows)]
            else:
                made.append((h, 1.0, False))
                blown.append(rows)
        counts = np.array([lengths[h] for h, _, _ in made])
        return Curves(
            hypothesis=np.array([h for h, _, _ in made]),
            share=np.array([share for _, share, _ in made]),
            start=np.concatenate([[0], np.cumsum(counts)[:-1]]),
            length=counts,
            grid=tuple(self.hypotheses.severities[h] for h, _, _ in made),
            blown=np.concatenate(blown),
        )

    @cached_property
    def _available(self) -> dict[Measurement, None]:
        """Every test that the sheet's places allow, in order."""
        return dict.fromkeys(available_tests(self.sheet))

    @cached_property
    def offered(self) -> tuple[Measurement, ...]:
        """Every test that the sheet's places allow, ohms through diodes left out: such a number depends on the meter."""
        tests = tuple(self._available)
        if not self._junctions:
            return tests
        doubtful: set[Measurement] = set()
        for setup, numbers in _by_setup(tests).items():
            if setup.instrument == "ohms":
                own = tuple(tests[i] for i in numbers)
                doubtful |= {t for t, opens in zip(own, self._opens_a_diode(own).tolist(), strict=True) if opens}
        return tuple(t for t in tests if t not in doubtful)

    @cached_property
    def paths(self) -> tuple[Path, ...]:
        """The way of current through each load."""
        return load_paths(self.sheet)

    @cached_property
    def visible(self) -> NDArray[np.bool_]:
        """(M,) whether any test on offer would show the row apart from a sound circuit; a sound circuit itself counts as visible.

        A fault that nothing can show, such as a ground wire chafed through to ground, cannot be blamed for anything either.
        """
        # What an ammeter shows, volts show too; its set-ups are the dear ones to solve.
        tests, prediction = self.on_offer
        sound = prediction.value[:1]
        # What sound parts scatter over hides a fault as well as the meter does; but a supply can be read for itself.
        scatter = np.sqrt((self.sound_spread[:, ~self.supplies] ** 2).sum(axis=1))
        sigma = np.sqrt(scale_uncertainty(sound, tests) ** 2 + scatter**2 + (UNRELIABLE_VOLTS * prediction.stray) ** 2)
        apart = np.abs(prediction.value - sound) / sigma
        seen = apart.max(axis=1) >= VISIBLE_SIGMA
        seen[0] = True
        return seen

    @cached_property
    def prior_of_nothing(self) -> float:
        """Prior of "nothing on this sheet is wrong", with the share of faults and severities that nothing would show."""
        curves, given = self.curves, self.hypotheses.prior
        hidden = 0.0
        for c, h in enumerate(curves.hypothesis):
            rows = slice(curves.start[c], curves.start[c] + curves.length[c])
            hidden += given[h] * curves.share[c] * float((~self.visible[rows]).mean())
        return float(given[0] + hidden)

    @cached_property
    def swept_element(self) -> NDArray[np.intp]:
        """(M,) number of the element whose resistance is the row's severity, −1 for none."""
        made = []
        for h, length in zip(self.curves.hypothesis, self.curves.length, strict=True):
            item = self.hypotheses.items[h]
            element = -1
            if item.swept and item.part and item.mode:
                mode = mode_of(self.sheet, item.part, item.mode)
                name = next(name for name, effect in mode.effects if effect is Effect.VALUE)
                element = self.network.keys.index((item.part, name))
            made.append(np.full(length, element))
        return np.concatenate(made)

    def working_state(self, part: str, element: str) -> str:
        """The state in which a sound circuit sends most current through an element."""
        number = self.network.keys.index((part, element)) if (part, element) in self.network.keys else 0
        amps = {state: abs(float(self.table(Setup(state, "volts")).points.amps[0, number])) for state in self.sheet.states}
        return max(amps, key=lambda state: amps[state])

    def table(self, setup: Setup) -> Table:
        """The table of a setup, solved once; with the battery off states that differ only in what needs power share one."""
        if setup.instrument == "ohms":
            setup = replace(setup, state=self.sheet.resting[setup.state])
        if setup not in self._tables:
            self._tables[setup] = self._solve(setup)
            # Every pair of places has a set-up of its own where the meter stands in the circuit: those not asked for longest go.
            between = [kept for kept in self._tables if kept.between]
            for gone in between[:-KEPT_BETWEEN]:
                del self._tables[gone]
        elif setup.between:
            self._tables[setup] = self._tables.pop(setup)
        return self._tables[setup]

    @cached_property
    def questions(self) -> tuple[Question, ...]:
        """What can be found out without a number."""
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

    @cached_property
    def on_offer(self) -> tuple[tuple[Measurement, ...], Prediction]:
        """The volts and ohms tests on offer, and what they would show: weighed anew after every reading."""
        tests = tuple(t for t in self.offered if t.instrument != "amps")
        return tests, self.predict(tests)

    def predict(self, tests: tuple[Measurement, ...]) -> Prediction:
        """What tests would show, for every row; kept by test."""
        missing = tuple(dict.fromkeys(t for t in tests if t not in self._predictions))
        self._own += [test for test in missing if test not in self._available]
        for setup, numbers in _by_setup(missing).items():
            chosen = tuple(missing[i] for i in numbers)
            breathe()
            made = self.table(setup).predict(chosen, self.curves)
            if self._junctions and not setup.between:
                made = replace(made, stray=np.maximum(made.stray, self._hangs_on_a_diode(setup, chosen, made)))
            self._predictions |= {test: made.take([i]) for i, test in enumerate(chosen)}
        if not tests:
            return Prediction.none(self.curves.rows)
        made = Prediction.join([self._predictions[t] for t in tests], np.arange(len(tests)))
        # Those on offer are asked for all the time; of what a person puts together the last few are kept.
        while len(self._own) > KEPT_OWN:
            self._predictions.pop(self._own.pop(0), None)
        return made

    def predict_reading(self, test: Measurement, shown: float) -> Prediction:
        """What a test that was taken shows, for every row; ``shown`` is what it did show, on its scale.

        Where an ohmmeter's own volts may open a diode, it is put into the circuit; tests that are only weighed do with the circuit's
        small-signal ohms. Whether they do open it nobody knows of a meter: some lay two volts at their leads, some too little. So each row
        is taken at its word with the diodes open or shut, whichever comes nearer to what was shown.
        """
        setup = self._reading_setup(test)
        if setup == test.setup:
            return self.predict((test,))
        if test not in self._exact:
            open_ones = self.table(setup).predict((test,), self.curves)
            shut, _, stray = self._without_junctions(test.setup).numbers((test,))
            self._exact[test] = open_ones, replace(
                open_ones, value=shut, slope=self.curves.gradient(shut[:, 0])[:, None], stray=stray,
                regime=open_ones.regime + 1 + open_ones.regime.max(), tears=Tears.none(len(shut), 1), edge=np.zeros_like(shut),
            )  # fmt: skip
        open_ones, shut_ones = self._exact[test]
        nearer = np.abs(shut_ones.value - shown) < np.abs(open_ones.value - shown)
        return open_ones.where(~nearer, shut_ones)

    def _reading_setup(self, test: Measurement) -> Setup:
        dead = test.setup.instrument == "ohms"
        return Setup(test.state, "ohms", (test.red, test.black)) if dead and self._junctions else test.setup

    @cached_property
    def _junctions(self) -> bool:
        return any(e.law is Law.JUNCTION for e in self.network.elements)

    def _hangs_on_a_diode(self, setup: Setup, tests: tuple[Measurement, ...], made: Prediction) -> NDArray[np.bool_]:
        """(M, T) where a diode carries a good part of the meter's own current: the number then depends on the meter, and is not counted
        on. An ohmmeter drives that current, a voltmeter draws it from a point that little else holds."""
        red, black = self.table(setup).leads(tests)
        between = self.table(setup).points.looks_into(red, black)
        loads = np.array([instrument(t.instrument).burden_ohms for t in tests]) * _LOADED
        weak = between > loads if setup.instrument == "volts" else np.ones(between.shape, dtype=bool)
        if not weak.any():
            return weak
        without = self._without_junctions(setup).points.looks_into(red, black)
        if setup.instrument == "volts":
            return weak & (without > _DIODE_HOLDS * between)
        ceiling = np.array([instrument(t.instrument).open_ohms for t in tests])
        return np.abs(made.value - compress_ohms(without, ceiling)) > _DIODE_MATTERS

    def _without_junctions(self, setup: Setup) -> Table:
        """A set-up with every junction taken out."""
        if setup.instrument == "ohms":
            setup = replace(setup, state=self.sheet.resting[setup.state])
        if setup not in self._blocked:
            network = self.network.at(setup.state)
            cases = self._plain_cases(network).rows(self._plain_row).forcing(self.curves.blown, -1)
            cases = cases.forcing(network.law == Law.JUNCTION, -1)
            dead = setup.instrument == "ohms"
            points = dead_points(network, cases, setup.state) if dead else operating_points(network, cases, network.positions(setup.state))
            nothing = np.full(self.curves.rows, -1)
            self._blocked[setup] = Table(setup, points, Tolerances.of(network), nothing, nothing, lambda: None)
        return self._blocked[setup]

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
        return (np.abs(drawn) > _THROUGH_A_DIODE * amps[:, None]).any(axis=1)

    def spread(self, tests: tuple[Measurement, ...], rows: NDArray[np.intp]) -> Floats:
        """(len(rows), T, K): what each tolerance does to the tests' numbers. Setups share the sheet's parts and so their tolerances; there
        is one more for every state: how a contact that chatters in it divides its time."""
        parts: list[Floats] = [np.zeros((len(rows), 0, self.tolerances))]
        order: list[int] = []
        for setup, numbers in _by_setup(tests).items():
            parts.append(self._spread_of(setup, tuple(tests[i] for i in numbers), rows))
            order += numbers
        return np.concatenate(parts, axis=1)[:, np.argsort(np.array(order, dtype=int))]

    def _spread_of(self, setup: Setup, tests: tuple[Measurement, ...], rows: NDArray[np.intp]) -> Floats:
        """(len(rows), T, K) of one set-up."""
        table, made = self.table(setup), np.zeros((len(rows), len(tests), self.tolerances))
        first = self.tolerances - len(self.sheet.states)
        made[:, :, :first] = table.spread(tests, rows)
        made[:, :, first + list(self.sheet.states).index(setup.state)] = table.swing(tests, rows)
        return made

    def reading_spread(self, test: Measurement, rows: NDArray[np.intp]) -> Floats:
        """(len(rows), K): the spread of a test that was taken."""
        return self._kept_spreads((test,), (self._reading_setup(test),), rows)[:, 0]

    def weighing_spreads(self, tests: tuple[Measurement, ...], rows: NDArray[np.intp]) -> Floats:
        """(len(rows), T, K): the spreads of tests that are only weighed."""
        return self._kept_spreads(tests, tuple(test.setup for test in tests), rows)

    def _kept_spreads(self, tests: tuple[Measurement, ...], setups: tuple[Setup, ...], rows: NDArray[np.intp]) -> Floats:
        """(len(rows), T, K), kept row by row: the same tests are looked at after every new reading."""
        kept = [self._kept(test, setup) for test, setup in zip(tests, setups, strict=True)]
        todo: dict[Setup, list[int]] = {}
        for i, (known, _) in enumerate(kept):
            if not known[rows].all():
                todo.setdefault(setups[i], []).append(i)
        for setup, numbers in todo.items():
            breathe()
            missing = np.zeros(self.curves.rows, dtype=bool)
            missing[rows] = ~np.logical_and.reduce([kept[i][0][rows] for i in numbers])
            lacking = np.flatnonzero(missing)
            made = self._spread_of(setup, tuple(tests[i] for i in numbers), lacking)
            for place, i in enumerate(numbers):
                known, spread = kept[i]
                spread[lacking], known[lacking] = made[:, place], True
        made = np.empty((len(rows), len(tests), self.tolerances))
        for i, (_, spread) in enumerate(kept):
            made[:, i] = spread[rows]
        return made

    def _kept(self, test: Measurement, setup: Setup) -> tuple[NDArray[np.bool_], Floats]:
        """Which rows of a test's spread are worked out, and those (M, K); those not asked for longest go."""
        key = (test, setup)
        if key not in self._spreads:
            self._spreads[key] = (np.zeros(self.curves.rows, dtype=bool), np.zeros((self.curves.rows, self.tolerances)))
            while len(self._spreads) > LEAST_SPREADS and len(self._spreads) * self.curves.rows * self.tolerances > KEPT_SPREADS:
                self._spreads.popitem(last=False)
        self._spreads.move_to_end(key)
        return self._spreads[key]

    @cached_property
    def plain_offer(self) -> tuple[tuple[Measurement, ...], Prediction]:
        """Of `on_offer` what goes against battery minus, and all ohms: the other volts are differences of these."""
        tests, prediction = self.on_offer
        columns = [i for i, t in enumerate(tests) if t.instrument == "ohms" or t.black == self.sheet.minus]
        return tuple(tests[i] for i in columns), prediction.take(columns)

    @cached_property
    def sound_spread(self) -> Floats:
        """(T, K): what the tolerances do to the tests of `on_offer` in a sound circuit."""
        return self.spread(self.on_offer[0], np.zeros(1, dtype=np.intp))[0]

    @cached_property
    def column_on_offer(self) -> dict[Measurement, int]:
        """Where each test of `on_offer` stands among them."""
        return {test: i for i, test in enumerate(self.on_offer[0])}

    @cached_property
    def supplies(self) -> NDArray[np.bool_]:
        """(K,) which tolerances are volts of a source: what both sides of a vehicle share, and what drifts from reading to reading."""
        made = Tolerances.of(self.network)
        laws = np.array([self.network.elements[i].law in (Law.EMF, Law.LIMITED) for i in made.element], dtype=bool)
        return np.pad(laws & made.of_volts, (0, self.tolerances - len(laws)))

    @cached_property
    def tolerances(self) -> int:
        """Number K of tolerances: those that the sheet's parts have between them, and one for each state."""
        return len(Tolerances.of(self.network).element) + len(self.sheet.states)

    def profile(self, state: str, row: int, faults: tuple[Fault, ...]) -> Profile:
        """The circuit in a state with ``faults`` and fuses melted as in ``row``; the sound one is kept."""
        if faults or row:
            return self._profile(state, row, faults)
        if state not in self._sound_profiles:
            self._sound_profiles[state] = self._profile(state, 0, ())
        return self._sound_profiles[state]

    def _profile(self, state: str, row: int, faults: tuple[Fault, ...]) -> Profile:
        network = self.network.at(state)
        cases = Cases.healthy(network)
        apply_faults(network, cases, 0, faults)
        points = operating_points(network, cases.forcing(self.curves.blown[[row]], -1), network.positions(state))
        nodes = np.arange(len(network.nodes))
        ready = Sensitivities.of(Tolerances.of(network), points, self.swept_element[[row]], squared=False)
        spread = ready.spread(np.array([0]), nodes, np.full_like(nodes, -1))[0]
        spread = np.pad(spread, ((0, 1), (0, self.tolerances - spread.shape[1])))
        return Profile((*network.nodes, self.sheet.minus), np.append(points.volts[0], 0.0), spread)

    def _plain_cases(self, network: Network) -> Cases:
        """Every hypothesis at every severity, all fuses whole."""
        cases = Cases.healthy(network, sum(len(grid) for grid in self.hypotheses.severities))
        for h, (start, grid) in enumerate(zip(self._plain_start, self.hypotheses.severities, strict=True)):
            apply_faults(network, cases, slice(start, start + len(grid)), self.hypotheses.fault(h, float(grid[0])), np.exp(grid))
        return cases

    def _melted(self) -> NDArray[np.bool_]:
        """(plain rows, E) fuses that melt in any state: the most overloaded first, since it spares those before it."""
        melted: NDArray[np.bool_] | None = None
        for state in self.sheet.states:
            network = self.network.at(state)
            cases, positions = self._plain_cases(network), network.positions(state)
            melted = np.zeros(cases.forced.shape, dtype=bool) if melted is None else melted
            self._whole[state] = operating_points(network, cases, positions)
            load = np.abs(self._whole[state].amps) / network.fuse_rating
            todo = np.flatnonzero(melted.any(axis=1) | (load >= BLOW_FACTOR).any(axis=1))
            while todo.size:
                breathe()
                amps = operating_points(network, cases.rows(todo).forcing(melted[todo], -1), positions).amps
                load = np.abs(amps) / network.fuse_rating
                worst = load.argmax(axis=1)
                over = load[np.arange(len(todo)), worst] >= BLOW_FACTOR
                melted[todo[over], worst[over]] = True
                todo = todo[over]
        assert melted is not None
        return melted

    def _solve(self, setup: Setup) -> Table:
        bridge = in_circuit(setup.instrument, *setup.between, self.sheet.supply_volts) if setup.between else None
        network = Network.of(self.sheet, setup.state, bridge) if bridge else self.network.at(setup.state)
        blown = self.curves.blown
        if bridge:
            blown = np.pad(blown, ((0, 0), (0, 1)))
        cases = self._plain_cases(network).rows(self._plain_row).forcing(blown, -1)
        if bridge and setup.instrument == "amps":
            cases = cases.forcing(network.between(bridge.a, bridge.b), -1)
        points = self._points(network, cases, setup)
        swept = _sloped(points, self.swept_element)

        def torn() -> Torn | None:
            return self._torn(network, cases, setup, points) if setup.instrument == "volts" else None

        return Table(setup, points, Tolerances.of(network), swept, _regime(points, blown), torn)

    def _torn(self, network: Network, cases: Cases, setup: Setup, points: Points) -> Torn | None:
        """The places where contacts move between two rows of a curve, found by halving; a fuse that melts in between is not one."""
        curves, positions = self.curves, network.positions(setup.state)
        curve = np.repeat(np.arange(len(curves.length)), curves.length)
        flags = _contacts(points)
        moved = (flags[:-1] != flags[1:]).any(axis=1) & (curve[:-1] == curve[1:]) & (curves.blown[:-1] == curves.blown[1:]).all(axis=1)
        row = np.flatnonzero(moved & (self.swept_element[:-1] >= 0))
        if not row.size:
            return None
        logs = np.concatenate(curves.grid)
        swept, forced = self.swept_element[row], cases.forced[row]

        def solved(share: Floats) -> Points:
            ohms = cases.ohms[row].copy()
            ohms[np.arange(len(row)), swept] = np.exp(logs[row] + share * (logs[row + 1] - logs[row]))
            return operating_points(network, Cases(ohms, forced), positions)

        low, high = np.zeros(len(row)), np.ones(len(row))
        for _ in range(_HALVINGS):
            breathe()
            middle = (low + high) / 2.0
            same = (_contacts(solved(middle)) == flags[row]).all(axis=1)
            low, high = np.where(same, middle, low), np.where(same, high, middle)
        every = np.arange(len(row))
        both = Points.merged(2 * len(row), [(solved(low), every, every), (solved(high), every, every + len(row))])
        at = np.clip((low + high) / 2.0, 1e-6, 1.0 - 1e-6)
        return Torn(row, at, both, _sloped(both, np.concatenate([swept, swept])))

    def _points(self, network: Network, cases: Cases, setup: Setup) -> Points:
        """The rows' operating points; with whole fuses they are those that the search for melting ones has found already."""
        positions = network.positions(setup.state)
        if setup.instrument == "ohms":
            return dead_points(network, cases, setup.state)
        if setup.instrument != "volts":
            return operating_points(network, cases, positions)
        curves = self.curves
        blown = curves.blown.any(axis=1)
        fresh, kept = np.flatnonzero(blown), np.flatnonzero(~blown)
        parts = [(self._whole[setup.state], self._plain_row[kept], kept)]
        if fresh.size:
            parts.append((operating_points(network, cases.rows(fresh), positions), np.arange(len(fresh)), fresh))
        return Points.merged(curves.rows, parts)

    @cached_property
    def _plain_row(self) -> NDArray[np.intp]:
        """(M,) each row's number before curves are doubled for fuses that may have been bridged."""
        curves = self.curves
        return np.concatenate([self._plain_start[h] + np.arange(n) for h, n in zip(curves.hypothesis, curves.length, strict=True)])

    @cached_property
    def _plain_start(self) -> NDArray[np.intp]:
        """(H,) first row of each hypothesis before curves are doubled for fuses that may have been bridged."""
        return np.concatenate([[0], np.cumsum([len(grid) for grid in self.hypotheses.severities])])[:-1]


def _by_setup(tests: tuple[Measurement, ...]) -> dict[Setup, list[int]]:
    made: dict[Setup, list[int]] = {}
    for i, test in enumerate(tests):
        made.setdefault(test.setup, []).append(i)
    return made


def _sloped(points: Points, swept: NDArray[np.intp]) -> NDArray[np.intp]:
    """The swept elements, −1 where a row chatters: it is a mean of two circuits, and neither's slope is its own."""
    return np.where(points.chatter & ~points.steady, -1, swept)


def _contacts(points: Points) -> NDArray[np.bool_]:
    """(M, …) what tells one position of a row's contacts from another."""
    return np.concatenate([points.pulled, points.cycling, points.restless[:, None]], axis=1)


def _regime(points: Points, blown: NDArray[np.bool_]) -> NDArray[np.intp]:
    flags = np.concatenate([points.pulled, points.chatter[:, None], blown], axis=1)
    numbers: dict[bytes, int] = {}
    return np.array([numbers.setdefault(row.tobytes(), len(numbers)) for row in np.packbits(flags, axis=1)])
