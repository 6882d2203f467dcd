"""Torque, as it stands on a page and as it stands on a wrench: N·m, lbf·in and lbf·ft.

1 lbf·ft = 1.355818 N·m and 1 lbf·in = 0.1129848 N·m (NIST SP 811:2008, appendix B.8).
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass

from .brief import quoted
from .errors import PondrelError

__all__ = ["Torque", "TorqueError", "torque_from"]

NM: Mapping[str, float] = {"N·m": 1.0, "lbf·in": 0.1129848, "lbf·ft": 1.355818}
_UNITS = {
    "N·m": ("nm", "n·m", "n.m", "n-m", "n m", "newton metre", "newton metres", "newton meters"),
    "lbf·in": (
        "lbf·in",
        "lbf.in",
        "lbf in",
        "lbf-in",
        "lb-in",
        "lb in",
        "lbin",
        "in-lb",
        "in lb",
        "in-lbs",
        "in lbs",
        "inlb",
        "inch pounds",
        "inch-pounds",
    ),
    "lbf·ft": (
        "lbf·ft",
        "lbf.ft",
        "lbf ft",
        "lbf-ft",
        "lb-ft",
        "lb ft",
        "lbft",
        "ft-lb",
        "ft lb",
        "ft-lbs",
        "ft lbs",
        "ftlb",
        "foot pounds",
        "foot-pounds",
    ),
}
_BY_WORD = {word: unit for unit, words in _UNITS.items() for word in words}
_TYPED = re.compile(r"(\d{1,4}(?:[.,]\d{1,2})?)\s*([a-z·.\- ]+)")
MOST_NM = 1500.0


class TorqueError(PondrelError):
    """A text that is no torque."""


@dataclass(frozen=True, slots=True)
class Torque:
    """A torque in ``newton_metres``, and the unit in which it was given."""

    newton_metres: float
    unit: str = "N·m"

    def in_unit(self, unit: str) -> float:
        """Its number in one of the units."""
        return self.newton_metres / NM[unit]

    @property
    def says(self) -> str:
        """In the unit in which it was given, then in the others: ``7.0 N·m (62 lbf·in, 5.2 lbf·ft)``."""
        order = [self.unit, *(unit for unit in NM if unit != self.unit)]
        told = [f"{_digits(self.in_unit(unit))} {unit}" for unit in order]
        return f"{told[0]} ({', '.join(told[1:])})"


def _digits(number: float) -> str:
    return f"{number:.0f}" if number >= 20.0 else f"{number:.1f}" if number >= 1.0 else f"{number:.2f}"


def torque_from(text: str) -> Torque:
    """A torque as it was typed. Raises TorqueError with one sentence.

    >>> torque_from("62 in-lb").says
    '62 lbf·in (7.0 N·m, 5.2 lbf·ft)'
    """
    match = _TYPED.fullmatch(" ".join(text.lower().split()))
    unit = _BY_WORD.get(match[2].strip()) if match else None
    if match is None or unit is None:
        raise TorqueError(f"A torque needs its unit, such as 9 Nm, 62 in-lb or 15 ft-lb, got {quoted(text.strip())}.")
    value = float(match[1].replace(",", ".")) * NM[unit]
    if not 0.0 < value <= MOST_NM:
        raise TorqueError(f"A torque from 0.01 to {MOST_NM:.0f} N·m is meant, got {quoted(text.strip())}.")
    return Torque(value, unit)
