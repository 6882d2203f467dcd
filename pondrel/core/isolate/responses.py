"""What every test would show under every hypothesis: the sheet solved for all faults and severities at once.

A *workup* is a sheet prepared for isolation. Its rows are (hypothesis, severity, fuse variant); every *setup* (a state, live or
with the battery off, perhaps with a meter in line) is solved for all rows in one batch and kept. From a setup's node voltages,
branch currents and transfer impedances follow, for any two probes: the number shown, its slope over severity, and its
sensitivity to the tolerance of every healthy part, which is what makes tolerances correlated between readings.

Sensitivities are exact first derivatives. With D = zᵖ·u (volts across an element per ampere into a probe), reciprocity gives
dV/d ln R = D·i and dZ/d ln R = D²·g (Tellegen's theorem; adjoint network method).
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ..circuit.fault import apply_faults
from ..circuit.network import BLOW_FACTOR, Cases, Network, Points, operating_points
from ..circuit.part import Effect
from ..circuit.sheet import Sheet
from ..meter import OPEN_OHMS, instrument
from .hypotheses import Hypotheses, enumerate_hypotheses

__all__ = ["Curves", "Prediction", "Setup", "Table", "Workup", "compress_ohms"]

Floats = NDArray[np.float64]

# A melted fuse may have been bridged or replaced before the readings were taken. Common practice, no source.
BRIDGED_SHARE = 0.1
# A point that nothing within a megohm defines picks up stray volts from damp, dirt and its neighbours. Common practice, no source.
STRAY_OHMS = 1e6


def compress_ohms(ohms: Floats | float) -> Floats:
    """Ohms on a scale where the meter's own uncertainty is even: ln(1 + R/Ω), all that shows OL at one point."""
    return np.log1p(np.minimum(np.maximum(ohms, 0.0), OPEN_OHMS))


@dataclass(frozen=True, slots=True)
class Setup:
    """How the circuit stands while it is measured: the state; the battery off for ``ohms``; for ``amps`` the meter between two nodes."""

    state: str
    instrument: str
    between: tuple[str, str] | None = None

    @classmethod
    def of(cls, state: str, meter: str, red: str, black: str) -> Setup:
        """The setup that a reading needs."""
        return cls(state, meter, (red, black) if meter == "amps" else None)


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
class Prediction:
    """One test over all rows: ``value`` (M,) on the instrument's scale (ohms compressed), ``slope`` (M,) per unit of ln severity,
    ``regime`` (M,) numbers the discrete state (relays, fuses); ``stray`` (M,) in [0, 1] tells how far the number hangs on insulation
    alone, where any few volts may show."""

    value: Floats
    slope: Floats
    regime: NDArray[np.intp]
    stray: Floats


