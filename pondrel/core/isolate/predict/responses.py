"""The circuit of a sheet under every fault, solved: an immutable table from which every prediction follows.

Its rows are (hypothesis, severity, fuse variant); a *set-up* (a state, live or with the battery off, perhaps with a meter in line or a plug
parted) is solved for the rows that are asked for, many in one batch.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ...base.judgement import judged
from ...base.patience import breathe
from ...circuit.fault import Fault, changes, mode_of, one_case
from ...circuit.measure import in_circuit
from ...circuit.network import BLOW_FACTOR, Cases, Network
from ...circuit.operate import operating_points, without
from ...circuit.part import Effect, Law
from ...circuit.points import Points
from ...circuit.sensitivity import Tolerances, spread_of
from ...circuit.sheet import Sheet
from ...circuit.unplug import taken_off
from ...circuit.wear import in_use
from ...evidence.asked import Setup
from ...meter.instrument import instrument
from .curves import Curves
from .hypotheses import Hypotheses, enumerate_hypotheses
from .table import Profile, Solved, Table
from .tears import Torn, find_torn

__all__ = ["BRIDGED_SHARE", "Responses"]

BRIDGED_SHARE = judged("BRIDGED_SHARE", 0.1, "share", "melted fuses that were bridged or replaced before the readings were taken")


@dataclass(frozen=True, eq=False)
class Responses:
    """A sheet with all that may be wrong on it: ``curves`` are the rows, ``faults`` (M cases) what each of them changes, fuses that have
    melted in it left out, ``swept_element`` (M,) the element whose resistance is the row's severity, −1 for none. ``live`` are the
    operating points of all rows by state."""

    sheet: Sheet
    network: Network
    hypotheses: Hypotheses
    curves: Curves
    faults: Cases
    swept_element: NDArray[np.intp]
    live: Mapping[str, Points]

    @classmethod
    def of(cls, sheet: Sheet) -> Responses:
        """A sheet, solved in all its states, as a vehicle in use has it."""
        sheet = in_use(sheet)
        network = Network.of(sheet)
        hypotheses = enumerate_hypotheses(sheet, network)
        plain = _plain_cases(network, hypotheses)
        melted, whole = _melted(sheet, network, plain)
        curves, plain_row = _curves(hypotheses, melted, network.fuses)
        faults, swept = plain.at(plain_row), _swept_element(sheet, network, hypotheses, curves)
        live = {state: _with_melted(network, state, faults, curves, whole.pop(state), plain_row) for state in sheet.states}
        return cls(sheet, network, hypotheses, curves, faults, swept, live)

    def resting(self, setup: Setup) -> Setup:
        """The set-up under the state that stands for it: with the battery off states that differ only in what needs power are one."""
        if setup.instrument != "ohms":
            return setup
        return Setup(self.sheet.resting[setup.state], setup.instrument, setup.between, setup.without)

    def table(self, setup: Setup) -> Table:
        """A set-up of all rows."""
        network, state = self.network.at(setup.state), setup.state
        replaced = _takes_the_place_of(network, setup)
        if replaced is not None:
            return self._in_place_of(network, setup, replaced)
        bridge = in_circuit(setup.instrument, *setup.between, self.sheet.supply_volts) if setup.between else None
        network = Network.of(self.sheet, state, bridge) if bridge else network
        gone = taken_off(network, setup.without) if setup.without else np.zeros(len(network.keys), dtype=bool)
        if bridge and setup.instrument == "amps":
            gone |= network.between(bridge.a, bridge.b)
        dead = setup.instrument == "ohms"
        at, cases = without(network, self.faults.also(self.curves.blown), gone, dead)
        positions = at.positions(state)

        def solve(rows: NDArray[np.intp]) -> Points:
            if setup == Setup(state, "volts") and len(rows) == self.curves.rows:
                return self.live[state]
            return operating_points(at, cases.at(rows), positions)

        def torn(points: Points) -> Torn | None:
            return find_torn(at, cases, positions, self.curves, self.swept_element, points) if setup.instrument == "volts" else None

        solved = Solved(self.curves.rows, solve, in_parts=bool(setup.between))
        tolerances = Tolerances.of(network)
        return Table(setup, network, self.curves, tolerances.at_rest if dead else tolerances, self.swept_element, solved, torn)

    def _in_place_of(self, network: Network, setup: Setup, element: int) -> Table:
        """A set-up in which an ammeter stands in the place of one plain element: as many ohms as the meter has, known to a hair, whatever
        is wrong with what was there."""
        ohms = instrument(setup.instrument).burden_ohms
        every = np.arange(self.curves.rows)
        cases = self.faults.also(self.curves.blown).also(Cases.of(len(every), [(every, element, ohms, 1)]))
        positions = network.positions(setup.state)
        solved = Solved(len(every), lambda rows: operating_points(network, cases.at(rows), positions), in_parts=True)
        swept = np.where(self.swept_element == element, -1, self.swept_element)
        return Table(setup, network, self.curves, Tolerances.of(network).but(element), swept, solved, lambda points: None)

    def reduced(self, setup: Setup, asleep: bool) -> Table:
        """A set-up with every junction taken out, and with what is ``asleep`` too where that is asked for."""
        network = self.network.at(setup.state)
        gone = (network.law == Law.JUNCTION) | (asleep & np.array([e.asleep for e in network.elements], dtype=bool))
        if setup.without:
            gone |= taken_off(network, setup.without)
        at, cases = without(network, self.faults.also(self.curves.blown), gone, setup.instrument == "ohms")

        def solve(rows: NDArray[np.intp]) -> Points:
            return operating_points(at, cases.at(rows), at.positions(setup.state))

        nothing = np.full(self.curves.rows, -1)
        solved = Solved(self.curves.rows, solve)
        return Table(setup, network, self.curves, Tolerances.of(network), nothing, solved, lambda points: None)

    def profile(self, state: str, row: int, faults: tuple[Fault, ...], width: int) -> Profile:
        """The circuit in a state with ``faults`` and fuses melted as in ``row``; ``width`` is the number of a workup's tolerances."""
        network = self.network.at(state)
        case = one_case(network, faults).also(self.curves.blown.at(np.array([row])))
        points = operating_points(network, case, network.positions(state))
        nodes, black = np.arange(len(network.nodes)), np.full(len(network.nodes), -1)
        spread = spread_of(Tolerances.of(network), points, self.swept_element[[row]], nodes, black, squared=False)[0]
        spread = np.pad(spread, ((0, 1), (0, width - spread.shape[1])))
        return Profile((*network.nodes, self.sheet.minus), np.append(points.volts[0], 0.0), spread)


