"""The circuit sheet: a circuit under test as frozen dataclasses. Reading one from text is the business of `read`."""

from __future__ import annotations

from collections.abc import Hashable, Mapping
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

from ..base.brief import listed, near, quoted
from ..base.errors import FaultError, ReadingError
from .connector import FACES, Connector
from .fits import Fit
from .limit import SheetLimit
from .part import GROUND, SUPPLY, Element, Kind, Mode, Span
from .tables import Code, OutcomeTable

__all__ = ["Access", "Part", "Place", "Sheet", "State", "dial_text"]


def dial_text(value: float) -> str:
    """The setting of a dial as a position: ``30``."""
    return f"{value:g}"


@dataclass(frozen=True, slots=True)
class Access:
    """Shared effort that opens the way to places behind it; done once. ``minutes`` of work. ``acknowledge``: the caution is read first."""

    name: str
    minutes: float
    note: str = ""
    caution: str = ""
    acknowledge: bool = False


@dataclass(frozen=True, slots=True)
class Place:
    """A point that a probe can reach: where it is, the minutes to probe it, and the access it lies behind; what is ``never`` done there,
    with the reason; its ``cavity`` in a ``connector``, the ``face`` to probe it on, and its wire's ``colour``."""

    name: str
    at: str = ""
    minutes: float = 1.0
    behind: str | None = None
    caution: str = ""
    acknowledge: bool = False
    never: Mapping[str, str] = field(default_factory=dict)
    connector: str = ""
    cavity: str = ""
    face: str = FACES[0]
    colour: str = ""

    @property
    def spoken(self) -> str:
        """Where it is, and its name on the sheet: ``fuse box, load side of F14 (f14.out)``."""
        return f"{self.at} ({self.name})" if self.at else self.name


@dataclass(frozen=True)
class Part:
    """A part or joint: its kind, the node on each pin, its parameters as given (defaults are the kind's), and what is ``never`` done to it,
    with the reason."""

    name: str
    kind: Kind
    pins: Mapping[str, str]
    params: Mapping[str, object]
    label: str = ""
    note: str = ""
    never: Mapping[str, str] = field(default_factory=dict)
    colour: str = ""

    def elements(self, position: str | None = None) -> tuple[Element, ...]:
        """The part's electrical elements at a dial's setting, with pin names still unresolved."""
        if self.kind.dial is None:
            return self.kind.build(self.params, tuple(self.pins))
        return self.kind.build({**self.params, self.kind.dial.name: float(position or self.rest)}, tuple(self.pins))

    @cached_property
    def modes(self) -> tuple[Mode, ...]:
        """The ways in which this part can fail: those of its kind that concern an element it has."""
        mine = {element.name for element in self.elements()}
        return tuple(mode for mode in self.kind.modes if mode.effects[0][0] in mine)

    @cached_property
    def rests_unpowered(self) -> bool:
        """Whether it does nothing once the battery is off, whatever a state sets it to: a module's output, a source."""
        worked = [e for e in self.elements() if e.contact is not None and e.contact.positions]
        return bool(worked) and all(e.rests_unpowered for e in worked)

    @property
    def copper(self) -> bool:
        """Whether its ohms are those of copper: a winding or a wire, which read more when they are warm."""
        wound = any(mode.severity is not None and mode.severity.span is Span.TURNS for mode in self.modes)
        return wound or any(param.name == "csa_mm2" for param in self.kind.params)

    @property
    def rest(self) -> str:
        """Position where a state does not name one."""
        return dial_text(self.kind.dial.default) if self.kind.dial else self.kind.rest

    @property
    def title(self) -> str:
        """Name with its label, as shown to a person: ``G3 (ground stud, left rear)``."""
        return f"{self.name} ({self.label})" if self.label else self.name

    @cached_property
    def called(self) -> str:
        """What a person calls it, without its name on the sheet: ``rear glass fuse``, ``wire, fuse to switch``."""
        if not self.label:
            return f"{self.kind.name.replace('_', ' ')} {self.name}"
        known = not self.kind.nouns or any(noun in self.label.lower() for noun in self.kind.nouns)
        return self.label if known else self.kind.called.format(self.label)

    @property
    def spoken(self) -> str:
        """What a person calls it, and its name on the sheet: ``rear glass fuse (F14)``."""
        return f"{self.called} ({self.name})" if self.label else self.called


