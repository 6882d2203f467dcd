"""What a vehicle is: what it is called, its make, number and system, as a person writes it down."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass, fields

from ..base.brief import first_unshowable, quoted
from ..base.errors import PondrelError
from .identity import checked_vin
from .mileage import UNITS

__all__ = ["FACT_NAMES", "SYSTEM_VOLTS", "Facts", "FactsError", "checked_facts"]

SYSTEM_VOLTS = (12.0, 24.0, 48.0)
_LONGEST = {"name": 80, "make": 60, "model": 60, "year": 4, "plate": 20, "note": 500, "options": 300}
_WORDS = {
    "name": "The vehicle's name", "make": "The make", "model": "The model", "year": "The year", "plate": "The plate",
    "note": "The description", "options": "The text of the options",
}  # fmt: skip
_YEAR = re.compile(r"(19|20|21)\d\d")


class FactsError(PondrelError):
    """What was written down of a vehicle does not fit."""


@dataclass(frozen=True, slots=True)
class Facts:
    """What can be written down of a vehicle: ``name`` is what the workshop calls it, ``vin`` its identification number, ``volts`` of its
    system (None where nobody said), ``unit`` what its instrument counts in, ``options`` what it has besides, in words."""

    name: str
    make: str = ""
    model: str = ""
    year: str = ""
    plate: str = ""
    note: str = ""
    vin: str = ""
    volts: float | None = None
    unit: str = "km"
    options: str = ""

    @property
    def described(self) -> str:
        """Make, model and year in one line."""
        return " ".join(text for text in (self.make, self.model, self.year) if text)


FACT_NAMES = tuple(field.name for field in fields(Facts))


def checked_facts(given: Mapping[str, str]) -> Facts:
    """A vehicle from what was typed; a name is all that it needs. Raises PondrelError with one sentence."""
    texts = {name: " ".join(given.get(name, "").split()) for name in _WORDS}
    for name, text in texts.items():
        bad = first_unshowable(text)
        if bad:
            raise FactsError(f"{_WORDS[name]} holds a character that no screen can show ({bad}): delete it.")
        if name != "year" and len(text) > _LONGEST[name]:
            raise FactsError(f"{_WORDS[name]} is {len(text):,} characters long; at most {_LONGEST[name]} fit. Shorten it.")
    if not texts["name"]:
        raise FactsError("The vehicle has no name: write what you call it in the workshop.")
    if texts["year"] and not _YEAR.fullmatch(texts["year"]):
        raise FactsError(f"The year must have four digits, such as 2019, got {quoted(texts['year'])}.")
    unit = given.get("unit") or "km"
    if unit not in UNITS:
        raise FactsError(f"{quoted(unit)} is no unit that an instrument counts in: {', '.join(UNITS)} are.")
    return Facts(**texts, vin=checked_vin(given.get("vin", "")), volts=_checked_volts(given.get("volts", "").strip()), unit=unit)


def _checked_volts(text: str) -> float | None:
    if not text:
        return None
    known = {f"{volts:g}": volts for volts in SYSTEM_VOLTS}
    if text not in known:
        raise FactsError(f"The system has {', '.join(known)} V, got {quoted(text)}; leave it open where that is not known.")
    return known[text]
