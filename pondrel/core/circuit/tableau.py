"""One factorisation of a circuit in one state, and what every element's change does to everything else.

Each element e follows a line  α·v − β·i = γ  between the volts v across it and the current i through it: (1, R, E) for a
resistance with an EMF, (0, 1, 0) for a break, (g, 1, g·v* − i*) for a curved law about (v*, i*). Conducting elements have their current
as an unknown of its own, beside the node voltages (modified nodal analysis: Ho, Ruehli and Brennan 1975); the rest stand as
idle. The tableau of the *base* circuit is inverted once. Then element k gets an unknown source τ_k of its own (volts in series
where its current is an unknown, amperes beside it where not), and another circuit that differs at the ports P is found from

    α_j·(v_j⁰ + Σ_k V_jk·τ_k) − β_j·(i_j⁰ + Σ_k I_jk·τ_k) = γ_j        for j in P,

V and I being the base circuit's responses to unit sources: as many equations as there are changes, whatever the size of the circuit.
A break is the line i = 0, not a huge resistance, so that no digits cancel. This is the substitution theorem used as an algorithm; for
one port it is the bilinear theorem (Bode 1945, chapter 1).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..base.arrays import Floats
from .network import LEAK_SIEMENS, Network

__all__ = ["Base", "Lines", "Ports", "solve_lines", "solve_ports"]

_BUCKETS = (0, 1, 2, 3, 4, 6, 8, 12, 16, 24, 32, 48, 64)


@dataclass(frozen=True, eq=False)
class Lines:
    """The lines α·v − β·i = γ of elements; arrays of one shape, (E,) or (M, E)."""

    alpha: Floats
    beta: Floats
    gamma: Floats


def _assemble(network: Network, lines: Lines) -> tuple[Floats, Floats, NDArray[np.intp]]:
    """The tableau (N + own, N + own), the right-hand sides of a unit source in each element (N + own, E), and each element's slot (E,)."""
    count, size = len(network.keys), len(network.nodes)
    own = lines.alpha != 0.0
    rows = np.flatnonzero(own)
    slot = np.full(count, -1)
    slot[rows] = size + np.arange(len(rows))
    whole = size + len(rows)
    # One row and column more for battery minus, dropped at the end.
    tableau = np.zeros((whole + 1, whole + 1))
    tableau[np.arange(size), np.arange(size)] = LEAK_SIEMENS
    # The current of an own-amps element leaves node a and enters node b; what it mirrors likewise.
    np.add.at(tableau, (network.a[rows], slot[rows]), 1.0)
    np.add.at(tableau, (network.b[rows], slot[rows]), -1.0)
    scale = np.maximum(lines.alpha[rows], lines.beta[rows])
    np.add.at(tableau, (slot[rows], network.a[rows]), lines.alpha[rows] / scale)
    np.add.at(tableau, (slot[rows], network.b[rows]), -lines.alpha[rows] / scale)
    tableau[slot[rows], slot[rows]] -= lines.beta[rows] / scale
    source = np.zeros((whole + 1, count))  # the right-hand sides of unit sources
    source[slot[rows], rows] = 1.0 / scale
    idle = np.flatnonzero(~own)
    source[network.a[idle], idle] -= 1.0
    source[network.b[idle], idle] += 1.0
    for element, start, end in network.mirrors:
        if own[element]:
            tableau[start, slot[element]] += 1.0
            tableau[end, slot[element]] -= 1.0
        else:
            source[start, element] -= 1.0
            source[end, element] += 1.0
    tableau[-1] = tableau[:, -1] = 0.0
    tableau[-1, -1] = 1.0
    source[-1] = 0.0
    return tableau[:-1, :-1], source[:-1], slot


def solve_lines(network: Network, lines: Lines) -> tuple[Floats, Floats, Floats]:
    """Volts (N,) of nodes, volts and amperes (E,) of elements that follow ``lines`` (E,): one solution, nothing kept."""
    size, own = len(network.nodes), lines.alpha != 0.0
    tableau, source, slot = _assemble(network, lines)
    found = np.linalg.solve(tableau, source @ np.where(own, lines.gamma, -lines.gamma))
    padded = np.append(found[:size], 0.0)
    return found[:size], padded[network.a] - padded[network.b], np.where(own, found[slot], -lines.gamma)


@dataclass(frozen=True, eq=False)
class Base:
    """A base circuit solved: ``across`` and ``amps`` (E,), ``nodes`` (N,), and responses to a unit source in each element:
    ``to_nodes`` (N, E), ``to_across`` (E, E), ``to_amps`` (E, E); ``own_amps`` (E,) marks the elements whose source is in volts.

    ``inject_nodes`` (N, N), ``inject_across`` and ``inject_amps`` (E, N): responses to an ampere put into each node.
    """

    lines: Lines
    own_amps: NDArray[np.bool_]
    nodes: Floats
    across: Floats
    amps: Floats
    to_nodes: Floats
    to_across: Floats
    to_amps: Floats
    inject_nodes: Floats
    inject_across: Floats
    inject_amps: Floats

    @classmethod
    def of(cls, network: Network, lines: Lines) -> Base:
        """Invert the tableau of the circuit whose elements follow ``lines`` (E,)."""
        count, size = len(network.keys), len(network.nodes)
        own = lines.alpha != 0.0
        tableau, source, slot = _assemble(network, lines)
        rows, idle = np.flatnonzero(own), np.flatnonzero(~own)
        inverse = np.linalg.inv(tableau)
        response = inverse @ source  # (whole, E)
        to_nodes = response[:size]
        padded = np.concatenate([to_nodes, np.zeros((1, count))])
        injected = inverse[:, :size]
        padded_injected = np.concatenate([injected[:size], np.zeros((1, size))])
        to_amps, inject_amps = np.zeros((count, count)), np.zeros((count, size))
        to_amps[rows], inject_amps[rows] = response[slot[rows]], injected[slot[rows]]
        to_amps[idle, idle] = 1.0
        gamma = np.where(own, lines.gamma, -lines.gamma)  # an idle element carries −γ: 0·v − 1·i = γ
        return cls(
            lines=lines,
            own_amps=own,
            nodes=to_nodes @ gamma,
            across=(padded[network.a] - padded[network.b]) @ gamma,
            amps=to_amps @ gamma,
            to_nodes=to_nodes,
            to_across=padded[network.a] - padded[network.b],
            to_amps=to_amps,
            inject_nodes=injected[:size],
            inject_across=padded_injected[network.a] - padded_injected[network.b],
            inject_amps=inject_amps,
        )


