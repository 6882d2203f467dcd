"""Operating points of many cases of one network at once.

Cases stand on axis 0 of every array. In one position of the contacts all cases share one inverted tableau (`tableau`); what a case
changes are its ports. Curved laws are followed by Newton from the healthy circuit's own solution: an element whose slope has moved by
more than a few per cent becomes a port, the others are corrected along the base's slope. Contacts that follow coils, currents or
capacitors are moved until they rest.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..base.arrays import Floats
from ..base.patience import breathe
from .laws import amps_lost, nonlinear_amps, tame
from .network import LEAST_OHMS, Cases, Network, Positions
from .part import Law
from .tableau import Base, Lines, Ports, solve_ports

# (settled, its rows (m,), elements (m, K)) -> (m, K)
Push = Callable[["Settled", NDArray[np.intp], NDArray[np.intp]], Floats]

__all__ = ["Points", "Push", "Settled", "dead_points", "operating_points", "resting_base"]

_ROUNDS, _WALKS_ON = 100, 40
# Newton has arrived when its step is below this; the step after would be its square. On a floating point, where insulation of a gigohm
# meets rounding, less cannot be reached.
_STEP_VOLTS, _STEP_SHARE = 1e-6, 1e-9
_SAME_SLOPE = 0.02  # a slope this near the base's is followed by correction instead of a port
_WORTH_A_BASE, _NEAR = 400, 8  # fewer rows than this do with a base that differs in so many contacts
_JUNCTION_AMPS = 0.01
_NO_SLOPE = 1e-12  # siemens below which a curved element is taken as a constant current


@dataclass(frozen=True, eq=False)
class Settled:
    """M cases with every contact where it is: ``lines`` (M, E) that the elements follow, ``source`` (M, E) over the base, ``groups`` of
    ports, ``conducts`` and ``ports`` (M, E), ``restless`` (M,) where Newton found no end; ``lost`` (M, K) amperes that each of the K
    elements with a curved law loses per unit by which the logarithm of its own ohms rises, NaN where one does not follow its law."""

    network: Network
    base: Base
    lines: Lines
    source: Floats
    groups: list[Ports]
    ports: NDArray[np.bool_]
    conducts: NDArray[np.bool_]
    restless: NDArray[np.bool_]
    lost: Floats

    @cached_property
    def nodes(self) -> Floats:
        """(M, N) volts."""
        return self.base.nodes + self.source @ self.base.to_nodes.T

    @cached_property
    def amps(self) -> Floats:
        """(M, E) amperes through each element."""
        return np.where(self.conducts, self.base.amps + self.source @ self.base.to_amps.T, 0.0)

    @cached_property
    def across(self) -> Floats:
        """(M, E) volts across each element."""
        return self.base.across + self.source @ self.base.to_across.T

    def respond(self, rows: NDArray[np.intp], elements: NDArray[np.intp], red: NDArray[np.intp], black: NDArray[np.intp]) -> Floats:
        """(m, T, K) volts from nodes ``red`` to ``black`` (T,) per unit by which γ of an element's line rises; ``rows`` (m,), ``elements``
        (m, K) for each its own."""
        to_pairs = self.to_pairs(red, black)
        signed = to_pairs * self.sign
        response = np.empty((len(rows), len(red), elements.shape[1]))
        for own, ports, react in self.reactions(rows, elements):
            response[own] = np.swapaxes(signed[:, elements[own]], 0, 1) + ports.through(to_pairs) @ react
        return response

    def to_pairs(self, red: NDArray[np.intp], black: NDArray[np.intp]) -> Floats:
        """(T, E) volts from nodes ``red`` to ``black`` of the base circuit per unit of a source in each element."""
        return _pairs(self.base.to_nodes, red, black)

    @property
    def sign(self) -> Floats:
        """(E,) of the source that stands for a rise of γ of an element's line."""
        return np.where(self.base.own_amps, 1.0, -1.0)

    def reactions(self, rows: NDArray[np.intp], elements: NDArray[np.intp]) -> Iterator[tuple[NDArray[np.intp], Ports, Floats]]:
        """Bundles of the ``rows``: which they are among them, their ports, and (m, k, K) the sources that those add per unit by which γ of
        an element's line rises; ``elements`` are (K,), or (m, K) where every row asks for its own."""
        base = self.base
        each = np.broadcast_to(elements, (len(rows), elements.shape[-1]))
        sign = self.sign
        for ports, own in self._split(rows):
            asked = each[own][:, None, :]  # (m, 1, K)
            index = ports.index[:, :, None]
            react = ports.react(base, base.to_across[index, asked] * sign[asked], base.to_amps[index, asked] * sign[asked])
            yield own, ports, react + ports.inverse @ ((index == asked) & ports.valid[:, :, None])

    def looks_into(self, rows: NDArray[np.intp], red: NDArray[np.intp], black: NDArray[np.intp]) -> Floats:
        """(m, T) ohms between nodes ``red`` and ``black`` (T,), small-signal."""
        base = self.base
        direct = np.diagonal(_pairs(_pairs(base.inject_nodes, red, black).T, red, black))  # (T,)
        across, amps = _pairs(base.inject_across.T, red, black).T, _pairs(base.inject_amps.T, red, black).T  # (E, T)
        to_pairs = _pairs(base.to_nodes, red, black)
        ohms = np.empty((len(rows), len(red)))
        for ports, own in self._split(rows):
            react = ports.react(base, across[ports.index], amps[ports.index])  # (m, k, T)
            ohms[own] = direct + np.einsum("mtk,mkt->mt", ports.through(to_pairs), react)
        return np.maximum(ohms, 0.0)

    def across_by(self, row: int, elements: NDArray[np.intp], red: NDArray[np.intp], black: NDArray[np.intp]) -> Floats:
        """(K, T) volts across some elements of one row per ampere put into nodes ``red`` and taken out at ``black`` (T,), small-signal."""
        base = self.base
        across, amps = _pairs(base.inject_across.T, red, black).T, _pairs(base.inject_amps.T, red, black).T  # (E, T)
        volts = across[elements]
        for ports, _ in self._split(np.array([row])):
            react = ports.react(base, across[ports.index], amps[ports.index])  # (1, k, T)
            volts = volts + (ports.through(base.to_across[elements]) @ react)[0]
        return volts

    def push(self, rows: NDArray[np.intp], elements: NDArray[np.intp], squared: bool = False) -> tuple[Floats, Floats, Floats]:
        """How far γ of each element's own line rises, (m, K) each: when its resistance rises, when its law's current rises, and when
        its EMF or threshold rises, by one part in one (the last: by a volt); ``squared`` gives instead what the square of a response is
        multiplied by to give the change of an impedance (Tellegen's theorem; adjoint network method).

        From v − R·i = E: dγ = R·i·dR/R. A curved law's line at a port is g·v − i = γ, elsewhere the base's v − R·i = E, R = 1/g; what its
        law loses at the same volts is how far γ rises there.
        """
        k = np.broadcast_to(elements, (len(rows), elements.shape[-1]))
        at = rows[:, None], k
        on, amps, alpha, beta = self.conducts[at], self.amps[at], self.lines.alpha[at], self.lines.beta[at]
        along_base = ~self.ports[at] & self.base.own_amps[k] & self.curved[k]
        factor = np.where(along_base, self.base.lines.beta[k], 1.0)
        lost = self._lost_by_element[at]
        bends = ~np.isnan(lost)
        if squared:
            resistance = np.where(on, np.where(bends, np.where(along_base, self.base.lines.beta[k], alpha), beta), 0.0)
            return resistance, np.where(bends, -resistance, 0.0), np.zeros_like(amps)
        slope = np.where(self.curved[k], alpha * factor, 1.0)
        resistance = np.where(bends, lost * factor, beta * amps)
        return np.where(on, resistance, 0.0), np.where(on, -factor * amps, 0.0), np.where(on, slope, 0.0)

    @cached_property
    def _lost_by_element(self) -> Floats:
        """(M, E) `lost`, NaN for elements with a straight law too."""
        lost = np.full(self.lines.alpha.shape, np.nan)
        lost[:, self.network.nonlinear] = self.lost
        return lost

    @property
    def curved(self) -> NDArray[np.bool_]:
        """(E,) elements with a curved law."""
        curved = np.zeros(len(self.network.keys), dtype=bool)
        curved[self.network.nonlinear] = True
        return curved

    def _split(self, rows: NDArray[np.intp]) -> Iterator[tuple[Ports, NDArray[np.intp]]]:
        """The chosen rows by group: their ports, and their places among ``rows``."""
        for ports in self.groups:
            place = np.full(len(self.source), -1)
            place[ports.rows] = np.arange(len(ports.rows))
            own = np.flatnonzero(place[rows] >= 0)
            if own.size:
                yield ports.at(place[rows[own]], rows[own]), own


