"""A sheet as arrays: nodes and elements numbered once, in one fixed order.

Signs: voltages are against battery minus; a current is counted from an element's first pin to its second through it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from itertools import product
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..base.arrays import Floats
from .part import NEVER, PULSED, SIXTHS, Contact, Element, Law
from .sheet import Part, Sheet

__all__ = ["BLOW_FACTOR", "LEAK_SIEMENS", "LEAST_OHMS", "Cases", "Change", "Control", "Network", "Positions"]

# Insulation from every node to battery minus: what defines the voltage of a point that nothing else does. 1 GΩ.
LEAK_SIEMENS = 1e-9
# A conductor given as 0 Ω still has about a centimetre of cable in it; two such side by side must still share their current.
LEAST_OHMS = 1e-5
# Between 110 % (100 h) and 135 % (minutes) a blade fuse may go either way (ISO 8820-3, from memory); from 135 % on it melts.
BLOW_FACTOR = 1.35

_KEPT_WITHOUT = 16  # networks with something taken off

Positions = tuple[tuple[float, NDArray[np.bool_]], ...]  # (share of time, (E,) closed by the state), shares summing to 1


@dataclass(frozen=True, slots=True)
class Control:
    """A contact that follows an element: numbers of both, and the contact's data. A contact with several conducts while all let it."""

    contact: int
    coil: int
    data: Contact


