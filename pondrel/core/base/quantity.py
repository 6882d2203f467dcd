"""Reading text to SI value and back: what a person types from a meter's display, and how a number is shown.

The core holds SI floats only; prefixes live here.
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass

from .brief import quoted
from .errors import ReadingError

__all__ = ["Measured", "parse_reading", "show"]

UNITS = {"V": "volts", "Ω": "ohms", "A": "amperes"}
_UNIT_WORDS = {
    "v": "V", "volt": "V", "volts": "V",
    "ω": "Ω", "Ω": "Ω", "ohm": "Ω", "ohms": "Ω",
    "a": "A", "amp": "A", "amps": "A", "ampere": "A", "amperes": "A",
}  # fmt: skip
_PREFIX = {"": 1.0, "u": 1e-6, "µ": 1e-6, "μ": 1e-6, "m": 1e-3, "k": 1e3, "K": 1e3, "M": 1e6}
# Beyond these nothing on a 12 V or 24 V vehicle reads; a larger number is a slip of the prefix.
_CEILING = {"V": 1000.0, "A": 5000.0, "Ω": 1e9}
_LONGEST, _MOST_POWER = 40, 12  # characters; power of ten
_PLAIN = re.compile(
    r"(?P<sign>[+\-−]?)(?P<whole>\d*)(?:[.,](?P<part>\d*))?(?:[eE](?P<exp>[+\-]?\d{1,2}))?\s*"
    r"(?P<prefix>[uµμmkKM]?)\s*(?P<unit>[A-Za-zΩω]*)"
)
_INFIX = re.compile(r"(?P<sign>[+\-−]?)(?P<whole>\d+)(?P<prefix>[mkKMR])(?P<part>\d+)\s*(?P<unit>[A-Za-zΩω]*)")


@dataclass(frozen=True, slots=True)
class Measured:
    """A typed reading: ``value`` in the SI unit (infinite when over range), ``resolution`` the worth of its last digit."""

    value: float
    resolution: float
    over_range: bool = False


def parse_reading(text: str, unit: str) -> Measured:
    """Read ``12.4``, ``12,4``, ``470m``, ``4k7``, ``2.2M``, ``OL`` or ``-0.03``, with or without its unit.

    ``unit`` is ``"V"``, ``"Ω"`` or ``"A"``. Plain exponent form (``4.7e-3``) is read too, since programs write it.
    Raises ReadingError with one sentence for anything else.

    >>> parse_reading("4k7", "Ω").value
    4700.0
    >>> parse_reading("12,4 V", "V")
    Measured(value=12.4, resolution=0.1, over_range=False)
    """
    typed = text.strip()
    wanted = f"a number of {UNITS[unit]} is wanted, such as 12.4, 12,4, 470m or 4k7"
    if not typed:
        raise ReadingError(f"Nothing was typed: {wanted}.")
    if len(typed) > _LONGEST:
        raise ReadingError(f"{quoted(typed)} is no reading: {wanted}.")
    if re.fullmatch(r"(?i)[+\-]?o\.?l\.?(\s*[kM]?(Ω|ohms?))?", typed):
        if unit != "Ω":
            raise ReadingError(f"OL is an open circuit on an ohmmeter, but {wanted}; choose a higher range and read again.")
        return Measured(math.inf, 0.0, True)
    match = _INFIX.fullmatch(typed) or _PLAIN.fullmatch(typed)
    if match is None or not (match["whole"] or match["part"]):
        raise ReadingError(f"{quoted(typed)} is no reading: {wanted}{' or OL' if unit == 'Ω' else ''}.")
    prefix = match["prefix"]
    if prefix == "R" and unit != "Ω":
        raise ReadingError(f"{quoted(typed)} is a resistance, but {wanted}.")
    said = _UNIT_WORDS.get(match["unit"].lower()) if match["unit"] else unit
    if said is None:
        raise ReadingError(f"{quoted(match['unit'])} in {quoted(typed)} is no unit of a reading: {wanted}.")
    if said != unit:
        raise ReadingError(f"{quoted(typed)} is in {UNITS[said]}, but {wanted}.")
    fraction = match["part"] or ""
    exponent = int(match.groupdict().get("exp") or 0)
    scale = 1.0 if prefix == "R" else _PREFIX[prefix]
    # Decimal text is scaled by a power of ten in one step, so that 470m is exactly 0.47.
    power = exponent + round(math.log10(scale))
    value = float(f"{match['whole'] or 0}.{fraction or 0}e{power}")
    if match["sign"] in ("-", "−"):
        value = -value
    if abs(value) > _CEILING[unit]:
        raise ReadingError(f"{quoted(typed)} is {value:g} {UNITS[unit]}, more than any vehicle circuit gives: m is milli, M is mega.")
    resolution = float(f"1e{power - len(fraction)}")
    if abs(exponent) > _MOST_POWER or resolution > _CEILING[unit]:  # 0e99 is a number, but no display shows it
        raise ReadingError(f"{quoted(typed)} is no number that a meter shows: {wanted}.")
    if unit == "Ω" and value < 0:
        raise ReadingError(f"{quoted(typed)} is below zero ohms: zero the leads, make sure the circuit is dead, and read again.")
    return Measured(value, resolution)


def show(value: float, unit: str) -> str:
    """A value as a display would show it: ``show(4700, "Ω")`` is ``4.70 kΩ``, ``show(12.347, "V")`` is ``12.35 V``; infinity is ``OL``."""
    if math.isinf(value):
        return "OL"
    size = abs(value)
    if unit == "V":
        text = (
            f"{value:.2f} V" if size >= 0.9995 or size < 5e-5 else f"{value * 1e3:.0f} mV" if size >= 9.95e-3 else f"{value * 1e3:.1f} mV"
        )
    else:
        scale, prefix = (1e6, "M") if size >= 1e6 else (1e3, "k") if size >= 1e3 else (1e-3, "m") if 0 < size < 0.0995 else (1.0, "")
        shown = value / scale
        places = 2 if abs(shown) < 9.995 else 1 if abs(shown) < 99.95 else 0
        text = f"{shown:.{places}f} {prefix}{unit}"
    return text.removeprefix("-") if not re.search(r"[1-9]", text) else text
