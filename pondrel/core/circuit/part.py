"""What a kind of part is: parameters, pins, electrical elements, and the ways it fails.

A kind is one entry of the registry in `kinds/`. It turns a part's parameters into two-terminal *elements*; every fault mode is
a change of those elements, so nothing outside `kinds/` needs to know one kind from another.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from enum import Enum

__all__ = ["GROUND", "Contact", "Effect", "Element", "Kind", "Law", "Mode", "Param", "Severity", "Span"]

GROUND = "\0ground"  # stands for the sheet's battery minus in an element's pins


class Law(Enum):
    """How current follows voltage in an element."""

    OHMIC = "ohmic"
    EMF = "emf"  # a source of ``volts`` behind ``ohms``
    FILAMENT = "filament"  # i = amps · (v / volts)^0.55, cold resistance near zero volts


@dataclass(frozen=True, slots=True)
class Contact:
    """A contact that opens and closes: by the sheet's state when ``coil`` is None, else by a coil element of the same part.

    ``pull_in`` and ``drop_out`` are coil volts; ``rest_closed`` marks a normally closed contact.
    """

    coil: str | None = None
    pull_in: float = 0.0
    drop_out: float = 0.0
    rest_closed: bool = False


@dataclass(frozen=True, slots=True)
class Element:
    """One two-terminal element of a part.

    ``name`` is empty for the part's main path; ``a`` and ``b`` are pin names, GROUND, or ``*name`` for a point inside the part.
    ``ohms`` is its resistance when conducting, infinite where there is nothing until a fault puts something there.
    ``tolerance`` is one standard deviation as a share of its value: of resistance, of filament current, or of EMF for a source
    (whose internal resistance has ``ohms_tolerance``).
    """

    name: str
    a: str
    b: str
    ohms: float
    tolerance: float = 0.0
    law: Law = Law.OHMIC
    volts: float = 0.0
    amps: float = 0.0
    ohms_tolerance: float = 0.0
    contact: Contact | None = None
    rating: float = math.inf  # amperes above which a fuse element melts


class Effect(Enum):
    """What a fault does to one element."""

    OPEN = "open"  # conducts never
    CLOSED = "closed"  # conducts always, at its healthy resistance
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
            return f"one of {self.choices[0]} … {self.choices[-1]}"
        sign = {"positive": "a positive number", "zero": "zero or a positive number", "any": "a number"}[self.least]
        return f"{sign} of {self.unit_words}" if self.unit_words else sign


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
    symbol: str = "box"
    load: str | None = None  # the element that the circuit is there to feed, where this kind has one
    current: str = "from pin a to pin b"
    notes: str = ""
    check: Callable[[Mapping[str, object]], str | None] = field(default=lambda params: None)

    def mode(self, name: str) -> Mode | None:
        """The mode of that name, None where this kind does not fail so."""
        return next((m for m in self.modes if m.name == name), None)

    def param(self, name: str) -> Param | None:
        """The parameter of that name, None where this kind takes no such thing."""
        return next((p for p in self.params if p.name == name), None)