def _pairs(by_node: Floats, red: NDArray[np.intp], black: NDArray[np.intp]) -> Floats:
    """(T, …) differences of rows of an array by node (N, …); −1 is battery minus."""
    padded = np.concatenate([by_node, np.zeros((1, *by_node.shape[1:]))])
    between: Floats = padded[red] - padded[black]
    return between


# What a settled share gives at its own rows, and at those of all points.
_Make = Callable[["Settled", NDArray[np.intp], NDArray[np.intp]], Floats]


@dataclass(frozen=True, eq=False)
class Points:
    """Operating points of M cases. A case that chatters or pulses is the mean of its positions; most have but one `Settled`.

    ``shares`` lists (rows, weight per row, settled); ``cycling`` (M, C) marks controlled contacts that find no rest, ``restless`` (M,)
    cases in which Newton finds none; ``steady`` (M,) where the cycling is slow and sets its own mean; ``pulled`` (M, C) per controlled
    contact whether its control holds.
    """

    network: Network
    shares: tuple[tuple[NDArray[np.intp], Floats, Settled], ...]
    cycling: NDArray[np.bool_]
    restless: NDArray[np.bool_]
    steady: NDArray[np.bool_]
    pulled: NDArray[np.bool_]

    @cached_property
    def chatter(self) -> NDArray[np.bool_]:
        """(M,) cases without rest: contacts that hurry to and fro, or a circuit that Newton does not settle."""
        return self.cycling.any(axis=1) | self.restless

    @cached_property
    def swing(self) -> tuple[NDArray[np.bool_], Floats]:
        """(M,) cases that hurry between just two positions, and (M, N) how far the volts of each node then move from one to the other."""
        count, swung = np.zeros(len(self.restless), dtype=int), np.zeros((len(self.restless), len(self.network.nodes)))
        for rows, _, settled in self.shares:
            swung[rows] += np.where(count[rows, None] == 0, -settled.nodes, settled.nodes)
            count[rows] += 1
        swings = self.cycling.any(axis=1) & ~self.restless & (count == 2)
        return swings, np.where(swings[:, None], swung, 0.0)

    def _mean(self, name: str) -> Floats:
        first = getattr(self.shares[0][2], name)
        mean = np.zeros((len(self.restless), first.shape[1]))
        for rows, weight, settled in self.shares:
            mean[rows] += weight[:, None] * getattr(settled, name)
        return mean

    @cached_property
    def volts(self) -> Floats:
        """(M, N) by node."""
        return self._mean("nodes")

    @cached_property
    def amps(self) -> Floats:
        """(M, E) by element."""
        return self._mean("amps")

    def alternating(self, red: NDArray[np.intp], black: NDArray[np.intp]) -> Floats:
        """(M, T) effective value of what the volts from nodes ``red`` to ``black`` (T,) swing about their mean, over the positions."""

        def padded(volts: Floats) -> Floats:
            return np.pad(volts, ((0, 0), (0, 1)))

        mean = padded(self.volts)[:, red] - padded(self.volts)[:, black]
        square = np.zeros_like(mean)
        for rows, weight, settled in self.shares:
            nodes = padded(settled.nodes)
            square[rows] += weight[:, None] * (nodes[:, red] - nodes[:, black] - mean[rows]) ** 2
        root: Floats = np.sqrt(square)
        return root

    @cached_property
    def conducts(self) -> NDArray[np.bool_]:
        """(M, E) whether an element lets current through in any of the positions."""
        conducts = np.zeros((len(self.restless), len(self.network.keys)), dtype=bool)
        for rows, _, settled in self.shares:
            conducts[rows] |= settled.conducts
        return conducts

    def ohms_of(self, element: int) -> Floats:
        """(M,) ohms of a straight element where it conducts, the mean over the positions in which it does; infinite where in none."""
        ohms, share = np.zeros(len(self.restless)), np.zeros(len(self.restless))
        for rows, weight, settled in self.shares:
            on = settled.conducts[:, element]
            ohms[rows] += np.where(on, weight * settled.lines.beta[:, element], 0.0)
            share[rows] += np.where(on, weight, 0.0)
        return np.where(share > 0.0, ohms / np.maximum(share, 1e-12), np.inf)

    def looks_into(self, red: NDArray[np.intp], black: NDArray[np.intp], rows: NDArray[np.intp] | None = None) -> Floats:
        """(rows, T) ohms between nodes, small-signal, the mean over the positions."""
        return self._weighted(rows, lambda settled, at, _: settled.looks_into(at, red, black), (len(red),))

    def spread(
        self,
        rows: NDArray[np.intp],
        red: NDArray[np.intp],
        black: NDArray[np.intp],
        elements: NDArray[np.intp],
        push: Push,
        squared: bool = False,
    ) -> Floats:
        """(m, T, K) change of the volts between nodes, or with ``squared`` of the ohms between them, as elements are pushed.

        ``elements`` are (M, K), for every row its own; ``push`` gives how far γ of each one's line rises.
        """

        def one(settled: Settled, at: NDArray[np.intp], whole: NDArray[np.intp]) -> Floats:
            own = elements[whole]
            response = settled.respond(at, own, red, black)
            response = response**2 if squared else response
            return response * push(settled, at, own)[:, None, :]

        return self._weighted(rows, one, (len(red), elements.shape[1]))

    @classmethod
    def merged(cls, count: int, parts: list[tuple[Points, NDArray[np.intp], NDArray[np.intp]]]) -> Points:
        """``count`` cases put together: of each part its rows ``taken`` (m,), standing at ``target`` (m,)."""
        shares: list[tuple[NDArray[np.intp], Floats, Settled]] = []
        contacts = parts[0][0].pulled.shape[1]
        cycling, pulled = np.zeros((count, contacts), dtype=bool), np.zeros((count, contacts), dtype=bool)
        restless, steady = np.zeros(count, dtype=bool), np.zeros(count, dtype=bool)
        for points, taken, target in parts:
            for rows, weight, settled in points.shares:
                place = np.full(len(points.restless), -1)
                place[rows] = np.arange(len(rows))
                own = place[taken]
                here = np.flatnonzero(own >= 0)
                if here.size:
                    shares.append((target[here], weight[own[here]], _rows_of(settled, own[here])))
            cycling[target], pulled[target] = points.cycling[taken], points.pulled[taken]
            restless[target], steady[target] = points.restless[taken], points.steady[taken]
        return cls(parts[0][0].network, tuple(shares), cycling, restless, steady, pulled)

    def _weighted(self, rows: NDArray[np.intp] | None, made_by: _Make, shape: tuple[int, ...]) -> Floats:
        asked = np.arange(len(self.restless)) if rows is None else rows
        mean = np.zeros((len(asked), *shape))
        for own, weight, settled in self.shares:
            place = np.full(len(self.restless), -1)
            place[own] = np.arange(len(own))
            mine = np.flatnonzero(place[asked] >= 0)
            if mine.size:
                at = place[asked[mine]]
                mean[mine] += weight[at].reshape(-1, *(1 for _ in shape)) * made_by(settled, at, asked[mine])
        return mean


