"""A set-up solved for the rows of a workup: what its tests show there.

From a set-up's operating points follow, for any two probes and any rows: the number shown, its slope over severity, and its sensitivity to
the tolerance of every healthy part, which is what makes tolerances correlated between readings.

Sensitivities are exact first derivatives. With D = zᵖ·u (volts across an element per ampere into a probe), reciprocity gives
dV/d ln R = D·i and dZ/d ln R = D²·g (Tellegen's theorem; adjoint network method).
"""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ...base.arrays import Floats
from ...base.judgement import judged
from ...circuit.measure import TEST_OHMS, TEST_VOLTS, ohms_shown
from ...circuit.network import Network
from ...circuit.part import Law
from ...circuit.points import Points
from ...circuit.sensitivity import Tolerances, spread_of
from ...circuit.settle import Share
from ...evidence.asked import Measurement, Setup
from ...meter.instrument import instrument
from .curves import Curves
from .prediction import Prediction, Tears
from .scale import compress_ohms
from .tears import Torn, sloped

__all__ = ["STRAY_OHMS", "Profile", "Solved", "Table"]

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


Rows = NDArray[np.intp]
_KEPT_SOME = 6  # lists of rows of one set-up


class Solved:
    """Operating points of M rows, solved when they are first asked for, all at once or ``in_parts``; ``solve`` gives those of some rows."""

    def __init__(self, rows: int, solve: Callable[[Rows], Points], in_parts: bool = False):
        self.rows, self._solve, self._in_parts = rows, solve, in_parts
        self._known = np.zeros(rows, dtype=bool)
        self._points: Points | None = None
        self._some: OrderedDict[bytes, Points] = OrderedDict()

    def all(self) -> Points:
        """Points (M) of all rows."""
        return self._with(np.arange(self.rows))

    def some(self, rows: Rows) -> Points:
        """Points (m) of some rows; those of the last few lists of rows are kept, since many tests are asked for at the same ones."""
        key = rows.tobytes()
        if key not in self._some:
            self._some[key] = self._with(np.unique(rows) if self._in_parts else np.arange(self.rows)).of(rows)
            if len(self._some) > _KEPT_SOME:
                self._some.popitem(last=False)
        self._some.move_to_end(key)
        return self._some[key]

    def _with(self, asked: Rows) -> Points:
        """Points (M) of which those that are asked for are solved."""
        missing = asked[~self._known[asked]]
        if missing.size == self.rows:
            self._points = self._solve(missing)
        elif missing.size or self._points is None:
            parts = [(self._solve(missing), np.arange(len(missing)), missing)]
            if self._points is not None:
                known = np.flatnonzero(self._known)
                parts.append((self._points, known, known))
            self._points = Points.merged(self.rows, parts)
        self._known[missing] = True
        assert self._points is not None
        return self._points


