"""A part that was condemned by a check on the bench, beside the new one measured the same way."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

from ...core.base.brief import capitalized
from ...core.bench import FAMILIES, Judged, outcome
from ...core.bench.family import Family
from ...core.bench.given import given_from
from ...core.check import Verdict
from ...core.job.entry import Entry
from ...core.meter.handheld import AS_TYPED
from ...store.bench import BenchRow, check_of, new_one_after
from ...store.conclusions import Conclusion
from ...store.meters import meter_named
from .attempt import attempt
from .before_after import Beside, beside_judged
from .database import get_db

__all__ = ["OldAndNew", "old_and_new"]


@dataclass(frozen=True)
class OldAndNew:
    """The check that condemned with what it ``found``, that of the new one (None while it was not measured), numbers of both as figures,
    and words of both."""

    old: BenchRow
    found: tuple[Judged, ...]
    new: BenchRow | None
    figures: tuple[Beside, ...]
    words: tuple[str, ...]

    @property
    def fails(self) -> bool:
        """Whether the new one is outside its limits, too."""
        return self.new is not None and self.new.verdict == Verdict.OUTSIDE


def old_and_new(conclusions: Sequence[Conclusion], entries: Sequence[Entry]) -> tuple[OldAndNew, ...]:
    """Of every conclusion that stands on a check of the bench."""
    basis = {entry_id for conclusion in conclusions if conclusion.parts for entry_id in conclusion.basis}
    found = []
    for entry in entries:
        if entry.id not in basis or entry.kind != "bench" or not entry.text("check").isdecimal():
            continue
        old = check_of(get_db(), int(entry.text("check")))
        if old is not None and old.family in FAMILIES:
            told, _ = attempt(lambda old=old: _told(old))  # type: ignore[misc]
            found += [told] if told else []
    return tuple(found)


def _told(old: BenchRow) -> OldAndNew:
    new = new_one_after(get_db(), old.id)
    before = _judged(old)
    after = {one.check: one for one in _judged(new)} if new else {}
    family = FAMILIES[old.family]
    shown = [one for one in before if one.verdict is Verdict.OUTSIDE or one.check == family.main]
    figures = tuple(_figures(old.title, family, shown, after))
    return OldAndNew(old, tuple(before), new, figures, tuple(_words(family, shown, after)))


def _judged(row: BenchRow) -> Sequence[Judged]:
    family, given = FAMILIES[row.family], given_from(row.given)
    own = meter_named(get_db(), given.meter)
    return outcome(family, given.case(family, own.meter if own else AS_TYPED)).findings


def _called(family: Family, check: str) -> str:
    known = family.check(check)
    return known.says if known else check.replace("_", " ")


def _figures(title: str, family: Family, shown: Sequence[Judged], after: Mapping[str, Judged]) -> Iterator[Beside]:
    for one in shown:
        both = [("before", one), *([("after", after[one.check])] if one.check in after else [])]
        figure = beside_judged(f"{title}: {_called(family, one.check)}", both)
        if figure is not None:
            yield figure


def _words(family: Family, shown: Sequence[Judged], after: Mapping[str, Judged]) -> Iterator[str]:
    for one in shown:
        if isinstance(one.value, str):
            now = after.get(one.check)
            told = f"before {one.value}, with the one that is in now {now.value}" if now else str(one.value)
            yield f"{capitalized(_called(family, one.check))}: {told}."
