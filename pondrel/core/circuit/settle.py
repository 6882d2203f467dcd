"""Many cases of one network with every contact where it is: what each differs in from the sound circuit, and the operating point of that.

In one position of the contacts all cases share one base, the sound circuit about its own operating point. What a case changes are its
ports. Curved laws are followed by Newton from there: an element whose slope has moved by more than a few per cent becomes a port, the
others are corrected along the base's slope. In the end every element whose slope has moved at all is a port, so that a case is the base
and a few ports and nothing else, and what follows from it has exact slopes.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..base.arrays import Floats
from ..base.patience import breathe
from .laws import amps_lost, nonlinear_amps, tame
from .network import LEAST_OHMS, Cases, Network
from .part import Law
from .tableau import Base, Lines, Ports, Swaps

_AtPorts = tuple[NDArray[np.intp], NDArray[np.intp], NDArray[np.intp]]

__all__ = ["Position", "Settled", "Share", "settle"]

_ROUNDS, _WALKS_ON = 100, 40
# Newton has arrived when its step is below this; the step after would be its square. On a floating point, where insulation of a gigohm
# meets rounding, less cannot be reached.
_STEP_VOLTS, _STEP_SHARE = 1e-6, 1e-9
_NEAR_SLOPE = 0.02  # on the way a slope this near the base's is followed by correction instead of a port
_SAME_SLOPE = 1e-6  # in the end one this near is the base's
_SAME_AMPS, _SAME_SHARE = 1e-13, 1e-10  # and so is a current that lies so near the base's line
_JUNCTION_AMPS = 0.01
_FEW_PAIRS = 2  # of nodes
_NO_SLOPE = 1e-12  # siemens below which a curved element is taken as a constant current


@dataclass(frozen=True, eq=False)
class Position:
    """The sound circuit with its contacts in one position: those that follow a control ``pulled`` (C,) or not. Its ``base``, the volts
    ``about`` (K,) of the curved elements there, and what ``conducts`` (E,)."""

    network: Network
    pulled: NDArray[np.bool_]
    base: Base
    about: Floats
    conducts: NDArray[np.bool_]

    @cached_property
    def lost(self) -> Floats:
        """(E,) amperes that a curved element loses per unit by which the logarithm of its own ohms rises, NaN where a law is straight."""
        network, k = self.network, self.network.nonlinear
        lost = np.full(len(network.keys), np.nan)
        own = amps_lost(network.law[k], self.about, network.volts[k], network.amps[k], network.shape[k], _ohms(network.ohms[k]))
        lost[k] = np.where(self.conducts[k], own, np.nan)
        return lost


@dataclass(frozen=True, eq=False)
class Share:
    """Rows, each once, that differ from one position's base at equally many ports, with their ``weight`` (m,) in the mean that is shown:
    ``conducts`` (m, k) says whether a port lets current through, ``lost`` (m, k) is as in `Position`. Of rows that hurry between two
    positions there are two shares, ``second`` the one to which a contact has moved."""

    position: Position
    ports: Ports
    weight: Floats
    conducts: NDArray[np.bool_]
    lost: Floats
    second: bool = False

    @property
    def rows(self) -> NDArray[np.intp]:
        """(m,) which rows they are."""
        return self.ports.rows

    def at(self, chosen: NDArray[np.intp], rows: NDArray[np.intp], weight: Floats | None = None) -> Share:
        """Some of the rows, under new row numbers, with another ``weight`` if one is given."""
        weight = self.weight[chosen] if weight is None else weight
        return replace(self, ports=self.ports.at(chosen, rows), weight=weight, conducts=self.conducts[chosen], lost=self.lost[chosen])

    @classmethod
    def gathered(cls, shares: list[Share], few: bool = False) -> tuple[Share, ...]:
        """The same rows, those of one base and number of ports together; where they are ``few``, all of one base."""
        alike: dict[tuple[int, int, bool], list[Share]] = {}
        for share in shares:
            alike.setdefault((id(share.position), 0 if few else share.ports.width, share.second), []).append(share)
        return tuple(cls._joined(own) for own in alike.values())

    @classmethod
    def _joined(cls, parts: list[Share]) -> Share:
        if len(parts) == 1:
            return parts[0]
        ports = Ports.joined([part.ports for part in parts])
        conducts, lost = np.zeros(ports.index.shape, dtype=bool), np.full(ports.index.shape, np.nan)
        ends = np.cumsum([0, *(len(part.rows) for part in parts)])
        for part, start, end in zip(parts, ends, ends[1:], strict=False):
            conducts[start:end, : part.ports.width], lost[start:end, : part.ports.width] = part.conducts, part.lost
        return replace(parts[0], ports=ports, weight=np.concatenate([part.weight for part in parts]), conducts=conducts, lost=lost)

    def between(self, red: NDArray[np.intp], black: NDArray[np.intp]) -> Floats:
        """(m, T) volts from nodes ``red`` to ``black`` (T,), −1 for battery minus."""
        base = self.position.base
        return self.ports.moved(base.nodes[red] - base.nodes[black], base.to_pairs(red, black))

    def across(self, elements: NDArray[np.intp]) -> Floats:
        """(m, K) volts across elements (K,)."""
        base = self.position.base
        return self.ports.moved(base.across[elements], base.to_across[elements].T)

    def amps(self, elements: NDArray[np.intp]) -> Floats:
        """(m, K) amperes through elements (K,)."""
        base = self.position.base
        amps: Floats = np.where(self.lets_through(elements), self.ports.moved(base.amps[elements], base.to_amps[elements].T), 0.0)
        return amps

    def lets_through(self, elements: NDArray[np.intp]) -> NDArray[np.bool_]:
        """(m, K) whether elements (K,) let current through."""
        return self._with_ports(self.position.conducts[elements], self.conducts, self._at_ports(elements))

    def ohms_along(self, elements: NDArray[np.intp]) -> Floats:
        """(m, K) ohms of elements (K,) with a straight law, where they conduct."""
        return self._with_ports(self.position.base.lines.beta[elements], self.ports.lines.beta, self._at_ports(elements))

    def _at_ports(self, elements: NDArray[np.intp]) -> _AtPorts:
        """Where elements, (K,) or for every row its own (m, K), are ports: rows, ports and columns."""
        index, valid = self.ports.index, self.ports.valid
        if elements.ndim == 2:
            row, port, column = np.nonzero((index[:, :, None] == elements[:, None, :]) & valid[:, :, None])
            return row, port, column
        # One that is asked for several times, as by its several tolerances, is found by the list of those.
        order = np.argsort(elements, kind="stable")
        first, count = (np.zeros(len(self.position.conducts) + 1, dtype=np.intp) for _ in range(2))
        count[:-1] = np.bincount(elements, minlength=len(count) - 1)
        first[1:] = np.cumsum(count)[:-1]
        row, port = np.nonzero(valid & (count[index] > 0))
        times = count[index[row, port]]
        within = np.arange(int(times.sum())) - np.repeat(np.cumsum(times) - times, times)
        column = order[np.repeat(first[index[row, port]], times) + within]
        return np.repeat(row, times), np.repeat(port, times), column

    def _with_ports(self, numbers: NDArray[Any], of_ports: NDArray[Any], at: _AtPorts) -> NDArray[Any]:
        """(m, K) numbers of elements, (K,) or (m, K), with those of the ports in their places."""
        row, port, column = at
        found = np.array(np.broadcast_to(numbers, (len(self.rows), numbers.shape[-1])))
        found[row, column] = of_ports[row, port]
        return found

    def looks_into(self, red: NDArray[np.intp], black: NDArray[np.intp]) -> Floats:
        """(m, T) ohms between nodes ``red`` and ``black`` (T,), small-signal."""
        base, ports = self.position.base, self.ports
        inject = base.inject_nodes
        direct = inject[red, red] - inject[red, black] - inject[black, red] + inject[black, black]
        ohms = np.tile(direct, (len(self.rows), 1))
        across, amps = base.injected(red, black)  # (E, T)
        to_pairs = base.to_pairs(red, black)
        react = ports.react(across[ports.index], amps[ports.index])  # (m, k, T)
        for port in range(ports.width):
            ohms += to_pairs[ports.index[:, port]] * react[:, port]
        return np.maximum(ohms, 0.0, out=ohms)

    def across_by(self, elements: NDArray[np.intp], red: NDArray[np.intp], black: NDArray[np.intp]) -> Floats:
        """(m, K, T) volts across elements (K,) per ampere put into nodes ``red`` and taken out at ``black`` (T,), small-signal."""
        base, ports = self.position.base, self.ports
        across, amps = base.injected(red, black)  # (E, T)
        react = ports.react(across[ports.index], amps[ports.index])  # (m, k, T)
        through = np.swapaxes(base.to_across[elements].T[ports.index], 1, 2)  # (m, K, k)
        volts: Floats = across[elements] + through @ react
        return volts

    def respond(self, elements: NDArray[np.intp], red: NDArray[np.intp], black: NDArray[np.intp]) -> Floats:
        """(m, T, K) volts from nodes ``red`` to ``black`` (T,) per unit by which γ of an element's line rises; ``elements`` are (K,) or,
        for every row its own, (m, K)."""
        base, ports = self.position.base, self.ports
        to_pairs = base.to_pairs(red, black)  # (E, T)
        signed = to_pairs * base.sign[:, None]
        if elements.ndim == 2 or len(red) > _FEW_PAIRS:
            response: Floats = np.swapaxes(to_pairs[ports.index], 1, 2) @ self.reactions(elements)
            response += signed[elements].T if elements.ndim == 1 else np.swapaxes(signed[elements], 1, 2)
            return response
        # Of few pairs it is less to work out what each port means to them than what each element does to each port.
        means = np.swapaxes(to_pairs[ports.index], 1, 2) @ ports.inverse  # (m, T, k)
        across, amps = base.to_across[:, elements] * base.sign[elements], base.to_amps[:, elements] * base.sign[elements]
        response = np.tile(np.ascontiguousarray(signed[elements].T), (len(self.rows), 1, 1))
        for number in range(ports.width):
            index = ports.index[:, number]
            want = ports.lines.beta[:, number, None] * amps[index]
            want -= ports.lines.alpha[:, number, None] * across[index]
            response += means[:, :, number, None] * want[:, None, :]
        row, port, column = self._at_ports(elements)
        response[row, :, column] += means[row, :, port]
        return response

    def reactions(self, elements: NDArray[np.intp]) -> Floats:
        """(m, k, K) the sources that the ports add per unit by which γ of an element's line rises; ``elements`` as in `respond`."""
        base, ports = self.position.base, self.ports
        asked = elements[None, None, :] if elements.ndim == 1 else elements[:, None, :]
        index, sign = ports.index[:, :, None], base.sign[asked]
        react = ports.react(base.to_across[index, asked] * sign, base.to_amps[index, asked] * sign)
        row, port, column = self._at_ports(elements)
        react[row, :, column] += ports.inverse[row, :, port]
        return react

    def push_of_ohms(self, elements: NDArray[np.intp], squared: bool = False) -> Floats:
        """(m, K) how far γ of each element's own line rises as its resistance rises by one part in one; ``squared`` gives instead what the
        square of a response is multiplied by to give the change of an impedance (Tellegen's theorem; adjoint network method).
        ``elements`` as in `respond`.

        From v − R·i = E: dγ = R·i·dR/R. A curved law's line at a port is g·v − i = γ, in the base v − R·i = E, R = 1/g; what its
        law loses at the same volts is how far γ rises there.
        """
        at = self._at_ports(elements)
        beta = self._with_ports(self.position.base.lines.beta[elements], self.ports.lines.beta, at)
        push = beta if squared else beta * self._amps_at(elements)
        curved = np.flatnonzero(np.atleast_2d(self._curved(elements)).any(axis=0))
        if curved.size:
            own = self._of(elements, curved)
            at_own = self._at_ports(own)
            lost = self._with_ports(self.position.lost[own], self.lost, at_own)
            bent = self._siemens(own, at_own) if squared else lost * self._factor(own, at_own)
            push[:, curved] = np.where(np.isnan(lost), push[:, curved], bent)
        return self._where_on(push, elements, at)

    def push_of_current(self, elements: NDArray[np.intp], squared: bool = False) -> Floats:
        """The same as the current that each element's law gives rises by one part in one."""
        at = self._at_ports(elements)
        if squared:
            lost = self._with_ports(self.position.lost[elements], self.lost, at)
            return self._where_on(np.where(np.isnan(lost), 0.0, -self._siemens(elements, at)), elements, at)
        return self._where_on(-self._factor(elements, at) * self._amps_at(elements), elements, at)

    def push_of_volts(self, elements: NDArray[np.intp], squared: bool = False) -> Floats:
        """The same as each element's EMF or threshold rises by a volt: no impedance changes with it."""
        if squared:
            return np.zeros((len(self.rows), elements.shape[-1]))
        at = self._at_ports(elements)
        # What the line's α is at a port; of a base's own curved line v − R·i = E it is 1, of one without slope 0.
        in_base = np.where(self._curved(elements) & ~self.position.base.own_amps[elements], 0.0, 1.0)
        return self._where_on(self._with_ports(in_base, self.ports.lines.alpha, at), elements, at)

    def _of(self, elements: NDArray[np.intp], chosen: NDArray[np.intp]) -> NDArray[np.intp]:
        return elements[chosen] if elements.ndim == 1 else elements[:, chosen]

    def _curved(self, elements: NDArray[np.intp]) -> NDArray[np.bool_]:
        """Which of some elements have a curved law, (K,) or (m, K)."""
        curved: NDArray[np.bool_] = self.position.network.curved[elements]
        return curved

    def _where_on(self, numbers: Floats, elements: NDArray[np.intp], at: _AtPorts) -> Floats:
        """(m, K) numbers of elements, nought where they let no current through (in place)."""
        numbers[~self._with_ports(self.position.conducts[elements], self.conducts, at)] = 0.0
        return numbers

    def _amps_at(self, elements: NDArray[np.intp]) -> Floats:
        """(m, K) amperes on the lines of elements, (K,) or for every row its own."""
        start, response = self.position.base.amps, self.position.base.to_amps.T
        if elements.ndim == 1:
            return self.ports.moved(start[elements], response[:, elements])
        return self.ports.moved_each(start, response, elements)

    def _factor(self, elements: NDArray[np.intp], at: _AtPorts) -> Floats:
        """(m, K) by how much more γ of an element's line rises than the amperes that its law loses."""
        return self._with_ports(self._along_base(elements, 1.0), np.ones(self.ports.index.shape), at)

    def _siemens(self, elements: NDArray[np.intp], at: _AtPorts) -> Floats:
        """(m, K) what the square of a response is multiplied by where a law is curved."""
        return self._with_ports(self._along_base(elements, 0.0), self.ports.lines.alpha, at)

    def _along_base(self, elements: NDArray[np.intp], other: float) -> Floats:
        """The base's ohms of elements that follow a curved law along its slope there, of any ``other``s that number."""
        base = self.position.base
        ohms: Floats = np.where(base.own_amps[elements] & self._curved(elements), base.lines.beta[elements], other)
        return ohms


