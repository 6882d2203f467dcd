"""A function of a vehicle as a chain of conditions, and as an order of steps with the switch that ends each."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from ...base.brief import listed, near, quoted
from ...base.errors import PondrelError

__all__ = ["MOST_CONDITIONS", "ChainError", "Condition", "Function", "Hangs", "Step"]

MOST_CONDITIONS = 24


class ChainError(PondrelError):
    """A chain, or facts about it, that do not fit together."""


@dataclass(frozen=True, slots=True)
class Hangs:
    """What a condition hangs on that can be traced: a ``sheet`` by its title, and what of it; or a word of something mechanical."""

    sheet: str = ""
    on: str = ""


@dataclass(frozen=True, slots=True)
class Condition:
    """A condition that must be true: what it is of (``title``: roof latch) and what is wanted (``wants``: open).

    It is known from a module that must answer (``answers``), from a datum of one (``module``, ``datum``, with the word it must say or the
    least and most of its value), or from a look (neither). ``after`` names conditions without which it is not asked. ``minutes`` is what
    asking costs, ``weight`` how often it is the one that is unmet, beside the others. ``teller`` is what the module
    is called that tells it.
    """

    name: str
    title: str
    wants: str
    module: str = ""
    datum: str = ""
    says: str = ""
    least: float | None = None
    most: float | None = None
    answers: str = ""
    after: tuple[str, ...] = ()
    minutes: float = 1.0
    weight: float = 1.0
    hangs: Hangs = field(default_factory=Hangs)
    look: str = ""
    caution: str = ""
    hazards: tuple[str, ...] = ()
    refers: bool = False
    teller: str = ""

    @property
    def told_by(self) -> str:
        """The module without which it is not known; empty where a person looks."""
        return self.answers or self.module


@dataclass(frozen=True, slots=True)
class Step:
    """A step of an order: what moves (``title``), the output that drives it, and the condition that ends it (``until``, a name)."""

    name: str
    title: str
    output: str = ""
    until: str = ""
    seconds: float = 0.0


@dataclass(frozen=True)
class Function:
    """A function: its ``title`` (Drive), what it does when all holds (``does``: comes on), and its conditions in the order in which the
    module asks for them; ``steps`` where it runs as an order of movements. ``never`` says what is not done from here."""

    name: str
    title: str
    does: str
    conditions: Mapping[str, Condition]
    steps: tuple[Step, ...] = ()
    note: str = ""
    caution: str = ""
    never: str = ""

    def condition(self, name: str) -> Condition:
        """The condition of that name or title. Raises ChainError naming near ones."""
        for condition in self.conditions.values():
            if name.strip().lower() in (condition.name.lower(), condition.title.lower()):
                return condition
        raise ChainError(f"{self.title} has no condition {quoted(name)}{near(name, self.conditions) or ': ' + listed(self.conditions)}.")