@dataclass(frozen=True, eq=False)
class Network:
    """A sheet's elements as arrays, its dials as in ``state`` (a sheet without dials looks the same in all). `of` may add one element:
    a meter between two nodes.

    ``a`` and ``b`` (E,) are node numbers with −1 for battery minus. ``mirrors`` lists (element, from node, to node).
    """

    sheet: Sheet
    nodes: tuple[str, ...]
    keys: tuple[tuple[str, str], ...]  # (part, element) per element, ("", "bridge") for a meter in line
    elements: tuple[Element, ...]
    a: NDArray[np.intp]
    b: NDArray[np.intp]
    ohms: Floats
    controls: tuple[Control, ...]
    mirrors: tuple[tuple[int, int, int], ...]
    bridge: Element | None = None

    @classmethod
    def of(cls, sheet: Sheet, state: str | None = None, bridge: Element | None = None) -> Network:
        """Number a sheet's nodes and elements; the pins of ``bridge`` are nodes. Without a state dials stand at their defaults.
        Those without a bridge are kept with their sheet."""
        if bridge is not None:
            return cls._numbered(sheet, state, bridge)
        if "network" not in sheet.remembered:
            sheet.remembered["network"] = cls._numbered(sheet, None, None)
        kept: Network = sheet.remembered["network"]
        return kept if state is None else kept.at(state)

    @classmethod
    def _numbered(cls, sheet: Sheet, state: str | None, bridge: Element | None) -> Network:
        index: dict[str, int] = {node: i for i, node in enumerate(n for n in sheet.nodes() if n != sheet.minus)}
        keys: list[tuple[str, str]] = []
        elements: list[Element] = []
        ends: list[tuple[int, int]] = []
        mirrors: list[tuple[int, int, int]] = []
        for part in sheet.parts.values():

            def number(pin: str, part: Part = part) -> int:
                node = sheet.node_of(part, pin)
                return -1 if node == sheet.minus else index.setdefault(node, len(index))

            for element in part.elements(sheet.position(state, part.name)):
                if element.mirror:
                    mirrors.append((len(keys), number(element.mirror[0]), number(element.mirror[1])))
                keys.append((part.name, element.name))
                elements.append(element)
                ends.append((number(element.a), number(element.b)))
        if bridge:
            keys.append(("", bridge.name))
            elements.append(bridge)
            ends.append((index.get(bridge.a, -1), index.get(bridge.b, -1)))
        place = {key: i for i, key in enumerate(keys)}
        return cls(
            sheet=sheet,
            nodes=tuple(index),
            keys=tuple(keys),
            elements=tuple(elements),
            a=np.array([end[0] for end in ends]),
            b=np.array([end[1] for end in ends]),
            ohms=np.maximum(np.array([e.ohms for e in elements]), LEAST_OHMS),
            controls=tuple(
                Control(i, place[keys[i][0], contact.coil], contact)
                for i, e in enumerate(elements)
                for contact in (e.contact, e.power)
                if contact and contact.coil is not None
            ),
            mirrors=tuple(mirrors),
            bridge=bridge,
        )

    def at(self, state: str) -> Network:
        """The network with the sheet's dials as in ``state``: this one itself where no dial moves."""
        settings = tuple(self.sheet.position(state, name) for name in self.sheet.dials)
        if settings not in self._at:
            rest = tuple(self.sheet.position(None, name) for name in self.sheet.dials)
            self._at[settings] = self if settings == rest else Network._numbered(self.sheet, state, self.bridge)
        return self._at[settings]

    @cached_property
    def _at(self) -> dict[tuple[str, ...], Network]:
        return {}

    @cached_property
    def unpowered(self) -> Network:
        """The same network with the battery off: sources give nothing, what needs power never conducts, and an ohmmeter's current turns no
        motor; a meter's own source stays.

        It is solved about its own rest, not as a change of the live circuit, so that what is dead is so to the last digit.
        """
        own = len(self.elements) - 1 if self.bridge else len(self.elements)
        still = [e.law is Law.MOTOR for e in self.elements]
        asleep = [i < own and e.rests_unpowered and not still[i] for i, e in enumerate(self.elements)]
        elements = tuple(
            replace(e, law=Law.OHMIC, contact=None, power=None)
            if still[i]
            else replace(e, contact=NEVER, power=None)
            if asleep[i]
            else replace(e, contact=None)
            if e.asleep or e.still
            else e
            for i, e in enumerate(self.elements)
        )
        return replace(self, elements=elements, controls=tuple(c for c in self.controls if not (asleep[c.contact] or still[c.contact])))

    def without(self, gone: NDArray[np.bool_]) -> Network:
        """The same network in which the marked elements (E,) never conduct; kept, since the same is taken off again and again."""
        key = gone.tobytes()
        if key not in self._without:
            elements = tuple(
                replace(e, contact=NEVER, power=None) if off else e for e, off in zip(self.elements, gone.tolist(), strict=True)
            )
            while len(self._without) >= _KEPT_WITHOUT:
                self._without.pop(next(iter(self._without)))
            self._without[key] = replace(self, elements=elements, controls=tuple(c for c in self.controls if not gone[c.contact]))
        return self._without[key]

    @cached_property
    def _without(self) -> dict[bytes, Network]:
        return {}

    @cached_property
    def with_motors_still(self) -> Network:
        """The same network with every motor held: a plain resistance of its armature. This one itself where there is none."""
        if all(e.law is not Law.MOTOR for e in self.elements):
            return self
        return replace(self, elements=tuple(replace(e, law=Law.OHMIC) if e.law is Law.MOTOR else e for e in self.elements))

    def _column(self, name: str) -> Floats:
        return np.array([getattr(e, name) for e in self.elements], dtype=float)

    @cached_property
    def law(self) -> NDArray[Any]:
        """(E,) each element's law."""
        laws = np.empty(len(self.elements), dtype=object)
        laws[:] = [e.law for e in self.elements]
        return laws

    @cached_property
    def source(self) -> NDArray[np.bool_]:
        """(E,) elements with an EMF: dead once the battery is off."""
        return np.array([e.gives for e in self.elements])

    @cached_property
    def curved(self) -> NDArray[np.bool_]:
        """(E,) elements whose current is no straight line."""
        curved = np.zeros(len(self.elements), dtype=bool)
        curved[self.nonlinear] = True
        return curved

    @cached_property
    def nonlinear(self) -> NDArray[np.intp]:
        """Numbers of the elements whose current is no straight line."""
        return np.flatnonzero([e.law not in (Law.OHMIC, Law.EMF) for e in self.elements])

    @cached_property
    def emf(self) -> Floats:
        """(E,) volts of linear sources, 0 elsewhere."""
        return np.array([e.volts if e.law is Law.EMF else 0.0 for e in self.elements])

    @cached_property
    def volts(self) -> Floats:
        """(E,) what the laws take as rated voltage or EMF."""
        return np.array([e.volts or (1.0 if e.law in (Law.FILAMENT, Law.MOTOR) else 0.0) for e in self.elements])

    @cached_property
    def amps(self) -> Floats:
        """(E,) what the laws take as rated, limiting or saturation current."""
        return self._column("amps")

    @cached_property
    def shape(self) -> Floats:
        """(E,) a filament's power or a junction's emission voltage."""
        return self._column("shape")

    @cached_property
    def tolerance(self) -> Floats:
        """(E,) one standard deviation as a share."""
        return self._column("tolerance")

    @cached_property
    def fuse_rating(self) -> Floats:
        """(E,) amperes above which a fuse melts, infinite where nothing does."""
        return self._column("rating")

    @cached_property
    def fuses(self) -> NDArray[np.intp]:
        """Numbers of the elements that melt, each above its rating."""
        return np.flatnonzero(np.isfinite(self.fuse_rating))

    def element(self, part: str, name: str = "") -> int | None:
        """Number of a part's element, None where the part has none of that name."""
        return self._place.get((part, name))

    @cached_property
    def _place(self) -> dict[tuple[str, str], int]:
        return {key: i for i, key in enumerate(self.keys)}

    @cached_property
    def circuits(self) -> dict[bytes, Any]:
        """What `operate` has worked out of this network, by position of the state's contacts."""
        return {}

    def node(self, name: str) -> int:
        """Number of a node, −1 for battery minus."""
        return -1 if name == self.sheet.minus else self._numbers[name]

    def between(self, red: str, black: str) -> NDArray[np.bool_]:
        """(E,) the elements that join two nodes directly; a meter between them is not one."""
        one, other = self.node(red), self.node(black)
        joins: NDArray[np.bool_] = ((self.a == one) & (self.b == other)) | ((self.a == other) & (self.b == one))
        if self.bridge:
            joins[-1] = False
        return joins

    @cached_property
    def _numbers(self) -> dict[str, int]:
        return {name: i for i, name in enumerate(self.nodes)}

    def positions(self, state: str) -> Positions:
        """What the state opens and closes, with its share of the time: one entry, or more where an output pulses or a generator turns."""
        closed = np.ones(len(self.keys), dtype=bool)
        pulsing: dict[str, tuple[float, list[int]]] = {}
        sixth = np.full(len(self.keys), -1)
        for i, element in enumerate(self.elements):
            contact = element.contact
            part = self.keys[i][0]
            if element.alternates and contact is not None and contact.sixth is not None:
                sixth[i] = contact.sixth
            if contact is NEVER:
                closed[i] = False
            if contact is None or contact is NEVER or contact.positions is None:
                continue
            position = self.sheet.position(state, part)
            closed[i] = position in contact.positions
            if closed[i] and position == PULSED:
                pulsing.setdefault(part, (contact.duty, []))[1].append(i)
        phases = []
        for choice in product((True, False), repeat=len(pulsing)):
            share, here = 1.0, closed.copy()
            for on, (duty, elements) in zip(choice, pulsing.values(), strict=True):
                share *= duty if on else 1.0 - duty
                here[elements] = on
            if share > 0.0:
                phases.append((share, here))
        if (sixth >= 0).any():  # generators on one shaft turn together
            phases = [(share / SIXTHS, here & ((sixth < 0) | (sixth == k))) for share, here in phases for k in range(SIXTHS)]
        return tuple(phases)

    def drop(self, volts: Floats) -> Floats:
        """(…, E) volts across elements from node volts (…, N)."""
        padded = np.concatenate([volts, np.zeros((*volts.shape[:-1], 1))], axis=-1)
        drop: Floats = padded[..., self.a] - padded[..., self.b]
        return drop