@dataclass(frozen=True, eq=False)
class Settled:
    """``count`` cases with every contact where it is: their ``shares``, of weight 1, and which are ``restless`` (count,), where Newton
    found no end."""

    network: Network
    count: int
    shares: tuple[Share, ...]
    restless: NDArray[np.bool_]

    def at(self, chosen: NDArray[np.intp], rows: NDArray[np.intp]) -> list[Share]:
        """Of some of the cases the shares, under new row numbers."""
        place = np.full(self.count, -1)
        place[chosen] = np.arange(len(chosen))
        found = []
        for share in self.shares:
            target = place[share.rows]
            own = np.flatnonzero(target >= 0)
            if own.size:
                found.append(share.at(own, rows[target[own]]))
        return found

    def turn(self, rows: NDArray[np.intp], weight: Floats, second: bool) -> list[Share]:
        """The shares, under new row numbers, as one of two positions in which the cases spend ``weight`` (count,) of their time."""
        every = np.arange(self.count)
        return [replace(share, weight=weight[np.searchsorted(rows, share.rows)], second=second) for share in self.at(every, rows)]

    def controls(self) -> Floats:
        """(count, C) what pulls each contact: volts across its coil where current can flow (a broken winding has volts and no pull),
        amperes, or their squares."""
        network = self.network
        value = np.zeros((self.count, len(network.controls)))
        coil = np.array([control.coil for control in network.controls], dtype=np.intp)
        by_amps = np.array([control.data.measure.startswith("amps") for control in network.controls], dtype=bool)
        for share in self.shares:
            base = share.position.base
            start = np.where(by_amps, base.amps[coil], base.across[coil])
            response = np.where(by_amps[:, None], base.to_amps[coil], base.to_across[coil]).T
            value[share.rows] = np.where(share.lets_through(coil), share.ports.moved(start, response), 0.0)
        signed = np.array([control.data.signed for control in network.controls], dtype=bool)
        squared = np.array([control.data.measure.endswith("²") for control in network.controls], dtype=bool)
        value = np.where(signed, value, np.abs(value))
        return np.where(squared, value * np.abs(value), value)


