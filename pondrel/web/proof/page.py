"""What the Proof page shows: each reading that the conclusion stands on beside the same taken again, tries, checks, what is missing."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import NamedTuple

from ...core.check import Verdict
from ...core.circuit.sheet import Sheet
from ...core.evidence.asked import Measurement
from ...core.evidence.items import Reading
from ...core.isolate import cured
from ...core.job.codes import CODE_KINDS
from ...core.job.entry import Entry, standing
from ...core.job.power import Pair as WayPair
from ...core.job.power import pairs_of, proof_of, setup_of
from ...core.job.proof import RETAKEN, Pair, Proving, differing, proving_of, supply_differs
from ...core.job.remedy import remedy_of
from ...core.power.guide import WAYS
from ...core.remedy.again import Cured, Retaken
from ...core.remedy.builds import build_in_words
from ...core.remedy.checks import Facts, checks_for
from ...core.scope.readings import SCOPE_READS
from ...store.conclusions import Conclusion
from ...store.house import house_choices
from ...store.rosters import roster_fitting
from ..jobs.docket import Docket, Record, docket_in
from ..shell.attempt import attempt
from ..shell.before_after import Beside, beside_judged
from ..shell.database import get_db
from ..shell.on_the_bench import OldAndNew, old_and_new
from ..shell.titles import line_title
from ..shell.workshop import units
from ..shell.workups import workups

__all__ = ["OnTrace", "Page", "page_of"]

MOST_PAIRS = 8


@dataclass(frozen=True)
class OnTrace:
    """The readings of one circuit: the trace with its pairs; ``says`` why they cannot be worked out."""

    docket: Docket
    pairs: tuple[Pair, ...]
    after: Cured | None
    says: str = ""

    @property
    def by_scope(self) -> bool:
        """Whether some of them were read off a capture."""
        return any(pair.before is not None and pair.before.reading.instrument in SCOPE_READS for pair in self.pairs)


@dataclass(frozen=True)
class Page:
    """The page; ``way`` is the guided way that it was found on with its pairs, ``benched`` the parts that a check on the bench condemned
    beside their new ones."""

    record: Record
    traces: tuple[OnTrace, ...]
    proving: Proving
    way: str = ""
    way_title: str = ""
    way_pairs: tuple[WayPair, ...] = ()
    way_proof: str = ""
    benched: tuple[OldAndNew, ...] = ()

    @property
    def teaches(self) -> bool:
        """Whether a roster says how the vehicle's modules are taught."""
        return roster_fitting(get_db(), self.record.vehicle) is not None

    @property
    def way_figures(self) -> tuple[Beside, ...]:
        """What was outside its limits on the guided way, beside the same points read again."""
        found = []
        for pair in self.way_pairs:
            was, now = pair.before.finding, pair.after.finding if pair.after else None
            if was is not None and was.verdict is Verdict.OUTSIDE:
                found.append(beside_judged(pair.step.title, [("before", was), *([("after", now)] if now else [])]))
        return tuple(figure for figure in found if figure is not None)

    @property
    def missing(self) -> tuple[str, ...]:
        """What the proof lacks, the points of the guided way among it."""
        own = ("the same points of the guided way again",) if self.way_pairs and not self.way_proof else ()
        unmeasured = tuple(f"{one.old.title}, the one that is in now, measured as before" for one in self.benched if one.new is None)
        return (*own, *unmeasured, *self.proving.missing)

    @property
    def failed(self) -> tuple[str, ...]:
        """What speaks against a cure."""
        return (*(f"{one.old.title}, the one that is in now, is outside limits" for one in self.benched if one.fails), *self.proving.failed)

    @property
    def holds(self) -> bool:
        """Whether all of it is there, and nothing speaks against it."""
        return not self.missing and not self.failed

    @property
    def says(self) -> str:
        """The proof in a sentence."""
        return "; ".join(filter(None, (self.way_proof, self.proving.says)))


def page_of(record: Record) -> Page:
    """The page of a job."""
    traces = [_on_trace(record, conclusion) for conclusion in record.standing_conclusions if conclusion.parts and conclusion.trace_id]
    told = [one for one in traces if one is not None]
    pairs = [pair for one in told for pair in one.pairs]
    after = [one.after for one in told if one.after and one.after.readings]
    worst = min(after, key=lambda one: one.chance) if after else None
    proving = proving_of(record.entries, pairs, checks_for(_facts(record, told)), worst)
    if not proving.cures:
        return Page(record, (), proving)
    way = record.state.way if any(c.trace_id is None and c.parts for c in record.standing_conclusions) else ""
    benched = old_and_new(record.standing_conclusions, record.entries)
    if way not in WAYS:
        return Page(record, tuple(told), proving, benched=benched)
    setup = setup_of(record.entries, record.vehicle.volts, house_choices(get_db()))
    way_pairs, _ = attempt(lambda: pairs_of(record.entries, way, setup))
    return Page(record, tuple(told), proving, way, WAYS[way].title, way_pairs or (), proof_of(way_pairs or ()), benched)


