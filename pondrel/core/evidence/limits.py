"""What the limits of a sheet say of its readings."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import fields, replace

from ..base.conditions import Conditions, Units
from ..base.judgement import OWN_RULE, judged
from ..check import Finding, Overall, judge, overall, spelled
from ..check.laws import Law, copper, fixed, proportional
from ..circuit.limit import SheetLimit
from ..circuit.sheet import Sheet
from ..meter.instrument import instrument
from .asked import Measurement, Question
from .items import Item, Reading

__all__ = ["conditions_asked", "findings_of", "limits_for", "overall_of"]

_FEW_OHMS = judged("FEW_OHMS", 10.0, "Ω", "from here down the leads are asked for beside a reading", OWN_RULE)


def limits_for(sheet: Sheet, test: Measurement | Question) -> tuple[SheetLimit, ...]:
    """The sheet's limits that hold for what a test measures; none for a question, nor where something is unplugged for it."""
    if isinstance(test, Question) or test.without:
        return ()
    return tuple(limit for limit in sheet.limits if _holds(sheet, limit, test))


def conditions_asked(sheet: Sheet, test: Measurement | Question) -> tuple[str, ...]:
    """The conditions that have to be noted beside a number so that the limits there can judge it, by their names in `Conditions`; what the
    leads have where few ohms are limited."""
    limits = [own.limit for own in limits_for(sheet, test)]
    asked = {f.name for limit in limits for f in fields(Conditions) if f.name != "idle" and limit.conditions.says(f.name)}
    if any(limit.unit == "Ω" and min(abs(limit.least), abs(limit.most)) < _FEW_OHMS for limit in limits):
        asked.add("lead_ohms")
    return tuple(f.name for f in fields(Conditions) if f.name in asked and f.name != "minutes")


def _holds(sheet: Sheet, limit: SheetLimit, test: Measurement) -> bool:
    ends = {test.red, test.black}
    if limit.what == "ohms":
        places = set(sheet.parts[limit.of].pins.values()) if limit.of else {limit.start, limit.end}
        alike = not limit.state or sheet.resting[limit.state] == sheet.resting[test.state]
        return test.instrument in ("ohms", "continuity") and alike and ends <= places
    if limit.state != test.state:
        return False
    if limit.what == "amps":
        return test.instrument in ("amps", "clamp") and ends <= set(sheet.parts[limit.of].pins.values())
    return instrument(test.instrument).is_voltmeter and ends == {limit.start, limit.end or sheet.minus}


def findings_of(sheet: Sheet, reading: Reading, units: Units | None = None) -> tuple[Finding, ...]:
    """The findings on a reading by every limit that holds for it; none for a reading of a circuit that is known to be good;
    conditions are told in ``units``."""
    return tuple(finding for _, finding in _judged(sheet, reading, units))


def overall_of(sheet: Sheet, items: Iterable[Item], units: Units | None = None) -> Overall:
    """What the readings come to by all limits of a sheet: of one that was read several times the last counts, and those that no reading
    was held against are listed."""
    last = {limit: finding for item in items if isinstance(item, Reading) for limit, finding in _judged(sheet, item, units)}
    untested = [f"{_called(sheet, limit)}: {spelled(limit.limit, units)}" for limit in sheet.limits if limit not in last]
    return overall((replace(finding, about=_called(sheet, limit)) for limit, finding in last.items()), untested)


def _called(sheet: Sheet, limit: SheetLimit) -> str:
    """What is limited, where and in which state, as a person says it: ``drop from glass tab, ground side to battery minus post, on``."""
    if limit.of:
        where = sheet.parts[limit.of].called
    else:
        ends = [sheet.places[end].at or end if end in sheet.places else end for end in (limit.start, limit.end) if end]
        where = f"from {ends[0]} to {ends[1]}" if len(ends) > 1 else f"at {ends[0]}"
    return f"{limit.what} {where}" + (f", {limit.state}" if limit.state else "")


def _judged(sheet: Sheet, reading: Reading, units: Units | None) -> list[tuple[SheetLimit, Finding]]:
    if reading.elsewhere:
        return []
    value = reading.measured.value
    found = []
    for limit in limits_for(sheet, reading.test):
        own = value if limit.what == "ohms" or (limit.what == "volts" and reading.red == limit.start) else -value
        own = abs(own) if limit.what in ("drop", "amps") else own
        uncertainty = reading.uncertainty if math.isfinite(own) else 0.0
        found.append((limit, judge(limit.limit, own, uncertainty, reading.conditions, _law(sheet, limit), units)))
    return found


def _law(sheet: Sheet, limit: SheetLimit) -> Law:
    """How what is limited changes with its conditions."""
    if limit.what in ("drop", "amps"):
        return proportional
    return copper if limit.of and sheet.parts[limit.of].copper else fixed
