"""What every test would show under every hypothesis: the sheet solved for all faults and severities at once.

A *workup* is a sheet prepared for isolation. Its rows are (hypothesis, severity, fuse variant); every *setup* (a state, live or
with the battery off, perhaps with a meter in line) is solved for all rows in one batch and kept. From a setup's node voltages,
branch currents and transfer impedances follow, for any two probes: the number shown, its slope over severity, and its
sensitivity to the tolerance of every healthy part, which is what makes tolerances correlated between readings.

Sensitivities are exact first derivatives. With D = zᵖ·u (volts across an element per ampere into a probe), reciprocity gives
dV/d ln R = D·i and dZ/d ln R = D²·g (Tellegen's theorem; adjoint network method).
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ..arrays import Floats
from ..circuit.fault import Fault, apply_faults, mode_of
from ..circuit.layout import Path, load_paths
from ..circuit.network import BLOW_FACTOR, Cases, Network
from ..circuit.operate import Points, Push, Settled, operating_points
from ..circuit.part import Effect, Element
from ..circuit.sensitivity import Tolerances
from ..circuit.sheet import Sheet
from ..meter import OPEN_OHMS, instrument
from .hypotheses import Hypotheses, enumerate_hypotheses
from .offer import Setup, Test, available_tests
from .scale import compress_ohms, scale_uncertainty

__all__ = ["Curves", "Prediction", "Table", "Tears", "Workup"]

# A melted fuse may have been bridged or replaced before the readings were taken. Common practice, no source.
BRIDGED_SHARE = 0.1
# A point that nothing within a megohm defines picks up stray volts from damp, dirt and its neighbours. Common practice, no source.
STRAY_OHMS = 1e6
# A number that hangs on insulation is not counted on to tell anything: it is taken to be this vague.
UNRELIABLE_VOLTS = 6.0
VISIBLE_SIGMA = 2.0
# How much of its time a chattering relay is pulled in nobody knows; the mean shown is this vague, as a share. Common practice, no source.
CHATTER_VAGUENESS = 0.3
_HALVINGS = 10  # a tear is placed to a thousandth of the grid's step
PULSING_VAGUENESS = 0.05  # of a contact that sets its own mean. Common practice, no source.


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
    alone, where any few volts may show; ``tears`` where contacts move between two rows."""

    value: Floats
    slope: Floats
    regime: NDArray[np.intp]
    stray: Floats
    tears: Tears

    @classmethod
    def join(cls, parts: list[Prediction], order: NDArray[np.intp]) -> Prediction:
        """Predictions side by side, then put in ``order``."""

        def column(name: str) -> NDArray:
            return np.concatenate([getattr(p, name) for p in parts], axis=1)[:, order]

        tears = Tears.join([p.tears for p in parts], order)
        return cls(column("value"), column("slope"), column("regime"), column("stray"), tears)


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

    def predict(self, tests: tuple[Test, ...]) -> Prediction:
        """What the tests of this setup show, for every row."""
        value, slope, stray = self._numbers(self.points, self.swept, tests)
        regime = np.repeat(self.regime[:, None], len(tests), axis=1)
        return Prediction(value, slope, regime, stray, self._tears(tests))

    def _tears(self, tests: tuple[Test, ...]) -> Tears:
        made, torn = Tears.none(len(self.regime), len(tests)), self.torn
        if torn is None:
            return made
        count = len(torn.row)
        value, slope, _ = self._numbers(torn.points, torn.swept, tests)
        made.index[torn.row] = np.arange(count * len(tests)).reshape(count, len(tests))
        sides = (value[:count], slope[:count], value[count:], slope[count:])
        return Tears(made.index, np.repeat(torn.at, len(tests)), *(side.ravel() for side in sides))

    def _numbers(self, points: Points, swept: NDArray[np.intp], tests: tuple[Test, ...]) -> tuple[Floats, Floats, Floats]:
        """Value, slope and stray (M, T) of the tests at some points."""
        red, black = self._leads(tests)
        between = points.looks_into(red, black)
        scale = self._scale(between)
        ohms = self.setup.instrument == "ohms"
        slope = np.zeros_like(between)
        own = np.flatnonzero(swept >= 0)
        if own.size:
            slope[own] = points.spread(own, red, black, swept[:, None], _own_push(ohms), ohms)[:, :, 0] * scale[own]
        if ohms:
            return compress_ohms(between), slope, np.zeros_like(between)
        padded = np.pad(points.volts, ((0, 0), (0, 1)))
        value = padded[:, red] - padded[:, black]
        stray = np.zeros_like(between)
        if self.setup.instrument == "volts":
            vague = np.where(points.chatter, np.where(points.steady, PULSING_VAGUENESS, CHATTER_VAGUENESS), 0.0)
            stray = np.maximum(between / (between + STRAY_OHMS), vague[:, None])
        return value * scale, slope, stray

    def spread(self, tests: tuple[Test, ...], rows: NDArray[np.intp]) -> Floats:
        """(len(rows), T, K): change of each shown number per standard deviation of each tolerance."""
        red, black = self._leads(tests)
        scale = self._scale(self.points.looks_into(red, black, rows))[:, :, None]
        return self.tolerances.spread(self.points, rows, red, black, self.swept, self.setup.instrument == "ohms") * scale

    def _leads(self, tests: tuple[Test, ...]) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
        node = self.points.network.node
        return np.array([node(t.red) for t in tests]), np.array([node(t.black) for t in tests])

    def _scale(self, between: Floats) -> Floats:
        """Shown number per unit of what the probes see: a voltmeter divides with what it looks into, an ammeter reads its own drop."""
        burden = instrument(self.setup.instrument).burden_ohms
        if self.setup.instrument == "amps":
            return np.full_like(between, 1.0 / burden)
        if self.setup.instrument == "ohms":
            return np.where(between < OPEN_OHMS, 1.0 / (1.0 + between), 0.0)
        return burden / (burden + between)


