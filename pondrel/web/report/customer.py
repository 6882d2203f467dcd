"""The customer's page: what was told, what was found, how that is known, what was done, and what to watch."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from ...core.base.brief import capitalized
from ...core.check import Verdict
from ...core.job.complaint import told_of
from ...core.job.entry import standing
from ...core.job.marks import marks_of
from ...core.job.refit import components_of
from ...core.job.remedy import REMEDY
from ...core.job.report import ADVICE
from ...core.remedy.gates import DONE, FOUND, KILLED
from ...core.remedy.money import Rates, amount_from
from ...core.remedy.options import times_in_words, years_in_words
from ...store.conclusions import Conclusion
from ...store.files import file_path, photos_of
from ...store.mended import fitted_by_repair
from ...store.photos import size_of
from ...store.rates import rates_of
from ...store.vehicle_entries import ledger_of
from ..jobs.docket import Record, docket_in
from ..jobs.files import data_folder
from ..proof.page import Page as Proof
from ..proof.page import page_of as proof_of
from ..remedy.page import Page as Remedy
from ..remedy.page import Wanted
from ..remedy.page import page_of as remedy_of
from ..shell.attempt import attempt
from ..shell.before_after import Beside, beside
from ..shell.database import get_db
from ..shell.workups import workups
from .head import Head, Sealed, head_of

__all__ = ["ON_THE_PAGE", "Customer", "Picture", "customer_of"]

# What can be left off the customer's page, and how it is called.
ON_THE_PAGE: Mapping[str, str] = {
    "readings": "Readings before and after", "pictures": "Pictures", "price": "Price", "claim": "Warranty claim note",
}  # fmt: skip
MOST_PICTURES = 3


@dataclass(frozen=True, slots=True)
class Picture:
    """A picture of the record: its digest and size in pixels, what is written beneath it, and its marks as shares of width and height."""

    digest: str
    words: str
    width: int
    height: int
    marks: tuple[tuple[float, float], ...]


@dataclass(frozen=True, slots=True)
class Customer(Sealed):
    """The customer's page, in the order in which it is read."""

    head: Head
    title: str
    told: tuple[str, ...]
    found: tuple[tuple[str, str], ...]
    showed: str
    figures: tuple[Beside, ...]
    notes: tuple[str, ...]
    done: tuple[str, ...]
    watch: tuple[str, ...]
    pictures: tuple[Picture, ...]
    tried: str
    claim: tuple[str, ...]
    proved: bool


def customer_of(record: Record, shows: frozenset[str]) -> Customer:
    """The customer's page with what is to be ``shown`` of `ON_THE_PAGE`."""
    proof, remedy, rates = proof_of(record), remedy_of(record, Wanted()), rates_of(get_db())
    told = told_of(record.entries)
    words = (record.job.complaint, record.job.conditions, told.says if told else "", told.text if told else "",
             f"Done before: {told.before}" if told and told.before else "")  # fmt: skip
    read = tuple(figure for pair in proof.proving.pairs if (figure := beside(pair)) is not None)
    figures = (*read, *proof.way_figures, *(figure for one in proof.benched for figure in one.figures))
    words_of_both = tuple(says for one in proof.benched for says in one.words)
    return Customer(
        head_of(record),
        record.job.complaint,
        tuple(_sentence(text) for text in words if text),
        tuple(_found(record, conclusion) for conclusion in record.standing_conclusions if conclusion.parts),
        (_showed((*read, *proof.way_figures)) or " ".join(_sentence(one.old.says) for one in proof.benched)) if "readings" in shows else "",
        figures if "readings" in shows else (),
        (*words_of_both, *_notes(figures)) if "readings" in shows else (),
        _done(record, remedy, rates, "price" in shows),
        _watch(record, remedy),
        _pictures(record) if "pictures" in shows else (),
        _tried(proof),
        _claim(remedy, figures) if "claim" in shows else (),
        proof.proving.works,
    )


