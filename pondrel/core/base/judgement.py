"""Numbers of judgement: what nobody can compute and somebody has to say, in one table with what each is for and whose number it is.

A module declares its numbers with `judged` where it uses them; the table gathers all that have been declared, and the documentation and
a test read it.
"""

from __future__ import annotations

from dataclasses import dataclass

__all__ = ["COMMON_PRACTICE", "OWN_RULE", "Judged", "judged", "table"]

COMMON_PRACTICE = "common practice, no source"
OWN_RULE = "Pondrel's own rule"


@dataclass(frozen=True, slots=True)
class Judged:
    """A number of judgement: its ``value`` in ``unit``, what it is for, and whose number it is."""

    name: str
    value: float
    unit: str
    says: str
    source: str


_TABLE: dict[str, Judged] = {}


def judged(name: str, value: float, unit: str, says: str, source: str = COMMON_PRACTICE) -> float:
    """The value, entered in the table under its name. Raises ValueError where another number has that name already."""
    entry = Judged(name, value, unit, says, source)
    if _TABLE.setdefault(name, entry) != entry:
        raise ValueError(f"There is another number of judgement called {name}: give this one a name of its own.")
    return value


def table() -> tuple[Judged, ...]:
    """Every number that the modules imported so far have declared, by name."""
    return tuple(_TABLE[name] for name in sorted(_TABLE))
