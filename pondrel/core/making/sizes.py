"""What people say of a wire's length and section, of a fuse and of a load, as numbers; ``None`` for what they do not know."""

from __future__ import annotations

import re
from dataclasses import dataclass

from ..base.brief import quoted
from ..base.conductor import AWG_SIZES
from ..base.errors import MakingError

__all__ = ["NOT_KNOWN", "Size", "length_of", "load_of", "number_of", "rating_of", "section_of", "whole_of"]

NOT_KNOWN = "not known"
_UNSAID = frozenset({"", NOT_KNOWN, "do not know", "don't know", "unknown", "?", "-"})
_NUMBER = re.compile(r"(?P<number>\d+(?:[.,]\d+)?)\s*(?P<unit>[^\d\s].*)?")
_METRES = {
    "": 1.0,
    "m": 1.0,
    "metre": 1.0,
    "metres": 1.0,
    "meter": 1.0,
    "meters": 1.0,
    "cm": 0.01,
    "mm": 0.001,
    "ft": 0.3048,
    "feet": 0.3048,
}
_AMPERES = {"": 1.0, "a": 1.0, "amp": 1.0, "amps": 1.0, "ma": 0.001}
_OHMS = {"ohm": 1.0, "ohms": 1.0, "ω": 1.0, "Ω": 1.0, "kohm": 1e3, "kω": 1e3, "k": 1e3}
_WATTS = {"w": 1.0, "watt": 1.0, "watts": 1.0, "kw": 1e3}
_SQUARE = ("", "mm2", "mm²", "qmm", "sqmm")
_AWG = re.compile(r"(?:awg\s*(?P<a>\d/0|\d{1,2})|(?P<b>\d/0|\d{1,2})\s*awg)", re.IGNORECASE)
MOST_METRES, MOST_SECTION, MOST_AMPERES = 100.0, 300.0, 2000.0


def number_of(text: str, units: dict[str, float], wanted: str, most: float) -> float | None:
    """A positive number with one of some units, or None for what is not known. Raises MakingError with what is wanted."""
    said = " ".join(text.split())
    if said.lower() in _UNSAID:
        return None
    match = _NUMBER.fullmatch(said)
    unit = (match["unit"] or "").strip().lower().rstrip(".") if match else ""
    if match is None or unit not in units:
        raise MakingError(f"{quoted(text)} is not understood: {wanted}, or '{NOT_KNOWN}'.")
    value = float(match["number"].replace(",", ".")) * units[unit]
    if not 0.0 < value <= most:
        raise MakingError(f"{quoted(text)} cannot be: {wanted}, up to {most:g}, or '{NOT_KNOWN}'.")
    return value


def length_of(text: str) -> float | None:
    """Metres: ``3``, ``2,5 m``, ``80 cm``, ``10 ft``."""
    return number_of(text, _METRES, "a length such as 2.5 m is wanted", MOST_METRES)


def section_of(text: str) -> float | str | None:
    """Square millimetres as a number, or an AWG size as text: ``1.5``, ``1,5 mm²``, ``AWG 14``."""
    awg = _AWG.fullmatch(text.strip())
    if awg:
        size = awg["a"] or awg["b"]
        if size not in AWG_SIZES:
            raise MakingError(f"{quoted(text)} is no gauge: AWG 40 to AWG 4/0 are known, or give mm².")
        return size
    return number_of(text, dict.fromkeys(_SQUARE, 1.0), "a section such as 1.5 mm² or AWG 14 is wanted", MOST_SECTION)


def rating_of(text: str) -> float | None:
    """Amperes of a fuse: ``10``, ``7,5 A``."""
    return number_of(text, _AMPERES, "a fuse rating such as 10 A is wanted", MOST_AMPERES)


@dataclass(frozen=True, slots=True)
class Size:
    """What is known of a load: one of its watts, amperes and ohms."""

    watts: float | None = None
    amps: float | None = None
    ohms: float | None = None

    def at(self, volts: float) -> Size:
        """All three, as they go together at ``volts``."""
        if self.watts is not None:
            amps = self.watts / volts
        elif self.amps is not None:
            amps = self.amps
        elif self.ohms is not None:
            amps = volts / self.ohms
        else:
            return self
        return Size(amps * volts, amps, volts / amps)


def load_of(text: str) -> Size | None:
    """The size of a load: ``21 W``, ``3.5 A``, ``13 ohm``. Without a unit nobody knows which of them is meant."""
    said = " ".join(text.split())
    wanted = "watts, amps or ohms are wanted, such as 21 W, 3.5 A or 13 ohm"
    if said.lower() in _UNSAID:
        return None
    match = _NUMBER.fullmatch(said)
    unit = (match["unit"] or "").strip().lower() if match else ""
    for name, units in (("watts", _WATTS), ("amps", {k: v for k, v in _AMPERES.items() if k}), ("ohms", _OHMS)):
        if match is not None and unit in units:
            value = float(match["number"].replace(",", ".")) * units[unit]
            if not 0.0 < value <= 1e6:
                raise MakingError(f"{quoted(text)} cannot be: {wanted}.")
            return Size(**{name: value})
    raise MakingError(f"{quoted(text)} is not understood: {wanted}, or '{NOT_KNOWN}'.")


def whole_of(text: str, least: int, most: int, what: str) -> int:
    """A whole number of things."""
    said = text.strip()
    if not said.isdecimal() or not least <= int(said[:6]) <= most:
        raise MakingError(f"{quoted(text)} cannot be: a number of {what} from {least} to {most} is wanted.")
    return int(said)
