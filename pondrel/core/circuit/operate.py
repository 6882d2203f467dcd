"""Operating points of many cases of one network at once: contacts that follow coils, currents or capacitors are moved until they rest.

In one position of the contacts all cases share one base (`settle`); here positions are looked for in which every contact stays, and a case
that has none is shown as the mean of those it hurries between.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..base.arrays import Floats
from ..base.patience import breathe
from .network import Cases, Network, Positions
from .points import Points
from .settle import Position, Settled, Share, position_about, settle, start_volts
from .tableau import Base

__all__ = ["Points", "beyond_threshold", "dead_points", "first_difference", "operating_points", "resting_base", "without"]

_WORTH_A_BASE, _NEAR = 400, 8  # fewer rows than this do with a base that differs in so many contacts


def operating_points(network: Network, cases: Cases, positions: Positions) -> Points:
    """Solve M cases with the state's contacts as in ``positions``; raises nothing, whatever the values.

    Controlled contacts start released and follow their controls with hysteresis; a case whose contacts cycle is marked as chatter and shown
    as the mean of the positions it hurries between.
    """
    if len(positions) == 1:
        return _resting(network, cases, positions[0][1])
    every = [(_resting(network, cases, closed), share) for share, closed in positions]
    rows = np.arange(cases.count)
    shares = [own.at(np.arange(len(own.rows)), own.rows, share * own.weight) for points, share in every for own in points.shares]
    return Points(
        network,
        len(rows),
        tuple(shares),
        np.logical_or.reduce([p.cycling for p, _ in every]),
        np.logical_or.reduce([p.restless for p, _ in every]),
        np.logical_or.reduce([p.steady for p, _ in every]),
        np.logical_or.reduce([p.pulled for p, _ in every]),
    )


def first_difference(network: Network, low: Cases, high: Cases, positions: Positions) -> tuple[NDArray[np.bool_], NDArray[np.intp]] | None:
    """Of pairs of cases (n,) whose contacts, all released at first, follow their controls: the position (n, C) up to which they go the same
    way, and the control (n,) that is the first to tell them apart, −1 where none does. None in a state of several positions."""
    count, contacts = low.count, len(network.controls)
    if len(positions) != 1 or not contacts:
        return None
    circuit, both = _circuit(network, positions[0][1]), Cases.joined([low, high])
    found, at = np.full(count, -1), np.zeros((count, contacts), dtype=bool)
    todo, pulled, single = np.arange(count), np.zeros((count, contacts), dtype=bool), np.zeros(count, dtype=bool)
    before = pulled.copy()
    for _ in range(4 * contacts + 6):
        breathe()
        two = np.concatenate([todo, todo + count])
        wanted = _wanted(circuit.settle(both.at(two), np.concatenate([pulled, pulled])), np.concatenate([pulled, pulled]))
        one, other = wanted[: len(todo)], wanted[len(todo) :]
        differs = (one != other).any(axis=1)
        found[todo[differs]], at[todo[differs]] = (one != other)[differs].argmax(axis=1), pulled[differs]
        step = _Step.of(one, pulled, before, single)
        go = ~(differs | step.rests | step.cycles)
        todo, before, pulled, single = todo[go], pulled[go], step.to[go], step.single[go]
        if not todo.size:
            break
    return at, found


def beyond_threshold(network: Network, cases: Cases, positions: Positions, pulled: NDArray[np.bool_], control: NDArray[np.intp]) -> Floats:
    """(n,) by how much a control of each case is above the threshold that it has there, its contacts held at ``pulled`` (n, C)."""
    every = np.arange(cases.count)
    value = _circuit(network, positions[0][1]).settle(cases, pulled).controls()[every, control]
    drop_out, pull_in = (np.array([getattr(c.data, name) for c in network.controls])[control] for name in ("drop_out", "pull_in"))
    return value - np.where(pulled[every, control], drop_out, pull_in)


def _unpowered(network: Network, cases: Cases) -> tuple[Network, Cases]:
    """A network and its cases with the battery off: no source gives anything, whatever is wrong with what switches it. A driver that is
    broken through conducts all the same."""
    own = len(network.elements) - 1 if network.bridge else len(network.elements)
    return network.unpowered, cases.opened(network.source & (np.arange(len(network.elements)) < own))


def without(network: Network, cases: Cases, gone: NDArray[np.bool_], dead: bool) -> tuple[Network, Cases]:
    """A network and its cases with some elements (E,) taken off, live or with the battery off."""
    if dead:
        network, cases = _unpowered(network, cases)
    return (network.without(gone), cases.opened(gone)) if gone.any() else (network, cases)


def dead_points(network: Network, cases: Cases, state: str) -> Points:
    """M cases of a network with the battery off, its contacts as in ``state``."""
    dead, cases = _unpowered(network, cases)
    return operating_points(dead, cases, dead.positions(state))


def resting_base(network: Network, closed: NDArray[np.bool_]) -> Base:
    """The healthy circuit in one position of the state's contacts, its controlled ones at rest, with its responses."""
    circuit = _circuit(network, closed)
    return circuit.position(circuit.pulled).base