def operating_points(network: Network, cases: Cases, positions: Positions) -> Points:
    """Solve M cases with the state's contacts as in ``positions``; raises nothing, whatever the values.

    Controlled contacts start released and follow their controls with hysteresis; a case whose contacts cycle is marked as chatter and shown
    as the mean of the positions it hurries between.
    """
    if len(positions) == 1:
        return _resting(network, cases, positions[0][1])
    every = [(_resting(network, cases, closed), share) for share, closed in positions]
    shares = tuple((rows, weight * share, settled) for points, share in every for rows, weight, settled in points.shares)
    return Points(
        network,
        shares,
        np.logical_or.reduce([p.cycling for p, _ in every]),
        np.logical_or.reduce([p.restless for p, _ in every]),
        np.logical_or.reduce([p.steady for p, _ in every]),
        np.logical_or.reduce([p.pulled for p, _ in every]),
    )


def dead_points(network: Network, cases: Cases, state: str) -> Points:
    """M cases of a network with the battery off, its contacts as in ``state``."""
    unpowered = network.unpowered
    return operating_points(unpowered, cases.dead(network), unpowered.positions(state))


def resting_base(network: Network, closed: NDArray[np.bool_]) -> Base:
    """The healthy circuit in one position of the state's contacts, its controlled ones at rest, with its responses."""
    circuit = _circuit(network, closed)
    return circuit.base(circuit.pulled)[0]


