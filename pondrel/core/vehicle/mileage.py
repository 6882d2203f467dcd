"""How far a vehicle has gone: a number with its unit, as its own instrument shows it."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass

from ..base.brief import quoted
from ..base.errors import PondrelError

__all__ = ["UNITS", "Mileage", "MileageError", "apart", "checked_mileage", "parse_mileage"]

# By unit as it is kept: its name for a person, and kilometres to one, None where it counts hours.
UNITS: Mapping[str, tuple[str, float | None]] = {"km": ("kilometres", 1.0), "mi": ("miles", 1.609344), "h": ("engine hours", None)}
_UNIT_WORDS = {
    "": "", "km": "km", "kms": "km", "kilometres": "km", "kilometers": "km", "mi": "mi", "mile": "mi", "miles": "mi", "h": "h", "hr": "h",
    "hrs": "h", "hours": "h",
}  # fmt: skip
_NUMBER = re.compile(r"(\d{1,3}(?:[ ',.\u00a0\u202f]\d{3})+|\d{1,8})(?:[.,](\d))?\s*([A-Za-z]*)")
_MOST = 9_999_999


class MileageError(PondrelError):
    """A text that is no mileage, or one that cannot be right."""


@dataclass(frozen=True, slots=True)
class Mileage:
    """A distance or hours in their ``unit``, a key of `UNITS`."""

    value: float
    unit: str

    @property
    def kilometres(self) -> float | None:
        """In kilometres, None for hours."""
        factor = UNITS[self.unit][1]
        return None if factor is None else self.value * factor

    def __str__(self) -> str:
        whole = f"{self.value:,.0f}".replace(",", "\u2009")
        return f"{whole} {self.unit}"

    @property
    def kept(self) -> str:
        """As it is kept and typed: ``148220 km``."""
        return f"{self.value:g} {self.unit}" if self.value < 1e6 else f"{self.value:.0f} {self.unit}"


def parse_mileage(what: str, text: str, unit: str = "km") -> Mileage | None:
    """A mileage from what was typed, in ``unit`` where none is named; None from an empty text. Raises MileageError naming ``what``.

    >>> str(parse_mileage("The mileage", "92,100 miles"))
    '92\u2009100 mi'
    """
    typed = " ".join(text.split())
    if not typed:
        return None
    match = _NUMBER.fullmatch(typed)
    named = _UNIT_WORDS.get(match[3].lower()) if match else None
    if match is None or named is None:
        raise MileageError(f"{what} must be a number with its unit, such as 148 220 km, 92 100 mi or 1204 h, got {quoted(typed)}.")
    value = float(re.sub(r"\D", "", match[1]) + (f".{match[2]}" if match[2] else ""))
    if value > _MOST:
        raise MileageError(f"{what} is {value:,.0f}: no vehicle has gone so far. Leave the tenths out, or look once more.")
    return Mileage(value, named or unit)


def apart(later: Mileage, earlier: Mileage) -> float | None:
    """Kilometres (hours where both count those) from one to the other; None where they cannot be compared."""
    if later.unit == earlier.unit == "h":
        return later.value - earlier.value
    here, there = later.kilometres, earlier.kilometres
    return None if here is None or there is None else here - there


def checked_mileage(now: Mileage, before: Mileage | None, before_said: str, renewed: bool) -> Mileage:
    """What the instrument shows now, unless that is less than it showed before. Raises MileageError asking whether the instrument was
    changed; ``renewed`` is the answer that it was."""
    gone = apart(now, before) if before else None
    if before and gone is not None and gone < 0 and not renewed:
        raise MileageError(
            f"The mileage is {now}, but it was {before} {before_said}: look once more, or say that the instrument was changed."
        )
    return now