def _circuit(network: Network, closed: NDArray[np.bool_]) -> _Circuit:
    key = closed.tobytes()
    if key not in network.circuits:
        network.circuits[key] = _Circuit(network, closed)
    circuit: _Circuit = network.circuits[key]
    return circuit


def _resting(network: Network, cases: Cases, closed: NDArray[np.bool_]) -> Points:
    count, contacts = cases.count, len(network.controls)
    circuit = _circuit(network, closed)
    pulled = np.broadcast_to(circuit.pulled, (count, contacts)).copy()
    # Every row starts where the healthy circuit rests; one whose contacts rest elsewhere starts again from all released, since
    # hysteresis remembers.
    settled = circuit.settle(cases, pulled)
    if not contacts:
        return _alone(settled, pulled)
    afresh = _wanted(settled, np.zeros_like(pulled))
    moved = (afresh != pulled).any(axis=1)
    if any(control.data.feeds_itself for control in network.controls):
        moved[:] = True
    if not moved.any():
        return _alone(settled, pulled)
    still, todo = np.flatnonzero(~moved), np.flatnonzero(moved)
    pulled[todo] = False
    shares: list[Share] = settled.at(still, still) if still.size else []
    restless, steady = np.zeros(count, dtype=bool), np.zeros(count, dtype=bool)
    restless[still] = settled.restless[still]
    before = pulled.copy()
    cycling = np.zeros_like(pulled)
    single = np.zeros(count, dtype=bool)
    cycled: list[NDArray[np.intp]] = []
    for _ in range(4 * contacts + 6):
        breathe()
        settled = circuit.settle(cases.at(todo), pulled[todo])
        step = _Step.of(_wanted(settled, pulled[todo]), pulled[todo], before[todo], single[todo])
        rest = np.flatnonzero(step.rests)
        if rest.size:
            shares += settled.at(rest, todo[rest])
            restless[todo[rest]] = settled.restless[rest]
        single[todo] = step.single
        cycled.append(todo[step.cycles])
        go = ~(step.rests | step.cycles)
        before[todo[go]] = pulled[todo[go]]
        pulled[todo[go]] = step.to[go]
        todo = todo[go]
        if not todo.size:
            break
    todo = np.sort(np.concatenate([*cycled, todo]))
    if todo.size:
        cycling[todo] = before[todo] != pulled[todo]
        one, other = (circuit.settle(cases.at(todo), position) for position in (before[todo], pulled[todo]))
        weight, slow = _dwell(one, other, before[todo], pulled[todo])
        steady[todo], restless[todo] = slow, one.restless | other.restless
        shares += [*one.turn(todo, 1.0 - weight, second=False), *other.turn(todo, weight, second=True)]
        pulled[todo] &= before[todo]
    return Points(network, count, Share.gathered(shares), cycling, restless, steady, pulled)


@dataclass(frozen=True, eq=False)
class _Step:
    """What m cases do next whose contacts follow their controls: which one ``rests``, which ``cycles``, where the others' contacts go
    ``to`` (m, C), and which move a ``single`` contact at a time, since together they chase each other."""

    rests: NDArray[np.bool_]
    cycles: NDArray[np.bool_]
    to: NDArray[np.bool_]
    single: NDArray[np.bool_]

    @classmethod
    def of(cls, wanted: NDArray[np.bool_], pulled: NDArray[np.bool_], before: NDArray[np.bool_], single: NDArray[np.bool_]) -> _Step:
        """From how their controls want the contacts, how they are, how they were ``before``, all (m, C), and which went one by one."""
        differ = wanted != pulled
        moved, others = differ.any(axis=1), np.arange(pulled.shape[1]) != differ.argmax(axis=1)[:, None]
        wanted = np.where(single[:, None] & others, pulled, wanted)
        back = moved & (wanted == before).all(axis=1) & (before != pulled).any(axis=1)
        alone = (wanted != pulled).sum(axis=1) == 1
        together = back & ~alone
        return cls(~moved, back & alone, np.where(together[:, None] & others, pulled, wanted), single | together)


