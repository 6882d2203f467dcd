"""What a roster says to a simulated vehicle only: facts that no circuit has, what moves, how routines go, how it is driven, what hangs."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

__all__ = ["Freezes", "Rehearsed", "Simulated", "Stepped"]


@dataclass(frozen=True, slots=True)
class Stepped:
    """A value that no circuit has: it begins at ``start`` and moves by ``per_s`` a second while a part of the circuit works or an output
    (``MODULE.OUTPUT``) is commanded, between ``least`` and ``most``; ``leaks`` is how fast it goes by itself."""

    start: float
    part: str = ""
    output: str = ""
    per_s: float = 0.0
    leaks: float = 0.0
    least: float = -1e9
    most: float = 1e9


@dataclass(frozen=True, slots=True)
class Rehearsed:
    """How a routine goes: how many ``seconds`` it takes, and between what each fact has to be (``wants``)."""

    seconds: float = 1.0
    wants: Mapping[str, tuple[float, float]] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Freezes:
    """How a module that hangs is woken: after ``off_s`` seconds without supply, and ``wakes_s`` more once it is back."""

    off_s: float = 15.0
    wakes_s: float = 2.0


@dataclass(frozen=True)
class Simulated:
    """All of it. ``facts`` are numbers by ``MODULE.DATUM`` or by any other name, ``texts`` what data of text say, with those of a renewed
    module in ``renewed``; ``drives`` are by name what facts do over seconds; ``signals`` what those of its ordinary messages say: a number,
    ``MODULE.DATUM``, ``code MODULE.CODE``, or ``count``."""

    vin: str = ""
    facts: Mapping[str, float] = field(default_factory=dict)
    texts: Mapping[str, str] = field(default_factory=dict)
    renewed: Mapping[str, str] = field(default_factory=dict)
    values: Mapping[str, Stepped] = field(default_factory=dict)
    routines: Mapping[str, Rehearsed] = field(default_factory=dict)
    drives: Mapping[str, Mapping[str, tuple[tuple[float, float], ...]]] = field(default_factory=dict)
    hangs: Mapping[str, Freezes] = field(default_factory=dict)
    signals: Mapping[str, float | str] = field(default_factory=dict)
