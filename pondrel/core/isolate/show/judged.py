"""What the sheet's own limits say of a reading, in words, with whose limit it is."""

from __future__ import annotations

import math
from dataclasses import dataclass

from ...base.quantity import show
from ...circuit.limit import Limit
from ...circuit.sheet import Sheet
from ...evidence.asked import Measurement, Question
from ...evidence.items import Reading

__all__ = ["Judgement", "judgements", "limits_for", "spelled"]

WITHIN, OUTSIDE, TOO_CLOSE, NOT_COMPARABLE = "within limits", "outside limits", "too close to call", "not comparable"
COVERAGE = 2.0  # standard uncertainties on either side of a limit: about 95 %, as ISO 14253-1 decides by
_VOLTMETERS = ("volts", "lowz", "scope")


@dataclass(frozen=True, slots=True)
class Judgement:
    """A reading by one limit: the verdict's ``word``, and the sentence with the limit and its source."""

    limit: Limit
    word: str
    says: str


def limits_for(sheet: Sheet, test: Measurement | Question) -> tuple[Limit, ...]:
    """The sheet's limits that hold for what a test measures."""
    return tuple(limit for limit in sheet.limits if isinstance(test, Measurement) and _holds(sheet, limit, test))


def _holds(sheet: Sheet, limit: Limit, test: Measurement) -> bool:
    ends = {test.red, test.black}
    if limit.what == "ohms":
        places = set(sheet.parts[limit.of].pins.values()) if limit.of else {limit.start, limit.end}
        alike = not limit.state or sheet.resting[limit.state] == sheet.resting[test.state]
        return test.instrument in ("ohms", "continuity") and alike and ends <= places
    if limit.state != test.state:
        return False
    if limit.what == "amps":
        return test.instrument in ("amps", "clamp") and ends <= set(sheet.parts[limit.of].pins.values())
    return test.instrument in _VOLTMETERS and ends == {limit.start, limit.end or sheet.minus}


def spelled(limit: Limit) -> str:
    """A limit in words with its source: ``at most 100 mV (common practice: one connection)``."""
    least, most = (show(v, limit.unit) if math.isfinite(v) else "" for v in (limit.least, limit.most))
    span = f"{least} to {most}" if least and most else f"at most {most}" if most else f"at least {least}"
    warm = f" at {limit.temperature:g} °C" if limit.temperature is not None else ""
    return f"{span}{warm} ({limit.source})"


def judgements(sheet: Sheet, reading: Reading) -> tuple[Judgement, ...]:
    """What every limit that holds for a reading says of it; none for the good side of a vehicle."""
    if reading.elsewhere:
        return ()
    made = []
    for limit in limits_for(sheet, reading.test):
        value = reading.measured.value
        if limit.what == "volts":
            value = value if reading.red == limit.start else -value
        elif limit.what in ("drop", "amps"):
            value = abs(value)
        word = _word(limit, value, COVERAGE * reading.uncertainty if math.isfinite(value) else 0.0)
        made.append(Judgement(limit, word, f"{word}: {spelled(limit)}{_why(word)}"))
    return tuple(made)


def _word(limit: Limit, value: float, guard: float) -> str:
    if limit.least + guard <= value <= limit.most - guard:
        return WITHIN
    if limit.least - guard <= value <= limit.most + guard:
        return TOO_CLOSE
    return NOT_COMPARABLE if limit.temperature is not None and math.isfinite(value) else OUTSIDE


def _why(word: str) -> str:
    return {
        TOO_CLOSE: "; the meter cannot decide",
        NOT_COMPARABLE: "; the part's temperature was not noted, and a warm winding reads more",
    }.get(word, "")
