"""The circuit of a sheet under every fault, solved: an immutable table from which every prediction follows.

Its rows are (hypothesis, severity, fuse variant); a *set-up* (a state, live or with the battery off, perhaps with a meter in line or a plug
parted) is solved for all rows in one batch. Nothing here remembers anything: what has been solved is kept by whoever asks.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ...base.arrays import Floats
from ...base.judgement import judged
from ...base.patience import breathe
from ...circuit.fault import Fault, apply_faults, mode_of
from ...circuit.measure import in_circuit
from ...circuit.network import BLOW_FACTOR, Cases, Network
from ...circuit.operate import Points, dead_points, operating_points
from ...circuit.part import Effect, Law
from ...circuit.sensitivity import Sensitivities, Tolerances
from ...circuit.sheet import Sheet
from ...circuit.unplug import taken_off
from ...circuit.wear import in_use
from ...evidence.asked import Setup
from .hypotheses import Hypotheses, enumerate_hypotheses
from .table import Curves, Profile, Table, Torn

__all__ = ["BRIDGED_SHARE", "Responses"]

BRIDGED_SHARE = judged("BRIDGED_SHARE", 0.1, "share", "melted fuses that were bridged or replaced before the readings were taken")
_HALVINGS = 10  # a tear is placed to a thousandth of the grid's step


@dataclass(frozen=True, eq=False)
class Responses:
    """A sheet with all that may be wrong on it: ``curves`` are the rows, ``plain_row`` (M,) each row's number before curves are doubled for
    fuses that may have been bridged, ``swept_element`` (M,) the element whose resistance is the row's severity, −1 for none. ``whole`` are,
    by state, the operating points of every hypothesis at every severity with all fuses whole."""

    sheet: Sheet
    network: Network
    hypotheses: Hypotheses
    curves: Curves
    plain_row: NDArray[np.intp]
    swept_element: NDArray[np.intp]
    whole: Mapping[str, Points]

    @classmethod
    def of(cls, sheet: Sheet) -> Responses:
        """A sheet, solved in all its states, as a vehicle in use has it."""
        sheet = in_use(sheet)
        network = Network.of(sheet)
        hypotheses = enumerate_hypotheses(sheet, network)
        melted, whole = _melted(sheet, network, hypotheses)
        curves = _curves(hypotheses, melted)
        start = _plain_start(hypotheses)
        plain_row = np.concatenate([start[h] + np.arange(n) for h, n in zip(curves.hypothesis, curves.length, strict=True)])
        return cls(sheet, network, hypotheses, curves, plain_row, _swept_element(sheet, network, hypotheses, curves), whole)

    def resting(self, setup: Setup) -> Setup:
        """The set-up under the state that stands for it: with the battery off states that differ only in what needs power are one."""
        if setup.instrument != "ohms":
            return setup
        return Setup(self.sheet.resting[setup.state], setup.instrument, setup.between, setup.without)

    def solve(self, setup: Setup) -> Table:
        """A set-up solved for all rows."""
        bridge = in_circuit(setup.instrument, *setup.between, self.sheet.supply_volts) if setup.between else None
        network = Network.of(self.sheet, setup.state, bridge) if bridge else self.network.at(setup.state)
        blown = self.curves.blown
        if bridge:
            blown = np.pad(blown, ((0, 0), (0, 1)))
        cases = self._cases(network, setup).forcing(blown, -1)
        if bridge and setup.instrument == "amps":
            cases = cases.forcing(network.between(bridge.a, bridge.b), -1)
        points = self._points(network, cases, setup)
        swept = _sloped(points, self.swept_element)

        def torn() -> Torn | None:
            return self._torn(network, cases, setup, points) if setup.instrument == "volts" else None

        tolerances = Tolerances.of(network)
        dead = setup.instrument == "ohms"
        return Table(setup, points, tolerances.at_rest if dead else tolerances, swept, _regime(points, blown), torn)

    def reduced(self, setup: Setup, asleep: bool) -> Table:
        """A set-up with every junction taken out, and with what is ``asleep`` too where that is asked for."""
        network = self.network.at(setup.state)
        gone = (network.law == Law.JUNCTION) | (asleep & np.array([e.asleep for e in network.elements], dtype=bool))
        cases = self._cases(network, setup).forcing(self.curves.blown, -1).forcing(gone, -1)
        dead = setup.instrument == "ohms"
        points = dead_points(network, cases, setup.state) if dead else operating_points(network, cases, network.positions(setup.state))
        nothing = np.full(self.curves.rows, -1)
        return Table(setup, points, Tolerances.of(network), nothing, nothing, lambda: None)

    def _cases(self, network: Network, setup: Setup) -> Cases:
        """All rows of a set-up with whole fuses; what is unplugged for it is not there."""
        cases = _plain_cases(network, self.hypotheses).rows(self.plain_row)
        if not setup.without:
            return cases
        return cases.forcing(taken_off(network, setup.without), -1)

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
        if setup.instrument != "volts" or setup.without:
            return operating_points(network, cases, positions)
        curves = self.curves
        blown = curves.blown.any(axis=1)
        fresh, kept = np.flatnonzero(blown), np.flatnonzero(~blown)
        parts = [(self.whole[setup.state], self.plain_row[kept], kept)]
        if fresh.size:
            parts.append((operating_points(network, cases.rows(fresh), positions), np.arange(len(fresh)), fresh))
        return Points.merged(curves.rows, parts)

    def profile(self, state: str, row: int, faults: tuple[Fault, ...], width: int) -> Profile:
        """The circuit in a state with ``faults`` and fuses melted as in ``row``; ``width`` is the number of a workup's tolerances."""
        network = self.network.at(state)
        cases = Cases.healthy(network)
        apply_faults(network, cases, 0, faults)
        points = operating_points(network, cases.forcing(self.curves.blown[[row]], -1), network.positions(state))
        nodes = np.arange(len(network.nodes))
        ready = Sensitivities.of(Tolerances.of(network), points, self.swept_element[[row]], squared=False)
        spread = ready.spread(np.array([0]), nodes, np.full_like(nodes, -1))[0]
        spread = np.pad(spread, ((0, 1), (0, width - spread.shape[1])))
        return Profile((*network.nodes, self.sheet.minus), np.append(points.volts[0], 0.0), spread)


