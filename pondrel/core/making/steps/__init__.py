"""Steps in growing a sheet: one module a way to change it, each from a good sheet to a good sheet."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from ...base.brief import near, quoted
from ...base.errors import MakingError
from ..document import Document
from . import branch, change, copy_branch, group, lift_out, places, put_in, states
from .step import Outcome, Step

__all__ = ["STEPS", "Grown", "Outcome", "Step", "grown", "steps_on"]

STEPS: Mapping[str, Step] = {
    step.name: step for module in (put_in, branch, lift_out, change, copy_branch, places, group, states) for step in module.STEPS
}


@dataclass(frozen=True, slots=True)
class Grown:
    """A sheet's text after a step, and what the step did."""

    text: str
    outcome: Outcome


def grown(text: str, step: str, subject: str, given: Mapping[str, str]) -> Grown:
    """Take a step on a sheet's text. Raises MakingError with one sentence where it cannot be taken or would leave no good sheet."""
    if step not in STEPS:
        raise MakingError(f"{quoted(step)} is no step{near(step, STEPS)}.")
    document, chosen = Document(text), STEPS[step]
    if chosen.on == "part":
        document.part(subject)
    elif chosen.on == "node" and subject not in document.nodes():
        raise MakingError(f"No place {quoted(subject)} is on this sheet{near(subject, sorted(document.nodes()))}.")
    if not chosen.fits(document, subject):
        raise MakingError(f"{chosen.title} does not go with {document.called(subject) if chosen.on == 'part' else subject}.")
    outcome = chosen.do(document, subject, given)
    _, after = document.sheet_and_text()
    return Grown(after, outcome)


def steps_on(document: Document, on: str, subject: str) -> tuple[Step, ...]:
    """The steps that can be taken on a part, a node, a state or the sheet."""
    return tuple(step for step in STEPS.values() if step.on == on and step.fits(document, subject))
