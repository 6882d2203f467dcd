"""The plan on paper: what is to be done next on a job, with minutes, what comes off, what to bring, and what waits for whom."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from ...core.base.brief import capitalized
from ...core.job.budget import authorised_minutes
from ...core.job.proof import Pair
from ..jobs.docket import Record, docket_in
from ..jobs.visit import OnCircuit, on_circuit
from ..proof.page import Page as Proof
from ..proof.page import page_of as proof_of
from ..refit.page import Page as Refit
from ..refit.page import page_of as refit_of
from ..shell.before_after import beside
from ..shell.database import get_db
from ..shell.words import minutes_text
from .head import Head, Sealed, head_of

__all__ = ["Plan", "plan_of"]


@dataclass(frozen=True, slots=True)
class PlanStep:
    """One step: what is done, in which state, its minutes and how likely one gets to it (both empty where nobody can say), and what to
    mind."""

    title: str
    state: str = ""
    minutes: str = ""
    share: str = ""
    notes: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Section:
    """A part of the plan: its title, sentences, and steps in order."""

    title: str
    says: tuple[str, ...]
    steps: tuple[PlanStep, ...]


@dataclass(frozen=True, slots=True)
class Plan(Sealed):
    """What is to be done next."""

    head: Head
    title: str
    stands: str
    sections: tuple[Section, ...]


def plan_of(record: Record) -> Plan:
    """The plan of a job: to find it, to mend it, to prove it, whatever of these is left."""
    tracing = [on_circuit(docket_in(get_db(), record, t)) for t in record.traces if not record.concluded_on(t)]
    sections = [_searching(one, authorised_minutes(record.entries)) for one in tracing if not record.state.found]
    refit = refit_of(record)
    if refit.chosen.target is not None and not refit.chosen.done:
        sections += _mending(refit)
    if refit.chosen.target is not None:
        sections += _proving(proof_of(record))
    return Plan(head_of(record), record.job.complaint, capitalized(record.state.waits_for), tuple(sections))


def _searching(one: OnCircuit, authorised: float | None) -> Section:
    title = f"To find it: {one.docket.trace.title}"
    if one.visit is None:
        return Section(title, (one.says,), ())
    low, high = minutes_text(one.visit.low), minutes_text(one.visit.high)
    says = [f"About {minutes_text(one.visit.expected)}, mostly {low} to {high}: reckoned, not promised."]
    if one.budget is not None and authorised is not None:
        says.append(f"{authorised:.0f} min are authorised. {one.budget.says}")
    if one.bring is not None:
        says += _bring(one)
    steps = tuple(
        PlanStep(
            s.title, s.state, s.minutes, "in any case" if s.share > 0.97 else f"{s.share:.0%}".replace("%", " %"),
            (*(f"comes off: {text}" for text in s.opens), *s.cautions),
        )
        for s in one.steps
    )  # fmt: skip
    return Section(title, tuple(says), steps)


def _bring(one: OnCircuit) -> Iterator[str]:
    assert one.bring is not None
    for what, things in (
        ("Bring", (*one.bring.tools, *one.bring.supplies)), ("Order only after proof", one.bring.after_proof),
        ("Hands", (f"{one.bring.people} people",) if one.bring.people > 1 else ()),
    ):  # fmt: skip
        if things:
            yield f"{what}: {', '.join(things)}."


def _proving(proof: Proof) -> Iterator[Section]:
    again = [pair for pair in proof.proving.pairs if pair.after is None]
    steps = [PlanStep(f"Read again: {pair.title}", notes=_belongs(pair)) for pair in again]
    steps += [PlanStep(capitalized(one)) for one in proof.missing if not one.endswith("readings again")]
    if steps:
        yield Section("To prove it", (), tuple(steps))


def _belongs(pair: Pair) -> tuple[str, ...]:
    figure = beside(pair)
    return (f"{figure.numbers[0].text} before; it should be {figure.belongs}",) if figure and figure.numbers else ()


def _mending(refit: Refit) -> Iterator[Section]:
    page = refit.chosen
    if page.target is None or page.counts is None:
        return
    option, rates = page.counts, page.rates
    says = [f"{capitalized(page.target.called)}: {option.title}" + ("." if page.chosen else ", not chosen yet.")]
    if option.minutes:
        cost = "" if option.today is None else f", {rates.about(option.today)} today"
        says.append(f"{capitalized(minutes_text(option.minutes))} of work{cost}. Off the road {option.off_road}.")
    gates = tuple(PlanStep(gate.title, notes=tuple(filter(None, (gate.detail, gate.stops)))) for gate in page.left)
    yield Section("Before it is fitted", tuple(says), gates)
    fitting = tuple(PlanStep(s.title, notes=tuple(filter(None, (s.detail, s.caution)))) for s in refit.refit.left)
    if fitting:
        yield Section("To fit it", (), fitting)
