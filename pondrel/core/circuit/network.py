"""Nodal analysis of a sheet: many cases of one network at once.

The sheet's elements are numbered once; a *case* says for each of them what resistance it has and whether it is forced open or
closed. Cases stand on axis 0 of every array, so a whole fault sweep is one batch of linear solves. Filaments are solved by
Newton, relays and blown fuses by iterating discrete states to a fixed point.

Signs: voltages are against battery minus; a current is counted from an element's first pin to its second through it.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import sparse

from ..arrays import Floats
from .part import GROUND, Element, Law
from .sheet import Sheet

__all__ = [
    "BLOW_FACTOR",
    "FILAMENT_POWER",
    "LEAK_SIEMENS",
    "LEAST_OHMS",
    "Cases",
    "Network",
    "Points",
    "cold_share",
    "filament_amps",
    "operating_points",
]

# Insulation from every node to battery minus: what defines the voltage of a point that nothing else does. 1 GΩ.
LEAK_SIEMENS = 1e-9
# A conductor given as 0 Ω still has about a centimetre of cable in it; below this nodal analysis loses digits.
LEAST_OHMS = 1e-5
# Between 110 % (100 h) and 135 % (minutes) a blade fuse may go either way (ISO 8820-3, from memory); from 135 % on it melts.
BLOW_FACTOR = 1.35
FILAMENT_POWER = 0.55  # current over voltage, from memory of lamp handbooks
# Cold tungsten has about a twelfth of its hot resistance (from memory): (v² + c²)^… levels off there.
_COLD_SHARE = 12.0 ** (-1.0 / (1.0 - FILAMENT_POWER))
_NEWTON_ROUNDS = 80
_FEW_CASES = 12  # below this many, sharing a factorisation does not pay


def cold_share() -> float:
    """The share of rated voltage below which a filament counts as cold."""
    return _COLD_SHARE


def filament_amps(volts: Floats, rated_volts: Floats, rated_amps: Floats) -> tuple[Floats, Floats]:
    """Current (A) of a hot filament and its slope dI/dV (S), elementwise.

    I = I_rated · x · (x² + c²)^((0.55 − 1)/2) with x = V/V_rated: the 0.55 power when lit, a twelfth of the hot resistance when
    cold. Odd in V.
    """
    x = volts / rated_volts
    square = x * x + _COLD_SHARE**2
    bend = square ** ((FILAMENT_POWER - 1.0) / 2.0)
    amps = rated_amps * x * bend
    slope = rated_amps / rated_volts * bend * (1.0 + (FILAMENT_POWER - 1.0) * x * x / square)
    return amps, slope


@dataclass(frozen=True, eq=False)
class Network:
    """A sheet's elements as arrays, in one fixed order. ``bridge`` adds one element ``(red, black, ohms)``: a meter in line.

    ``a`` and ``b`` (E,) are node numbers with −1 for battery minus; ``owner`` (E,) names each element's part (``""`` for the bridge).
    """

    sheet: Sheet
    nodes: tuple[str, ...]
    keys: tuple[tuple[str, str], ...]  # (part, element) per element
    a: NDArray[np.intp]
    b: NDArray[np.intp]
    ohms: Floats
    tolerance: Floats
    ohms_tolerance: Floats
    emf: Floats
    rated_volts: Floats
    rated_amps: Floats
    filament: NDArray[np.bool_]
    source: NDArray[np.bool_]
    fuse_rating: Floats
    switched: tuple[int, ...]  # elements that the sheet's states open and close
    driven: tuple[tuple[int, int, float, float, bool], ...]  # contact, its coil, pull-in, drop-out, closed at rest
    stamps: sparse.csr_matrix  # (E, N·N): one siemens of each element in the nodal matrix

    @classmethod
    def of(cls, sheet: Sheet, bridge: tuple[str, str, float] | None = None) -> Network:
        """Number a sheet's nodes and elements."""
        index: dict[str, int] = {node: i for i, node in enumerate(n for n in sheet.nodes() if n != sheet.minus)}
        rows: list[tuple[str, Element, int, int]] = []
        for part in sheet.parts.values():
            for element in part.elements():
                ends: list[int] = []
                for pin in (element.a, element.b):
                    node = sheet.minus if pin == GROUND else f"{part.name}{pin}" if pin.startswith("*") else part.pins[pin]
                    ends.append(-1 if node == sheet.minus else index.setdefault(node, len(index)))
                rows.append((part.name, element, ends[0], ends[1]))
        keys = [(name, element.name) for name, element, _, _ in rows]
        elements = [element for _, element, _, _ in rows]
        a = [first for _, _, first, _ in rows]
        b = [second for _, _, _, second in rows]
        ohms = [element.ohms for element in elements]
        if bridge:
            keys.append(("", "bridge"))
            a.append(index.get(bridge[0], -1))
            b.append(index.get(bridge[1], -1))
            ohms.append(bridge[2])
        extra = [0.0] if bridge else []
        number = {key: i for i, key in enumerate(keys)}
        return cls(
            sheet=sheet,
            nodes=tuple(index),
            keys=tuple(keys),
            a=np.array(a),
            b=np.array(b),
            ohms=np.maximum(np.array(ohms), LEAST_OHMS),
            tolerance=np.array([e.tolerance for e in elements] + extra),
            ohms_tolerance=np.array([e.ohms_tolerance for e in elements] + extra),
            emf=np.array([e.volts if e.law is Law.EMF else 0.0 for e in elements] + extra),
            rated_volts=np.array([e.volts or 1.0 for e in elements] + ([1.0] if bridge else [])),
            rated_amps=np.array([e.amps for e in elements] + extra),
            filament=np.array([e.law is Law.FILAMENT for e in elements] + ([False] if bridge else [])),
            source=np.array([e.law is Law.EMF for e in elements] + ([False] if bridge else [])),
            fuse_rating=np.array([e.rating for e in elements] + ([math.inf] if bridge else [])),
            switched=tuple(i for i, e in enumerate(elements) if e.contact and e.contact.coil is None),
            driven=tuple(
                (i, number[(keys[i][0], e.contact.coil)], e.contact.pull_in, e.contact.drop_out, e.contact.rest_closed)
                for i, e in enumerate(elements)
                if e.contact and e.contact.coil is not None
            ),
            stamps=_stamps(np.array(a), np.array(b), len(index)),
        )

    def element(self, part: str, name: str = "") -> int | None:
        """Number of a part's element, None where the part has none of that name."""
        return self.keys.index((part, name)) if (part, name) in self.keys else None

    def closed_by_state(self, state: str) -> NDArray[np.bool_]:
        """(E,) False for the switches that the state leaves open, True for all other elements."""
        closed = np.ones(len(self.keys), dtype=bool)
        for i in self.switched:
            part = self.sheet.parts[self.keys[i][0]]
            closed[i] = self.sheet.state(state).positions.get(part.name, part.kind.rest) == "closed"
        return closed

    def pick(self, names: tuple[str, ...]) -> Floats:
        """(P, N) selection of nodes by name; the row of battery minus is zero."""
        chosen = np.zeros((len(names), len(self.nodes)))
        for row, name in enumerate(names):
            if name != self.sheet.minus:
                chosen[row, self.nodes.index(name)] = 1.0
        return chosen