def _own_push(squared: bool) -> Push:
    """How far the line of the row's swept element rises per unit of ln severity."""

    def push(settled: Settled, at: NDArray[np.intp], own: NDArray[np.intp], whole: NDArray[np.intp]) -> Floats:
        return settled.push(at, own, squared)[0]

    return push


class Workup:
    """A sheet prepared for isolation; solves each setup once, on first use. A pure function of the sheet."""

    def __init__(self, sheet: Sheet):
        self.sheet = sheet
        self.network = Network.of(sheet)
        self._tables: dict[Setup, Table] = {}
        self._whole: dict[str, Points] = {}  # by state, every hypothesis at every severity with all fuses whole
        self._predictions: dict[tuple[Test, ...], Prediction] = {}

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
    def offered(self) -> tuple[Test, ...]:
        """Every test that the sheet's places allow."""
        return available_tests(self.sheet)

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
        tests = tuple(t for t in self.offered if t.instrument != "amps")
        prediction = self.predict(tests)
        sound = prediction.value[:1]
        apart = np.abs(prediction.value - sound) / np.hypot(scale_uncertainty(sound, tests), UNRELIABLE_VOLTS * prediction.stray)
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

    def table(self, setup: Setup) -> Table:
        """The table of a setup, solved once."""
        if setup not in self._tables:
            self._tables[setup] = self._solve(setup)
        return self._tables[setup]

    def predict(self, tests: tuple[Test, ...]) -> Prediction:
        """What tests would show, for every row; kept, since the same tests are weighed after every reading."""
        if tests not in self._predictions and not tests:
            none = np.zeros((self.curves.rows, 0))
            self._predictions[tests] = Prediction(none, none, none.astype(int), none, Tears.none(self.curves.rows, 0))
        elif tests not in self._predictions:
            parts, order = [], []
            for setup, numbers in _by_setup(tests).items():
                chosen = tuple(tests[i] for i in numbers)
                parts.append(self.table(setup).predict(chosen))
                order += numbers
            self._predictions[tests] = Prediction.join(parts, np.argsort(order))
        return self._predictions[tests]

    def spread(self, tests: tuple[Test, ...], rows: NDArray[np.intp]) -> Floats:
        """(len(rows), T, K): what each tolerance does to the tests' numbers. Setups share the sheet's parts and so its tolerances."""
        parts: list[Floats] = [np.zeros((len(rows), 0, self.tolerances))]
        order: list[int] = []
        for setup, numbers in _by_setup(tests).items():
            chosen = tuple(tests[i] for i in numbers)
            parts.append(self.table(setup).spread(chosen, rows))
            order += numbers
        return np.concatenate(parts, axis=1)[:, np.argsort(np.array(order, dtype=int))]

    @property
    def tolerances(self) -> int:
        """Number K of tolerances that the sheet's parts have between them."""
        return len(Tolerances.of(self.network).element)

    def profile(self, state: str, row: int, faults: tuple[Fault, ...]) -> tuple[dict[str, float], dict[str, Floats]]:
        """Volts at every node in a state with ``faults``, fuses melted as in ``row``, and each node's sensitivity (K,) to tolerances."""
        network = self.network.at(state)
        cases = Cases.healthy(network)
        apply_faults(network, cases, 0, faults)
        points = operating_points(network, cases.forcing(self.curves.blown[[row]], -1), network.positions(state))
        nodes = np.arange(len(network.nodes))
        spread = Tolerances.of(network).spread(points, np.array([0]), nodes, np.full_like(nodes, -1), self.swept_element[[row]], False)[0]
        volts = dict(zip(network.nodes, points.volts[0].tolist(), strict=True)) | {self.sheet.minus: 0.0}
        return volts, dict(zip(network.nodes, spread, strict=True)) | {self.sheet.minus: np.zeros(spread.shape[1])}

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
                amps = operating_points(network, cases.rows(todo).forcing(melted[todo], -1), positions).amps
                load = np.abs(amps) / network.fuse_rating
                worst = load.argmax(axis=1)
                over = load[np.arange(len(todo)), worst] >= BLOW_FACTOR
                melted[todo[over], worst[over]] = True
                todo = todo[over]
        assert melted is not None
        return melted

    def _solve(self, setup: Setup) -> Table:
        bridge = Element("meter", *setup.between, instrument("amps").burden_ohms) if setup.between else None
        network = Network.of(self.sheet, setup.state, bridge) if bridge else self.network.at(setup.state)
        blown = self.curves.blown
        if bridge:
            blown = np.pad(blown, ((0, 0), (0, 1)))
        cases = self._plain_cases(network).rows(self._plain_row).forcing(blown, -1)
        if bridge:
            cases = cases.forcing(network.between(bridge.a, bridge.b), -1)
        if setup.instrument == "ohms":
            cases = cases.dead(network)
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


def _by_setup(tests: tuple[Test, ...]) -> dict[Setup, list[int]]:
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
