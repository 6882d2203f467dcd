"""A vehicle's modules as a workshop's own description has them: how each is spoken to, its codes, data, outputs and routines."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import Enum
from typing import TypeVar

from ...base.brief import listed, near, quoted
from ...base.errors import PondrelError
from ...circuit.fits import Fit
from ..chain.function import Function
from .renewal import Renewal
from .resets import Resets
from .simulated import Simulated

__all__ = [
    "Command", "Datum", "Module", "ModuleCode", "Output", "PinLink", "Roster", "RosterError", "Routine", "Speaks", "StayTest",
]  # fmt: skip


T = TypeVar("T")


class RosterError(PondrelError):
    """Something that a roster does not have, or that a module cannot be asked."""


class Speaks(Enum):
    """The language of a module: UDS on a bus, the emission services on a bus, or ISO 14230 on a K-line."""

    UDS = "uds"
    EMISSION = "obd"
    KLINE = "kwp"


@dataclass(frozen=True, slots=True)
class PinLink:
    """Where something that a module tells of is on a circuit: a ``part`` of a sheet or a ``place`` on it (empty for none), what the part
    ``shows`` there (a code: the word that sets it; a datum: what is read), and for a place the volts ``below`` or ``above`` which a code
    is set."""

    sheet: str
    part: str = ""
    place: str = ""
    shows: str = ""
    below: float | None = None
    above: float | None = None


@dataclass(frozen=True, slots=True)
class ModuleCode:
    """A code that a module may set: its name (``C1A10-13``), what the maker says of it; what the module then ``takes_away`` (names of
    outputs) or puts in its place (``substitutes``), and what the driver notices (``felt``); where it comes from on a circuit (``link``),
    the module whose silence sets it (``silent``), and the routine without which it stays (``until``)."""

    name: str
    says: str
    takes_away: tuple[str, ...] = ()
    substitutes: str = ""
    felt: str = ""
    link: PinLink | None = None
    silent: str = ""
    until: str = ""


@dataclass(frozen=True, slots=True)
class Datum:
    """A value of a module: its ``number`` (a data identifier, or a local one on a K-line), where in the answer it stands: ``at`` which
    byte, how many (``size``), ``mask`` of the bits (0: all), whether ``signed``; it is raw · ``scale`` + ``offset`` in ``unit``, or one of
    some ``words``, or is a text (``ascii``) that fills its bytes; ``least`` and ``most`` are its limits, with their ``source``. So many
    ``digits`` are said behind the point (None: as many as its scale has)."""

    name: str
    title: str
    number: int
    at: int = 0
    size: int = 1
    mask: int = 0
    signed: bool = False
    scale: float = 1.0
    offset: float = 0.0
    unit: str = ""
    words: Mapping[int, str] = field(default_factory=dict)
    least: float | None = None
    most: float | None = None
    source: str = ""
    link: PinLink | None = None
    ascii: bool = False
    digits: int | None = None

    def raw_in(self, data: bytes) -> int | None:
        """The whole number that stands in an answer's bytes; None where they are missing."""
        own = data[self.at : self.at + self.size]
        if len(own) < self.size:
            return None
        raw = int.from_bytes(own, "big", signed=self.signed)
        return raw if not self.mask else (raw & self.mask) >> _shift(self.mask)

    def value_in(self, data: bytes) -> float | None:
        """The value of an answer's bytes in its unit; None where they are missing, or a text."""
        raw = None if self.ascii else self.raw_in(data)
        return None if raw is None else raw * self.scale + self.offset

    def says_in(self, data: bytes) -> str:
        """The value as it is read to a person: ``12.4 V``, ``open``; a dash where the answer is too short."""
        if self.ascii:
            return self.text_in(data) or "–"
        raw = self.raw_in(data)
        if raw is None:
            return "–"
        if self.words:
            return self.words.get(raw, f"{raw}, which has no name")
        digits = self.digits if self.digits is not None else max(0, min(4, len(f"{self.scale:.10f}".rstrip("0").partition(".")[2])))
        return f"{raw * self.scale + self.offset:.{digits}f} {self.unit}".rstrip()

    def text_in(self, data: bytes) -> str:
        """The text of an answer's bytes, what no screen can show left out."""
        own = data[self.at : self.at + self.size].decode("ascii", "replace")
        return "".join(sign for sign in own if sign.isprintable() and sign != "\ufffd").strip()

    def text_bytes(self, text: str) -> bytes:
        """The bytes that tell a text, alone, filled up with blanks."""
        return text.encode("ascii", "replace")[: self.size].ljust(self.size)

    def bytes_of(self, value: float) -> bytes:
        """The bytes that tell a value, alone: what does not fit is the nearest that does."""
        raw = round((value - self.offset) / self.scale)
        if self.mask:
            most = self.mask >> _shift(self.mask)
            return (min(max(raw, 0), most) << _shift(self.mask)).to_bytes(self.size, "big")
        bits = 8 * self.size
        low, high = (-(1 << bits - 1), (1 << bits - 1) - 1) if self.signed else (0, (1 << bits) - 1)
        return min(max(raw, low), high).to_bytes(self.size, "big", signed=self.signed)


