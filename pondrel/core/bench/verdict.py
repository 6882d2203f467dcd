"""A case of a family comes to its outcome: every check judged, what is missing named, the ways to judge it side by side."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace

from ..base.quantity import show
from ..check import KINDS, Limit, Verdict, around, worst
from .case import Case, Read
from .decide import answered, by_reading, span_words, typed_words
from .family import Check, Family
from .judged import Judged, Outcome, School

__all__ = ["outcome"]

_ORDER = tuple(Verdict)


def outcome(family: Family, case: Case) -> Outcome:
    """What a case comes to."""
    found = [judged for check in family.checks if not check.aside for judged in _judged(family, case, check)]
    found += family.derive(case)
    untested = tuple(name for name in family.needed(case) if not _made(family, case, found, name))
    verdict = worst((judged.verdict for judged in found), bool(untested))
    ordered = tuple(sorted(found, key=lambda judged: _ORDER.index(judged.verdict)))
    ways = _schools(family, case, ordered)
    service = family.serve(case, ordered)
    return Outcome(
        family.name, verdict, ordered, untested, service, tuple(_next(family, case, ordered, untested, verdict)), ways,
        _differ(ways), family.chart(case, ordered), family.socket(case, ordered), family.fuse_box(case, ordered),
    )  # fmt: skip


def _made(family: Family, case: Case, found: Iterable[Judged], name: str) -> bool:
    if family.setting(name) is not None:
        return name in case.said
    return bool(case.reads.get(name)) or any(judged.check == name for judged in found)


def _judged(family: Family, case: Case, check: Check) -> list[Judged]:
    reads = case.reads.get(check.name, ())
    if check.words:
        return [answered(case, check, read) for read in reads]
    return [by_reading(case, check, read, _limit(family, case, check, read)) for read in reads]


def _limit(family: Family, case: Case, check: Check, read: Read) -> Limit | None:
    """The limit that outranks the others in the unit that was read: of those that were given and a known-good one's the one whose word
    weighs most; what is usual where there is none of them."""
    twin = _twin(family, case) if check.name == family.main else None
    said = [limit for limit in (*case.limits.get(check.name, ()), twin) if limit is not None and limit.unit == read.unit]
    usual = check.limit(case)
    if not said:
        return usual if usual and usual.unit == read.unit else None
    return min(said, key=lambda limit: KINDS.index(limit.kind))


def _twin(family: Family, case: Case) -> Limit | None:
    """The limit that a known-good one sets: its own number at its own temperature, give or take what is allowed between two."""
    twin = case.read("twin")
    if twin is None or twin.measured.over_range:
        return None
    return around(
        case.net(twin), case.number("twin_within"), twin.unit, f"a known-good one: {typed_words(twin)}", "known-good twin",
        replace(twin.noted, lead_ohms=None),
    )  # fmt: skip


def _schools(family: Family, case: Case, found: Sequence[Judged]) -> tuple[School, ...]:
    main, check = case.read(family.main), family.check(family.main)
    ways = []
    if main is not None and check is not None and not check.words:
        usual = None if check.aside else check.limit(case)
        limits = [*case.limits.get(family.main, ()), *([usual] if usual and family.main not in case.limits else [])]
        for limit in limits:
            name = "Limit at temperature" if limit.conditions.celsius is not None else "By its limit"
            ways.append(_way(case, check, main, limit, "From memory" if limit.kind == "half remembered" else name))
        twin = _twin(family, case)
        if twin is not None or (family.compared and not check.aside):
            ways.append(_way(case, check, main, twin, "Against a good one"))
    ways += family.schools(case)
    if family.function:
        works = [judged for judged in found if judged.check in family.function]
        shows = "; ".join(f"{judged.check.replace('_', ' ')} {_value(judged)}" for judged in works)
        ways.append(School("Does it work", shows, "", worst(judged.verdict for judged in works) if works else None))
    return tuple(ways)


def _value(judged: Judged) -> str:
    return judged.value if isinstance(judged.value, str) else show(judged.value, judged.unit)


def _way(case: Case, check: Check, read: Read, limit: Limit | None, name: str) -> School:
    if limit is None:
        return School(name, "", "", None)
    judged = by_reading(case, check, read, limit)
    shows = span_words(limit)
    if limit.kind == "known-good twin" and judged.verdict is not Verdict.NOT_COMPARABLE and not read.measured.over_range:
        middle = (limit.least + limit.most) / 2.0
        told = case.net(read) if judged.brought is None else judged.brought
        share = 100.0 * (told / middle - 1.0) if middle else 0.0
        shows = f"{abs(share):.0f} % {'above' if share >= 0.0 else 'below'} it"
    return School(name, shows, limit.source or limit.kind, judged.verdict)


def _differ(ways: Sequence[School]) -> str:
    """In one sentence what the ways disagree about; empty where they do not."""
    said = [way for way in ways if way.verdict in (Verdict.WITHIN, Verdict.OUTSIDE)]
    passes = [way for way in said if way.verdict is Verdict.WITHIN]
    fails = [way for way in said if way.verdict is Verdict.OUTSIDE]
    if not passes or not fails:
        return ""
    return f"{_named(passes)} would have passed it, {_named(fails, first=False)} would not."


def _named(ways: Sequence[School], first: bool = True) -> str:
    words = " and ".join(_WAYS.get(way.name, way.name[:1].lower() + way.name[1:]) for way in ways)
    return words[:1].upper() + words[1:] if first else words


_WAYS = {
    "Limit at temperature": "the limit at its temperature",
    "By its limit": "the limit",
    "Against a good one": "the comparison with a good one",
    "Does it work": "trying whether it works",
    "From memory": "the number from memory",
}


def _next(family: Family, case: Case, found: Sequence[Judged], untested: Sequence[str], verdict: Verdict) -> list[str]:
    says = [judged.then for judged in found if judged.then]
    says += family.advise(case, found)
    for name in untested:
        thing = family.check(name) or family.setting(name)
        says.append(f"Still wanted: {thing.says} ({name})." if thing else f"Still wanted: {name}.")
    if not found and not untested:
        says.append(f"Read {family.main} first.")
    if verdict is Verdict.OUTSIDE and not says:
        says.append("Mend or renew it, and try the new one the same way before it goes in.")
    if verdict is Verdict.WITHIN and not says:
        says.append("By what was read it is good: look elsewhere.")
    return list(dict.fromkeys(says))
