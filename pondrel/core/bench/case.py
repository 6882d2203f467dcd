"""One case on the bench: what was set, what was read, the limits that were given, and the meter."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field

from ..base.conditions import Conditions
from ..base.quantity import Measured
from ..check import Limit
from ..meter.handheld import AS_TYPED, Handheld

__all__ = ["Case", "Read"]


_NO_NUMBER = Measured(math.nan, 0.0)


@dataclass(frozen=True, slots=True)
class Read:
    """One reading: a ``word``, or a number ``measured`` in ``unit`` with the conditions noted beside it; as it was ``typed``."""

    check: str
    typed: str
    word: str = ""
    measured: Measured = _NO_NUMBER
    unit: str = ""
    noted: Conditions = field(default_factory=Conditions)

    @property
    def value(self) -> float:
        """The number, infinite where it was over range."""
        return self.measured.value


@dataclass(frozen=True, slots=True)
class Case:
    """``settings`` with what is usual filled in, ``said`` the names of those that somebody set; ``reads`` by check in the order in which
    they were taken; ``limits`` by check, the one that outranks the others first; ``rows`` of a pasted table, a column's reading each."""

    settings: Mapping[str, float | str | None] = field(default_factory=dict)
    said: frozenset[str] = frozenset()
    reads: Mapping[str, tuple[Read, ...]] = field(default_factory=dict)
    limits: Mapping[str, tuple[Limit, ...]] = field(default_factory=dict)
    rows: tuple[Mapping[str, Read], ...] = ()
    meter: Handheld = AS_TYPED

    def number(self, name: str) -> float:
        """A setting that is a number and is always known."""
        value = self.settings[name]
        assert isinstance(value, float)
        return value

    def known(self, name: str) -> float | None:
        """A setting that is a number, None where it is not known."""
        value = self.settings.get(name)
        return value if isinstance(value, float) else None

    def word(self, name: str) -> str:
        """A setting that is a word, empty where it is not known."""
        return str(self.settings.get(name) or "")

    def read(self, name: str) -> Read | None:
        """The last reading of a check."""
        return self.reads[name][-1] if self.reads.get(name) else None

    def value(self, name: str) -> float | None:
        """The number of the last reading of a check, leads taken off ohms; None where it was not read."""
        found = self.read(name)
        return self.net(found) if found and not found.word else None

    def answer(self, name: str) -> str:
        """The word of the last reading of a check, empty where it was not looked for."""
        found = self.read(name)
        return found.word if found else ""

    def net(self, read: Read) -> float:
        """A reading without what the leads have: those noted beside it, else those of the case."""
        if read.unit != "Ω":
            return read.value
        leads = read.noted.lead_ohms if read.noted.lead_ohms is not None else self.known("leads")
        return max(read.value - (self.meter.lead_ohms if leads is None else leads), 0.0)

    def u(self, read: Read) -> float:
        """One standard deviation of a reading by the meter."""
        return self.meter.uncertainty(read.measured, read.unit)

    def blur(self, read: Read) -> float:
        """One standard deviation of what differs from one reading to the next on one meter: its digits, while its scale stays the same."""
        return self.meter.blur(read.measured, read.unit)

    def column(self, name: str) -> list[float]:
        """The numbers of a column of the points."""
        return [row[name].value for row in self.rows]

    def given(self, check: str) -> Limit | None:
        """The limit of a check that outranks the others that were given."""
        return self.limits[check][0] if self.limits.get(check) else None