def _sentence(text: str) -> str:
    whole = capitalized(text)
    return whole if whole.endswith((".", "!", "?")) else f"{whole}."


def _found(record: Record, conclusion: Conclusion) -> tuple[str, str]:
    """What was found, as a heading and what it did."""
    trace = next((trace for trace in record.traces if trace.id == conclusion.trace_id), None)
    found, _ = attempt(lambda: _found_on(record, conclusion)) if trace else (None, "")
    return found or (_sentence(conclusion.says.partition(" (")[0]), "" if conclusion.proved else _unproved(conclusion))


def _unproved(conclusion: Conclusion) -> str:
    return f"Not proved by the readings alone: {_sentence(conclusion.reason)}" if conclusion.reason else ""


def _found_on(record: Record, conclusion: Conclusion) -> tuple[str, str] | None:
    trace = next(trace for trace in record.traces if trace.id == conclusion.trace_id)
    docket = docket_in(get_db(), record, trace)
    based = [entry for entry in docket.standing if entry.id < conclusion.id]
    isolation = workups().isolation(docket.stored_sheet, workups().items(docket.stored_sheet, based))
    suspect = next((s for s in isolation.suspects if s.part in conclusion.parts), None)
    if suspect is None or suspect.part is None:
        return None
    called = " or ".join(docket.sheet.parts[part].called for part in conclusion.parts)
    return _sentence(f"{called}: {suspect.words}"), "" if conclusion.proved else _unproved(conclusion)


def _showed(figures: Sequence[Beside]) -> str:
    """The number that showed it, beside where it belongs: of those outside the last that was read."""
    odd = [figure for figure in figures if figure.numbers and figure.numbers[0].verdict is Verdict.OUTSIDE]
    if not odd:
        return ""
    last = odd[-1]
    return f"{last.numbers[0].text} was read where {last.belongs.partition(' (')[0]} belongs."


def _notes(figures: Sequence[Beside]) -> tuple[str, ...]:
    """What is to be known of the figures: whose limits, and what was not the same on both days."""
    differs = [f"{figure.title}: {figure.differs}" for figure in figures if figure.differs]
    after = any(len(figure.numbers) > 1 for figure in figures)
    same = () if not after else (f"Not the same on both days: {'; '.join(differs)}.",) if differs else ("Read under the same conditions.",)
    return ("Grey: where the number belongs.", *same) if figures else ()


def _done(record: Record, remedy: Remedy, rates: Rates, price: bool) -> tuple[str, ...]:
    found = []
    for entry in standing(record.entries, REMEDY.name):
        found.append(_sentence(entry.text("text")))
        paid, _ = attempt(lambda entry=entry: amount_from("What it cost", entry.text("paid")))  # type: ignore[misc]
        own = ", ".join(
            filter(None, (f"{entry.text('minutes')} minutes" if entry.text("minutes") else "", rates.exact(paid) if paid and price else ""))
        )
        found += [_sentence(own)] if own else []
    for gate in remedy.gates:
        if gate.name.startswith(KILLED) and gate.met is not None and gate.met.result == FOUND:
            found.append(_sentence(f"why it failed: {gate.name.removeprefix(KILLED)}. {capitalized(gate.met.text)}"))
    found += [_sentence(f"{one.name} on its board renewed: {one.new}") for one in components_of(record.entries) if one.new]
    for line in fitted_by_repair(get_db(), record.vehicle.id, record.job.id):
        if line.helped != "no" and line.how != "repaired":
            months = f", {line.months} months warranty" if line.months else ""
            found.append(_sentence(f"{line.part}: {line.how}" + (f", from {line.source}" if line.source else "") + months))
    chosen = remedy.chosen
    if chosen is not None and not chosen.way.cures:
        found.append(f"This is no repair. {chosen.way.limits}")
        agreed = remedy.remedy.agreed
        found += [_sentence(f"Agreed by {agreed.person}" + (f": {agreed.text}" if agreed.text else ""))] if agreed else []
    return tuple(found)


