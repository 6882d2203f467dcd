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

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ..base.arrays import Floats
from .network import LEAK_SIEMENS, Network

__all__ = ["Base", "Lines", "Ports", "Swaps", "solve_lines"]

_BUCKETS = (1, 2, 4, 8, 16, 32, 64)


@dataclass(frozen=True, eq=False)
class Lines:
    """The lines α·v − β·i = γ of elements; arrays of one shape, (E,) or (M, E)."""

    alpha: Floats
    beta: Floats
    gamma: Floats

    @property
    def each(self) -> tuple[Floats, Floats, Floats]:
        """α, β and γ."""
        return self.alpha, self.beta, self.gamma


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
    """A base circuit solved: ``across`` and ``amps`` (E,), ``nodes`` (N + 1,), and responses to a unit source in each element:
    ``to_nodes`` (N + 1, E), ``to_across`` (E, E), ``to_amps`` (E, E); ``own_amps`` (E,) marks the elements whose source is in volts.

    ``inject_nodes`` (N + 1, N + 1), ``inject_across`` and ``inject_amps`` (E, N + 1): responses to an ampere put into each node. The last
    node is battery minus, where nothing is: its number is −1.
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
        to_nodes, injected = np.zeros((size + 1, count)), np.zeros((size + 1, size + 1))
        to_nodes[:size], injected[:size, :size] = response[:size], inverse[:size, :size]
        to_amps, inject_amps = np.zeros((count, count)), np.zeros((count, size + 1))
        to_amps[rows], inject_amps[rows, :size] = response[slot[rows]], inverse[slot[rows], :size]
        to_amps[idle, idle] = 1.0
        gamma = np.where(own, lines.gamma, -lines.gamma)  # an idle element carries −γ: 0·v − 1·i = γ
        return cls(
            lines=lines,
            own_amps=own,
            nodes=to_nodes @ gamma,
            across=(to_nodes[network.a] - to_nodes[network.b]) @ gamma,
            amps=to_amps @ gamma,
            to_nodes=to_nodes,
            to_across=to_nodes[network.a] - to_nodes[network.b],
            to_amps=to_amps,
            inject_nodes=injected,
            inject_across=injected[network.a] - injected[network.b],
            inject_amps=inject_amps,
        )

    @cached_property
    def sign(self) -> Floats:
        """(E,) of the source that stands for a rise of γ of an element's line."""
        return np.where(self.own_amps, 1.0, -1.0)

    def to_pairs(self, red: NDArray[np.intp], black: NDArray[np.intp]) -> Floats:
        """(E, T) volts from nodes ``red`` to ``black`` (T,) per unit of a source in each element."""
        return np.ascontiguousarray((self.to_nodes[red] - self.to_nodes[black]).T)

    def injected(self, red: NDArray[np.intp], black: NDArray[np.intp]) -> tuple[Floats, Floats]:
        """Volts across and amperes through each element (E, T) per ampere put into nodes ``red`` and taken out at ``black`` (T,)."""
        across, amps = self.inject_across, self.inject_amps
        return across[:, red] - across[:, black], amps[:, red] - amps[:, black]


@dataclass(frozen=True, eq=False)
class Ports:
    """Rows that differ from the base at equally many ports, padded: ``rows`` (m,) which they are, ``index`` (m, k) the elements,
    ``valid`` (m, k), ``lines`` (m, k) what those elements follow there, ``inverse`` (m, k, k) of their system, and the ``source`` (m, k)
    that each adds to the base."""

    rows: NDArray[np.intp]
    index: NDArray[np.intp]
    valid: NDArray[np.bool_]
    lines: Lines
    inverse: Floats
    source: Floats

    def at(self, chosen: NDArray[np.intp], rows: NDArray[np.intp]) -> Ports:
        """Some of the rows, under new row numbers."""
        lines = Lines(*(line[chosen] for line in self.lines.each))
        return Ports(rows, self.index[chosen], self.valid[chosen], lines, self.inverse[chosen], self.source[chosen])

    @classmethod
    def joined(cls, parts: Sequence[Ports]) -> Ports:
        """All rows one after another, padded to as many ports."""
        if len(parts) == 1:
            return parts[0]
        ends = np.cumsum([0, *(len(part.rows) for part in parts)])
        shape = int(ends[-1]), max(part.width for part in parts)
        index, valid, source = np.zeros(shape, dtype=np.intp), np.zeros(shape, dtype=bool), np.zeros(shape)
        lines, inverse = Lines(*(np.zeros(shape) for _ in range(3))), np.zeros((*shape, shape[1]))
        for part, start, end in zip(parts, ends, ends[1:], strict=False):
            own = slice(start, end), slice(0, part.width)
            index[own], valid[own], source[own], inverse[own][..., : part.width] = part.index, part.valid, part.source, part.inverse
            for line, theirs in zip(lines.each, part.lines.each, strict=True):
                line[own] = theirs
        return cls(np.concatenate([part.rows for part in parts]), index, valid, lines, inverse, source)

    @property
    def width(self) -> int:
        """k."""
        return int(self.index.shape[1])

    def moved(self, start: Floats, response: Floats) -> Floats:
        """(m, C) numbers that are ``start`` (C,) in the base and move by ``response`` (E, C) with a source in each element."""
        moved = np.tile(start, (len(self.rows), 1))
        for port in range(self.width):
            moved += self.source[:, port, None] * response[self.index[:, port]]
        return moved

    def moved_each(self, start: Floats, response: Floats, columns: NDArray[np.intp]) -> Floats:
        """(m, K) the same where every row asks for ``columns`` (m, K) of its own."""
        moved = start[columns]
        for port in range(self.width):
            moved += self.source[:, port, None] * response[self.index[:, port, None], columns]
        return moved

    def react(self, across: Floats, amps: Floats) -> Floats:
        """(m, k, C) sources that the ports must add when something else brings ``across`` and ``amps`` (m or 1, k, C) to them."""
        want = self.lines.beta[..., None] * amps - self.lines.alpha[..., None] * across
        want *= self.valid[..., None]
        reaction: Floats = self.inverse @ want
        return reaction


