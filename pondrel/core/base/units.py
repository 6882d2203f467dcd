"""The units in which numbers are read and typed: how each is spelled, which prefixes it takes, what other units of the trade become.

Inside the core are V, mV (across a fuse only), Ω, A, F, s, Hz, W, H, %, °C, kPa, mm, min and rpm. Factors: NIST SP 811, appendix B.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

__all__ = ["PREFIXES", "UNITS", "Unit", "known_unit", "scale_of"]

PREFIXES: Mapping[str, int] = {"p": -12, "n": -9, "u": -6, "µ": -6, "μ": -6, "m": -3, "k": 3, "K": 3, "M": 6}


@dataclass(frozen=True, slots=True)
class Unit:
    """A unit: its ``symbol``, what its numbers are ``called``, an ``example`` of one, how it may be spelled (in lower case), the
    ``prefixes`` that it takes, ``others`` that become it (factor, and what is added before), the largest number that anything on a vehicle
    has, and whether one may be below zero."""

    symbol: str
    called: str
    example: str
    spelled: frozenset[str]
    prefixes: str
    ceiling: float
    signed: bool = True
    others: Mapping[str, tuple[float, float]] = field(default_factory=dict)


_METER = "uµμmkKM"
_ALL = (
    Unit("V", "volts", "12.4, 12,4, 470m or 4k7", frozenset({"v", "volt", "volts"}), _METER, 1000.0),
    # Millivolts where they are all that is read: across a fuse, of which nobody types the prefix.
    Unit("mV", "millivolts", "0.8 or 12.5", frozenset({"mv", "m"}), "", 1e6, others={"v": (1000.0, 0.0)}),
    Unit("Ω", "ohms", "12.4, 12,4, 470m or 4k7", frozenset({"ω", "Ω", "ohm", "ohms"}), _METER, 1e9, signed=False),
    Unit("A", "amperes", "12.4, 12,4, 470m or 4k7", frozenset({"a", "amp", "amps", "ampere", "amperes"}), _METER, 5000.0),
    Unit("F", "farads", "47u, 4.7 µF or 100n", frozenset({"f", "farad", "farads"}), "pnuµμm", 1000.0, signed=False),
    Unit("s", "seconds", "1.5, 250m or 2 min", frozenset({"s", "sec", "second", "seconds"}), "uµμm", 1e6, signed=False,
         others={"min": (60.0, 0.0), "h": (3600.0, 0.0)}),
    Unit("Hz", "hertz", "50 or 1.2k", frozenset({"hz", "hertz"}), "kKM", 1e9, signed=False),
    Unit("W", "watts", "21 or 1.5k", frozenset({"w", "watt", "watts"}), "mkK", 1e6, signed=False),
    Unit("H", "henries", "4.7m", frozenset({"h", "henry", "henries"}), "uµμm", 1e3, signed=False),
    Unit("%", "percent", "41 or 41 %", frozenset({"%", "percent"}), "", 1e4),
    Unit("°C", "degrees", "21, 21 C or 70 F", frozenset({"c", "°c"}), "", 1500.0, 
         others={"f": (1.0 / 1.8, -32.0), "°f": (1.0 / 1.8, -32.0), "k": (1.0, -273.15)}),
    Unit("kPa", "kilopascals", "30, 0.3 bar or 9 inHg", frozenset({"kpa"}), "", 1e5,
         others={"bar": (100.0, 0.0), "mbar": (0.1, 0.0), "psi": (6.894757, 0.0), "inhg": (3.386389, 0.0), "mmhg": (0.1333224, 0.0)}),
    Unit("mm", "millimetres", "0.4 or 0.015 in", frozenset({"mm"}), "", 1e5, signed=False, others={"in": (25.4, 0.0), "cm": (10.0, 0.0)}),
    Unit("min", "minutes", "5, 30 s or 1 h", frozenset({"min", "mins", "minute", "minutes"}), "", 1e6, signed=False,
         others={"s": (1.0 / 60.0, 0.0), "sec": (1.0 / 60.0, 0.0), "h": (60.0, 0.0)}),
    Unit("rpm", "revolutions a minute", "800 or 1500 rpm", frozenset({"rpm", "r/min"}), "", 1e6, signed=False),
    Unit("", "a plain number", "12.4", frozenset(), "", 1e9),
)  # fmt: skip
UNITS: Mapping[str, Unit] = {unit.symbol: unit for unit in _ALL}
_SPELLED = {word: unit for unit in _ALL for word in unit.others if word not in ("k", "v")} | {
    word: unit for unit in _ALL for word in unit.spelled if word != "m"
}
ABSOLUTE_ZERO_C = -273.15


def scale_of(unit: Unit, written: str) -> tuple[float, float, int] | None:
    """What the letters behind a number make of it: factor, what is added before, power of ten; None where they are not of this unit.

    >>> scale_of(UNITS["kPa"], "bar")
    (100.0, 0.0, 0)
    >>> scale_of(UNITS["F"], "µF")
    (1.0, 0.0, -6)
    """
    letters = written.strip()
    low = letters.lower()
    if not letters or low in unit.spelled:
        return 1.0, 0.0, 0
    if low in unit.others:
        return (*unit.others[low], 0)
    if letters[0] in unit.prefixes and (letters[1:].strip().lower() in unit.spelled or not letters[1:].strip()):
        return 1.0, 0.0, PREFIXES[letters[0]]
    return None


def known_unit(written: str) -> Unit | None:
    """The unit that some letters are of, with a prefix or without."""
    low = written.strip().lower()
    if low in _SPELLED:
        return _SPELLED[low]
    found = _SPELLED.get(low[1:].strip()) if written.strip()[:1] in PREFIXES else None
    return found if found and written.strip()[:1] in found.prefixes else None
