"""What a kind of part is: parameters, pins, electrical elements, and the ways it fails.

A kind is one entry of the registry in `kinds/`. It turns a part's parameters into two-terminal *elements*; every fault mode is
a change of those elements, so nothing outside `kinds/` needs to know one kind from another.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from enum import Enum

__all__ = [
    "DRY_SHARE",
    "GROUND",
    "NEVER",
    "PULSED",
    "SIXTHS",
    "SUPPLY",
    "Contact",
    "Dial",
    "Effect",
    "Element",
    "Kind",
    "Law",
    "Mode",
    "Param",
    "Seen",
    "Severity",
    "Sight",
    "Span",
    "Timed",
]

GROUND = "\0ground"  # stands for the sheet's battery minus in an element's pins
SUPPLY = "\0supply"  # the same of battery plus
SIXTHS = 6  # of a turn, in which a generator's alternating volts are looked at
PULSED = "pulsed"  # the position in which a module's output switches on and off by itself


class Law(Enum):
    """How current follows voltage in an element; the formulas are in `laws`."""

    OHMIC = "ohmic"
    EMF = "emf"  # a source of ``volts`` behind ``ohms``
    FILAMENT = "filament"  # rated ``amps`` at ``volts``, current with the ``shape`` power of voltage
    JUNCTION = "junction"  # saturation current ``amps``, emission voltage ``shape``, series ``ohms``, shifted by ``volts``
    LIMITED = "limited"  # as EMF, but delivers no more than ``amps`` and takes no more than ``shape`` (``amps`` where that is 0)
    MOTOR = "motor"  # rated ``amps`` at ``volts`` on a fan load with ``shape`` ohms of armature and brushes; ``ohms`` are those now


@dataclass(frozen=True, slots=True)
class Contact:
    """What opens and closes an element: the sheet's state, another element of the same part, or both together.

    ``positions``: the state must have the part in one of these (None: the state has no say; empty: only a fault closes it).
    ``coil``: an element of the same part (perhaps the contact itself) that pulls it at ``pull_in`` and lets it go below ``drop_out``,
    by what ``measure`` names: ``volts``, ``amps``, or the heat in a strip as ``volts²`` or ``amps²``; ``rest_closed`` marks one that
    conducts until it is pulled. A control that is ``signed`` does not pull backwards. ``seconds`` is how slowly heat follows: where
    such a contact finds no rest, its mean is set by its own threshold. ``duty`` is the share of time that the position ``pulsed``
    closes it, ``hertz`` how often a second. ``sixth`` is the one of a turn's sixths in which it closes, where its part turns. One that
    ``feeds_itself`` holds its own control once it has closed, so that whether it ever did must be followed from rest.
    """

    coil: str | None = None
    pull_in: float = 0.0
    drop_out: float = 0.0
    rest_closed: bool = False
    positions: frozenset[str] | None = None
    measure: str = "volts"
    signed: bool = False
    seconds: float = 0.0
    duty: float = 1.0
    hertz: float = 0.0
    sixth: int | None = None
    feeds_itself: bool = False


NEVER = Contact(positions=frozenset())


@dataclass(frozen=True, slots=True)
class Element:
    """One two-terminal element of a part.

    ``name`` is empty for the part's main path; ``a`` and ``b`` are pin names, GROUND, SUPPLY, or ``*name`` for a point inside the part.
    ``ohms`` is its resistance when conducting, infinite where there is nothing until a fault puts something there; ``volts``,
    ``amps`` and ``shape`` are what its law takes. ``tolerance`` is one standard deviation as a share of its value: of resistance, of
    a filament's or motor's current, of a junction's forward voltage, or of EMF for a source (whose resistance has
    ``ohms_tolerance``). ``bend_tolerance`` is how far the power of voltage is unknown that a filament's or motor's current goes with.
    ``henries`` in series and ``farads`` across it matter in transients. ``mirror`` (from pin, to pin) repeats the element's current between
    two other pins: what a regulator takes from its input. What only helps the computation is not ``drawn``.
    ``powered`` marks a driver or bias of a module, which rests while that is without power; ``power`` says what feeds it, where the sheet
    does: another element of the part whose volts must reach ``pull_in``. One that is ``asleep`` is there only while the battery is off.
    What is ``still`` is there only then too, as something known: a generator's bare copper, when nothing turns.
    """

    name: str
    a: str
    b: str
    ohms: float
    tolerance: float = 0.0
    law: Law = Law.OHMIC
    volts: float = 0.0
    amps: float = 0.0
    shape: float = 0.0
    ohms_tolerance: float = 0.0
    bend_tolerance: float = 0.0
    contact: Contact | None = None
    rating: float = math.inf  # amperes above which a fuse element melts
    henries: float = 0.0
    farads: float = 0.0
    mirror: tuple[str, str] | None = None
    drawn: bool = True
    spare: float = 0.0  # ohms of one that only a fault brings in
    powered: bool = False
    power: Contact | None = None
    asleep: bool = False
    still: bool = False

    @property
    def gives(self) -> bool:
        """Whether it is a source: dead once the battery is off."""
        return self.law is Law.EMF or (self.law is Law.LIMITED and self.volts != 0.0)

    @property
    def alternates(self) -> bool:
        """Whether it is one of a turning generator's alternating volts."""
        return self.contact is not None and self.contact.sixth is not None and self.volts != 0.0

    @property
    def rests_unpowered(self) -> bool:
        """Whether it lets no current through once the battery is off, wherever a state has put its part."""
        return self.powered or self.power is not None or self.gives