@dataclass(frozen=True, eq=False)
class Swaps:
    """What of m rows is to follow other lines than in the base: ``count`` (m,) elements each, padded, ``index`` (m, w), with their
    ``lines`` (m, w)."""

    count: NDArray[np.intp]
    index: NDArray[np.intp]
    lines: Lines

    @classmethod
    def _room(cls, count: NDArray[np.intp]) -> Swaps:
        shape = (len(count), int(count.max(initial=0)))
        return cls(count, np.zeros(shape, dtype=np.intp), Lines(*(np.zeros(shape) for _ in range(3))))

    @classmethod
    def of(cls, rows: int, row: NDArray[np.intp], element: NDArray[np.intp], lines: Lines) -> Swaps:
        """From pairs of a row and an element, by row, with a line (n,) for each."""
        made = cls._room(np.bincount(row, minlength=rows))
        made._put(row, np.arange(len(row)) - (np.cumsum(made.count) - made.count)[row], element, lines)
        return made

    def _put(self, row: NDArray[np.intp], place: NDArray[np.intp], element: NDArray[np.intp], lines: Lines) -> None:
        self.index[row, place] = element
        self.lines.alpha[row, place], self.lines.beta[row, place], self.lines.gamma[row, place] = lines.alpha, lines.beta, lines.gamma

    def also(self, rows: NDArray[np.intp], marked: NDArray[np.bool_], elements: NDArray[np.intp], lines: Lines) -> Swaps:
        """Some of the rows (m,), and after what they have what is ``marked`` (m, K) of some ``elements`` (K,); ``lines`` are (m, K)."""
        before, added = self.count[rows], marked.sum(axis=1)
        more, own = Swaps._room(before + added), int(before.max(initial=0))
        more.index[:, :own] = self.index[rows, :own]
        for new, old in zip(more.lines.each, self.lines.each, strict=True):
            new[:, :own] = old[rows, :own]
        row, column = np.nonzero(marked)
        place = np.arange(len(row)) - (np.cumsum(added) - added)[row] + before[row]
        more._put(row, place, elements[column], Lines(*(line[row, column] for line in lines.each)))
        return more

    def sources(
        self, base: Base, given: Floats | None, columns: NDArray[np.intp]
    ) -> list[tuple[NDArray[np.intp], NDArray[np.intp], Floats]]:
        """The sources that turn the base into the rows, in bundles: which rows (m,), at which elements (m, k), and what (m, k). ``given``
        (m, K) stand at the elements ``columns`` (K,) that keep their line's slope, the others are found so that each port follows its
        line."""
        found = []
        for rows, index, _, lines, system in self._systems(base):
            want = _wanting(base, index, lines, None if given is None else given[rows], columns)
            source = want / system[..., 0] if index.shape[1] == 1 else np.linalg.solve(system, want[..., None])[..., 0]
            found.append((rows, index, source))
        return found

    def ports(self, base: Base) -> list[Ports]:
        """The rows bundled by how many ports they have."""
        found = []
        for rows, index, valid, lines, system in self._systems(base):
            inverse = 1.0 / system if index.shape[1] == 1 else np.linalg.inv(system)
            source = (inverse @ _wanting(base, index, lines, None, index[0])[..., None])[..., 0]
            found.append(Ports(rows, index, valid, lines, inverse, source))
        return found

    def _systems(self, base: Base) -> Iterator[tuple[NDArray[np.intp], NDArray[np.intp], NDArray[np.bool_], Lines, Floats]]:
        """Of each bundle the rows (m,), elements (m, k), which of those are valid, their lines, and the equations (m, k, k) of their
        sources."""
        sizes = np.array(sorted({*_BUCKETS, int(self.count.max(initial=0))}))
        bucket = sizes[np.searchsorted(sizes, self.count)]
        for size in np.flatnonzero(np.bincount(bucket)).tolist() if bucket.size else []:
            rows = np.flatnonzero(bucket == size)
            room = min(size, self.index.shape[1])
            index = np.zeros((len(rows), size), dtype=np.intp)
            index[:, :room] = self.index[rows, :room]
            mine = Lines(*(np.zeros((len(rows), size)) for _ in range(3)))
            for line, own in zip(mine.each, self.lines.each, strict=True):
                line[:, :room] = own[rows, :room]
            valid = np.arange(size) < self.count[rows][:, None]
            system = (
                mine.alpha[..., None] * base.to_across[index[:, :, None], index[:, None, :]]
                - mine.beta[..., None] * base.to_amps[index[:, :, None], index[:, None, :]]
            )
            if not valid.all():
                both = valid[:, :, None] & valid[:, None, :]
                system = np.where(both, system, np.where(np.eye(size, dtype=bool), 1.0, 0.0))
            yield rows, index, valid, mine, system


def _wanting(base: Base, index: NDArray[np.intp], lines: Lines, given: Floats | None, columns: NDArray[np.intp]) -> Floats:
    """(m, k) by how much the base, with the sources ``given`` (m, K) at ``columns`` (K,), misses the lines; 0 at a port that is none, whose
    line is all noughts."""
    across, amps = base.across[index], base.amps[index]
    if given is not None:
        at = index[:, :, None], columns
        across = across + np.einsum("mkc,mc->mk", base.to_across[at], given)
        amps = amps + np.einsum("mkc,mc->mk", base.to_amps[at], given)
    want: Floats = lines.gamma - lines.alpha * across + lines.beta * amps
    return want
