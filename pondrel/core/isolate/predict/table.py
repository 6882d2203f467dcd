"""What tests show over all rows: curves over severity, predictions along them, and a set-up solved for every row.

From a set-up's node voltages, branch currents and transfer impedances follow, for any two probes: the number shown, its slope over
severity, and its sensitivity to the tolerance of every healthy part, which is what makes tolerances correlated between readings.

Sensitivities are exact first derivatives. With D = zᵖ·u (volts across an element per ampere into a probe), reciprocity gives
dV/d ln R = D·i and dZ/d ln R = D²·g (Tellegen's theorem; adjoint network method).
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ...base.arrays import Floats
from ...base.judgement import judged
from ...circuit.measure import TEST_OHMS, TEST_VOLTS, ohms_shown
from ...circuit.operate import Points, Push, Settled
from ...circuit.part import Law
from ...circuit.sensitivity import Sensitivities, Tolerances
from ...evidence.asked import Measurement, Setup
from ...meter.instrument import instrument
from .scale import compress_ohms

__all__ = ["STRAY_OHMS", "Curves", "Prediction", "Profile", "Table", "Tears", "Torn"]

# A point that nothing within a megohm defines picks up stray volts from damp, dirt and its neighbours.
STRAY_OHMS = judged("STRAY_OHMS", 1e6, "Ω", "a point that nothing within so many ohms defines picks up stray volts")
# Ohms this high are those of dirt, damp and diodes that block: nobody knows them to better than half of them.
LEAK_OHMS = judged("LEAK_OHMS", 3e6, "Ω", "ohms from here on are those of dirt, damp and blocking diodes")
LEAK_VAGUENESS = judged("LEAK_VAGUENESS", 0.035, "share", "how vague such ohms are, of their number on the compressed scale")
# How much of its time a chattering relay is pulled in nobody knows. Where more goes to and fro than one contact, the mean shown is vague
# instead, as a share of it.
DUTY = judged("DUTY", 0.2, "share", "standard deviation of the share of time that a chattering contact is closed")
OWN_DUTY = judged("OWN_DUTY", 0.03, "share", "the same of a contact that sets its own share")
CHATTER_VAGUENESS = judged("CHATTER_VAGUENESS", 0.3, "share", "how vague a mean is where more than one contact goes to and fro")
CLAMP_VAGUENESS = judged(
    "CLAMP_VAGUENESS", 0.08, "share", "how vague a clamp's current is where it goes through more than one plain conductor"
)
THRESHOLD_VAGUENESS = judged(
    "THRESHOLD_VAGUENESS", 0.4, "share", "of the step at a threshold: what is read beside it may be the other side's"
)
PULSING_VAGUENESS = judged("PULSING_VAGUENESS", 0.05, "share", "how vague the mean of a contact is that sets its own")


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
        slopes = np.zeros_like(values)
        for start, length, grid in zip(self.start, self.length, self.grid, strict=True):
            if length > 1:
                slopes[start : start + length] = np.gradient(values[start : start + length], grid)
        return slopes


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

        def column(name: str) -> NDArray[Any]:
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
        for i, test in enumerate(tests):
            if test.instrument == "ac" or (test.instrument == "clamp" and self._conductor(test) is None):
                slope[:, i] = curves.gradient(value[:, i])
        regime = np.repeat(self.regime[:, None], len(tests), axis=1)
        return Prediction(value, slope, regime, stray, self._tears(tests), _at_a_threshold(value, self.regime, curves))

    def _tears(self, tests: tuple[Measurement, ...]) -> Tears:
        tears, torn = Tears.none(len(self.regime), len(tests)), self.torn
        if torn is None:
            return tears
        count = len(torn.row)
        value, slope, _ = self.numbers(tests, torn.points, torn.swept)
        tears.index[torn.row] = np.arange(count * len(tests)).reshape(count, len(tests))
        sides = (value[:count], slope[:count], value[count:], slope[count:])
        return Tears(tears.index, np.repeat(torn.at, len(tests)), *(side.ravel() for side in sides))

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
        for i in (i for i, test in enumerate(tests) if test.instrument == "ac"):
            value[:, i], slope[:, i], stray[:, i] = points.alternating(red[[i]], black[[i]])[:, 0], 0.0, 0.0
        for i in (i for i, test in enumerate(tests) if test.instrument == "clamp"):
            joins = points.network.between(tests[i].red, tests[i].black)
            signs = np.where(points.network.a == red[i], 1.0, -1.0)
            value[:, i] = (points.amps * signs)[:, joins].sum(axis=1)
            conductor = self._conductor(tests[i])
            stray[:, i] = np.where(points.chatter, CHATTER_VAGUENESS, CLAMP_VAGUENESS if conductor is None else 0.0)
            if conductor is not None:
                ohms = points.ohms_of(conductor)
                conducts = np.isfinite(ohms)
                ohms = np.where(conducts, ohms, 1.0)
                own_rise = np.where(swept == conductor, signs[conductor] * ohms * points.amps[:, conductor], 0.0)
                slope[:, i] = np.where(conducts, (slope[:, i] - own_rise) / ohms, 0.0)
        return value, slope, stray

    def spread(self, tests: tuple[Measurement, ...], rows: NDArray[np.intp]) -> Floats:
        """(len(rows), T, K): change of each shown number per standard deviation of each tolerance."""
        red, black = self.leads(tests)
        scale = self._scale(self.points.looks_into(red, black, rows), tests, rows)
        spread = self._sensitivities.spread(rows, red, black)
        for i, test in enumerate(tests):
            if test.instrument == "clamp":
                spread[:, i] = self._clamp_spread(test, spread[:, i], rows)
            elif test.instrument == "ac":  # the meter's own doubt on alternating volts is larger
                spread[:, i] = 0.0
        return spread * scale[:, :, None]

    def _clamp_spread(self, test: Measurement, volts: Floats, rows: NDArray[np.intp]) -> Floats:
        """(len(rows), K) change of a clamp's current, from that of the ``volts`` between its two nodes: i = (v − what stands in it) / R."""
        element = self._conductor(test)
        if element is None:
            return np.zeros_like(volts)
        ohms = self.points.ohms_of(element)[rows]
        conducts = np.isfinite(ohms)
        own = np.where(conducts, ohms, 1.0)
        along = 1.0 if self.points.network.a[element] == self.points.network.node(test.red) else -1.0
        pushes = self.tolerances.pushes_of(element, own, self.points.amps[rows, element], self.swept[rows])
        change: Floats = np.where(conducts, 1.0 / own, 0.0)[:, None] * (volts - along * pushes)
        return change

    def _conductor(self, test: Measurement) -> int | None:
        """The one plain conductor that a clamp goes around; None where several or curved ones join its two nodes."""
        network = self.points.network
        (joins,) = np.nonzero(network.between(test.red, test.black) & np.isfinite(network.ohms))
        return int(joins[0]) if len(joins) == 1 and network.law[joins[0]] is Law.OHMIC else None

    def swing(self, tests: tuple[Measurement, ...], rows: NDArray[np.intp]) -> Floats:
        """(len(rows), T): change of each shown number per standard deviation of the time that a chattering contact spends closed."""
        swings, nodes = self.points.swing
        if not swings[rows].any():
            return np.zeros((len(rows), len(tests)))
        red, black = self.leads(tests)
        padded = np.pad(nodes[rows], ((0, 0), (0, 1)))
        share = np.where(self.points.steady[rows], OWN_DUTY, DUTY)
        scale = self._scale(self.points.looks_into(red, black, rows), tests, rows) * [t.instrument not in ("clamp", "ac") for t in tests]
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
        return np.where([t.instrument == "clamp" for t in tests], 1.0, burden / (burden + between))  # a clamp touches nothing


def _leaky(ohms: Floats) -> Floats:
    """How far ohms hang on insulation, as a share of their number on the compressed scale."""
    return LEAK_VAGUENESS / (1.0 + LEAK_OHMS / np.maximum(ohms, 1e-3))


def _at_a_threshold(value: Floats, regime: NDArray[np.intp], curves: Curves) -> Floats:
    """(M, T) vagueness of rows on either side of a place where contacts move or a fuse melts: nobody knows the threshold so well."""
    curve = np.repeat(np.arange(len(curves.length)), curves.length)
    beside = np.flatnonzero((regime[:-1] != regime[1:]) & (curve[:-1] == curve[1:]))
    doubt = np.zeros_like(value)
    vague = THRESHOLD_VAGUENESS * np.abs(value[beside + 1] - value[beside])
    for side in (beside, beside + 1):
        doubt[side] = np.maximum(doubt[side], vague)
    return doubt


def _own_push(squared: bool) -> Push:
    """How far the line of the row's swept element rises per unit of ln severity."""

    def push(settled: Settled, at: NDArray[np.intp], own: NDArray[np.intp]) -> Floats:
        return settled.push(at, own, squared)[0]

    return push