class Effect(Enum):
    """What a fault does to one element."""

    OPEN = "open"  # conducts never
    CLOSED = "closed"  # conducts always, at its healthy resistance
    APPEARS = "appears"  # is there at all, with its ``spare`` ohms, and switched as ever
    PLAIN = "plain"  # conducts always, as a plain resistance, whatever its law: a locked motor
    DRY = "dry"  # has lost most of its capacitance: only what takes time shows it
    VALUE = "value"  # conducts as before, but its resistance is the fault's severity


class Span(Enum):
    """Which severities of a mode are plausible; `fault.severity_range` turns it into ohms for one part on one sheet."""

    SERIES = "series"  # resistance in the path, from what hardly shows to what hardly conducts, scaled by the loop
    SHUNT = "shunt"  # a path beside the part or to ground
    TURNS = "turns"  # what is left of a winding


@dataclass(frozen=True, slots=True)
class Severity:
    """The continuous size of a fault in ohms: its plausible span, and the value taken when a fault is named without one."""

    span: Span
    default: Callable[[Mapping[str, object]], float]
    default_text: str


@dataclass(frozen=True, slots=True)
class Mode:
    """A way to fail: prior ``weight`` (relative, common practice), what it does to which elements, how severe it can be."""

    name: str
    weight: float
    effects: tuple[tuple[str, Effect], ...]
    severity: Severity | None = None
    words: str = ""


@dataclass(frozen=True, slots=True)
class Param:
    """A number (or AWG size) that a part takes. ``least`` is ``"positive"``, ``"zero"`` (not negative) or ``"any"``."""

    name: str
    unit: str
    unit_words: str
    text: str
    required: bool = False
    default: str = ""
    least: str = "positive"
    choices: tuple[str, ...] = ()

    @property
    def wanted(self) -> str:
        """What is right, in words: ``a positive number of amperes``."""
        if self.choices:
            return f"one of {self.choices[0]} … {self.choices[-1]}" if len(self.choices) > 6 else f"one of {', '.join(self.choices)}"
        sign = {"positive": "a positive number", "zero": "zero or a positive number", "any": "a number"}[self.least]
        return f"{sign} of {self.unit_words}" if self.unit_words else sign


@dataclass(frozen=True, slots=True)
class Dial:
    """A part that a state sets to a number: a pedal, a temperature, a level. ``default`` where a state is silent. The number stands
    among the part's parameters under ``name``."""

    name: str
    unit: str
    least: float
    most: float
    default: float
    text: str