@dataclass(frozen=True, eq=False)
class Ports:
    """Rows that differ from the base at equally many ports, padded: ``rows`` (m,) which they are, ``index`` (m, k) the elements,
    ``valid`` (m, k), ``lines`` (m, k) what those elements follow there, ``inverse`` (m, k, k) of their system."""

    rows: NDArray[np.intp]
    index: NDArray[np.intp]
    valid: NDArray[np.bool_]
    lines: Lines
    inverse: Floats

    def at(self, chosen: NDArray[np.intp] | slice, rows: NDArray[np.intp]) -> Ports:
        """Some of the rows, under new row numbers."""
        lines = Lines(self.lines.alpha[chosen], self.lines.beta[chosen], self.lines.gamma[chosen])
        return Ports(rows, self.index[chosen], self.valid[chosen], lines, self.inverse[chosen])

    def react(self, base: Base, across: Floats, amps: Floats) -> Floats:
        """(m, k, C) sources that the ports must add when something else brings ``across`` and ``amps`` (m or 1, k, C) to them."""
        want = self.lines.beta[..., None] * amps - self.lines.alpha[..., None] * across
        return self.inverse @ np.where(self.valid[..., None], want, 0.0)

    def through(self, to_pairs: Floats) -> Floats:
        """(m, T, k) of responses (T, E) those to the ports' sources, 0 where there is none."""
        return np.where(self.valid[:, None, :], np.swapaxes(to_pairs[:, self.index], 0, 1), 0.0)


def _group_ports(base: Base, lines: Lines, cases: NDArray[np.intp], changed: NDArray[np.bool_]) -> list[Ports]:
    """Rows with their changed elements (m, E), bundled by how many there are; ``cases`` (m,) are their numbers among ``lines`` (M, E)."""
    counts = changed.sum(axis=1)
    sizes = np.array([*_BUCKETS, changed.shape[1]])
    bucket = sizes[np.searchsorted(sizes, counts)]
    row, column = np.nonzero(changed)
    order = np.zeros((len(changed), int(sizes[np.searchsorted(sizes, counts.max(initial=0))])), dtype=np.intp)
    order[row, np.arange(len(row)) - (np.cumsum(counts) - counts)[row]] = column
    groups = []
    for size in np.unique(bucket).tolist():
        rows = np.flatnonzero(bucket == size)
        index = order[rows, :size]
        valid = np.arange(size) < counts[rows][:, None]
        at = cases[rows][:, None], index
        mine = Lines(lines.alpha[at], lines.beta[at], lines.gamma[at])
        system = (
            mine.alpha[..., None] * base.to_across[index[:, :, None], index[:, None, :]]
            - mine.beta[..., None] * base.to_amps[index[:, :, None], index[:, None, :]]
        )
        if not valid.all():
            both = valid[:, :, None] & valid[:, None, :]
            system = np.where(both, system, np.where(np.eye(size, dtype=bool), 1.0, 0.0))
        groups.append(Ports(rows, index, valid, mine, np.linalg.inv(system) if size else system))
    return groups


def solve_ports(
    base: Base, lines: Lines, cases: NDArray[np.intp], changed: NDArray[np.bool_], given: Floats, columns: NDArray[np.intp]
) -> tuple[Floats, list[Ports]]:
    """Sources (m, E) that turn the base into each of the ``cases`` (m,) of ``lines`` (M, E): ``given`` (m, K) at the elements ``columns``
    (K,) that keep their line's slope, and those found at the ports ``changed`` (m, E) so that they follow their lines."""
    source: Floats = np.zeros(changed.shape)
    moved = bool(given.any())
    if moved:
        source[:, columns] = given
    groups = _group_ports(base, lines, cases, changed)
    for ports in groups:
        if not ports.index.shape[1]:
            continue
        rows = ports.rows
        v: Floats = base.across[ports.index]
        i: Floats = base.amps[ports.index]
        if moved:
            v = v + np.take_along_axis(given[rows] @ base.to_across[:, columns].T, ports.index, axis=1)
            i = i + np.take_along_axis(given[rows] @ base.to_amps[:, columns].T, ports.index, axis=1)
        want = np.where(ports.valid, ports.lines.gamma - ports.lines.alpha * v + ports.lines.beta * i, 0.0)
        found = (ports.inverse @ want[..., None])[..., 0]
        at, port = np.nonzero(ports.valid)
        source[rows[at], ports.index[at, port]] += found[at, port]
    return source, groups
