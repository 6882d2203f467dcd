"""The whole order of renewing a module: what comes before the new one goes in, what its roster wants, and what proves it afterwards."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from enum import Enum

from ..base.brief import listed, quoted
from ..base.errors import PondrelError
from ..module.roster.renewal import Renewal, RightPart, TeachStep
from ..module.roster.roster import Datum, Module
from ..remedy.checks import CHECKS
from ..remedy.safety import safety_function

__all__ = ["FITTED", "FUNCTIONS", "NO_CODE", "OLD_READ", "RESTART", "RIGHT_PART", "PlanStep", "RenewalError", "Sort", "accepts_part",
           "accepts_word", "cautions_of", "check_turn", "hazards_of_step", "plan_of", "value_accepted"]  # fmt: skip

OLD_READ, RIGHT_PART, KEPT, FITTED, RESTART, NO_CODE, FUNCTIONS = (
    "old_read", "right_part", "kept", "fitted", "restart", "no_code", "functions",
)  # fmt: skip
_BRAKES = tuple(check for check in CHECKS if check.before_drive)


class RenewalError(PondrelError):
    """A step of renewing a module that cannot be taken as it was meant."""


class Sort(Enum):
    """What a step is accepted by."""

    TICK = "tick"
    PART = "part"
    ROUTINE = "routine"
    DATUM = "datum"
    DRIVE = "drive"
    SENSITIVITY = "sensitivity"
    AUTHORITY = "authority"
    CHECK = "check"  # one of the checks that prove a repair, which the job may have already
    CLEAR = "clear"
    CODES = "codes"
    FUNCTIONS = "functions"


@dataclass(frozen=True, slots=True)
class PlanStep:
    """One step of the order: its ``sort``, what to do and mind, what is ``wanted`` beside a tick, and the roster's ``own`` one behind it
    (None for those that every renewal has)."""

    name: str
    sort: Sort
    title: str
    detail: str = ""
    wanted: str = ""
    own: TeachStep | None = None
    hazards: tuple[str, ...] = ()
    caution: str = ""

    @property
    def teaches(self) -> bool:
        """Whether it is what the module itself has to learn."""
        return self.own is not None


def plan_of(module: Module) -> tuple[PlanStep, ...]:
    """Every step of renewing a module in its order; one without an own renewal in its roster has those that any module needs."""
    own = module.renewal or Renewal()
    steps = [
        PlanStep(OLD_READ, Sort.TICK, "Read the old one out first", "Its codes, its number and what it was told, while it still answers. "
                 "One that is silent is written down as silent.", "what it says, or that it is silent"),
        PlanStep(RIGHT_PART, Sort.PART, "The right version", _fits(own.part), "the number on the new one"),
        PlanStep(KEPT, Sort.TICK, "The old one is kept", "Labelled with vehicle and date: one goes back to it if the new one fails.",
                 "where it lies"),
        PlanStep(FITTED, Sort.TICK, "The new one is in", "Plugged and locked, fastened, its ground clean. The refit "
                 "has what else was apart.", hazards=own.hazards),
    ]  # fmt: skip
    if "steering_brakes" in _hazards(own) or safety_function(module.title) == "brakes":
        steps += [PlanStep(check.name, Sort.CHECK, check.title, check.detail) for check in _BRAKES]
    steps += [_taught(step) for step in own.steps.values()]
    steps += [
        PlanStep("cleared", Sort.CLEAR, "Its codes cleared", "Those that fitting and teaching set. They are read out once more before; "
                 "what was frozen with them and the readiness monitors are gone then."),
        PlanStep(RESTART, Sort.TICK, "Off, a minute, on again", "What it learned has to be there after a restart."),
        PlanStep(NO_CODE, Sort.CODES, "No code of its own", "Read out after the restart."),
        PlanStep(FUNCTIONS, Sort.FUNCTIONS, "Every function tried", listed(own.functions) if own.functions else "What it does, one by one.",
                 "what was tried, and that it works"),
    ]  # fmt: skip
    return tuple(steps)


def _hazards(own: Renewal) -> set[str]:
    return {name for step in own.steps.values() for name in step.hazards} | set(own.hazards)


def _fits(part: RightPart) -> str:
    told = f"One of these: {listed(part.fits, 12)}." if part.fits else "Its number against the vehicle's papers."
    return f"{told} {part.note}".strip()


def _taught(step: TeachStep) -> PlanStep:
    sort = (
        Sort.ROUTINE if step.routine else Sort.DATUM if step.datum else Sort.DRIVE if step.drive else Sort.SENSITIVITY
        if step.sensitivity else Sort.AUTHORITY if step.authority else Sort.TICK
    )  # fmt: skip
    wanted = step.wants or ("who did it, and when" if sort is Sort.AUTHORITY else "")
    detail = step.detail
    if sort is Sort.AUTHORITY and not detail:
        detail = "This needs the maker's authority. It is not done from here, and nothing here goes around it."
    return PlanStep(step.name, sort, step.title, detail, wanted, step, step.hazards, step.caution)


def _bare(number: str) -> str:
    return re.sub(r"[^0-9A-Z]", "", number.upper())


def accepts_part(part: RightPart, number: str) -> str:
    """The number as it is kept. Raises RenewalError where there is none, or it is none of those that fit."""
    text = " ".join(number.split())
    if not _bare(text):
        raise RenewalError("The number is missing: write what stands on the new one.")
    if part.fits and _bare(text) not in {_bare(own) for own in part.fits}:
        raise RenewalError(f"{quoted(text)} is not one that fits: {listed(part.fits, 12)}. Do not fit it.")
    return text


def accepts_word(step: PlanStep, text: str) -> str:
    """What was written beside a tick. Raises RenewalError where something is wanted and nothing was written."""
    if step.wanted and not text:
        raise RenewalError(f"{step.title}: write down {step.wanted}.")
    return text


def value_accepted(step: TeachStep, datum: Datum, value: float | None, says: str) -> tuple[bool, str]:
    """Whether a value is as a step wants it, and what is said of it."""
    if value is None:
        return False, f"{datum.title} is not told."
    if step.word:
        same = says.lower() == step.word.lower()
        return same, f"{datum.title}: {says}" + ("" if same else f", should be {step.word}")
    good = (step.least is None or value >= step.least) and (step.most is None or value <= step.most)
    should = _range(step, datum.unit)
    return good, f"{datum.title} {says}" + ("" if good else f", should be {should}")


def _range(step: TeachStep, unit: str) -> str:
    if step.least is not None and step.most is not None:
        return f"{step.least:g} to {step.most:g} {unit}".rstrip()
    return f"{step.least:g} {unit} or more".replace("  ", " ") if step.least is not None else f"{step.most:g} {unit} at most"


def hazards_of_step(module: Module, step: PlanStep) -> tuple[str, ...]:
    """What has to be made safe before a step, by name: its own, and those of the routine that it runs."""
    routine = module.routines.get(step.own.routine) if step.own is not None else None
    return tuple(dict.fromkeys((*step.hazards, *(routine.hazards if routine is not None else ()))))


def cautions_of(module: Module, step: PlanStep) -> tuple[str, ...]:
    """What has to be read before a step: its own caution, and that of the routine that it runs."""
    routine = module.routines.get(step.own.routine) if step.own is not None else None
    return tuple(text for text in (step.caution, routine.caution if routine is not None else "") if text)


def check_turn(plan: Sequence[PlanStep], done: Iterable[str], name: str) -> None:
    """Raises RenewalError naming what comes first, where a step is taken before its turn."""
    place = next((place for place, step in enumerate(plan) if step.name == name), None)
    if place is None:
        raise RenewalError(f"There is no step {quoted(name)} in this renewal: load the page again.")
    known = set(done)
    missing = next((step for step in plan[:place] if step.name not in known), None)
    if missing is not None:
        raise RenewalError(f"{missing.title}: that comes first.")
