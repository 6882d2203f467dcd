"""From the bench into the circuit: what a check of a part says of it on its sheet, and what the sheet says for the check."""

from __future__ import annotations

import math
from dataclasses import dataclass

from ..base.errors import ReadingError
from ..base.quantity import as_typed, show
from ..bench.case import Case
from ..bench.family import Family
from ..bench.judged import Outcome
from ..check import Verdict, worst
from ..circuit.sheet import Part, Sheet
from ..circuit.unplug import ALONE
from ..evidence.items import Item
from ..evidence.registry import item_of
from ..remedy.target import DRAWN_SHARE

__all__ = ["Said", "limits_on", "said_of", "settings_on", "terminals"]

HEAVY_VOLTS = 18.0  # a sheet that is fed with more is one of 24 V


@dataclass(frozen=True, slots=True)
class Said:
    """An item of evidence and its value as it stands in the record."""

    item: Item
    value: str


def terminals(part: Part) -> tuple[str, str] | None:
    """The places between which a part's own ohms are read: both its pins, or a relay's coil; None where that is not one number."""
    if {"85", "86"} <= set(part.pins):
        return part.pins["85"], part.pins["86"]
    pins = tuple(part.pins.values())
    return (pins[0], pins[1]) if len(pins) == 2 else None


def said_of(sheet: Sheet, part: str, family: Family, case: Case, found: Outcome) -> tuple[Said, ...]:
    """What a check says of a part on a sheet: its ohms as a reading of it alone, brought to 20 °C where it is wound of copper, and whether
    it works. Raises ReadingError where the sheet has no such part."""
    if part not in sheet.parts:
        raise ReadingError(f"{part!r} is no part on this sheet.")
    said = [*_ohms(sheet, part, family, case, found)]
    works = [judged.verdict for judged in found.findings if judged.check in family.function and isinstance(judged.value, str)]
    verdict = worst(works) if works else None
    if verdict in (Verdict.WITHIN, Verdict.OUTSIDE):
        outcome = "works" if verdict is Verdict.WITHIN else "fails"
        said.append(Said(item_of(sheet, "", "tried", part, "", outcome), outcome))
    return tuple(said)


def _ohms(sheet: Sheet, part: str, family: Family, case: Case, found: Outcome) -> list[Said]:
    read, ends = case.read(family.main), terminals(sheet.parts[part])
    if read is None or ends is None or read.unit != "Ω" or ends[0] == ends[1]:
        return []
    if read.measured.over_range and math.isfinite(read.measured.beyond):
        return []  # more than a range's end is no number of ohms
    lead = next((judged for judged in found.findings if judged.check == family.main), None)
    ohms = case.net(read)
    if lead is not None and lead.brought is not None and lead.at_c is not None and abs(lead.at_c - 20.0) < 5.0:
        ohms = lead.brought
    warm = "" if read.noted.celsius is None else f", read at {read.noted.celsius:.4g} °C"
    note = f"on the bench: {'over range' if math.isinf(ohms) else show(case.net(read), 'Ω')}{warm}"
    value = as_typed(ohms, 4) + (" @0ohm" if math.isfinite(ohms) else "")
    return [Said(item_of(sheet, next(iter(sheet.states)), "ohms", *ends, value, note, f"{part}{ALONE}"), value)]


def limits_on(sheet: Sheet, part: str, family: Family) -> tuple[str, ...]:
    """The limits that a sheet has for a part's own ohms, as lines for the check; what is drawn, give or take, where it has none."""
    main = next((check for check in family.checks if check.name == family.main and "Ω" in check.units), None)
    if part not in sheet.parts or main is None or terminals(sheet.parts[part]) is None:
        return ()
    lines = []
    for own in sheet.limits:
        limit = own.limit
        if own.what == "ohms" and own.of == part and limit.unit == "Ω":
            span = f"{limit.least:g}..{limit.most:g}" if math.isfinite(limit.least) and math.isfinite(limit.most) else (
                f"<={limit.most:g}" if math.isfinite(limit.most) else f">={limit.least:g}")  # fmt: skip
            at = f" @{limit.conditions.celsius:g}C" if limit.conditions.celsius is not None else ""
            lines.append(f"{main.name} {span}{at} ({limit.source or 'the sheet'})")
    ohms = sheet.parts[part].params.get("ohms")
    if not lines and isinstance(ohms, (int, float)) and main.law is None:
        lines.append(f"{main.name} {ohms:g}±{100.0 * DRAWN_SHARE:g}% @20C (as drawn on the sheet)")
    return tuple(lines)


def settings_on(sheet: Sheet, part: str, family: Family) -> dict[str, str]:
    """What a sheet says of a part beside its limits: its sort, the system it is made for, its watts, its rating."""
    own = sheet.parts[part]
    found = {}
    if own.kind.name in family.setting_words("sort"):
        found["sort"] = own.kind.name
    if family.setting("system") and sheet.supply_volts > HEAVY_VOLTS:
        found["system"] = "24 V"
    for name in ("watts", "rating", "farads"):
        value = own.params.get(name)
        if family.setting(name) and isinstance(value, (int, float)):
            found[name] = f"{value:g}"
    return found