def _circuit(network: Network, closed: NDArray[np.bool_]) -> _Circuit:
    key = closed.tobytes()
    if key not in network.circuits:
        network.circuits[key] = _Circuit(network, closed)
    circuit: _Circuit = network.circuits[key]
    return circuit


def _resting(network: Network, cases: Cases, closed: NDArray[np.bool_]) -> Points:
    count, contacts = len(cases.ohms), len(network.controls)
    circuit = _circuit(network, closed)
    pulled = np.broadcast_to(circuit.pulled, (count, contacts)).copy()
    if not contacts:
        settled = circuit.settle(cases, pulled)
        return _alone(network, settled, pulled)
    # Every row starts where the healthy circuit rests; one whose contacts rest elsewhere starts again from all released, since
    # hysteresis remembers.
    settled = circuit.settle(cases, pulled)
    afresh = _wanted(network, settled, np.zeros_like(pulled))
    moved = (afresh != pulled).any(axis=1)
    if any(control.data.feeds_itself for control in network.controls):
        moved[:] = True
    if not moved.any():
        return _alone(network, settled, pulled)
    still, todo = np.flatnonzero(~moved), np.flatnonzero(moved)
    pulled[todo] = False
    shares: list[tuple[NDArray[np.intp], Floats, Settled]] = []
    if still.size:
        shares.append((still, np.ones(len(still)), _rows_of(settled, still)))
    before = pulled.copy()
    restless, steady = np.zeros(count, dtype=bool), np.zeros(count, dtype=bool)
    cycling = np.zeros_like(pulled)
    single = np.zeros(count, dtype=bool)  # rows in which one contact moves at a time, since together they chase each other
    cycled: list[NDArray[np.intp]] = []
    for _ in range(4 * contacts + 6):
        breathe()
        settled = circuit.settle(cases.rows(todo), pulled[todo])
        wanted = _wanted(network, settled, pulled[todo])
        differ = wanted != pulled[todo]
        moved = differ.any(axis=1)
        rest = np.flatnonzero(~moved)
        if rest.size:
            shares.append((todo[rest], np.ones(len(rest)), _rows_of(settled, rest)))
        first = differ.argmax(axis=1)
        wanted = np.where(single[todo][:, None] & (np.arange(contacts) != first[:, None]), pulled[todo], wanted)
        back = moved & (wanted == before[todo]).all(axis=1) & (before[todo] != pulled[todo]).any(axis=1)
        alone = (wanted != pulled[todo]).sum(axis=1) == 1
        single[todo[back & ~alone]] = True
        wanted = np.where((back & ~alone)[:, None] & (np.arange(contacts) != first[:, None]), pulled[todo], wanted)
        cycled.append(todo[back & alone])
        go = moved & ~(back & alone)
        before[todo[go]] = pulled[todo[go]]
        pulled[todo[go]] = wanted[go]
        todo = todo[go]
        if not todo.size:
            break
    todo = np.concatenate([*cycled, todo])
    if todo.size:
        cycling[todo] = before[todo] != pulled[todo]
        one, other = (circuit.settle(cases.rows(todo), position) for position in (before[todo], pulled[todo]))
        weight, slow = _dwell(network, one, other, before[todo], pulled[todo])
        steady[todo] = slow
        shares += [(todo, 1.0 - weight, one), (todo, weight, other)]
        pulled[todo] &= before[todo]
    for rows, _, part in shares:
        restless[rows[part.restless]] = True
    return Points(network, tuple(shares), cycling, restless, steady, pulled)