def _ohms(ohms: Floats) -> Floats:
    """Ohms as curved laws take them."""
    return np.where(np.isfinite(ohms), np.maximum(ohms, LEAST_OHMS), 1.0)


def conducting(
    network: Network, closed: NDArray[np.bool_], case: NDArray[np.intp], element: NDArray[np.intp], pulled: NDArray[np.bool_]
) -> NDArray[np.bool_]:
    """(n,) whether nothing but the circuit's own contacts keeps elements of some cases from conducting; ``closed`` (E,) by the state,
    ``pulled`` (M, C) by case."""
    let: NDArray[np.bool_] = closed[element].copy()
    for i, control in enumerate(network.controls):
        own = np.flatnonzero(element == control.contact)
        let[own] &= pulled[case[own], i] != control.data.rest_closed
    return let


def at_rest(network: Network, closed: NDArray[np.bool_], pulled: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """(E,) what conducts in the sound circuit."""
    every = np.arange(len(network.keys))
    return conducting(network, closed, np.zeros_like(every), every, pulled[None]) & np.isfinite(network.ohms)


def start_volts(network: Network) -> Floats:
    """(K,) volts to look from first: half the rated ones; a source's own, where it is neither at its limit nor beyond; a junction's at some
    milliamperes, since up its curve from nothing is a long way."""
    k = network.nonlinear
    law, volts, amps, shape = network.law[k], network.volts[k], network.amps[k], network.shape[k]
    lit = volts + shape * np.log1p(_JUNCTION_AMPS / np.maximum(amps, 1e-300))
    return np.where(law == Law.LIMITED, volts, np.where(law == Law.JUNCTION, lit, 0.5 * volts))


def position_about(network: Network, closed: NDArray[np.bool_], pulled: NDArray[np.bool_], about: Floats) -> Position:
    """The sound circuit in a position, straightened about some volts (K,) of its curved elements."""
    conducts, k = at_rest(network, closed, pulled), network.nonlinear
    alpha = conducts.astype(float)
    beta = np.where(conducts, np.maximum(network.ohms, LEAST_OHMS), 1.0)
    gamma = np.where(conducts, network.emf, 0.0)
    if k.size:
        law = network.law[k], about, network.volts[k], network.amps[k], network.shape[k], _ohms(network.ohms[k])
        amps, slope = nonlinear_amps(*law)
        own, steep = conducts[k], slope > _NO_SLOPE
        ohms = 1.0 / np.where(steep, slope, 1.0)
        alpha[k] = np.where(own & steep, 1.0, 0.0)
        beta[k] = np.where(own & steep, ohms, 1.0)
        gamma[k] = np.where(own, np.where(steep, (slope * about - amps) * ohms, slope * about - amps), 0.0)
    return Position(network, pulled, Base.of(network, Lines(alpha, beta, gamma)), about, conducts)


def settle(position: Position, closed: NDArray[np.bool_], cases: Cases, pulled: NDArray[np.bool_]) -> Settled:
    """Cases with the state's contacts ``closed`` (E,) and those that follow a control ``pulled`` (M, C), as changes of a position."""
    return _Newton(position, closed, cases, pulled).settled()


class _Newton:
    """Cases on their way to their operating points."""

    def __init__(self, position: Position, closed: NDArray[np.bool_], cases: Cases, pulled: NDArray[np.bool_]):
        self.position, self.base, self.network, self.count = position, position.base, position.network, cases.count
        self.k = k = self.network.nonlinear
        self.law = self.network.law[k], self.network.volts[k], self.network.amps[k], self.network.shape[k]
        row, element, ohms, forced = self._differing(cases, pulled)
        let = conducting(self.network, closed, row, element, pulled)
        conducts = np.where(forced == 0, let, forced > 0) & np.isfinite(ohms)
        follows = self.network.curved[element] & conducts & (forced != 2)
        self.follows = np.tile(position.conducts[k], (self.count, 1))
        self.ohms = np.tile(_ohms(self.network.ohms[k]), (self.count, 1))
        if k.size:
            column = np.full(len(self.network.keys), -1)
            column[k] = np.arange(len(k))
            own = np.flatnonzero(self.network.curved[element])
            self.follows[row[own], column[element[own]]] = follows[own]
            self.ohms[row[own], column[element[own]]] = _ohms(ohms[own])
        lines = Lines(
            conducts.astype(float),
            np.where(conducts, np.maximum(ohms, LEAST_OHMS), 1.0),
            np.where(conducts, self.network.emf[element], 0.0),
        )
        differs = np.logical_or.reduce([own != other[element] for own, other in zip(lines.each, self.base.lines.each, strict=True)])
        kept = np.flatnonzero(~follows & differs)
        self.straight = Swaps.of(self.count, row[kept], element[kept], Lines(*(line[kept] for line in lines.each)))

    def _differing(self, cases: Cases, pulled: NDArray[np.bool_]) -> tuple[NDArray[np.intp], NDArray[np.intp], Floats, NDArray[np.int8]]:
        """The pairs of a case and an element that may not be as in the position, by case: with their ohms and how they are forced."""
        size = len(self.network.keys)
        contact = np.array([control.contact for control in self.network.controls], dtype=np.intp)
        moved, which = np.nonzero(pulled != self.position.pulled)
        own = cases.case * size + cases.element
        key = np.union1d(own, moved * size + contact[which]) if moved.size else own
        row, element = np.divmod(key, size)
        ohms, forced = self.network.ohms[element], np.zeros(len(key), dtype=np.int8)
        at = np.searchsorted(key, own)
        ohms[at] = np.where(np.isnan(cases.ohms), ohms[at], cases.ohms)
        forced[at] = cases.forced
        return row, element, ohms, forced

    def settled(self) -> Settled:
        restless = np.zeros(self.count, dtype=bool)
        every = np.arange(self.count)
        if not self.k.size:
            return Settled(self.network, self.count, self._shares(self.straight.ports(self.base), None), restless)
        volts, todo = self._walked()
        restless[todo] = True
        amps, slope = nonlinear_amps(self.law[0], volts, *self.law[1:], self.ohms)
        at_base, chord = self._beside_base(amps, volts)
        off = np.abs(slope - at_base) > _SAME_SLOPE * at_base + _NO_SLOPE
        beside = np.abs(chord * np.where(at_base > 0.0, at_base, 1.0)) > _SAME_AMPS + _SAME_SHARE * np.abs(amps)
        swaps = self.straight.also(every, self.follows & (off | beside), self.k, self._lines(volts, amps, slope))
        lost = np.where(self.follows, amps_lost(self.law[0], volts, *self.law[1:], self.ohms), np.nan)
        return Settled(self.network, self.count, self._shares(swaps.ports(self.base), lost), restless)

    def _lines(self, volts: Floats, amps: Floats, slope: Floats) -> Lines:
        return Lines(slope, np.ones_like(slope), slope * volts - amps)

    def _shares(self, bundles: list[Ports], lost: Floats | None) -> tuple[Share, ...]:
        found = []
        for ports in bundles:
            gone = np.full(ports.index.shape, np.nan)
            curved = self.network.curved[ports.index] & ports.valid
            if lost is not None and curved.any():
                column = np.zeros(len(self.network.keys), dtype=np.intp)
                column[self.k] = np.arange(len(self.k))
                gone = np.where(curved, lost[ports.rows[:, None], column[ports.index]], np.nan)
            conducts = ports.valid & ((ports.lines.alpha != 0.0) | ~np.isnan(gone))
            found.append(Share(self.position, ports, np.ones(len(ports.rows)), conducts, gone))
        return tuple(found)

    def _walked(self) -> tuple[Floats, NDArray[np.intp]]:
        """Volts (M, K) of the curved elements at the operating points, and the cases (m,) that did not arrive."""
        base, k = self.base, self.k
        volts = np.tile(self.position.about, (self.count, 1))
        ports = np.zeros(self.follows.shape, dtype=bool)
        todo, last, shorten = np.arange(self.count), np.zeros_like(volts), np.ones(self.count)
        for turn in range(_ROUNDS):
            breathe()
            at, own, ohms = volts[todo], self.follows[todo], self.ohms[todo]
            amps, slope = nonlinear_amps(self.law[0], at, *self.law[1:], ohms)
            at_base, chord = self._beside_base(amps, at)
            far = np.abs(slope - at_base) > _NEAR_SLOPE * at_base + _NO_SLOPE
            # A slope that has moved too far makes a port; after a few rounds every law has one, and Newton is quadratic.
            ports[todo] = own & (ports[todo] | far | (turn > 3))
            given = np.where(ports[todo] | ~own, 0.0, chord)
            swaps = self.straight.also(todo, ports[todo], k, self._lines(at, amps, slope))
            found = self._across_curved(swaps.sources(base, given if given.any() else None, k), given)
            found = tame(self.law[0], at, found, *self.law[1:], ohms)
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
        return volts, todo

    def _across_curved(self, bundles: list[tuple[NDArray[np.intp], NDArray[np.intp], Floats]], given: Floats) -> Floats:
        """(m, K) volts across the curved elements."""
        base, k = self.base, self.k
        found = base.across[k] + given @ base.to_across[np.ix_(k, k)].T
        response = np.ascontiguousarray(base.to_across[k].T)  # (E, K)
        for rows, index, source in bundles:
            moved = np.zeros((len(rows), len(k)))
            for port in range(index.shape[1]):
                moved += source[:, port, None] * response[index[:, port]]
            found[rows] += moved
        return found

    def _beside_base(self, amps: Floats, volts: Floats) -> tuple[Floats, Floats]:
        """The base's slopes (K,) of the curved elements, and the source (m, K) that brings each to its current along that slope."""
        own, beta, gamma = self.base.own_amps[self.k], self.base.lines.beta[self.k], self.base.lines.gamma[self.k]
        at_base = np.where(own, 1.0 / np.where(own, beta, 1.0), 0.0)
        return at_base, np.where(own, volts - beta * amps - gamma, amps + gamma)