def _stamps(a: NDArray, b: NDArray, size: int) -> sparse.csr_matrix:
    rows, columns, values = [], [], []
    for element, (i, j) in enumerate(zip(a.tolist(), b.tolist(), strict=True)):
        for m, n, sign in ((i, i, 1.0), (j, j, 1.0), (i, j, -1.0), (j, i, -1.0)):
            if m >= 0 and n >= 0:
                rows.append(element)
                columns.append(m * size + n)
                values.append(sign)
    return sparse.csr_matrix((values, (rows, columns)), shape=(len(a), size * size))


@dataclass(frozen=True, eq=False)
class Cases:
    """M cases of one network in one state: ``ohms`` (M, E), ``forced`` (M, E) with +1 closed, −1 open, 0 as the circuit has it."""

    ohms: Floats
    forced: NDArray[np.int8]

    @classmethod
    def healthy(cls, network: Network, count: int = 1) -> Cases:
        """``count`` cases with nothing wrong."""
        return cls(np.tile(network.ohms, (count, 1)), np.zeros((count, len(network.ohms)), dtype=np.int8))

    def forcing(self, elements: NDArray[np.bool_], to: int) -> Cases:
        """The same cases with the marked elements, (E,) or (M, E), forced open (−1) or closed (+1)."""
        return Cases(self.ohms, np.where(elements, np.int8(to), self.forced).astype(np.int8))

    def rows(self, chosen: NDArray) -> Cases:
        """Some of the cases."""
        return Cases(self.ohms[chosen], self.forced[chosen])


@dataclass(frozen=True, eq=False)
class Points:
    """Operating points of M cases.

    ``volts`` (M, N) by node, ``amps`` (M, E) by element, ``siemens`` (M, E) small-signal, ``chatter`` (M,) where relays find no rest,
    ``pulled`` (M, D) per driven contact whether its coil holds.
    """

    network: Network
    volts: Floats
    amps: Floats
    siemens: Floats
    chatter: NDArray[np.bool_]
    pulled: NDArray[np.bool_]

    def transfer(self, names: tuple[str, ...]) -> Floats:
        """(M, N, P): small-signal volts at every node per ampere put into each named node; column of battery minus is zero."""
        return _solve(self.network, self.siemens, self.network.pick(names).T[None])