@dataclass(frozen=True)
class State:
    """A state of key and switches: the position of each switching part. ``minutes`` are what it takes beyond turning a key: an engine
    brought to temperature. What it means for a person: whether the ``battery`` is on or off, where the ``key`` stands, whether the
    ``engine`` runs (both empty where the sheet is silent), and how many ``people`` it takes to hold it.
    """

    name: str
    positions: Mapping[str, str]
    note: str = ""
    caution: str = ""
    minutes: float = 0.0
    acknowledge: bool = False
    battery: str = "on"
    key: str = ""
    engine: str = ""
    people: int = 1

    @property
    def stands(self) -> str:
        """What it means for a person, in words: ``key on, engine running, two people``."""
        words = (
            "battery off" if self.battery == "off" else "",
            f"key {self.key}" if self.key else "",
            f"engine {self.engine}" if self.engine else "",
            f"{self.people} people" if self.people > 1 else "",
        )
        return ", ".join(filter(None, words))


@dataclass(frozen=True)
class Sheet:
    """A circuit under test. ``minus`` is the node of battery minus, the zero of every voltage; ``fits`` are the vehicles that it is for,
    any where empty."""

    title: str
    supply_volts: float
    access: Mapping[str, Access]
    places: Mapping[str, Place]
    parts: Mapping[str, Part]
    states: Mapping[str, State]
    minus: str
    plus: str
    family: str = ""
    note: str = ""
    caution: str = ""
    acknowledge: bool = False
    limits: tuple[SheetLimit, ...] = ()
    fits: tuple[Fit, ...] = ()
    observe: Mapping[str, Any] = field(default_factory=dict)
    codes: Mapping[str, Code] = field(default_factory=dict)
    tables: Mapping[str, OutcomeTable] = field(default_factory=dict)
    connectors: Mapping[str, Connector] = field(default_factory=dict)

    @cached_property
    def remembered(self) -> dict[Hashable, Any]:
        """What other modules have made of this sheet and would only make again: its networks, what the sound circuit does."""
        return {}

    def nodes(self) -> tuple[str, ...]:
        """Every node that a pin names, in order of first mention."""
        return tuple(dict.fromkeys(node for part in self.parts.values() for node in part.pins.values()))

    @cached_property
    def dials(self) -> tuple[str, ...]:
        """Names of the parts that a state sets to a number."""
        return tuple(name for name, part in self.parts.items() if part.kind.dial)

    @cached_property
    def resting(self) -> Mapping[str, str]:
        """For each state the first one that is the same circuit once the battery is off: what needs power rests then, however it is set.
        One in which the engine stands goes before one in which it runs."""
        worked = [part for part in self.parts.values() if (part.kind.positions or part.kind.dial) and not part.rests_unpowered]
        dead = {state: tuple(self.position(state, part.name) for part in worked) for state in self.states}
        first: dict[tuple[str, ...], str] = {}
        for state in sorted(self.states, key=lambda name: self.states[name].engine == "running"):
            first.setdefault(dead[state], state)
        return {state: first[dead[state]] for state in self.states}

    @cached_property
    def passing(self) -> frozenset[str]:
        """The states that nobody can hold by hand, such as a bus held dominant: they are read with a scope."""
        return frozenset(
            name
            for name, state in self.states.items()
            if any(position in self.parts[part].kind.momentary for part, position in state.positions.items() if part in self.parts)
        )

    def position(self, state: str | None, part_name: str) -> str:
        """The position that a state has a part in; its rest without a state."""
        part = self.parts[part_name]
        return part.rest if state is None else self.state(state).positions.get(part_name, part.rest)

    def node_of(self, part: Part, pin: str) -> str:
        """The node that an element's pin stands for."""
        ends = {GROUND: self.minus, SUPPLY: self.plus}
        return ends.get(pin) or (f"{part.name}{pin}" if pin.startswith("*") else part.pins[pin])

    def part(self, name: str) -> Part:
        """The part of that name; raises FaultError naming near ones."""
        if name not in self.parts:
            raise FaultError(f"No part {quoted(name)} on this sheet{near(name, self.parts)}.")
        return self.parts[name]

    def state(self, name: str) -> State:
        """The state of that name; raises ReadingError naming those there are."""
        if name not in self.states:
            verb = "is" if len(self.states) == 1 else "are"
            raise ReadingError(f"{quoted(name)} is no state of this sheet: {listed(self.states)} {verb}.")
        return self.states[name]

    def probe(self, name: str) -> str:
        """The node that a probe at ``name`` touches: a place, or any node, since a reading already taken cannot be untaken.

        Empty means battery minus. Raises ReadingError naming near ones.
        """
        if not name:
            return self.minus
        if name in self.places or name in self.nodes():
            return name
        raise ReadingError(f"{quoted(name)} is no place on this sheet{near(name, [*self.places, *self.nodes()])}.")