def _alone(network: Network, settled: Settled, pulled: NDArray[np.bool_]) -> Points:
    count = len(settled.source)
    shares = ((np.arange(count), np.ones(count), settled),)
    return Points(network, shares, np.zeros_like(pulled), settled.restless, np.zeros(count, dtype=bool), pulled)


def _rows_of(settled: Settled, rows: NDArray[np.intp]) -> Settled:
    lines = Lines(settled.lines.alpha[rows], settled.lines.beta[rows], settled.lines.gamma[rows])
    groups = [ports.at(slice(None), own) for ports, own in settled._split(rows)]
    return Settled(
        settled.network, settled.base, lines, settled.source[rows], groups, settled.ports[rows], settled.conducts[rows],
        settled.restless[rows], settled.lost[rows],
    )  # fmt: skip


def _control(network: Network, settled: Settled, i: int) -> Floats:
    """(M,) what pulls a contact: volts across its coil where current can flow (a broken winding has volts and no pull), amperes, or their
    squares."""
    control = network.controls[i]
    measure, coil, base = control.data.measure, control.coil, settled.base
    if measure.startswith("amps"):
        value = base.amps[coil] + settled.source @ base.to_amps[coil]
    else:
        value = base.across[coil] + settled.source @ base.to_across[coil]
    value = value * settled.conducts[:, coil]
    value = value if control.data.signed else np.abs(value)
    held: Floats = value * np.abs(value) if measure.endswith("²") else value
    return held


