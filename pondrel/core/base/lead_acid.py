"""Lead batteries in numbers: charge from rested volts, what a load test must leave, what the cold does, what a rating means.

Everything is for six cells, 12 V; a 24 V system is two of them in a row.
"""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

from .judgement import judged

__all__ = [
    "CHARGE_VOLTS", "GLASS_MAT_VOLTS", "LOAD_VOLTS", "REFERENCE_C", "STANDARDS", "charge_of", "cold_factor", "freezes_at", "inner_ohms",
    "load_least", "rested_volts", "sae_amps",
]  # fmt: skip

REFERENCE_C = 25.0
# Rested open-circuit volts at 25 °C by state of charge, flooded (trade-council table, from memory).
CHARGE_VOLTS = ((0.0, 11.89), (25.0, 12.06), (50.0, 12.24), (75.0, 12.45), (100.0, 12.65))
GLASS_MAT_VOLTS = (0.15, 0.30)  # what a glass-mat battery stands above a flooded one. From memory
# A cell's rest volts rise by about 0.22 mV for each kelvin (Bode, Lead-Acid Batteries, from memory).
_VOLTS_PER_KELVIN = 6 * 0.22e-3
# Degrees Celsius, and the least volts after 15 s at half its SAE cranking amperes (trade-council table, from memory).
LOAD_VOLTS = ((-18.0, 8.5), (-12.0, 8.7), (-7.0, 8.9), (-1.0, 9.1), (4.0, 9.3), (10.0, 9.4), (16.0, 9.5), (21.0, 9.6))
# Internal resistance about doubles from 25 °C to −18 °C. Common practice, no source.
COLD_KELVIN = 43.0
# What a rating of another standard is of an SAE one. SAE J537: 30 s to 7.2 V at −18 °C. EN 50342-1: 10 s to 7.5 V, then 0.6·I to 6.0 V.
# The old DIN: 30 s to 9.0 V. By one internal resistance behind 11.7 V the last is 0.6; that of EN is common practice, no source.
STANDARDS = {"sae": 1.0, "en": 0.95, "din": 0.6}
_OHMS_TIMES_AMPS = judged("OHMS_TIMES_CCA", 2.8, "V", "a good battery's internal resistance at 25 °C times its SAE cold-cranking amperes")
# Freezing point of the acid by state of charge (acid density tables, from memory).
_FREEZES = ((0.0, -8.0), (25.0, -15.0), (50.0, -24.0), (75.0, -38.0), (100.0, -60.0))


def _between(points: Sequence[tuple[float, float]], x: float) -> float:
    """A value between the points of a table that rises with ``x``, that of the nearest end beyond it."""
    if x <= points[0][0]:
        return points[0][1]
    for (x0, y0), (x1, y1) in pairwise(points):
        if x <= x1:
            return y0 + (y1 - y0) * (x - x0) / (x1 - x0)
    return points[-1][1]


def rested_volts(percent: float) -> float:
    """Rested open-circuit volts of a flooded battery at 25 °C by its charge.

    >>> rested_volts(75.0)
    12.45
    """
    return _between(CHARGE_VOLTS, percent)


def at_reference(volts: float, celsius: float | None) -> float:
    """Rested volts brought to 25 °C; as they are where the temperature is not known."""
    return volts if celsius is None else volts + _VOLTS_PER_KELVIN * (REFERENCE_C - celsius)


def charge_of(volts: float, celsius: float | None = None, kind: str = "flooded") -> tuple[float, float]:
    """State of charge in percent from rested volts of six cells, as the span that it may be in: the same number twice where the sort is
    ``flooded``, a span for ``glass-mat``, a wider one where the sort is not known (empty).

    >>> charge_of(12.45)
    (75.0, 75.0)
    """
    volts = at_reference(volts, celsius)
    above = {"flooded": (0.0, 0.0), "glass-mat": GLASS_MAT_VOLTS}.get(kind, (0.0, GLASS_MAT_VOLTS[1]))
    by_volts = [(v, percent) for percent, v in CHARGE_VOLTS]
    return _between(by_volts, volts - above[1]), _between(by_volts, volts - above[0])


def load_least(celsius: float) -> float | None:
    """The least volts of a load test at a temperature; None below where the table ends.

    >>> load_least(21.0), load_least(-40.0)
    (9.6, None)
    """
    return None if celsius < LOAD_VOLTS[0][0] else _between(LOAD_VOLTS, celsius)


def sae_amps(amps: float, standard: str) -> float:
    """A cold-cranking rating of a standard as the SAE one.

    >>> sae_amps(300.0, "din")
    500.0
    """
    return amps / STANDARDS[standard]


def cold_factor(celsius: float) -> float:
    """How many times its ohms at 25 °C a battery has in the cold."""
    return 1.0 + max(REFERENCE_C - celsius, 0.0) / COLD_KELVIN


def inner_ohms(sae: float, celsius: float = REFERENCE_C) -> float:
    """What a good battery of so many SAE amperes has inside."""
    return _OHMS_TIMES_AMPS / sae * cold_factor(celsius)


def freezes_at(percent: float) -> float:
    """The temperature (°C) at which the acid of a battery of that charge freezes."""
    return _between(_FREEZES, percent)