# Some cases, an element, its ohms in each (None as the network has them), and how it is forced, as `Cases` has it.
Change = tuple[NDArray[np.intp], int, "Floats | float | None", int]


@dataclass(frozen=True, eq=False)
class Cases:
    """``count`` cases of one network, as what differs from the sound circuit, which is little.

    Each of n entries is one element of one case: ``case`` (n,), ``element`` (n,), its ``ohms`` (n,), NaN where they are the network's, and
    ``forced`` (n,): −1 open, +1 closed, +2 closed and a plain resistance (a locked motor), 0 as the circuit has it. Entries stand by case
    and then by element, each pair once.
    """

    count: int
    case: NDArray[np.intp]
    element: NDArray[np.intp]
    ohms: Floats
    forced: NDArray[np.int8]

    @classmethod
    def healthy(cls, count: int = 1) -> Cases:
        """``count`` cases with nothing wrong."""
        none = np.zeros(0, dtype=np.intp)
        return cls(count, none, none, np.zeros(0), none.astype(np.int8))

    @classmethod
    def of(cls, count: int, changes: Sequence[Change]) -> Cases:
        """Cases from what is changed in them; where an element is changed twice, the later ohms and the later force hold."""
        if not changes:
            return cls.healthy(count)
        sizes = [len(rows) for rows, *_ in changes]
        case = np.concatenate([rows for rows, *_ in changes]).astype(np.intp)
        element = np.repeat(np.array([element for _, element, _, _ in changes], dtype=np.intp), sizes)
        ohms = np.concatenate(
            [np.broadcast_to(np.nan if own is None else own, (n,)) for (_, _, own, _), n in zip(changes, sizes, strict=True)]
        )
        forced = np.repeat(np.array([to for *_, to in changes], dtype=np.int8), sizes)
        return cls._ordered(count, case, element, ohms, forced)

    @classmethod
    def _ordered(cls, count: int, case: NDArray[np.intp], element: NDArray[np.intp], ohms: Floats, forced: NDArray[np.int8]) -> Cases:
        order = np.lexsort((element, case))  # stable: of a pair that is there twice the later one stays behind
        case, element, ohms, forced = case[order], element[order], ohms[order], forced[order]
        again = np.flatnonzero((case[1:] == case[:-1]) & (element[1:] == element[:-1]))
        for i in again.tolist():
            ohms[i + 1] = ohms[i] if np.isnan(ohms[i + 1]) else ohms[i + 1]
            forced[i + 1] = forced[i + 1] or forced[i]
        kept = np.ones(len(case), dtype=bool)
        kept[again] = False
        return cls(count, case[kept], element[kept], ohms[kept], forced[kept])

    @classmethod
    def opening(cls, count: int, elements: NDArray[np.bool_]) -> Cases:
        """``count`` cases with the marked elements, (E,) or (count, E), open."""
        case, element = np.nonzero(np.broadcast_to(elements, (count, elements.shape[-1])))
        return cls(count, case, element, np.full(len(case), np.nan), np.full(len(case), -1, dtype=np.int8))

    def also(self, other: Cases) -> Cases:
        """The same cases with what another list of as many changes in them besides."""
        if not len(other.case):
            return self
        joined = (np.concatenate([getattr(self, name), getattr(other, name)]) for name in ("case", "element", "ohms", "forced"))
        return Cases._ordered(self.count, *joined)

    def with_ohms(self, element: int, ohms: Floats | float) -> Cases:
        """The same cases with other ohms (count,) in one element."""
        return self.also(Cases.of(self.count, [(np.arange(self.count), element, ohms, 0)]))

    def opened(self, elements: NDArray[np.bool_]) -> Cases:
        """The same cases in a network in which the marked elements (E,) are open: what closes one of them does not count."""
        return replace(self, forced=np.where(elements[self.element], np.int8(-1), self.forced).astype(np.int8))

    def at(self, chosen: NDArray[Any]) -> Cases:
        """Some of the cases, in any order, by number or by a mark (count,)."""
        chosen = np.flatnonzero(chosen) if chosen.dtype == bool else chosen
        starts = np.searchsorted(self.case, np.arange(self.count + 1))
        sizes = (starts[1:] - starts[:-1])[chosen]
        entry = np.repeat(starts[chosen] - (np.cumsum(sizes) - sizes), sizes) + np.arange(int(sizes.sum()))
        return Cases(len(chosen), np.repeat(np.arange(len(chosen)), sizes), self.element[entry], self.ohms[entry], self.forced[entry])

    @classmethod
    def joined(cls, parts: Sequence[Cases]) -> Cases:
        """All cases one after another."""
        starts = np.cumsum([0, *(part.count for part in parts)])
        case = np.concatenate([part.case + start for part, start in zip(parts, starts, strict=False)])
        return cls(
            int(starts[-1]), case, *(np.concatenate([getattr(part, name) for part in parts]) for name in ("element", "ohms", "forced"))
        )

    def of_all(self, network: Network) -> tuple[Floats, NDArray[np.int8]]:
        """(count, E) ohms of all elements, and how they are forced."""
        ohms, forced = np.tile(network.ohms, (self.count, 1)), np.zeros((self.count, len(network.ohms)), dtype=np.int8)
        changed = ~np.isnan(self.ohms)
        ohms[self.case[changed], self.element[changed]] = self.ohms[changed]
        forced[self.case, self.element] = self.forced
        return ohms, forced