def operating_points(network: Network, cases: Cases, closed: NDArray[np.bool_]) -> Points:
    """Solve M cases with the switches as in ``closed`` (E,).

    Relays start released and follow their coils with hysteresis; a case whose relays cycle is marked as chatter and shown as the
    mean of the positions it hurries between.
    """
    count, _ = cases.ohms.shape
    contacts = len(network.driven)
    pulled = np.zeros((count, contacts), dtype=bool)
    volts = np.zeros((count, len(network.nodes)))
    amps = np.zeros_like(cases.ohms)
    siemens = np.zeros_like(cases.ohms)
    chatter = np.zeros(count, dtype=bool)
    before = pulled.copy()
    todo = np.arange(count)
    for _ in range(2 * contacts + 3):
        volts[todo], amps[todo], siemens[todo] = _settle(network, cases.rows(todo), closed, pulled[todo])
        if not contacts:
            break
        wanted = _relay_positions(network, volts[todo], siemens[todo], pulled[todo])
        moved = (wanted != pulled[todo]).any(axis=1)
        before[todo] = pulled[todo]
        pulled[todo[moved]] = wanted[moved]
        todo = todo[moved]
        if not todo.size:
            break
    if contacts and todo.size:
        # A meter averages the two positions; the small-signal values are those of the released one.
        chatter[todo] = True
        both = [_settle(network, cases.rows(todo), closed, position) for position in (before[todo], pulled[todo])]
        volts[todo], amps[todo] = (both[0][0] + both[1][0]) / 2, (both[0][1] + both[1][1]) / 2
        pulled[todo] &= before[todo]
        siemens[todo] = _settle(network, cases.rows(todo), closed, pulled[todo])[2]
    return Points(network, volts, amps, siemens, chatter, pulled)


def drop(volts: Floats, a: NDArray, b: NDArray) -> Floats:
    """(M, E) volts across elements from node volts (M, N); node −1 is battery minus."""
    padded = np.concatenate([volts, np.zeros((len(volts), 1))], axis=1)
    return padded[:, a] - padded[:, b]


def _relay_positions(network: Network, volts: Floats, siemens: Floats, pulled: NDArray) -> NDArray[np.bool_]:
    """(M, D) whether each coil holds. Voltage across a coil pulls only if current flows: a broken winding has volts and no pull."""
    wanted = np.empty_like(pulled)
    for i, (_, coil, pull_in, drop_out, _) in enumerate(network.driven):
        across = np.abs(drop(volts, network.a[[coil]], network.b[[coil]])[:, 0]) * (siemens[:, coil] > 0)
        wanted[:, i] = np.where(pulled[:, i], across >= drop_out, across >= pull_in)
    return wanted


def _matrix(network: Network, siemens: Floats) -> Floats:
    """(M, N, N) nodal matrices from element conductances (M, E), with the insulation leak on the diagonal."""
    size = len(network.nodes)
    matrix = np.asarray(siemens @ network.stamps).reshape(-1, size, size)
    matrix[:, np.arange(size), np.arange(size)] += LEAK_SIEMENS
    return matrix


