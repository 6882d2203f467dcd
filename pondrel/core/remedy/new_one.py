"""The new part measured before it goes in: the ohms that it reads by itself, judged as any reading is."""

from __future__ import annotations

import re
from collections.abc import Iterable

from ..base.brief import quoted
from ..base.conditions import Conditions, split_conditions
from ..base.errors import PondrelError, ReadingError
from ..base.quantity import Measured, parse_reading
from ..check import Finding, Limit, Verdict, judge
from ..check.laws import copper, fixed
from ..meter.instrument import instrument, standard_uncertainty

__all__ = ["number_told", "wrong_with"]

# A number as a meter shows it, with what was noted beside it; words may follow: ``38.2 Ω @20C, clicks``.
_READ = re.compile(r"\s*(OL(?:\([^)]*\))?|\d[\d.,]*\d|\d)\s*([kM]?(?:Ω|ohms?\b))?((?:\s*@\s*[-+]?[\w.°%]+)*)", re.IGNORECASE)


def number_told(text: str) -> tuple[Measured, Conditions]:
    """The ohms that a text begins with, and what was noted beside them. Raises ReadingError with one sentence for a text that begins with
    no number, or notes what is no condition."""
    read = _READ.match(text)
    if read is None:
        raise ReadingError(f"{quoted(text)} begins with no number: write the ohms that the new one reads by itself, such as 38.2 @20C.")
    number, noted = split_conditions("".join(part or "" for part in read.groups()))
    return parse_reading(number, "Ω"), noted


def wrong_with(text: str, limits: Iterable[Limit], of_copper: bool) -> str:
    """Why a new part that was read so is not to be fitted, in a sentence; empty where nothing says so. What cannot be compared says
    nothing."""
    try:
        measured, noted = number_told(text)
    except PondrelError as error:
        return str(error)
    doubt = standard_uncertainty(instrument("ohms"), measured) if not measured.over_range else 0.0
    law = copper if of_copper else fixed
    found: list[Finding] = [judge(limit, measured.value, doubt, noted, law) for limit in limits]
    wrong = next((finding for finding in found if finding.verdict is Verdict.OUTSIDE), None)
    return f"The new one is {wrong.says}. Send it back: it would fail as the old one did." if wrong else ""