def _wanted(network: Network, settled: Settled, pulled: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """(M, C) whether each control holds."""
    pulls = np.empty_like(pulled)
    for i, control in enumerate(network.controls):
        value = _control(network, settled, i)
        pulls[:, i] = np.where(pulled[:, i], value >= control.data.drop_out, value >= control.data.pull_in)
    return pulls


def _dwell(network: Network, one: Settled, other: Settled, was: NDArray[Any], now: NDArray[Any]) -> tuple[Floats, NDArray[np.bool_]]:
    """Share of time (M,) that a cycling case spends in its second position, and whether that is known.

    A slow control (heat in a strip, charge in a capacitor) averages what drives it, and in the long run that mean lies at the threshold:
    w·c₂ + (1 − w)·c₁ = threshold. How long a chattering relay stays in either position nobody knows; half is taken.
    """
    weight: Floats = np.full(len(was), 0.5)
    slow = np.zeros(len(was), dtype=bool)
    for i, control in enumerate(network.controls):
        mine = (control.data.seconds > 0.0) & (was[:, i] != now[:, i]) & ~slow
        if not mine.any():
            continue
        first, second = _control(network, one, i), _control(network, other, i)
        apart = np.where(second == first, 1.0, second - first)
        middle = (control.data.pull_in + control.data.drop_out) / 2.0
        weight = np.where(mine, np.clip((middle - first) / apart, 0.0, 1.0), weight)
        slow |= mine
    return weight, slow


class _Circuit:
    """One position of the state's contacts: a base per resting position of the controlled ones, made when wanted."""

    def __init__(self, network: Network, closed: NDArray[np.bool_]):
        self.network, self.closed = network, closed
        self.curved = network.nonlinear
        k = self.curved
        self.data = (network.law[k], network.volts[k], network.amps[k], network.shape[k])
        self.bases: dict[bytes, tuple[Base, Floats]] = {}
        self.pulled = self._healthy()

    def _healthy(self) -> NDArray[np.bool_]:
        """(C,) where the healthy circuit's contacts rest; all released where they do not."""
        contacts = len(self.network.controls)
        pulled = np.zeros((1, contacts), dtype=bool)
        healthy = Cases.healthy(self.network)
        for _ in range(2 * contacts + 3):
            wanted = _wanted(self.network, self.settle(healthy, pulled), pulled)
            if (wanted == pulled).all():
                settled_at: NDArray[np.bool_] = pulled[0]
                return settled_at
            pulled = wanted
        return np.zeros(contacts, dtype=bool)

    def conducting(self, cases: Cases, pulled: NDArray[np.bool_]) -> NDArray[np.bool_]:
        """(M, E) which elements let current through."""
        closed = np.broadcast_to(self.closed, cases.forced.shape).copy()
        for i, control in enumerate(self.network.controls):
            closed[:, control.contact] &= pulled[:, i] != control.data.rest_closed
        return np.where(cases.forced == 0, closed, cases.forced > 0) & np.isfinite(cases.ohms)

    def base(self, pulled: NDArray[np.bool_]) -> tuple[Base, Floats]:
        """The healthy circuit with its contacts in a position (C,), about its own operating point; and the volts (K,) of that."""
        key = pulled.tobytes()
        if key not in self.bases:
            cases = Cases.healthy(self.network)
            about = self._start()
            base = self._base_about(cases, pulled, about)
            if self.curved.size:  # about a guess first, then about what the circuit itself settles at
                settled = self._newton(base, about, cases, pulled[None])
                if not settled.restless[0]:
                    about = settled.across[0, self.curved]
                    base = self._base_about(cases, pulled, about)
            self.bases[key] = (base, about)
        return self.bases[key]

    def _start(self) -> Floats:
        """(K,) volts to look from first: half the rated ones; a source's own, where it is neither at its limit nor beyond; a junction's
        at some milliamperes, since up its curve from nothing is a long way."""
        law, volts, amps, shape = self.data
        lit = volts + shape * np.log1p(_JUNCTION_AMPS / np.maximum(amps, 1e-300))
        return np.where(law == Law.LIMITED, volts, np.where(law == Law.JUNCTION, lit, 0.5 * volts))

    def _base_about(self, cases: Cases, pulled: NDArray[np.bool_], about: Floats) -> Base:
        conducts = self.conducting(cases, pulled[None])
        lines = self.lines(cases, conducts, about[None])
        row = Lines(lines.alpha[0].copy(), lines.beta[0].copy(), lines.gamma[0].copy())
        for k in self.curved:
            slope = row.alpha[k]
            if slope > _NO_SLOPE:
                row.alpha[k], row.beta[k], row.gamma[k] = 1.0, 1.0 / slope, row.gamma[k] / slope
            else:
                row.alpha[k] = 0.0
        return Base.of(self.network, row)

    def lines(self, cases: Cases, conducts: NDArray[np.bool_], about: Floats) -> Lines:
        """(M, E) what the elements follow, curved ones about their volts ``about`` (M, K)."""
        alpha = conducts.astype(float)
        beta = np.where(conducts, np.maximum(cases.ohms, LEAST_OHMS), 1.0)
        gamma = np.where(conducts, self.network.emf, 0.0)
        if self.curved.size:
            amps, slope = self._law(about, cases)
            k = self.curved
            curved = conducts[:, k] & (cases.forced[:, k] != 2)
            alpha[:, k] = np.where(curved, slope, alpha[:, k])
            beta[:, k] = np.where(curved, 1.0, beta[:, k])
            gamma[:, k] = np.where(curved, slope * about - amps, gamma[:, k])
        return Lines(alpha, beta, gamma)

    def _law(self, about: Floats, cases: Cases) -> tuple[Floats, Floats]:
        law, volts, amps, shape = self.data
        return nonlinear_amps(law, about, volts, amps, shape, self._ohms(cases))

    def _tame(self, old: Floats, found: Floats, cases: Cases) -> Floats:
        law, volts, amps, shape = self.data
        return tame(law, old, found, volts, amps, shape, self._ohms(cases))

    def _ohms(self, cases: Cases) -> Floats:
        ohms = cases.ohms[:, self.curved]
        return np.where(np.isfinite(ohms), np.maximum(ohms, LEAST_OHMS), 1.0)

    def settle(self, cases: Cases, pulled: NDArray[np.bool_]) -> Settled:
        """All cases (M) with their controlled contacts at ``pulled`` (M, C)."""
        base, about = self.base(self._position(pulled))
        return self._newton(base, about, cases, pulled)

    def _position(self, pulled: NDArray[np.bool_]) -> NDArray[np.bool_]:
        """The position whose base serves all rows: the commonest, or for few rows the nearest of those there are already."""
        position = self._commonest(pulled)
        if len(pulled) >= _WORTH_A_BASE or not self.bases:
            return position
        known = [np.frombuffer(key, dtype=bool) for key in self.bases]
        nearest = min(known, key=lambda other: int((other != position).sum()))
        return nearest if (nearest != position).sum() <= _NEAR else position

    def _commonest(self, pulled: NDArray[np.bool_]) -> NDArray[np.bool_]:
        if not len(pulled):
            return np.zeros(pulled.shape[1], dtype=bool)
        if (pulled == pulled[0]).all():
            same: NDArray[np.bool_] = pulled[0]
            return same
        kinds, counts = np.unique(pulled, axis=0, return_counts=True)
        commonest: NDArray[np.bool_] = kinds[counts.argmax()]
        return commonest

    def _newton(self, base: Base, about: Floats, cases: Cases, pulled: NDArray[np.bool_]) -> Settled:
        count, k = len(cases.ohms), self.curved
        conducts = self.conducting(cases, pulled)
        volts = np.tile(about, (count, 1))
        lines = self.lines(cases, conducts, volts)
        changed = (lines.alpha != base.lines.alpha) | (lines.beta != base.lines.beta)
        changed[:, k] = ~(conducts[:, k] & (cases.forced[:, k] != 2))
        # A curved element that is open in the base too is no change.
        changed[:, k] &= (lines.alpha[:, k] != base.lines.alpha[k]) | (lines.beta[:, k] != base.lines.beta[k])
        restless = np.zeros(count, dtype=bool)
        every = np.arange(count)
        if not k.size:
            source, groups = solve_ports(base, lines, every, changed, np.zeros((count, 0)), k)
            return Settled(self.network, base, lines, source, groups, changed, conducts, restless, np.zeros((count, 0)))
        ports, given = changed.copy(), np.zeros((count, len(k)))
        follows = conducts[:, k] & (cases.forced[:, k] != 2)
        todo, last, shorten = every, np.zeros_like(volts), np.ones(count)
        for turn in range(_ROUNDS):
            breathe()
            at = volts[todo]
            amps, slope = self._law(at, cases.rows(todo))
            columns = np.ix_(todo, k)
            own = follows[todo]
            lines.alpha[columns] = np.where(own, slope, lines.alpha[columns])
            lines.beta[columns] = np.where(own, 1.0, lines.beta[columns])
            lines.gamma[columns] = np.where(own, slope * at - amps, lines.gamma[columns])
            far, chord = self._chords(base, slope, amps, at)
            stays = changed[columns]
            # A slope that has moved too far makes a port; after a few rounds every law has one, and Newton is quadratic.
            ports[columns] = stays | (own & (ports[columns] | far | (turn > 3)))
            given[todo] = np.where(ports[columns] | ~own, 0.0, chord)
            source, _ = solve_ports(base, lines, todo, ports[todo], given[todo], k)
            found = self._tame(at, base.across[k] + source @ base.to_across[k].T, cases.rows(todo))
            move = found - at
            done = (np.abs(move) <= _STEP_VOLTS + _STEP_SHARE * np.abs(found)).all(axis=1)
            # A row that swings to and fro without getting nearer is held back; one that walks down a steep curve is not.
            swings = (move * last[todo]).sum(axis=1) < 0.0
            growing = np.abs(move).max(axis=1) > (1.0 - 0.1 * shorten[todo]) * np.abs(last[todo]).max(axis=1)
            slower = np.maximum(shorten[todo] / 2.0, 1.0 / 64.0)
            longest = 1.0 if turn < _WALKS_ON else 0.3  # a row that goes round in circles takes shorter steps for good
            shorten[todo] = np.where(swings & growing & (turn > 2), slower, np.minimum(shorten[todo] * 1.5, longest))
            last[todo] = move
            volts[todo] += np.where(done, 1.0, shorten[todo])[:, None] * move
            todo = todo[~done]
            if not todo.size:
                break
        restless[todo] = True
        source, groups = solve_ports(base, lines, every, ports, given, k)
        law, rated, amps, shape = self.data
        lost = np.where(follows, amps_lost(law, volts, rated, amps, shape, self._ohms(cases)), np.nan)
        return Settled(self.network, base, lines, source, groups, ports, conducts, restless, lost)

    def _chords(self, base: Base, slope: Floats, amps: Floats, volts: Floats) -> tuple[NDArray[np.bool_], Floats]:
        """(m, K) where a law's slope has moved too far from the base's, and the source that else corrects it along the base's slope."""
        k = self.curved
        own = base.own_amps[k]
        at_base = np.where(own, 1.0 / np.where(own, base.lines.beta[k], 1.0), 0.0)
        chord = np.where(own, volts - base.lines.beta[k] * amps - base.lines.gamma[k], amps + base.lines.gamma[k])
        return np.abs(slope - at_base) > _SAME_SLOPE * at_base + _NO_SLOPE, chord