@dataclass(frozen=True, slots=True)
class Seen:
    """What a part's `shows` goes by: its parameters, its setting, and volts and amperes of its elements by name."""

    params: Mapping[str, object]
    position: str
    volts: Mapping[str, float]
    amps: Mapping[str, float]
    conducts: Mapping[str, bool]


@dataclass(frozen=True, slots=True)
class Timed:
    """What a part's `delay` goes by: its parameters, the volts across its elements by name and their ohms (infinite where open), and the
    farads of its capacitance."""

    params: Mapping[str, object]
    volts: Mapping[str, float]
    ohms: Mapping[str, float]
    farads: float


@dataclass(frozen=True, slots=True)
class Sight:
    """Something a person or a module notices of a part: ``what`` (brightness, moves, indicates), its value, and the sentence for it."""

    what: str
    value: float
    says: str


DRY_SHARE = 0.3  # of its capacitance that a capacitor that has dried out has left
Build = Callable[[Mapping[str, object], tuple[str, ...]], tuple[Element, ...]]


@dataclass(frozen=True, slots=True)
class Kind:
    """One kind of part: an entry of the registry.

    ``build(params, pins)`` gives the elements; ``needs`` lists groups of parameters of which one complete group must be given;
    ``positions`` are what a sheet's state may put it in; ``current`` says which way its current is counted.
    """

    name: str
    summary: str
    pins: tuple[str, ...]
    build: Build
    modes: tuple[Mode, ...]
    params: tuple[Param, ...] = ()
    optional_pins: tuple[str, ...] = ()
    needs: tuple[tuple[str, ...], ...] = ()
    positions: tuple[str, ...] = ()
    rest: str = ""
    momentary: frozenset[str] = frozenset()  # positions that nobody can hold: only a scope sees what is there then
    dial: Dial | None = None
    symbol: str = "box"
    built: str = "part"  # how it is built, as far as mending it goes: a name of `remedy.builds`
    shapes: Mapping[str, str] = field(default_factory=dict)  # by element, where those of one part are drawn with several symbols
    load: str | None = None  # the element that the circuit is there to feed, where this kind has one
    current: str = "from pin a to pin b"
    delivers: bool = False  # its current is counted as what it delivers
    notes: str = ""
    shows: Callable[[Seen], tuple[Sight, ...]] = field(default=lambda seen: ())
    delay: Callable[[Timed], float] | None = None  # seconds from its trigger to its contact, infinite for never
    check: Callable[[Mapping[str, object]], str | None] = field(default=lambda params: None)
    check_pins: Callable[[Mapping[str, object], tuple[str, ...]], str | None] = field(default=lambda params, pins: None)
    posts: tuple[str, ...] = ()  # plus and minus pin of what feeds the sheet; the first such part's minus is the zero of every voltage
    supply_param: str = ""  # the parameter that is the sheet's nominal supply where it is not given
    joint: bool = False  # a joint or contact: what should stay cold
    grounds: bool = False  # whether its far end is the vehicle's body, which stands a little above the battery post
    holder: bool = False  # whether a person can pull it and put an ammeter in its place
    sized: Callable[[tuple[str, ...]], Kind] | None = None  # this kind for a part of just these pins, where there may be any number of them
    pin_pattern: str = ""  # what such pins are called, as a regular expression
    also: tuple[str, ...] = ()  # other names that people have for it, in small letters
    called: str = "{}"  # how a label reads in a sentence where it lacks all of the ``nouns``: ``wire, {}``
    nouns: tuple[str, ...] = ()
    never: Mapping[str, Mapping[str, str]] = field(default_factory=dict)  # by pin: acts that are never done there, with the reason

    def mode(self, name: str) -> Mode | None:
        """The mode of that name, None where this kind does not fail so."""
        return next((m for m in self.modes if m.name == name), None)

    def param(self, name: str) -> Param | None:
        """The parameter of that name, None where this kind takes no such thing."""
        return next((p for p in self.params if p.name == name), None)