@dataclass(frozen=True, eq=False)
class Table:
    """One setup solved for all rows at the given probes."""

    setup: Setup
    probes: tuple[str, ...]
    volts: Floats  # (M, P)
    ohms: Floats  # (M, P, P) transfer impedance between probes
    across: Floats  # (M, E, P) volts across each element per ampere into each probe
    push: Floats  # (M, K) amperes that one standard deviation of each tolerance is worth
    push_element: NDArray[np.intp]  # (K,)
    share: Floats  # (M, K) relative change of conductance per standard deviation
    amps: Floats  # (M, E)
    siemens: Floats  # (M, E)
    swept_element: NDArray[np.intp]  # (M,) the element whose ohms are the severity, −1 for none
    regime: NDArray[np.intp]

    def predict(self, red: str, black: str) -> Prediction:
        """The number an instrument shows between two probes, for every row."""
        rows = np.arange(len(self.volts))
        swept = self.swept_element
        across = np.where(swept >= 0, self._across(red, black, rows)[rows, swept], 0.0)
        scale = self._scale(red, black, rows)
        if self.setup.instrument == "ohms":
            ohms = compress_ohms(self._between(red, black, rows))
            return Prediction(ohms, across**2 * self.siemens[rows, swept] * scale, self.regime, np.zeros(len(rows)))
        r, b = self.probes.index(red), self.probes.index(black)
        value = self.volts[:, r] - self.volts[:, b]
        between = self._between(red, black, rows)
        stray = between / (between + STRAY_OHMS) if self.setup.instrument == "volts" else np.zeros(len(rows))
        return Prediction(value * scale, across * self.amps[rows, swept] * scale, self.regime, stray)

    def spread(self, red: str, black: str, rows: NDArray[np.intp]) -> Floats:
        """(len(rows), K): change of the shown number per standard deviation of each tolerance."""
        across = self._across(red, black, rows)[:, self.push_element]
        scale = self._scale(red, black, rows)[:, None]
        if self.setup.instrument == "ohms":
            return -(across**2) * self.siemens[rows][:, self.push_element] * self.share[rows] * scale
        return across * self.push[rows] * scale

    def _across(self, red: str, black: str, rows: NDArray[np.intp]) -> Floats:
        r, b = self.probes.index(red), self.probes.index(black)
        return self.across[rows, :, r] - self.across[rows, :, b]  # (rows, E)

    def _between(self, red: str, black: str, rows: NDArray[np.intp]) -> Floats:
        r, b = self.probes.index(red), self.probes.index(black)
        ohms = self.ohms[rows]
        return ohms[:, r, r] + ohms[:, b, b] - ohms[:, r, b] - ohms[:, b, r]

    def _scale(self, red: str, black: str, rows: NDArray[np.intp]) -> Floats:
        """Shown number per unit of what the probes see: a voltmeter divides with what it looks into, an ammeter reads its own drop."""
        burden = instrument(self.setup.instrument).burden_ohms
        if self.setup.instrument == "amps":
            return np.full(len(rows), 1.0 / burden)
        between = np.maximum(self._between(red, black, rows), 0.0)
        if self.setup.instrument == "ohms":
            return np.where(between < OPEN_OHMS, 1.0 / (1.0 + between), 0.0)
        return burden / (burden + between)


