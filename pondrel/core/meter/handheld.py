"""The meter in somebody's hand: how far each of its functions may be off, the ends of its ranges, what its leads have.

Accuracy is stated as makers state it, ±(share of reading + digits of the last place); one standard deviation is that half-width over the
square root of three (GUM, ISO/IEC Guide 98-3, 4.3.7: rectangular).
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field

from ..base.quantity import Measured

__all__ = ["AS_TYPED", "HANDHELDS", "Accuracy", "Handheld"]


@dataclass(frozen=True, slots=True)
class Accuracy:
    """±(``of_reading`` share + ``digits`` of the last place)."""

    of_reading: float = 0.005
    digits: float = 2.0


@dataclass(frozen=True, slots=True)
class Handheld:
    """A meter: its ``name``, ``words`` about it, its accuracy by unit, the ends of its ohm ranges (SI; empty where it chooses by itself),
    what its leads have (Ω, 0 where they were zeroed) and how far its thermometer may be off (°C, a standard deviation)."""

    name: str
    words: str
    accuracy: Mapping[str, Accuracy] = field(default_factory=dict)
    ranges: tuple[float, ...] = ()
    lead_ohms: float = 0.0
    thermometer_c: float = 0.0

    def of(self, unit: str) -> Accuracy:
        """The accuracy of the function that reads a unit."""
        return self.accuracy.get(unit, Accuracy())

    def uncertainty(self, read: Measured, unit: str) -> float:
        """One standard deviation of a reading, in its unit; nothing for one that is over range.

        >>> round(AS_TYPED.uncertainty(Measured(3.7, 0.1), "Ω"), 4)
        0.1262
        """
        if read.over_range:
            return 0.0
        own = self.of(unit)
        return (own.of_reading * abs(read.value) + own.digits * read.resolution) / math.sqrt(3.0)

    def blur(self, read: Measured, unit: str) -> float:
        """One standard deviation of its digits alone: what is left between two readings on one range of one meter."""
        return 0.0 if read.over_range else self.of(unit).digits * read.resolution / math.sqrt(3.0)

    def next_range(self, end: float) -> float | None:
        """The range above the one that ends at ``end``; None where there is none or the meter chooses by itself."""
        return next((above for above in self.ranges if above > end * 1.001), None)


AS_TYPED = Handheld("as typed", "0.5 % and 2 digits of what was typed, leads zeroed")
_DECADES = (400.0, 4e3, 40e3, 400e3, 4e6, 40e6)
_ALL = (
    AS_TYPED,
    Handheld(
        "everyday meter", "a sound hand-held one, chooses its range by itself",
        {"V": Accuracy(0.005, 2), "Ω": Accuracy(0.008, 2), "A": Accuracy(0.015, 3), "F": Accuracy(0.02, 5), "Hz": Accuracy(0.001, 2)},
        thermometer_c=2.0,
    ),
    Handheld(
        "simple meter", "a cheap one with ranges to choose",
        {"V": Accuracy(0.01, 3), "Ω": Accuracy(0.015, 5), "A": Accuracy(0.025, 5), "F": Accuracy(0.05, 5), "Hz": Accuracy(0.005, 5)},
        _DECADES, 0.3, 3.0,
    ),
    Handheld(
        "fine meter", "a bench meter with four wires",
        {"V": Accuracy(0.0003, 2), "Ω": Accuracy(0.0005, 3), "A": Accuracy(0.002, 5), "F": Accuracy(0.01, 3), "Hz": Accuracy(0.0001, 1)},
        thermometer_c=1.0,
    ),
)  # fmt: skip
# Meters by their kind. Common practice, no source: the maker's own figures go before, and a workshop writes down its own.
HANDHELDS: Mapping[str, Handheld] = {meter.name: meter for meter in _ALL}
