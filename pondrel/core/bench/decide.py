"""A reading, or what follows from several, held against a limit: the one judge's verdict with its reason in one sentence."""

from __future__ import annotations

import math
from dataclasses import replace

from ..base.conditions import Conditions
from ..base.quantity import show
from ..check import Limit, Verdict, judge
from ..check.laws import Law, copper_by
from .case import Case, Read
from .family import Check
from .judged import Judged

__all__ = ["answered", "by_number", "by_reading", "span_words", "typed_words"]

_LEADS_AND_RANGE = "Hold the leads together to see that they conduct, then read again on"


def typed_words(read: Read) -> str:
    """A reading as it was typed, with its unit: ``3.7 Ω``."""
    if read.measured.over_range:
        beyond = read.measured.beyond
        return "OL" if math.isinf(beyond) else f"over range on {show(beyond, read.unit)}"
    plain = read.typed.split("@")[0].strip().replace(",", ".")
    return f"{plain} {read.unit}".strip() if plain.replace(".", "", 1).lstrip("+-").isdigit() else show(read.value, read.unit)


def span_words(limit: Limit) -> str:
    """A limit's edges in words: ``3.15 Ω to 3.45 Ω``, ``at most 100 mV``."""
    least, most = (show(edge, limit.unit) if math.isfinite(edge) else "" for edge in (limit.least, limit.most))
    return f"{least} to {most}" if least and most else f"at most {most}" if most else f"at least {least}"


def _edge(limit: Limit, value: float, guard: float, verdict: Verdict) -> str:
    """Where a number lies by its limit, in words."""
    low, high = limit.least - value, value - limit.most
    side, edge = ("below", limit.least) if low > high else ("above", limit.most)
    if verdict is Verdict.OUTSIDE:
        return f"{side} {show(edge, limit.unit)}"
    if verdict is Verdict.WITHIN:
        return (
            f"within {span_words(limit)}" if math.isfinite(limit.least) and math.isfinite(limit.most) else f"{span_words(limit)} is wanted"
        )
    return f"too near to {show(edge, limit.unit)} for a meter that may be off by {show(guard, limit.unit)}"


def by_reading(case: Case, check: Check, read: Read, limit: Limit | None) -> Judged:
    """A number that was read, by a limit; without one it cannot be compared."""
    u, value, unit = 0.0 if check.exact else case.u(read), case.net(read), read.unit
    head = typed_words(read)
    if limit is None or limit.unit != unit:
        because = f"{head}: there is no limit for it."
        then = f"Give a limit for {check.name}, or read a known-good one the same way."
        return Judged(check.name, Verdict.NOT_COMPARABLE, read.value, unit, because, u, then=then)
    if read.measured.over_range:
        return _over_range(case, check, read, limit)
    law: Law = copper_by(case.meter.thermometer_c) if check.law is None else check.law
    noted = replace(read.noted, lead_ohms=0.0)
    found = judge(limit, value, u, noted, law)
    told = value if found.brought is None else found.brought
    leads = f" less {show(read.value - value, unit)} of leads" if value != read.value else ""
    at = f" at {read.noted.celsius:.4g} °C" if read.noted.celsius is not None else ""
    changed = found.brought is not None and found.brought != read.value
    at_c = limit.conditions.celsius
    become = f" is {show(told, unit)}" + (f" at {at_c:.4g} °C" if at_c is not None and told != value else "") if changed else ""
    if found.verdict is Verdict.NOT_COMPARABLE:
        missing = _missing(limit.conditions, read.noted)
        because = f"{head}{at}: its limit of {span_words(limit)} holds {limit.conditions.shown()}, {missing}."
        return Judged(check.name, found.verdict, read.value, unit, because, u, limit=limit, guard=found.guard,
                      then=f"Read {check.name} again and note {limit.conditions.shown()} beside it.")  # fmt: skip
    reason = f"{head}{at}{leads}{become}, {_edge(limit, told, found.guard, found.verdict)}."
    then = ""
    if found.verdict is Verdict.OUTSIDE:
        beyond = check.beyond[0] if told < limit.least else check.beyond[1]
        reason += f" {beyond}" if beyond else ""
        then = check.then
    elif found.verdict is Verdict.TOO_CLOSE:
        then = found.next
    return Judged(
        check.name, found.verdict, read.value, unit, reason, u, found.brought if changed else None, at_c if changed else None, limit,
        found.guard, then,
    )  # fmt: skip


def _missing(wanted: Conditions, noted: Conditions) -> str:
    if wanted.celsius is not None and noted.celsius is None:
        return "and how warm the part was is not noted"
    if wanted.celsius is not None and noted.celsius != wanted.celsius:
        return f"and nothing brings what was read at {noted.celsius:.4g} °C there"
    return "and what was noted is not that"


def _over_range(case: Case, check: Check, read: Read, limit: Limit) -> Judged:
    """Over range is not endless: it lies above the end of a range, and that is all it says."""
    beyond, head = read.measured.beyond, typed_words(read)
    above = case.meter.next_range(beyond)
    higher = f"the {show(above, 'Ω')} range" if above else "the next higher range" if math.isfinite(beyond) else "the highest range"
    then = ""
    if math.isinf(limit.most):
        verdict = Verdict.WITHIN if limit.least <= beyond else Verdict.TOO_CLOSE
    else:
        verdict = Verdict.OUTSIDE if limit.most < beyond else Verdict.TOO_CLOSE
    if verdict is Verdict.TOO_CLOSE:
        because = f"{head}: it may be anything above that, and {span_words(limit)} is wanted."
    elif verdict is Verdict.OUTSIDE:
        because = f"{head}, above {show(limit.most, 'Ω')}." + (f" {check.beyond[1]}" if check.beyond[1] else "")
    else:
        because = f"{head}: {span_words(limit)} is wanted."
    if verdict is not Verdict.WITHIN:
        then = f"{_LEADS_AND_RANGE} {higher} before it is called open."
    return Judged(check.name, verdict, math.inf, read.unit, because, case.u(read), limit=limit, then=then)


def by_number(case: Case, check: Check, value: float, u: float, limit: Limit | None, told: str) -> Judged:
    """A number that follows from several readings, with its standard deviation ``u``; ``told`` says how it follows."""
    unit = check.units[0] if check.units else ""
    if limit is None:
        return Judged(check.name, Verdict.NOT_COMPARABLE, value, unit, f"{told}: there is no limit for it.", u,
                      then=f"Give a limit for {check.name}.")  # fmt: skip
    found = judge(limit, value, u, Conditions(lead_ohms=0.0))
    low = value < limit.least
    beyond = (check.beyond[0] if low else check.beyond[1]) if found.verdict is Verdict.OUTSIDE else ""
    because = f"{told}, {_edge(limit, value, found.guard, found.verdict)}." + (f" {beyond}" if beyond else "")
    then = check.then if found.verdict is Verdict.OUTSIDE else found.next if found.verdict is Verdict.TOO_CLOSE else ""
    return Judged(check.name, found.verdict, value, unit, because, u, limit=limit, guard=found.guard, then=then)


def answered(case: Case, check: Check, read: Read) -> Judged:
    """A word that answers a check."""
    good = check.good(case)
    says = f"{check.says[:1].upper()}{check.says[1:]}: {read.word}"
    if not good:
        return Judged(check.name, Verdict.NOT_COMPARABLE, read.word, "", f"{says}; what it should be is not known.")
    if read.word == good:
        return Judged(check.name, Verdict.WITHIN, read.word, "", f"{says}, as it should be.")
    return Judged(check.name, Verdict.OUTSIDE, read.word, "", f"{says}. {check.bad}".rstrip())