def _solve(network: Network, siemens: Floats, rhs: Floats) -> Floats:
    """(M, N, C) volts for element conductances (M, E) and currents into nodes (M or 1, N, C).

    The cases differ from one another in few elements. One matrix, that of the commonest conductances, is inverted once; with the
    changes Δ of a row at ports U (Woodbury)

        v = v₀ − Z·U·(1 + Δ·UᵀZU)⁻¹·Δ·Uᵀv₀,      v₀ = Z·i.

    Rows in which this would cancel too many digits, above all breaks within a floating stretch, are solved by themselves.
    """
    base = np.median(siemens, axis=0)
    change = siemens - base
    changed = np.abs(change) > 1e-13 * np.abs(base) + 1e-300
    ports = int(changed.sum(axis=1).max())
    if len(siemens) < _FEW_CASES or 3 * ports > len(network.nodes):
        return _solve_each(network, siemens, rhs)
    inverse = np.linalg.inv(_matrix(network, base[None])[0])
    padded = np.pad(inverse, ((0, 1), (0, 1)))
    spread = padded[network.a] - padded[network.b]  # (E, N + 1): volts at every node per ampere through each port
    seen = spread[:, network.a] - spread[:, network.b]  # (E, E) UᵀZU
    index = np.argsort(~changed, axis=1, kind="stable")[:, :ports]  # (M, k)
    delta = np.take_along_axis(change, index, axis=1)
    first = inverse @ rhs  # (M or 1, N, C)
    first_padded = np.concatenate([first, np.zeros((len(first), 1, first.shape[2]))], axis=1)
    rows = np.arange(len(siemens) if len(first) > 1 else 1)[:, None]
    across = first_padded[rows, network.a[index]] - first_padded[rows, network.b[index]]  # (M, k, C)
    system = delta[:, :, None] * seen[index[:, :, None], index[:, None, :]]
    pivots = 1.0 + np.einsum("mkk->mk", system)
    system[:, np.arange(ports), np.arange(ports)] += 1.0
    flow = np.linalg.solve(system, delta[:, :, None] * across)
    volts = first - np.swapaxes(spread[index][:, :, :-1], 1, 2) @ flow
    # What rounding of Z leaves of each pivot: below a part in a million the row is done again on its own.
    size = np.diag(padded)[network.a] + np.diag(padded)[network.b]
    doubtful = (np.abs(pivots) < 1e6 * np.finfo(float).eps * np.abs(delta) * size[index]).any(axis=1)
    if doubtful.any():
        volts[doubtful] = _solve_each(network, siemens[doubtful], rhs[doubtful] if len(rhs) > 1 else rhs)
    return volts


def _solve_each(network: Network, siemens: Floats, rhs: Floats) -> Floats:
    """The same by one factorisation per case."""
    matrix = _matrix(network, siemens)
    return np.linalg.solve(matrix, np.broadcast_to(rhs, (len(matrix), *rhs.shape[1:])))


def _inject(network: Network, amps: Floats) -> Floats:
    """(M, N) current into each node from sources of ``amps`` (M, E) flowing out of an element's first pin."""
    into = np.zeros((len(amps), len(network.nodes) + 1))  # the last column collects battery minus
    every = np.arange(len(amps))[:, None]
    np.add.at(into, (every, network.a), amps)
    np.add.at(into, (every, network.b), -amps)
    return into[:, :-1]


def _settle(network: Network, cases: Cases, closed: NDArray, pulled: NDArray) -> tuple[Floats, Floats, Floats]:
    """Volts (M, N), amps (M, E) and small-signal siemens (M, E) with every contact at rest where it is."""
    conducts = np.broadcast_to(closed, cases.forced.shape).copy()
    for i, (contact, _, _, _, rest_closed) in enumerate(network.driven):
        conducts[:, contact] = pulled[:, i] != rest_closed
    conducts = np.where(cases.forced == 0, conducts, cases.forced > 0)
    siemens = np.where(conducts, 1.0 / np.maximum(cases.ohms, LEAST_OHMS), 0.0)
    emf_amps = siemens * network.emf
    lamps = np.flatnonzero(network.filament)
    if not lamps.size:
        volts = _solve(network, siemens, _inject(network, emf_amps)[..., None])[..., 0]
        return volts, siemens * drop(volts, network.a, network.b) - emf_amps, siemens
    lit = conducts[:, lamps]
    rated_volts, rated_amps = network.rated_volts[lamps], network.rated_amps[lamps]
    # Starting low, Newton climbs to the solution from one side: the filament's current is a concave function of its voltage.
    across = np.full(lit.shape, 0.02) * rated_volts
    volts = np.zeros((len(siemens), len(network.nodes)))
    todo = np.arange(len(siemens))
    for _ in range(_NEWTON_ROUNDS):
        amps, slope = filament_amps(across[todo], rated_volts, rated_amps)
        companion = np.zeros((len(todo), siemens.shape[1]))
        companion[:, lamps] = np.where(lit[todo], slope * across[todo] - amps, 0.0)
        siemens[np.ix_(todo, lamps)] = np.where(lit[todo], slope, 0.0)
        rhs = _inject(network, emf_amps[todo] + companion)
        volts[todo] = _solve(network, siemens[todo], rhs[..., None])[..., 0]
        found = drop(volts[todo], network.a[lamps], network.b[lamps])
        done = (np.abs(found - across[todo]) <= 1e-9 + 1e-9 * np.abs(found)).all(axis=1)
        across[todo] = found
        todo = todo[~done]
        if not todo.size:
            break
    amps, slope = filament_amps(across, rated_volts, rated_amps)
    siemens[:, lamps] = np.where(lit, slope, 0.0)
    current = siemens * drop(volts, network.a, network.b) - emf_amps
    current[:, lamps] = np.where(lit, amps, 0.0)
    return volts, current, siemens