class Workup:
    """A sheet prepared for isolation; solves each setup once, on first use. A pure function of the sheet."""

    def __init__(self, sheet: Sheet):
        self.sheet = sheet
        self.network = Network.of(sheet)
        self.hypotheses: Hypotheses = enumerate_hypotheses(sheet, self.network)
        self._tables: dict[Setup, Table] = {}
        self._predictions: dict[tuple[str, str, str, str], Prediction] = {}

    @cached_property
    def curves(self) -> Curves:
        """All rows; where a severity melts a fuse, a curve with the fuse melted and one with it bridged."""
        lengths = [len(grid) for grid in self.hypotheses.severities]
        plain = [(h, 1.0, False) for h in range(len(lengths))]
        melted = self._melted(self._cases(self.network, plain))
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
    def swept_element(self) -> NDArray[np.intp]:
        """(M,) number of the element whose resistance is the row's severity, −1 for none."""
        made = []
        for h, length in zip(self.curves.hypothesis, self.curves.length, strict=True):
            item = self.hypotheses.items[h]
            element = -1
            if item.swept and item.part and item.mode:
                mode = self.sheet.parts[item.part].kind.mode(item.mode)
                assert mode is not None
                name = next(name for name, effect in mode.effects if effect is Effect.VALUE)
                element = self.network.keys.index((item.part, name))
            made.append(np.full(length, element))
        return np.concatenate(made)

    def table(self, setup: Setup, probes: tuple[str, ...] = ()) -> Table:
        """The table of a setup at the sheet's places and any further probes."""
        wanted = tuple(dict.fromkeys((*self.sheet.places, *(setup.between or ()), *probes)))
        known = self._tables.get(setup)
        if known is None or not set(wanted) <= set(known.probes):
            known = self._tables[setup] = self._solve(setup, wanted)
        return known

    def predict(self, state: str, meter: str, red: str, black: str) -> Prediction:
        """What an instrument would show between two nodes in a state, for every row; kept."""
        test = (state, meter, red, black)
        if test not in self._predictions:
            self._predictions[test] = self.table(Setup.of(*test), (red, black)).predict(red, black)
        return self._predictions[test]

    def spread(self, state: str, meter: str, red: str, black: str, rows: NDArray[np.intp]) -> Floats:
        """(len(rows), K): what each tolerance does to that number. Setups number the tolerances alike: they share the sheet's parts."""
        return self.table(Setup.of(state, meter, red, black), (red, black)).spread(red, black, rows)

    def _cases(self, network: Network, curves: list[tuple[int, float, bool]] | None = None) -> Cases:
        which = [h for h, _, _ in curves] if curves else self.curves.hypothesis.tolist()
        grids = [self.hypotheses.severities[h] for h in which]
        cases = Cases.healthy(network, sum(len(grid) for grid in grids))
        row = 0
        for h, grid in zip(which, grids, strict=True):
            for log_ohms in grid:
                apply_faults(network, cases, row, self.hypotheses.fault(h, float(log_ohms)))
                row += 1
        return cases

    def _melted(self, cases: Cases) -> NDArray[np.bool_]:
        """(M, E) fuses that melt in any state: the most overloaded first, since it spares those before it."""
        network = self.network
        melted = np.zeros(cases.forced.shape, dtype=bool)
        for state in self.sheet.states:
            closed = network.closed_by_state(state)
            todo = np.arange(len(melted))
            while todo.size:
                amps = operating_points(network, cases.rows(todo).forcing(melted[todo], -1), closed).amps
                load = np.abs(amps) / network.fuse_rating
                worst = load.argmax(axis=1)
                over = load[np.arange(len(todo)), worst] >= BLOW_FACTOR
                melted[todo[over], worst[over]] = True
                todo = todo[over]
        return melted

    def _solve(self, setup: Setup, probes: tuple[str, ...]) -> Table:
        bridge = (*setup.between, instrument("amps").burden_ohms) if setup.between else None
        network = Network.of(self.sheet, bridge) if bridge else self.network
        blown = self.curves.blown
        if bridge:
            blown = np.pad(blown, ((0, 0), (0, 1)))
        cases = self._cases(network).forcing(blown, -1)
        if bridge:
            ends = {network.a[-1], network.b[-1]}
            beside = np.array([{i, j} == ends for i, j in zip(network.a, network.b, strict=True)])
            beside[-1] = False
            cases = cases.forcing(beside, -1)
        if setup.instrument == "ohms":
            cases = cases.forcing(network.source, -1)
        points = operating_points(network, cases, network.closed_by_state(setup.state))
        transfer = points.transfer(probes)  # (M, N, P)
        padded = np.concatenate([transfer, np.zeros((len(transfer), 1, len(probes)))], axis=1)
        pick = network.pick(probes)
        push, push_element, share = self._push(points)
        return Table(
            setup=setup,
            probes=probes,
            volts=points.volts @ pick.T,
            ohms=np.einsum("pn,mnq->mpq", pick, transfer),
            across=padded[:, network.a, :] - padded[:, network.b, :],
            push=push,
            push_element=push_element,
            share=share,
            amps=points.amps,
            siemens=points.siemens,
            swept_element=self.swept_element,
            regime=_regime(points, blown),
        )

    def _push(self, points: Points) -> tuple[Floats, NDArray[np.intp], Floats]:
        """Per tolerance k: the current (M, K) it pushes through its element (K,), and the relative conductance change (M, K)."""
        network = points.network
        # A faulty element's resistance is its severity, not its tolerance.
        own = np.arange(len(network.keys)) == self.swept_element[:, None]
        sigma = np.where(own, 0.0, network.tolerance)
        emf_sigma = np.where(network.source, sigma, 0.0)
        ohms_sigma = np.where(network.source, network.ohms_tolerance, np.where(network.filament, 0.0, sigma))
        filament_sigma = np.where(network.filament, sigma, 0.0)
        push = [points.amps * ohms_sigma, -points.amps * filament_sigma, points.siemens * network.emf * emf_sigma]
        # A filament's conductance rises with its tolerance, a resistance falls: opposite signs.
        shares = [-np.broadcast_to(ohms_sigma, points.amps.shape), filament_sigma, np.zeros_like(points.amps)]
        element = np.tile(np.arange(len(network.keys)), 3)
        stacked = np.concatenate(push, axis=1)
        used = np.concatenate([np.broadcast_to(s, points.amps.shape) for s in (ohms_sigma, filament_sigma, emf_sigma)], axis=1).any(axis=0)
        return stacked[:, used], element[used], np.concatenate(shares, axis=1)[:, used]


def _regime(points: Points, blown: NDArray[np.bool_]) -> NDArray[np.intp]:
    flags = np.concatenate([points.pulled, points.chatter[:, None], blown], axis=1)
    return np.unique(flags, axis=0, return_inverse=True)[1].reshape(-1)