def _alone(settled: Settled, pulled: NDArray[np.bool_]) -> Points:
    return Points(
        settled.network, settled.count, settled.shares, np.zeros_like(pulled), settled.restless, np.zeros(settled.count, dtype=bool), pulled
    )


def _wanted(settled: Settled, pulled: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """(M, C) whether each control holds."""
    value = settled.controls()
    drop_out, pull_in = (np.array([getattr(c.data, name) for c in settled.network.controls]) for name in ("drop_out", "pull_in"))
    holds: NDArray[np.bool_] = value >= np.where(pulled, drop_out, pull_in)
    return holds


def _dwell(one: Settled, other: Settled, was: NDArray[Any], now: NDArray[Any]) -> tuple[Floats, NDArray[np.bool_]]:
    """Share of time (M,) that a cycling case spends in its second position, and whether that is known.

    A slow control (heat in a strip, charge in a capacitor) averages what drives it, and in the long run that mean lies at the threshold:
    w·c₂ + (1 − w)·c₁ = threshold. How long a chattering relay stays in either position nobody knows; half is taken.
    """
    weight: Floats = np.full(len(was), 0.5)
    slow = np.zeros(len(was), dtype=bool)
    of_one, of_other = one.controls(), other.controls()
    for i, control in enumerate(one.network.controls):
        mine = (control.data.seconds > 0.0) & (was[:, i] != now[:, i]) & ~slow
        if not mine.any():
            continue
        first, second = of_one[:, i], of_other[:, i]
        apart = np.where(second == first, 1.0, second - first)
        middle = (control.data.pull_in + control.data.drop_out) / 2.0
        weight = np.where(mine, np.clip((middle - first) / apart, 0.0, 1.0), weight)
        slow |= mine
    return weight, slow


class _Circuit:
    """One position of the state's contacts: a base per resting position of the controlled ones, made when wanted."""

    def __init__(self, network: Network, closed: NDArray[np.bool_]):
        self.network, self.closed = network, closed
        self.positions: dict[bytes, Position] = {}
        self.pulled = self._healthy()

    def _healthy(self) -> NDArray[np.bool_]:
        """(C,) where the healthy circuit's contacts rest; all released where they do not."""
        contacts = len(self.network.controls)
        pulled = np.zeros((1, contacts), dtype=bool)
        healthy = Cases.healthy()
        for _ in range(2 * contacts + 3):
            wanted = _wanted(self.settle(healthy, pulled), pulled)
            if (wanted == pulled).all():
                settled_at: NDArray[np.bool_] = pulled[0]
                return settled_at
            pulled = wanted
        return np.zeros(contacts, dtype=bool)

    def position(self, pulled: NDArray[np.bool_]) -> Position:
        """The healthy circuit with its contacts in a position (C,), about its own operating point."""
        key = pulled.tobytes()
        if key not in self.positions:
            self.positions[key] = self._position_at(pulled)
        return self.positions[key]

    def _position_at(self, pulled: NDArray[np.bool_]) -> Position:
        # About a guess first, or seen from another position, then about what the circuit itself settles at.
        known = next(iter(self.positions.values()), None)
        seen_from = known or position_about(self.network, self.closed, pulled, start_volts(self.network))
        curved = self.network.nonlinear
        if not curved.size and known is None:
            return seen_from
        settled = settle(seen_from, self.closed, Cases.healthy(), pulled[None])
        if not settled.restless[0]:
            return position_about(self.network, self.closed, pulled, settled.shares[0].across(curved)[0])
        return position_about(self.network, self.closed, pulled, start_volts(self.network)) if known else seen_from

    def settle(self, cases: Cases, pulled: NDArray[np.bool_]) -> Settled:
        """All cases (M) with their controlled contacts at ``pulled`` (M, C)."""
        return settle(self.position(self._position(pulled)), self.closed, cases, pulled)

    def _position(self, pulled: NDArray[np.bool_]) -> NDArray[np.bool_]:
        """The position whose base serves all rows: the commonest, or for few rows the nearest of those there are already."""
        position = self._commonest(pulled)
        if len(pulled) >= _WORTH_A_BASE or not self.positions:
            return position
        known = [np.frombuffer(key, dtype=bool) for key in self.positions]
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
