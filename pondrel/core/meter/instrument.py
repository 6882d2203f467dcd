"""What an instrument does to a circuit and how far its number may be believed.

Accuracy is stated as meters state it, ±(share of reading + digits); the standard uncertainty follows the rectangular rule of
the GUM (ISO/IEC Guide 98-3, 4.3.7): half-width over the square root of three.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from ..base.arrays import Floats
from ..base.brief import quoted
from ..base.errors import ReadingError
from ..base.quantity import Measured

__all__ = [
    "INSTRUMENTS",
    "OPEN_OHMS",
    "Instrument",
    "displayed",
    "instrument",
    "last_digit",
    "standard_uncertainty",
    "uncertainty_at",
]

# Above this an ohmmeter shows OL and a break is a break: the ceiling of a hand-held meter's ranges is 10 to 60 MΩ.
OPEN_OHMS = 10e6


@dataclass(frozen=True, slots=True)
class Instrument:
    """A meter function.

    ``of_reading`` is the share of the reading, ``digits`` the counts and ``counts`` the display length that sets the range;
    ``finest`` is the last digit of the lowest range, ``most`` the end of the highest one; ``floor`` (SI) is what probe contact and leads
    add; ``burden_ohms`` is what it puts between its probes. ``words`` say what it is.
    """

    name: str
    unit: str
    of_reading: float
    digits: int
    counts: int
    finest: float
    floor: float
    burden_ohms: float
    most: float
    words: str

    @property
    def open_ohms(self) -> float:
        """From here on an ohmmeter or beeper shows OL."""
        return min(self.most, OPEN_OHMS)

    @property
    def dead(self) -> bool:
        """Whether it wants a dead circuit."""
        return self.unit == "Ω"

    @property
    def in_circuit(self) -> bool:
        """Whether it draws so much, or stands in line, that the circuit with it is another circuit."""
        return self.name in ("amps", "lamp", "load")

    @property
    def is_voltmeter(self) -> bool:
        """Whether it shows the volts between two places as they are on the average, and next to nothing of them goes through it."""
        return self.name in ("volts", "lowz", "scope")

    @property
    def reads_level(self) -> bool:
        """Whether it tells one of the two levels between which something pulses, and no average."""
        return self.name in ("top", "base")


# Sound hand-held meters, not laboratory ones. Common practice, no source.
_ALL = (
    Instrument("volts", "V", 0.005, 2, 6000, 0.001, 0.005, 10e6, 1000.0, "voltmeter, 10 MΩ"),
    Instrument("lowz", "V", 0.01, 3, 6000, 0.001, 0.005, 3e3, 600.0, "low-impedance voltmeter, 3 kΩ: stray volts vanish"),
    # An AC range is made for the mains: at a generator's hundreds of hertz, and a speed that nobody holds, it is good for a tenth.
    Instrument("ac", "V", 0.1, 3, 6000, 0.001, 0.05, 10e6, 750.0, "AC voltmeter, effective value"),
    Instrument("ohms", "Ω", 0.008, 2, 6000, 0.1, 0.05, math.inf, 60e6, "ohmmeter, battery off"),
    Instrument("continuity", "Ω", 0.01, 3, 6000, 0.1, 0.1, math.inf, 600.0, "continuity: beeps below 30 Ω"),
    Instrument("amps", "A", 0.015, 3, 6000, 0.01, 0.01, 0.02, 10.0, "ammeter in line"),
    Instrument("clamp", "A", 0.02, 5, 6000, 0.01, 0.03, 0.0, 600.0, "current clamp around a conductor"),
    Instrument("scope", "V", 0.02, 1, 256, 0.02, 0.01, 1e6, 400.0, "oscilloscope probe, 1 MΩ"),
    # Levels are modes of many samples, finer than one of them; what a scope is off by, in its scale and its zero, they all are.
    Instrument("top", "V", 0.03, 1, 4096, 0.005, 0.06, 1e6, 400.0, "oscilloscope probe, 1 MΩ: the upper level of what pulses"),
    Instrument("base", "V", 0.03, 1, 4096, 0.005, 0.06, 1e6, 400.0, "oscilloscope probe, 1 MΩ: the lower level of what pulses"),
    Instrument("lamp", "V", 0.05, 0, 40, 0.5, 0.3, math.nan, 30.0, "test lamp, 12 V 5 W"),
    Instrument("load", "V", 0.005, 2, 6000, 0.001, 0.005, math.nan, 60.0, "voltmeter beside a substitute load"),
)
INSTRUMENTS = {tool.name: tool for tool in _ALL}


def instrument(name: str) -> Instrument:
    """The instrument of that name; raises ReadingError naming those there are."""
    if name not in INSTRUMENTS:
        raise ReadingError(f"{quoted(name)} is no instrument: {', '.join(INSTRUMENTS)} are.")
    return INSTRUMENTS[name]


def last_digit(meter: Instrument, values: Floats) -> Floats:
    """The worth of the display's last digit on the lowest range that holds each value (SI)."""
    top = meter.finest * meter.counts
    over = np.maximum(np.ceil(np.log10(np.maximum(np.abs(values), top) / top) - 1e-12), 0.0)
    return meter.finest * 10.0**over


def displayed(meter: Instrument, value: float, deviation: float = 0.0) -> Measured:
    """What the display shows of a true ``value`` (SI): within its accuracy, on its range, to its last digit; over range beyond its end.

    ``deviation`` is where within its accuracy this meter stands, −1 to 1 of ±(share of reading + digits).
    """
    if not math.isfinite(value) or abs(value) > meter.most:
        return Measured(math.copysign(math.inf, value), 0.0, True)
    digit = float(last_digit(meter, np.array(value)))
    off = value + deviation * (meter.of_reading * abs(value) + meter.digits * digit)
    digit = float(last_digit(meter, np.array(off)))
    return Measured(round(off / digit) * digit, digit)


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
