"""A meter as its owner writes it down: accuracy line by line as its maker states it, the ends of its ranges, its leads."""

from __future__ import annotations

import re
from collections.abc import Mapping

from ..base.brief import first_unshowable, quoted
from ..base.errors import ReadingError
from ..base.quantity import parse_reading
from ..base.units import UNITS, known_unit
from .handheld import Accuracy, Handheld

__all__ = ["accuracy_words", "meter_from", "ranges_words"]

LONGEST_NAME, MOST_LINES = 60, 20
_LINE = re.compile(
    r"(?P<unit>[^\s\d±:=]+)\s*[:=]?\s*±?\s*(?P<share>[\d.,]+)\s*%\s*(?:\+\s*(?P<digits>[\d.,]+)\s*(?:digits?|d|counts?)?)?", re.IGNORECASE
)


def meter_from(given: Mapping[str, str]) -> Handheld:
    """A meter from what was typed: ``name``, ``words``, ``accuracy`` (a line a unit), ``ranges``, ``leads``, ``thermometer``. Raises
    ReadingError with one sentence."""
    name = " ".join(given.get("name", "").split())
    if not name:
        raise ReadingError("The meter wants a name, such as Yellow meter.")
    if len(name) > LONGEST_NAME or first_unshowable(name + given.get("words", "")):
        raise ReadingError(f"The meter's name is a few words of up to {LONGEST_NAME} characters.")
    accuracy = dict(_accuracy(line) for line in given.get("accuracy", "").splitlines()[:MOST_LINES] if line.strip())
    ranges = tuple(sorted(_ohms(text, "A range") for text in re.split(r"[,;\s]+", given.get("ranges", "")) if text))
    leads = _ohms(given["leads"], "What the leads have") if given.get("leads", "").strip() else 0.0
    doubt = given.get("thermometer", "").strip()
    warm = parse_reading(doubt, "°C").value if doubt else 0.0
    if not 0.0 <= warm <= 50.0:
        raise ReadingError("How far the thermometer may be off is a number of degrees, from 0 to 50.")
    return Handheld(name, " ".join(given.get("words", "").split())[:120], accuracy, ranges, leads, warm)


def _accuracy(line: str) -> tuple[str, Accuracy]:
    match = _LINE.fullmatch(line.strip())
    unit = known_unit(match["unit"]) if match else None
    if match is None or unit is None:
        raise ReadingError(
            f"{quoted(line)} is no accuracy: write the unit, a share and digits, as in 'V "
            f"0.5% + 2'; units are {', '.join(filter(None, UNITS))}."
        )
    share, digits = (float(text.replace(",", ".")) if text and text.replace(",", ".").replace(".", "", 1).isdigit() else -1.0
                     for text in (match["share"], match["digits"] or "0"))  # fmt: skip
    if not 0.0 <= share <= 50.0 or not 0.0 <= digits <= 1000.0:
        raise ReadingError(f"{quoted(line)} cannot be: up to 50 % and 1000 digits are taken.")
    return unit.symbol, Accuracy(share / 100.0, digits)


def _ohms(text: str, what: str) -> float:
    read = parse_reading(text, "Ω")
    if read.over_range:
        raise ReadingError(f"{what} is a number of ohms, such as 400 or 4k.")
    return read.value


def accuracy_words(meter: Handheld) -> str:
    """A meter's accuracy as it is typed, a line a unit."""
    return "\n".join(f"{unit} {100 * one.of_reading:g}% + {one.digits:g}" for unit, one in meter.accuracy.items())


def ranges_words(meter: Handheld) -> str:
    """The ends of its ranges as they are typed."""
    return " ".join(f"{end / 1e6:g}M" if end >= 1e6 else f"{end / 1e3:g}k" if end >= 1e3 else f"{end:g}" for end in meter.ranges)