def _on_trace(record: Record, conclusion: Conclusion) -> OnTrace | None:
    trace = next((trace for trace in record.traces if trace.id == conclusion.trace_id), None)
    if trace is None:
        return None
    docket = docket_in(get_db(), record, trace)
    found, says = attempt(lambda: _paired(docket, conclusion))
    return found or OnTrace(docket, (), None, says)


def _paired(docket: Docket, conclusion: Conclusion) -> OnTrace:
    stored, sheet = docket.stored_sheet, docket.sheet
    read = [e for e in docket.standing if e.id < conclusion.id]
    items = workups().items(stored, read)
    numbers = [(entry, item) for entry, item in zip(read, items, strict=True) if isinstance(item, Reading) and not item.elsewhere]
    before = cured(workups().belief(stored, tuple(item for _, item in numbers)), conclusion.parts)
    every = [_Read(entry, item, was) for (entry, item), was in zip(numbers, before.readings, strict=True)]
    kept = _condemning(sheet, every, conclusion)
    again = _again(docket.record.entries)
    retaken = [(one.entry, again[one.entry.id]) for one in kept if one.entry.id in again]
    after_items = workups().items(stored, [replace(e, content={**e.content, "value": a.text("value")}) for e, a in retaken])
    after = cured(workups().belief(stored, after_items), conclusion.parts) if after_items else None
    seen = {entry.id: (a, one) for (entry, a), one in zip(retaken, after.readings, strict=True)} if after else {}
    supplies = {
        one.item.state: supply_differs(one.item.measured.value, now[1].reading.measured.value)
        for one in kept
        # Where the supply itself was wrong, that it is another one now is the cure.
        if _reads_supply(sheet, one.item) and one.was.verdict is not Verdict.OUTSIDE and (now := seen.get(one.entry.id))
    }
    return OnTrace(docket, tuple(_pair(sheet, one, seen.get(one.entry.id), supplies) for one in kept), after)


def _reads_supply(sheet: Sheet, item: Reading) -> bool:
    return item.instrument == "volts" and {item.red, item.black} == {sheet.plus, sheet.minus}


class _Read(NamedTuple):
    entry: Entry
    item: Reading
    was: Retaken


def _condemning(sheet: Sheet, every: Sequence[_Read], conclusion: Conclusion) -> list[_Read]:
    """The readings worth taking again: what a proof stands on, what was not as it should be, and what the battery gave meanwhile; where
    nothing of that was read, the first few."""
    states = {one.item.state for one in every if one.was.verdict is Verdict.OUTSIDE}

    def wanted(one: _Read) -> bool:
        supply = _reads_supply(sheet, one.item)
        proves = conclusion.proved and one.entry.id in conclusion.basis
        return proves or one.was.verdict is Verdict.OUTSIDE or (supply and one.item.state in states)

    kept = [one for one in every if wanted(one)] or list(every)
    once: dict[Measurement, _Read] = {}
    for one in kept:  # what was read twice at one place is taken again once: as it was when it was wrong
        if one.item.test not in once or one.was.verdict is Verdict.OUTSIDE:
            once[one.item.test] = one
    return list(once.values())[:MOST_PAIRS]


def _again(entries: Sequence[Entry]) -> dict[int, Entry]:
    """By the reading's id, what it came to when it was taken again after the last repair."""
    repaired = max((e.id for e in standing(entries, "remedy")), default=0)
    return {int(e.text("of")): e for e in standing(entries, RETAKEN.name) if e.id > repaired and e.text("of").isdecimal()}


def _pair(sheet: Sheet, one: _Read, seen: tuple[Entry, Retaken] | None, supplies: Mapping[str, str]) -> Pair:
    again, after = seen or (None, None)
    differs = ""
    if after:
        supply = "" if _reads_supply(sheet, one.item) else supplies.get(one.item.state, "")
        differs = "; ".join(filter(None, (differing(one.was.reading.conditions, after.reading.conditions, units()), supply)))
    return Pair(one.entry, again, line_title(sheet, one.item), one.was, after, differs)


def _facts(record: Record, told: Sequence[OnTrace]) -> Facts:
    texts = [record.job.complaint, *(e.text("text") for e in standing(record.entries, "remedy", "complaint"))]
    built, way = "part", WAYS.get(record.state.way)
    for conclusion in record.standing_conclusions:
        one = next((t for t in told if t.docket.trace.id == conclusion.trace_id), None)
        sheet, _ = attempt(lambda one=one: one.docket.sheet) if one else (None, "")  # type: ignore[misc]
        for part in conclusion.parts:
            known = sheet.parts.get(part) if sheet else None
            guided = way.mended(part) if way else None
            built = known.kind.built if known else (guided.built if guided else "") or build_in_words(conclusion.says).name
        texts += [sheet.title] if sheet else []
    codes = any(e.kind in {kind.name for kind in CODE_KINDS} for e in standing(record.entries))
    choice = remedy_of(record.entries).choice
    return Facts(built, " . ".join(texts), codes, choice.text("way") if choice else "")