def _takes_the_place_of(network: Network, setup: Setup) -> int | None:
    """The one plain element whose place an ammeter takes; None for any other set-up."""
    if setup.instrument != "amps" or not setup.between or setup.without:
        return None
    (joins,) = np.nonzero(network.between(*setup.between))
    return int(joins[0]) if len(joins) == 1 and network.law[joins[0]] is Law.OHMIC else None


def _with_melted(network: Network, state: str, faults: Cases, curves: Curves, whole: Points, plain_row: NDArray[np.intp]) -> Points:
    """The operating points of all rows: with whole fuses they are those that the search for melting ones has found already."""
    at = network.at(state)
    fresh, kept = np.flatnonzero(curves.fuses > 0), np.flatnonzero(curves.fuses == 0)
    parts = [(whole, plain_row[kept], kept)]
    if fresh.size:
        cases = faults.also(curves.blown).at(fresh)
        parts.append((operating_points(at, cases, at.positions(state)), np.arange(len(fresh)), fresh))
    return Points.merged(curves.rows, parts)


def _plain_cases(network: Network, hypotheses: Hypotheses) -> Cases:
    """Every hypothesis at every severity, all fuses whole."""
    found, start = [], 0
    for h, grid in enumerate(hypotheses.severities):
        rows = np.arange(start, start + len(grid))
        found += changes(network, rows, hypotheses.fault(h, float(grid[0])), np.exp(grid))
        start += len(grid)
    return Cases.of(start, found)


def _melted(sheet: Sheet, network: Network, plain: Cases) -> tuple[NDArray[np.bool_], dict[str, Points]]:
    """(plain rows, F) which of the network's fuses melt in any state, the most overloaded first, since it spares those before it; and by
    state the operating points with all of them whole."""
    fuses = network.fuses
    melted = np.zeros((plain.count, len(fuses)), dtype=bool)
    whole: dict[str, Points] = {}
    for state in sheet.states:
        at = network.at(state)
        rating, positions = at.fuse_rating[fuses], at.positions(state)
        whole[state] = operating_points(at, plain, positions)
        load = np.abs(whole[state].amps_through(fuses)) / rating
        todo = np.flatnonzero(melted.any(axis=1) | (load >= BLOW_FACTOR).any(axis=1))
        while todo.size:
            breathe()
            cases = plain.at(todo).also(_open(fuses, melted[todo]))
            load = np.abs(operating_points(at, cases, positions).amps_through(fuses)) / rating
            worst = load.argmax(axis=1)
            over = load[np.arange(len(todo)), worst] >= BLOW_FACTOR
            melted[todo[over], worst[over]] = True
            todo = todo[over]
    return melted, whole


def _open(fuses: NDArray[np.intp], melted: NDArray[np.bool_]) -> Cases:
    """Cases in which those of the fuses (F,) are open that have melted (m, F)."""
    case, fuse = np.nonzero(melted)
    return Cases(len(melted), case, fuses[fuse], np.full(len(case), np.nan), np.full(len(case), -1, dtype=np.int8))


def _curves(hypotheses: Hypotheses, melted: NDArray[np.bool_], fuses: NDArray[np.intp]) -> tuple[Curves, NDArray[np.intp]]:
    """All rows; where a severity melts a fuse, a curve with the fuse melted and one with it bridged. And each row's number (M,) before
    curves are doubled so."""
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
    made = Curves(
        hypothesis=np.array([h for h, _ in curves]),
        share=np.array([share for _, share in curves]),
        start=np.concatenate([[0], np.cumsum(counts)[:-1]]),
        length=counts,
        grid=tuple(hypotheses.severities[h] for h, _ in curves),
        blown=_open(fuses, np.concatenate(blown)),
    )
    plain_row = np.concatenate([starts[h] + np.arange(n) for h, n in zip(made.hypothesis, made.length, strict=True)])
    return made, plain_row


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