@dataclass(frozen=True, eq=False)
class Table:
    """One set-up of a sheet's rows; ``element`` (M,) is the one whose ohms are a row's severity, −1 for none. Numbers between probes are
    worked out when asked for, at some rows (m,), ascending, or at all where none are given, and so are the rows."""

    setup: Setup
    network: Network
    curves: Curves
    tolerances: Tolerances
    element: NDArray[np.intp]
    solved: Solved
    find_torn: Callable[[Points], Torn | None]

    @property
    def points(self) -> Points:
        """All rows."""
        return self.solved.all()

    def points_at(self, rows: Rows | None) -> Points:
        """Some rows, or all."""
        return self.solved.all() if rows is None else self.solved.some(rows)

    @cached_property
    def torn(self) -> Torn | None:
        """Where contacts move between two rows; looked for when a number is first asked for."""
        return self.find_torn(self.points)

    def predict(self, tests: tuple[Measurement, ...], rows: Rows | None = None) -> Prediction:
        """What the tests of this setup show."""
        points = self.points_at(rows)
        value, slope, stray = self._numbers(tests, points, sloped(points, self._element(rows)))
        for i, test in enumerate(tests):
            if test.instrument == "ac" or (test.instrument == "clamp" and self._conductor(test) is None):
                every = value[:, i] if rows is None else self.values((test,))[:, 0]
                found = self.curves.gradient(every)
                slope[:, i] = found if rows is None else found[rows]
        regime = np.repeat(self._regime(points, rows)[:, None], len(tests), axis=1)
        return Prediction(rows, value, slope, regime, stray, self._tears(tests, rows))

    def _element(self, rows: Rows | None) -> NDArray[np.intp]:
        return self.element if rows is None else self.element[rows]

    def values(self, tests: tuple[Measurement, ...], rows: Rows | None = None) -> Floats:
        """(m, T) the numbers alone."""
        return self.stray(tests, rows)[0]

    def stray(self, tests: tuple[Measurement, ...], rows: Rows | None = None) -> tuple[Floats, Floats]:
        """(m, T) the numbers, and how far each hangs on insulation alone."""
        points = self.points_at(rows)
        value, _, stray = self._numbers(tests, points, np.full(points.count, -1))
        return value, stray

    def _regime(self, points: Points, rows: Rows | None) -> NDArray[np.int32]:
        fuses = self.curves.fuses if rows is None else self.curves.fuses[rows]
        flags = np.packbits(np.concatenate([points.pulled, points.chatter[:, None]], axis=1), axis=1)
        whole = np.concatenate([flags, np.ascontiguousarray(fuses[:, None]).view(np.uint8)], axis=1)
        kinds = np.ascontiguousarray(whole).view(np.dtype((np.void, whole.shape[1])))[:, 0]
        numbers: NDArray[np.int32] = np.unique(kinds, return_inverse=True)[1].astype(np.int32)
        return numbers

    def edge(self, prediction: Prediction) -> Floats:
        """(M, T) how vague the numbers of all rows are on either side of a place where contacts move or a fuse melts: nobody knows the
        threshold so well."""
        value, regime, curve = prediction.value, self._regime(self.points, None), self.curves.of_row
        beside = np.flatnonzero((regime[:-1] != regime[1:]) & (curve[:-1] == curve[1:]))
        doubt = np.zeros_like(value)
        vague = THRESHOLD_VAGUENESS * np.abs(value[beside + 1] - value[beside])
        for side in (beside, beside + 1):
            doubt[side] = np.maximum(doubt[side], vague)
        return doubt

    def _tears(self, tests: tuple[Measurement, ...], rows: Rows | None) -> Tears:
        count = self.curves.rows if rows is None else len(rows)
        if self.setup.instrument != "volts" or self.torn is None:
            return Tears.none(count, len(tests))
        torn, tears = self.torn, Tears.none(count, len(tests))
        if rows is None:
            place, own = torn.row, np.arange(len(torn.row))
        else:
            place = np.flatnonzero(np.isin(rows, torn.row))
            own = np.searchsorted(torn.row, rows[place])
        if not own.size:
            return tears
        both = np.concatenate([own, own + len(torn.row)])
        value, slope, _ = self._numbers(tests, torn.points.of(both), torn.swept[both])
        tears.index[place] = np.arange(len(own) * len(tests)).reshape(len(own), len(tests))
        sides = (value[: len(own)], slope[: len(own)], value[len(own) :], slope[len(own) :])
        return Tears(tears.index, np.repeat(torn.at[own], len(tests)), *(side.ravel() for side in sides))

    def _numbers(self, tests: tuple[Measurement, ...], points: Points, swept: NDArray[np.intp]) -> tuple[Floats, Floats, Floats]:
        """Value, slope and stray (m, T) of the tests at points (m); ``swept`` (m,) is the element whose ohms are the severity, −1 where no
        slope is asked for."""
        numbers = self._averages(tests, points, swept)
        for i, test in self._levels(tests):
            for of_all, of_level in zip(numbers, self._averages((test,), self._at_level(test, points), swept), strict=True):
                of_all[:, i] = of_level[:, 0]
        return numbers

    @staticmethod
    def _levels(tests: tuple[Measurement, ...]) -> list[tuple[int, Measurement]]:
        return [(i, test) for i, test in enumerate(tests) if instrument(test.instrument).reads_level]

    def _at_level(self, test: Measurement, points: Points) -> Points:
        return points.at_level(self.network.node(test.red), self.network.node(test.black), test.instrument == "top")

    def _averages(self, tests: tuple[Measurement, ...], points: Points, swept: NDArray[np.intp]) -> tuple[Floats, Floats, Floats]:
        red, black = self.leads(tests)
        dead = self.setup.instrument == "ohms" and not self.setup.between
        # A clamp touches nothing, and what stands in the network itself needs no look from outside.
        looks = dead or (not self.setup.between and any(t.instrument != "clamp" for t in tests))
        between = points.looks_into(red, black) if looks else np.zeros((points.count, len(tests)))
        volts = np.zeros_like(between) if dead else points.between(red, black)
        scale = self._scale(between, volts, tests)
        slope = np.zeros_like(between)
        if (swept >= 0).any():

            def push(share: Share, at: Rows) -> Floats:
                return share.push_of_ohms(np.maximum(swept[at], 0)[:, None], dead) * (swept[at] >= 0)[:, None]

            slope = points.change(red, black, push, np.maximum(swept, 0)[:, None], dead)[:, :, 0] * scale
        if dead:
            return compress_ohms(between, np.array([instrument(t.instrument).open_ohms for t in tests])), slope, _leaky(between)
        if self.setup.instrument == "ohms":
            ohms = ohms_shown(volts)
            return compress_ohms(ohms, np.array([instrument(t.instrument).open_ohms for t in tests])), slope, _leaky(ohms)
        value = volts * scale
        stray = np.zeros_like(between)
        if self.setup.instrument == "volts":
            vague = np.where(points.steady, PULSING_VAGUENESS, CHATTER_VAGUENESS)
            vague = np.where(points.chatter & ~points.swings, vague, 0.0)
            # A meter that loads the circuit takes stray volts away.
            hangs = np.array([instrument(t.instrument).burden_ohms > STRAY_OHMS / 10.0 for t in tests])
            stray = np.maximum(between / (between + STRAY_OHMS) * hangs, vague[:, None])
        own = [i for i, test in enumerate(tests) if test.instrument == "ac"]
        if own:
            value[:, own], slope[:, own], stray[:, own] = points.alternating(red[own], black[own]), 0.0, 0.0
        own = [i for i, test in enumerate(tests) if test.instrument == "clamp"]
        if own:
            value[:, own], slope[:, own], stray[:, own] = self._clamped(tuple(tests[i] for i in own), points, swept, slope[:, own])
        return value, slope, stray

    def _clamped(
        self, tests: tuple[Measurement, ...], points: Points, swept: NDArray[np.intp], rise: Floats
    ) -> tuple[Floats, Floats, Floats]:
        """The same of a clamp; ``rise`` (m, T) is how far the volts between its two nodes rise with the severity."""
        joins = [np.flatnonzero(self.network.between(test.red, test.black)) for test in tests]
        owner, elements = np.repeat(np.arange(len(tests)), [len(own) for own in joins]), np.concatenate(joins)
        red, _ = self.leads(tests)
        along = np.where(self.network.a[elements] == red[owner], 1.0, -1.0)
        amps = points.amps_through(elements) * along
        value = np.zeros((points.count, len(tests)))
        np.add.at(value.T, owner, amps.T)
        conductors = [self._conductor(test) for test in tests]
        plain = np.array([element is not None for element in conductors])
        stray = np.where(points.chatter[:, None], CHATTER_VAGUENESS, np.where(plain, 0.0, CLAMP_VAGUENESS))
        slope = rise.copy()
        own = np.flatnonzero(plain)
        if own.size:
            wires = np.array([conductors[i] for i in own], dtype=np.intp)
            ohms = points.ohms_of(wires)
            conducts = np.isfinite(ohms)
            ohms = np.where(conducts, ohms, 1.0)
            own_rise = np.where(swept[:, None] == wires, ohms * value[:, own], 0.0)
            slope[:, own] = np.where(conducts, (rise[:, own] - own_rise) / ohms, 0.0)
        return value, slope, stray

    def spread(self, tests: tuple[Measurement, ...], rows: Rows, room: int = 0) -> Floats:
        """(len(rows), T, K): change of each shown number per standard deviation of each tolerance; with ``room`` for more of those there
        are as many, the others nought."""
        points, (red, black) = self.points_at(rows), self.leads(tests)
        dead = self.setup.instrument == "ohms" and not self.setup.between
        swept = sloped(points, self.element[rows])
        spread, count = spread_of(self.tolerances, points, swept, red, black, dead, room), self.tolerances.count
        for i, test in self._levels(tests):
            spread[:, i] = spread_of(self.tolerances, self._at_level(test, points), swept, red[[i]], black[[i]], dead, room)[:, 0]
        for i, test in enumerate(tests):
            if test.instrument == "clamp":
                spread[:, i, :count] = self._clamp_spread(test, spread[:, i, :count], points, swept)
            elif test.instrument == "ac":  # the meter's own doubt on alternating volts is larger
                spread[:, i] = 0.0
        spread *= self._scale_at(tests, points)[:, :, None]
        return spread

    def _clamp_spread(self, test: Measurement, volts: Floats, points: Points, swept: NDArray[np.intp]) -> Floats:
        """(m, K) change of a clamp's current, from that of the ``volts`` between its two nodes: i = (v − what stands in it) / R."""
        element = self._conductor(test)
        if element is None:
            return np.zeros_like(volts)
        only = np.array([element])
        ohms, amps = points.ohms_of(only)[:, 0], points.amps_through(only)[:, 0]
        conducts = np.isfinite(ohms)
        own = np.where(conducts, ohms, 1.0)
        along = 1.0 if self.network.a[element] == self.network.node(test.red) else -1.0
        pushes = self.tolerances.pushes_of(element, own, amps, swept)
        change: Floats = np.where(conducts, 1.0 / own, 0.0)[:, None] * (volts - along * pushes)
        return change

    def _conductor(self, test: Measurement) -> int | None:
        """The one plain conductor that a clamp goes around; None where several or curved ones join its two nodes."""
        (joins,) = np.nonzero(self.network.between(test.red, test.black) & np.isfinite(self.network.ohms))
        return int(joins[0]) if len(joins) == 1 and self.network.law[joins[0]] is Law.OHMIC else None

    def swing(self, tests: tuple[Measurement, ...], rows: Rows) -> Floats:
        """(len(rows), T): change of each shown number per standard deviation of the time that a chattering contact spends closed."""
        points = self.points_at(rows)
        if not points.swings.any():
            return np.zeros((len(rows), len(tests)))
        red, black = self.leads(tests)
        share = np.where(points.steady, OWN_DUTY, DUTY)
        scale = self._scale_at(tests, points) * [t.instrument not in ("clamp", "ac", "top", "base") for t in tests]
        return points.swing(red, black) * scale * share[:, None]

    def leads(self, tests: tuple[Measurement, ...]) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
        """(T,) nodes under red and black."""
        node = self.network.node
        return np.array([node(t.red) for t in tests]), np.array([node(t.black) for t in tests])

    def _scale_at(self, tests: tuple[Measurement, ...], points: Points) -> Floats:
        red, black = self.leads(tests)
        nothing = np.zeros((points.count, len(tests)))
        if self.setup.between:
            return self._scale(nothing, points.between(red, black) if self.setup.instrument == "ohms" else nothing, tests)
        return self._scale(points.looks_into(red, black), nothing, tests)

    def _scale(self, between: Floats, volts: Floats, tests: tuple[Measurement, ...]) -> Floats:
        """Shown number per unit of what the probes see: a voltmeter divides with what it looks into, an ammeter reads its own drop."""
        if self.setup.instrument == "ohms" and self.setup.between:
            ohms = ohms_shown(volts)
            open_ohms = np.array([instrument(t.instrument).open_ohms for t in tests])
            # R = r·v/(E − v), so dR/dv = r·E/(E − v)²; and d ln(1 + R) = dR/(1 + R).
            return np.where(ohms < open_ohms, TEST_OHMS * TEST_VOLTS / np.maximum(TEST_VOLTS - volts, 1e-6) ** 2 / (1.0 + ohms), 0.0)
        if self.setup.instrument == "ohms":
            return np.where(between < [instrument(t.instrument).open_ohms for t in tests], 1.0 / (1.0 + between), 0.0)
        burden = np.array([instrument(t.instrument).burden_ohms for t in tests])
        if self.setup.between:  # it stands in the network itself
            return np.broadcast_to(1.0 / burden if self.setup.instrument == "amps" else np.ones(len(tests)), between.shape)
        touches = np.array([t.instrument != "clamp" for t in tests])
        scale: Floats = np.divide(burden, burden + between, out=np.ones_like(between), where=np.broadcast_to(touches, between.shape))
        return scale


def _leaky(ohms: Floats) -> Floats:
    """How far ohms hang on insulation, as a share of their number on the compressed scale."""
    return LEAK_VAGUENESS / (1.0 + LEAK_OHMS / np.maximum(ohms, 1e-3))
