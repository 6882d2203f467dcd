"""What an instrument does to a circuit and how far its number may be believed.

Accuracy is stated as meters state it, ±(share of reading + digits); the standard uncertainty follows the rectangular rule of
the GUM (ISO/IEC Guide 98-3, 4.3.7): half-width over the square root of three.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from .arrays import Floats
from .errors import ReadingError
from .quantity import Measured

__all__ = ["INSTRUMENTS", "OPEN_OHMS", "Instrument", "instrument", "standard_uncertainty", "uncertainty_at"]

# Above this an ohmmeter shows OL and a break is a break: the ceiling of a hand-held meter's ranges is 10 to 60 MΩ.
OPEN_OHMS = 10e6


@dataclass(frozen=True, slots=True)
class Instrument:
    """A meter function.

    ``of_reading`` is the share of the reading, ``digits`` the counts and ``counts`` the display length that sets the range;
    ``floor`` (SI) is what probe contact and leads add; ``burden_ohms`` is what it puts between its probes.
    """

    name: str
    unit: str
    of_reading: float
    digits: int
    counts: int
    finest: float
    floor: float
    burden_ohms: float


# A sound hand-held meter, not a laboratory one. Common practice, no source.
INSTRUMENTS = {
    "volts": Instrument("volts", "V", 0.005, 2, 6000, 0.001, 0.005, 10e6),
    "ohms": Instrument("ohms", "Ω", 0.008, 2, 6000, 0.1, 0.05, math.inf),
    "amps": Instrument("amps", "A", 0.015, 3, 6000, 0.01, 0.01, 0.02),
}


def instrument(name: str) -> Instrument:
    """The instrument of that name; raises ReadingError naming those there are."""
    if name not in INSTRUMENTS:
        raise ReadingError(f"{name!r} is no instrument: {', '.join(INSTRUMENTS)} are.")
    return INSTRUMENTS[name]


def last_digit(meter: Instrument, values: Floats) -> Floats:
    """The worth of the display's last digit on the lowest range that holds each value (SI)."""
    top = meter.finest * meter.counts
    over = np.maximum(np.ceil(np.log10(np.maximum(np.abs(values), top) / top) - 1e-12), 0.0)
    return meter.finest * 10.0**over


def uncertainty_at(meter: Instrument, values: Floats, resolution: float | None = None) -> Floats:
    """One standard deviation of what the meter shows at ``values`` (SI, finite), typed to ``resolution`` (the display's, if None)."""
    digit = last_digit(meter, values)
    half_width = meter.of_reading * np.abs(values) + meter.digits * digit
    rounding = (digit if resolution is None else resolution) / math.sqrt(12.0)
    return np.sqrt(half_width**2 / 3.0 + rounding**2 + meter.floor**2)


def standard_uncertainty(meter: Instrument, read: Measured) -> float:
    """One standard deviation of a reading, in its SI unit; infinite values have none and give 0."""
    if read.over_range:
        return 0.0
    return float(uncertainty_at(meter, np.array(read.value), read.resolution))
