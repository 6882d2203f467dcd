"""What a module needs when it is renewed, as its roster describes it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

__all__ = ["Renewal", "RightPart", "Sensitivity", "TeachStep", "YardDrive"]


@dataclass(frozen=True, slots=True)
class RightPart:
    """Which part is of the right version: the ``datum`` under which a module tells its number (empty where it does not), the numbers that
    ``fit`` (none: nobody wrote them), and a ``note``."""

    datum: str = ""
    fits: tuple[str, ...] = ()
    note: str = ""


@dataclass(frozen=True, slots=True)
class YardDrive:
    """A slow drive that teaches: the data that tell ``speed`` (km/h) and ``steering`` (degrees, right positive; empty for none), how fast
    at the most, how many metres, how many turns beyond ``turn`` degrees to each side, and how many stops."""

    speed: str
    steering: str = ""
    fastest: float = 15.0
    metres: float = 0.0
    turn: float = 0.0
    left: int = 0
    right: int = 0
    stops: int = 0


@dataclass(frozen=True, slots=True)
class Sensitivity:
    """A setting that is set until something just triggers: whole numbers from ``least`` (dull) to ``most`` (keen), and what is seen when it
    ``triggers``."""

    least: int
    most: int
    triggers: str


@dataclass(frozen=True, slots=True)
class TeachStep:
    """One step. What it is accepted by is its one of these: a ``routine`` with a good result, a ``datum`` between ``least`` and ``most`` or
    that ``is`` a word, a ``drive``, a ``sensitivity``, the word of somebody who has the maker's ``authority``, or else a tick (with
    ``wants`` in words beside it)."""

    name: str
    title: str
    detail: str = ""
    wants: str = ""
    routine: str = ""
    datum: str = ""
    least: float | None = None
    most: float | None = None
    word: str = ""
    drive: YardDrive | None = None
    sensitivity: Sensitivity | None = None
    authority: bool = False
    hazards: tuple[str, ...] = ()
    caution: str = ""


@dataclass(frozen=True, slots=True)
class Renewal:
    """How a module is renewed: the right part, the steps in their order, ``functions`` to try afterwards, what is to be known of a ``used``
    one, and a ``note``."""

    part: RightPart = RightPart()
    steps: Mapping[str, TeachStep] = field(default_factory=dict)
    functions: tuple[str, ...] = ()
    used: str = ""
    note: str = ""
    hazards: tuple[str, ...] = ()
