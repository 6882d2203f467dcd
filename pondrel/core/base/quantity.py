"""Reading text to SI value and back: what a person types from a meter's display, and how a number is shown.

The core holds SI floats only; prefixes live here.
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass

from .brief import quoted
from .errors import ReadingError
from .units import ABSOLUTE_ZERO_C, UNITS, Unit, known_unit, scale_of

__all__ = ["Measured", "as_typed", "parse_reading", "show"]

_LONGEST, _MOST_POWER = 40, 12  # characters; power of ten
_PLAIN = re.compile(r"(?P<sign>[+\-−]?)(?P<whole>\d*)(?:[.,](?P<part>\d*))?(?:[eE](?P<exp>[+\-]?\d{1,2}))?\s*(?P<letters>[^\d\s.,][^\d]*)?")
_INFIX = re.compile(r"(?P<sign>[+\-−]?)(?P<whole>\d+)(?P<prefix>[pnuµμmkKMR])(?P<part>\d+)\s*(?P<letters>[A-Za-zΩω]*)")
_OVER = re.compile(r"(?i)[+\-]?o\.?l\.?(?:\s*[kM]?(?:Ω|ohms?))?(?:\s*\((?P<range>[^()]{1,12})\))?")


@dataclass(frozen=True, slots=True)
class Measured:
    """A typed reading: ``value`` in its unit (infinite when over range), ``resolution`` the worth of its last digit, ``beyond`` the end of
    the range that an over-range reading was taken on, infinite where nobody said."""

    value: float
    resolution: float
    over_range: bool = False
    beyond: float = math.inf


def parse_reading(text: str, unit: str) -> Measured:
    """Read ``12.4``, ``12,4``, ``470m``, ``4k7``, ``2.2M``, ``OL``, ``OL(40)`` or ``-0.03``, with or without its unit.

    ``unit`` is a symbol of `UNITS`; other units of the trade become it (``30 inHg`` where kPa are wanted). Plain exponent form
    (``4.7e-3``) is read too, since programs write it. Raises ReadingError with one sentence for anything else.

    >>> parse_reading("4k7", "Ω").value
    4700.0
    >>> parse_reading("12,4 V", "V").value
    12.4
    >>> parse_reading("OL(40)", "Ω").beyond
    40.0
    """
    of = UNITS[unit]
    typed = text.strip()
    wanted = f"a number of {of.called} is wanted, such as {of.example}" if unit else f"a plain number is wanted, such as {of.example}"
    if not typed:
        raise ReadingError(f"Nothing was typed: {wanted}.")
    if len(typed) > _LONGEST:
        raise ReadingError(f"{quoted(typed)} is no reading: {wanted}.")
    over = _OVER.fullmatch(typed)
    if over:
        return _over_range(over["range"], unit, wanted)
    match = _INFIX.fullmatch(typed) or _PLAIN.fullmatch(typed)
    if match is None or not (match["whole"] or match["part"]):
        raise ReadingError(f"{quoted(typed)} is no reading: {wanted}{' or OL' if unit == 'Ω' else ''}.")
    infix = match.groupdict().get("prefix") or ""
    if infix == "R" and unit != "Ω":
        raise ReadingError(f"{quoted(typed)} is a resistance, but {wanted}.")
    factor, added, power = _scale(of, "" if infix == "R" else infix, match["letters"] or "", typed, wanted)
    fraction = match["part"] or ""
    exponent = int(match.groupdict().get("exp") or 0)
    # Decimal text is scaled by a power of ten in one step, so that 470m is exactly 0.47.
    power += exponent
    value = float(f"{match['whole'] or 0}.{fraction or 0}e{power}")
    if match["sign"] in ("-", "−"):
        value = -value
    value = (value + added) * factor if factor != 1.0 or added else value
    if abs(value) > of.ceiling:
        raise ReadingError(f"{quoted(typed)} is {value:g} {of.called}, more than any vehicle circuit gives: m is milli, M is mega.")
    resolution = float(f"1e{power - len(fraction)}") * factor
    if abs(exponent) > _MOST_POWER or resolution > of.ceiling:  # 0e99 is a number, but no display shows it
        raise ReadingError(f"{quoted(typed)} is no number that a meter shows: {wanted}.")
    if unit == "Ω" and value < 0:
        raise ReadingError(f"{quoted(typed)} is below zero ohms: zero the leads, make sure the circuit is dead, and read again.")
    if value < 0 and not of.signed:
        raise ReadingError(f"{quoted(typed)} is below nothing: {wanted}.")
    if unit == "°C" and value < ABSOLUTE_ZERO_C:
        raise ReadingError(f"{quoted(typed)} is no temperature that anything has: the coldest there is is −273.15 °C.")
    return Measured(value, resolution)


def _scale(of: Unit, infix: str, letters: str, typed: str, wanted: str) -> tuple[float, float, int]:
    """Factor, what is added before, and power of ten of a number by the letters in and behind it. Raises ReadingError."""
    plain = letters.strip()
    found = scale_of(of, infix + plain if infix else plain)
    if found is not None:
        return found
    other = known_unit(plain) if plain else None
    if other is not None and other is not of:
        raise ReadingError(f"{quoted(typed)} is in {other.called}, but {wanted}.")
    raise ReadingError(f"{quoted(plain or infix)} in {quoted(typed)} is no unit of a reading: {wanted}.")


def _over_range(range_text: str | None, unit: str, wanted: str) -> Measured:
    if unit != "Ω":
        raise ReadingError(f"OL is an open circuit on an ohmmeter, but {wanted}; choose a higher range and read again.")
    if range_text is None:
        return Measured(math.inf, 0.0, True)
    end = parse_reading(range_text, unit)
    if end.over_range or end.value <= 0.0:
        raise ReadingError("The range behind OL is a number of ohms, as in OL(40) or OL(4k).")
    return Measured(math.inf, 0.0, True, end.value)


def as_typed(value: float, digits: int = 5) -> str:
    """A number as a person would type it from a display of so many digits, with its prefix: ``4.2830``, ``4.7123k``, ``0.012300``; ``OL``.

    >>> as_typed(4712.34), as_typed(0.0123), as_typed(-12.4)
    ('4.7123k', '0.012300', '-12.400')
    """
    if math.isinf(value):
        return "OL"
    size = abs(value)
    scale, prefix = (1e6, "M") if size >= 1e6 else (1e3, "k") if size >= 1e3 else (1.0, "")
    shown = value / scale
    whole = math.floor(math.log10(abs(shown))) if shown else 0
    return f"{shown:.{min(max(digits - 1 - whole, 0), 6)}f}{prefix}"


# By unit: from this size on, the prefix and what it divides by, largest first.
_LARGE_AND_SMALL = ((1e6, "M", 1e6), (1e3, "k", 1e3), (0.0995, "", 1.0), (0.0, "m", 1e-3))
_SHOWN: dict[str, tuple[tuple[float, str, float], ...]] = {
    # Nobody prints millifarads on a capacitor: it is 4700 µF.
    "F": ((0.995, "", 1.0), (0.0995e-6, "µ", 1e-6), (0.0995e-9, "n", 1e-9), (0.0, "p", 1e-12)),
    "s": ((0.0995, "", 1.0), (0.0995e-3, "m", 1e-3), (0.0, "µ", 1e-6)),
    "H": ((0.0995, "", 1.0), (0.0995e-3, "m", 1e-3), (0.0, "µ", 1e-6)),
    **dict.fromkeys(("mV", "%", "°C", "kPa", "mm", "min", "rpm", ""), ((0.0, "", 1.0),)),
}


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
        _, prefix, scale = next(step for step in _SHOWN.get(unit, _LARGE_AND_SMALL) if size >= step[0])
        if size == 0.0:
            prefix, scale = "", 1.0
        shown = value / scale
        places = 2 if abs(shown) < 9.995 else 1 if abs(shown) < 99.95 else 0
        text = f"{shown:.{places}f} {prefix}{unit}".rstrip()
    return text.removeprefix("-") if not re.search(r"[1-9]", text) else text