def _plain_start(hypotheses: Hypotheses) -> NDArray[np.intp]:
    """(H,) first row of each hypothesis before curves are doubled for fuses that may have been bridged."""
    return np.concatenate([[0], np.cumsum([len(grid) for grid in hypotheses.severities])])[:-1]


def _plain_cases(network: Network, hypotheses: Hypotheses) -> Cases:
    """Every hypothesis at every severity, all fuses whole."""
    cases = Cases.healthy(network, sum(len(grid) for grid in hypotheses.severities))
    for h, (start, grid) in enumerate(zip(_plain_start(hypotheses), hypotheses.severities, strict=True)):
        apply_faults(network, cases, slice(start, start + len(grid)), hypotheses.fault(h, float(grid[0])), np.exp(grid))
    return cases


def _melted(sheet: Sheet, network: Network, hypotheses: Hypotheses) -> tuple[NDArray[np.bool_], dict[str, Points]]:
    """(plain rows, E) fuses that melt in any state, the most overloaded first, since it spares those before it; and by state the operating
    points with all of them whole."""
    melted: NDArray[np.bool_] | None = None
    whole: dict[str, Points] = {}
    for state in sheet.states:
        at = network.at(state)
        cases, positions = _plain_cases(at, hypotheses), at.positions(state)
        melted = np.zeros(cases.forced.shape, dtype=bool) if melted is None else melted
        whole[state] = operating_points(at, cases, positions)
        load = np.abs(whole[state].amps) / at.fuse_rating
        todo = np.flatnonzero(melted.any(axis=1) | (load >= BLOW_FACTOR).any(axis=1))
        while todo.size:
            breathe()
            amps = operating_points(at, cases.rows(todo).forcing(melted[todo], -1), positions).amps
            load = np.abs(amps) / at.fuse_rating
            worst = load.argmax(axis=1)
            over = load[np.arange(len(todo)), worst] >= BLOW_FACTOR
            melted[todo[over], worst[over]] = True
            todo = todo[over]
    assert melted is not None
    return melted, whole


def _curves(hypotheses: Hypotheses, melted: NDArray[np.bool_]) -> Curves:
    """All rows; where a severity melts a fuse, a curve with the fuse melted and one with it bridged."""
    lengths = [len(grid) for grid in hypotheses.severities]
    starts = np.concatenate([[0], np.cumsum(lengths)])
    curves: list[tuple[int, float]] = []
    blown = []
    for h in range(len(lengths)):
        rows = melted[starts[h] : starts[h + 1]]
        if rows.any():
            curves += [(h, 1.0 - BRIDGED_SHARE), (h, BRIDGED_SHARE)]
            blown += [rows, np.zeros_like(rows)]
        else:
            curves.append((h, 1.0))
            blown.append(rows)
    counts = np.array([lengths[h] for h, _ in curves])
    return Curves(
        hypothesis=np.array([h for h, _ in curves]),
        share=np.array([share for _, share in curves]),
        start=np.concatenate([[0], np.cumsum(counts)[:-1]]),
        length=counts,
        grid=tuple(hypotheses.severities[h] for h, _ in curves),
        blown=np.concatenate(blown),
    )


def _swept_element(sheet: Sheet, network: Network, hypotheses: Hypotheses, curves: Curves) -> NDArray[np.intp]:
    """(M,) number of the element whose resistance is the row's severity, −1 for none."""
    swept = []
    for h, length in zip(curves.hypothesis, curves.length, strict=True):
        item = hypotheses.items[h]
        element = -1
        if item.swept and item.part and item.mode:
            mode = mode_of(sheet, item.part, item.mode)
            name = next(name for name, effect in mode.effects if effect is Effect.VALUE)
            element = network.keys.index((item.part, name))
        swept.append(np.full(length, element))
    return np.concatenate(swept)


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