def _shift(mask: int) -> int:
    return (mask & -mask).bit_length() - 1


@dataclass(frozen=True, slots=True)
class Command:
    """One thing that an output can be told: the bytes, what is expected of the watched datum (``by`` so much within ``within_s`` seconds,
    0 where nothing is), and the position of the part on its circuit."""

    name: str
    data: bytes
    by: float = 0.0
    within_s: float = 0.0
    position: str = ""


@dataclass(frozen=True, slots=True)
class StayTest:
    """How far what was moved may go back by itself: ``by`` at most in so many ``seconds`` after control went back."""

    seconds: float
    by: float


@dataclass(frozen=True, slots=True)
class Output:
    """An output that can be commanded alone: by ``number``, in a ``session``, for at most ``longest_s`` seconds; what has to be made safe
    first (``hazards``, by name) or read (``caution``); the datum to ``watch``, what is to be heard (``hear``: air hisses), and how it has
    to ``stay`` afterwards (None where nobody says)."""

    name: str
    title: str
    number: int
    commands: Mapping[str, Command]
    session: int = 3
    longest_s: float = 5.0
    hazards: tuple[str, ...] = ()
    caution: str = ""
    watch: str = ""
    link: PinLink | None = None
    hear: str = ""
    stay: StayTest | None = None

    def command(self, name: str) -> Command:
        """The command of that name. Raises RosterError naming those there are."""
        if name not in self.commands:
            raise RosterError(f"{self.title} cannot be told {quoted(name)}: it knows {listed(self.commands)}.")
        return self.commands[name]


@dataclass(frozen=True, slots=True)
class Routine:
    """A routine of a module: by ``number``, in a ``session``; ``needs`` is what has to be so before, ``results`` says by the first byte of
    its answer what came of it and whether that is good, and ``takes_s`` how long at most until it has a result."""

    name: str
    title: str
    number: int
    session: int = 3
    hazards: tuple[str, ...] = ()
    caution: str = ""
    needs: str = ""
    results: Mapping[int, tuple[str, bool]] = field(default_factory=dict)
    takes_s: float = 10.0
    option: bytes = b""


@dataclass(frozen=True)
class Module:
    """A module: what it is called, its language, on which numbers it is asked and answers (a CAN identifier each, or its address on a
    K-line), the gateway that it lies ``behind``, and all that it can be asked."""

    name: str
    title: str
    speaks: Speaks
    asks: int
    answers: int
    behind: str = ""
    gateway: bool = False
    at: str = ""
    link: PinLink | None = None
    codes: Mapping[str, ModuleCode] = field(default_factory=dict)
    data: Mapping[str, Datum] = field(default_factory=dict)
    outputs: Mapping[str, Output] = field(default_factory=dict)
    routines: Mapping[str, Routine] = field(default_factory=dict)
    slow_start: bool = False
    resets: Resets | None = None
    renewal: Renewal | None = None

    def datum(self, name: str) -> Datum:
        """The datum of that name. Raises RosterError naming near ones."""
        return _known(self.data, name, f"{self.title} tells nothing that is called")

    def output(self, name: str) -> Output:
        """The output of that name. Raises RosterError naming near ones."""
        return _known(self.outputs, name, f"{self.title} has no output that is called")

    def routine(self, name: str) -> Routine:
        """The routine of that name. Raises RosterError naming near ones."""
        return _known(self.routines, name, f"{self.title} has no routine that is called")

    def code(self, name: str) -> ModuleCode | None:
        """What is known of a code: by its whole name, else by the name without its failure type."""
        return self.codes.get(name) or self.codes.get(name.partition("-")[0])


def _known(things: Mapping[str, T], name: str, says: str) -> T:
    if name not in things:
        raise RosterError(f"{says} {quoted(name)}{near(name, things) or (': ' + listed(things) if things else '')}.")
    return things[name]


@dataclass(frozen=True)
class Roster:
    """A vehicle's modules, and its functions that hang on several of them. ``by_calling``: which of its modules a vehicle has is found by
    calling them, so that who does not answer is not there."""

    title: str
    modules: Mapping[str, Module]
    fits: tuple[Fit, ...] = ()
    note: str = ""
    source: str = ""
    bit_rate: int = 500_000
    functions: Mapping[str, Function] = field(default_factory=dict)
    stand_in: Simulated = field(default_factory=Simulated)
    by_calling: bool = False

    def module(self, name: str) -> Module:
        """The module of that name or title. Raises RosterError naming near ones."""
        for module in self.modules.values():
            if name.lower() in (module.name.lower(), module.title.lower()):
                return module
        raise RosterError(f"This roster has no module {quoted(name)}{near(name, self.modules) or ': ' + listed(self.modules)}.")

    @property
    def gateway(self) -> Module | None:
        """The module through which others are reached."""
        return next((module for module in self.modules.values() if module.gateway), None)
