"""The conditions under which a number was read or a limit holds, written alike everywhere: ``@20C @13.5V @1500rpm @idle @10min``.

Temperature, supply, engine speed, pressure, a width and the time since a first reading can be noted. Any unit of the trade is read; inside
all are degrees Celsius, volts, revolutions a minute, kilopascals, millimetres and minutes.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass, fields, replace

from .brief import quoted
from .errors import ReadingError
from .judgement import judged

__all__ = ["COLDEST_C", "IDLE_RPM", "UNITS", "Conditions", "Units", "parse_conditions", "split_conditions"]

IDLE_RPM = (
    judged("IDLE_LEAST_RPM", 500.0, "1/min", "a noted engine speed from here on may be idle"),
    judged("IDLE_MOST_RPM", 1100.0, "1/min", "a noted engine speed up to here may be idle"),
)
COLDEST_C, HOTTEST_C = -100.0, 1500.0
KPA_PER_BAR, KPA_PER_INHG, KPA_PER_PSI, MM_PER_INCH = 100.0, 3.386389, 6.894757, 25.4  # NIST SP 811, appendix B


@dataclass(frozen=True, slots=True)
class Units:
    """The units in which a workshop wants conditions shown."""

    temperature: str = "°C"
    pressure: str = "kPa"
    width: str = "mm"


# What a workshop may choose from.
UNITS: Mapping[str, tuple[str, ...]] = {
    "temperature": ("°C", "°F"), "pressure": ("kPa", "bar", "inHg", "psi"), "width": ("mm", "in"),
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Conditions:
    """What was noted, None for what was not; ``idle`` where the engine idled and no speed is known; ``lead_ohms`` what the test leads have
    by themselves, 0 where they were zeroed; ``minutes`` since the first of several readings at one place."""

    celsius: float | None = None
    volts: float | None = None
    rpm: float | None = None
    idle: bool = False
    kilopascals: float | None = None
    millimetres: float | None = None
    lead_ohms: float | None = None
    minutes: float | None = None

    def __bool__(self) -> bool:
        return any(self.says(f.name) for f in fields(self))

    def says(self, name: str) -> bool:
        """Whether something was noted; nought was, too."""
        value = getattr(self, name)
        return value is not None and value is not False

    def shown(self, units: Units | None = None) -> str:
        """As a person writes them: ``@20C @13.5V @idle``.

        >>> parse_conditions("@68F @idle").shown()
        '@20°C @idle'
        """
        wanted = units or Units()
        parts = []
        for name, symbol in (("celsius", wanted.temperature), ("volts", "V"), ("rpm", "rpm"), ("kilopascals", wanted.pressure)):
            value = getattr(self, name)
            if value is not None:
                parts.append(f"@{_FROM_SI[symbol](value):.4g}{symbol}")
        if self.idle:
            parts.append("@idle")
        if self.millimetres is not None:
            parts.append(f"@{_FROM_SI[wanted.width](self.millimetres):.4g}{wanted.width}")
        if self.lead_ohms is not None:
            parts.append(f"@{self.lead_ohms:.4g}Ω")
        if self.minutes is not None:
            parts.append(f"@{self.minutes:.4g}min")
        return " ".join(parts)


# By unit as it is written, in lower case: the field it fills, and how its number becomes that field's.
_READ: Mapping[str, tuple[str, Callable[[float], float]]] = {
    "c": ("celsius", float), "°c": ("celsius", float),
    "f": ("celsius", lambda v: (v - 32.0) / 1.8), "°f": ("celsius", lambda v: (v - 32.0) / 1.8),
    "k": ("celsius", lambda v: v - 273.15),
    "v": ("volts", float), "rpm": ("rpm", float), "r/min": ("rpm", float),
    "kpa": ("kilopascals", float), "bar": ("kilopascals", lambda v: v * KPA_PER_BAR), "inhg": ("kilopascals", lambda v: v * KPA_PER_INHG),
    "psi": ("kilopascals", lambda v: v * KPA_PER_PSI),
    "ohm": ("lead_ohms", float), "Ω": ("lead_ohms", float), "ω": ("lead_ohms", float),
    "min": ("minutes", float), "mins": ("minutes", float), "minutes": ("minutes", float), "minute": ("minutes", float),
    "s": ("minutes", lambda v: v / 60.0), "sec": ("minutes", lambda v: v / 60.0), "h": ("minutes", lambda v: v * 60.0),
    "mm": ("millimetres", float), "in": ("millimetres", lambda v: v * MM_PER_INCH),
}  # fmt: skip
_FROM_SI: Mapping[str, Callable[[float], float]] = {
    "°C": float, "°F": lambda v: v * 1.8 + 32.0, "V": float, "rpm": float, "kPa": float, "bar": lambda v: v / KPA_PER_BAR,
    "inHg": lambda v: v / KPA_PER_INHG, "psi": lambda v: v / KPA_PER_PSI, "mm": float, "in": lambda v: v / MM_PER_INCH,
}  # fmt: skip
_TOKEN = re.compile(r"([-+]?(?:\d{1,6}(?:[.,]\d{1,6})?|[.,]\d{1,6}))\s*(°?[A-Za-zΩω/]+)")
_EXAMPLES = "@20C, @68F, @13.5V, @1500rpm, @idle, @100kPa, @0.4mm, @10min, or @0.2ohm for the leads"
# Time as it is said: "12.2 at 0 min", "14.1 after 10 min".
_SAID_TIME = re.compile(r"\s(?:at|after)\s+(?=\d[\d.,]{0,8}\s*(?:min|mins|minute|minutes|s|sec|h)\b)", re.IGNORECASE)


def split_conditions(text: str) -> tuple[str, Conditions]:
    """A typed value without its conditions, and these. Raises ReadingError with one sentence.

    >>> split_conditions("13.2 @70C")
    ('13.2', Conditions(celsius=70.0, volts=None, rpm=None, idle=False, kilopascals=None, millimetres=None, lead_ohms=None, minutes=None))
    >>> split_conditions("14.1 at 10 min")[1].minutes
    10.0
    """
    value, at, rest = _SAID_TIME.sub(" @", text).partition("@")
    return (value.strip(), parse_conditions(at + rest)) if at else (text, Conditions())


def parse_conditions(text: str) -> Conditions:
    """Conditions from text such as ``@20C @13.5V``; none from an empty one. Raises ReadingError with one sentence."""
    found = Conditions()
    for token in filter(None, (part.strip() for part in text.split("@"))):
        name, value = _condition(token)
        if found.says(name):
            raise ReadingError(f"The condition @{token} says once more what was said before: leave one of the two out.")
        found = replace(found, idle=True) if name == "idle" else replace(found, **{name: float(value)})  # type: ignore[arg-type]
    if found.idle and found.rpm is not None:
        raise ReadingError("@idle and a speed are both noted: leave one of the two out.")
    return found


def _condition(token: str) -> tuple[str, float | bool]:
    if token.lower() == "idle":
        return "idle", True
    match = _TOKEN.fullmatch(token)
    name, convert = _READ.get(match[2].lower(), ("", float)) if match else ("", float)
    if match is None or not name:
        raise ReadingError(f"{quoted('@' + token)} is no condition: write {_EXAMPLES}.")
    value = convert(float(match[1].replace(",", ".")))
    if name == "celsius" and not COLDEST_C <= value <= HOTTEST_C:
        raise ReadingError(f"{quoted('@' + token)} is no temperature that anything on a vehicle has.")
    if name in ("rpm", "millimetres", "lead_ohms", "minutes") and value < 0.0:
        raise ReadingError(f"{quoted('@' + token)} is below nothing: leave the minus out.")
    return name, value