def _watch(record: Record, remedy: Remedy) -> tuple[str, ...]:
    found = [_sentence(e.text("text")) for e in standing(record.entries, ADVICE.name)]
    chosen = remedy.chosen
    if chosen is not None and not chosen.way.cures:
        found.append("The fault is still there: its repair is still to be done.")
    within = f"within {years_in_words(remedy.wanted.years)}"
    if chosen is not None and chosen.outlook is not None and times_in_words(chosen.returns) != "hardly ever":
        found.append(f"Such a repair comes back {times_in_words(chosen.returns)} {within}. Then call us.")
    if remedy.target is not None and chosen is not None:
        others = [m.called for m in remedy.target.members if m not in chosen.members and not m.spared]
        found += [f"As old as it, and left in: {', '.join(others)}."] if others else []
        likely = max((chance for name, chance in chosen.left if name in others), default=0.0)
        found += [f"Such a part at that age fails {times_in_words(likely)} {within}."] if times_in_words(likely) != "hardly ever" else []
    for line in ledger_of(get_db(), record.vehicle.id):
        if line.job_id == record.job.id and line.helped == "no" and line.how != "repaired":
            found.append(f"The {line.part} fitted {line.when} did not help; it stays in.")
    return tuple(found)


def _pictures(record: Record) -> tuple[Picture, ...]:
    photos = photos_of(get_db(), record.job.id)
    found = []
    for entry in standing(record.entries):
        for digest, name in entry.files:
            if digest in photos:
                marks = marks_of(record.entries, digest)
                said = "; ".join(f"{n} {mark.words}" for n, mark in enumerate(marks, 1))
                words = (said or entry.text("note") or entry.text("text") or name)[:120]
                path = file_path(data_folder(), digest)
                size, _ = attempt(lambda path=path: size_of(path.read_bytes()))  # type: ignore[misc]
                found += [Picture(digest, words, *size, tuple((m.x, m.y) for m in marks))] if size else []
    return tuple(found[:MOST_PICTURES])


def _tried(proof: Proof) -> str:
    tries, proving = proof.proving.tries, proof.proving.proof
    done = [(check, seen) for check, seen in proof.proving.checks if seen is not None and seen.result == DONE]
    functions = [seen.text for check, seen in done if check.name == "functions" and seen.text]
    told = f" Functions tried one by one: {functions[0]}." if functions else ""
    besides = [f"{check.title[0].lower()}{check.title[1:]}" for check, _ in done if check.name not in ("functions", "saved", "cleared")]
    told += f" Seen besides: {'; '.join(besides)}." if besides else ""
    if tries.good and not tries.bad:
        times = "once" if tries.good == 1 else f"{tries.good} times"
        return f"Tried {times} afterwards, good {'then' if tries.good == 1 else 'every time'}.{told}"
    return _sentence(proving.text("text")) if proving and proof.proving.works and proving.text("text") else ""


def _claim(remedy: Remedy, figures: Sequence[Beside]) -> tuple[str, ...]:
    """The note for whoever gave the warranty: what was fitted when, and the readings that prove that it failed."""
    found = []
    for failed in (target.failed for target in remedy.targets):
        line, warranty = failed.fitted, failed.warranty
        if line is not None and warranty is not None and warranty.stands:
            at = f" at {line.at}" if line.at else ""
            found.append(f"{line.part}, {line.how}, fitted {line.when}{at}" + (f", from {line.source}" if line.source else ""))
            found.append(f"Under warranty: {warranty.says}.")
    if not found:
        return ("No part that was found faulty is under warranty.",)
    proofs = [f"{f.title}: {f.numbers[0].text}, {f.numbers[0].verdict}; it should be {f.belongs}" for f in figures if f.numbers]
    return (*found, *proofs)
