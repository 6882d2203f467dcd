"""Renewing a module and teaching the new one, in a job's record: which steps are done, what is next, and whether it is taught."""

from __future__ import annotations

import re
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass

from ..base.brief import lowered
from ..base.written import Content, EntryError, EntryField, EntryKind, Value
from ..module.chain.standing import number_said
from ..module.moving import check_all_read
from ..module.read_out import kept_codes
from ..module.roster.renewal import Renewal
from ..module.roster.roster import Module
from ..remedy.checks import CHECK
from ..renewal.just_triggers import Setting, Tried, setting_of
from ..renewal.plan import (
    FITTED,
    RESTART,
    PlanStep,
    RenewalError,
    Sort,
    accepts_part,
    accepts_word,
    cautions_of,
    check_turn,
    hazards_of_step,
    plan_of,
    value_accepted,
)
from .codes import BY_PONDREL, codes_of
from .entry import Entry, standing

__all__ = ["DONE", "FAILED", "RENEWAL_STEP", "TRIED", "Renewing", "StepStanding", "check_step", "code_says", "renewing_of", "step_content",
           "taken", "taught_by"]  # fmt: skip

DONE, FAILED, TRIED = "done", "failed", "tried"


def _reads(content: Content) -> str:
    came = {DONE: "", FAILED: "not accepted", TRIED: ""}[str(content["result"])]
    said = ", ".join(part for part in (came, str(content.get("text") or "")) if part)
    return f"{content['module']}, {content['title']}" + (f": {said}" if said else "")


def _checked(content: dict[str, Value]) -> dict[str, Value]:
    if content["result"] == FAILED and not content["text"]:
        raise EntryError("What was in the way is missing: write it down in a few words.")
    return content


RENEWAL_STEP = EntryKind(
    "renewal",
    "Renewed and taught",
    (
        EntryField("module", "The module", longest=60),
        EntryField("step", "The step", longest=60),
        EntryField("title", "What it was", longest=120),
        EntryField("result", "What came of it", choices=(DONE, FAILED, TRIED)),
        EntryField("text", "In a few words", required=False, longest=500),
        EntryField("left", "The steps of teaching that are left", required=False, longest=4),
    ),
    _reads,
    _checked,
)


@dataclass(frozen=True, slots=True)
class StepStanding:
    """How one step stands: ``result`` as it was accepted or not (empty: not yet), the words beside it and who said so; for a sensitivity
    where its search stands."""

    step: PlanStep
    result: str = ""
    text: str = ""
    person: str = ""
    setting: Setting | None = None

    @property
    def done(self) -> bool:
        """Whether it is accepted."""
        return self.result == DONE


@dataclass(frozen=True, slots=True)
class Renewing:
    """How a renewal stands: every step in its order."""

    module: Module
    steps: tuple[StepStanding, ...]

    @property
    def next(self) -> StepStanding | None:
        """The first step that is not accepted."""
        return next((one for one in self.steps if not one.done), None)

    @property
    def taught(self) -> bool:
        """Whether the module has learned all that it has to."""
        return all(one.done for one in self.steps if one.step.teaches)

    @property
    def says(self) -> str:
        """How it stands, in a sentence."""
        done = sum(one.done for one in self.steps)
        if self.next is None:
            return f"{self.module.title} is renewed, taught and proved: all {len(self.steps)} steps are accepted."
        failed = self.next.result == FAILED
        told = f"{done} of {len(self.steps)} steps are accepted."
        return f"{told} {self.next.step.title}: {self.next.text}" if failed and self.next.text else told

    def step(self, name: str) -> StepStanding:
        """The step of that name. Raises RenewalError."""
        found = next((one for one in self.steps if one.step.name == name), None)
        if found is None:
            raise RenewalError("There is no such step in this renewal: load the page again.")
        return found


def renewing_of(module: Module, entries: Sequence[Entry]) -> Renewing:
    """How the renewal of a module stands by a job's record. What comes after the fitting counts only since the last fitting: another
    module knows nothing of it."""
    own = [e for e in standing(entries, RENEWAL_STEP.name) if e.text("module") == module.title]
    fitted = max((e.id for e in own if e.text("step") == FITTED and e.text("result") == DONE), default=0)
    plan = plan_of(module)
    after = [step.name for step in plan][[step.name for step in plan].index(FITTED) + 1 :]
    late = {name: [e for e in own if e.text("step") == name and e.id > fitted] for name in after}
    early = {step.name: [e for e in own if e.text("step") == step.name] for step in plan if step.name not in late}
    checks = {e.text("check"): e for e in standing(entries, CHECK.name) if fitted and e.id > fitted}
    return Renewing(module, tuple(_standing(step, (early | late)[step.name], checks) for step in plan))


def _standing(step: PlanStep, said: Sequence[Entry], checks: Mapping[str, Entry]) -> StepStanding:
    if step.sort is Sort.CHECK:
        entry = checks.get(step.name)
        return StepStanding(step, entry.text("result"), entry.text("text"), entry.person) if entry else StepStanding(step)
    last = said[-1] if said else None
    setting = None
    if step.own is not None and step.own.sensitivity is not None:
        setting = setting_of(step.own.sensitivity, _tries(said))
    if last is None or last.text("result") == TRIED:
        return StepStanding(step, setting=setting)
    return StepStanding(step, last.text("result"), last.text("text"), last.person, setting)


_AT = re.compile(r"at (\d{1,3}): (triggers|does not)")


def _tries(said: Sequence[Entry]) -> tuple[Tried, ...]:
    """The tries since the search was begun anew the last time."""
    begun = max((place for place, entry in enumerate(said) if entry.text("result") == FAILED), default=-1)
    found = (_AT.match(entry.text("text")) for entry in said[begun + 1 :])
    return tuple(Tried(int(match[1]), match[2] == "triggers") for match in found if match)


def check_step(renewing: Renewing, name: str) -> StepStanding:
    """The step, if it is its turn. Raises RenewalError naming what comes first."""
    plan = [one.step for one in renewing.steps]
    check_turn(plan, [one.step.name for one in renewing.steps if one.done], name)
    return renewing.step(name)


def step_content(renewing: Renewing, name: str, result: str, text: str = "") -> dict[str, Value]:
    """The content of a step's line in the record, with the steps of teaching that are left after it."""
    step = renewing.step(name).step
    left = sum(not one.done and one.step.name != name for one in renewing.steps if one.step.teaches)
    left += step.teaches and result != DONE
    return {"module": renewing.module.title, "step": name, "title": step.title, "result": result, "text": text[:500], "left": str(left)}


def taken(
    renewing: Renewing, entries: Sequence[Entry], name: str, result: str, text: str, read: Collection[str]
) -> tuple[str, dict[str, Value]]:  # fmt: skip
    """What somebody says of a step, as the kind and content of its line. ``text`` is what is wanted beside it: words, a number of a part, a
    value as another tester shows it; of a sensitivity ``result`` is whether it triggers, yes or no, at the setting that is to be tried.
    ``read`` are the cautions that were seen to. Raises PondrelError with what comes first, what is missing, or why it is not accepted."""
    one = check_step(renewing, name)
    step, module = one.step, renewing.module
    check_all_read(step.title, hazards_of_step(module, step), cautions_of(module, step), read)
    if step.sort is Sort.CHECK:
        return CHECK.name, {"check": name, "result": result, "text": text}
    if step.sort is Sort.SENSITIVITY and result != FAILED:
        return RENEWAL_STEP.name, step_content(renewing, name, *_tried_at(one, result == "yes", entries, module))
    if result == DONE:
        result, text = _accepted(module, step, entries, text)
    return RENEWAL_STEP.name, step_content(renewing, name, result, text)


def _tried_at(one: StepStanding, triggers: bool, entries: Sequence[Entry], module: Module) -> tuple[str, str]:
    """The result and the words of a try at the setting that is to be tried: done with the one that finds it."""
    sensitivity = one.step.own.sensitivity if one.step.own is not None else None
    at = one.setting.next if one.setting is not None else None
    if at is None or sensitivity is None:
        raise RenewalError("No setting is left to try: begin the search again.")
    said = [e for e in standing(entries, RENEWAL_STEP.name) if (e.text("module"), e.text("step")) == (module.title, one.step.name)]
    setting = setting_of(sensitivity, (*_tries(said), Tried(at, triggers)))
    told = f"at {at}: {'triggers' if triggers else 'does not'}"
    return (DONE, f"{told}. {setting.says}") if setting.found is not None else (TRIED, told)


def _accepted(module: Module, step: PlanStep, entries: Sequence[Entry], text: str) -> tuple[str, str]:
    """The result and the words of a step that somebody says is done."""
    if step.sort is Sort.PART:
        return DONE, accepts_part((module.renewal or Renewal()).part, text)
    if step.sort is Sort.CODES:
        good, says = code_says(module, entries)
        return (DONE if good else FAILED), says
    if step.sort is Sort.DATUM and step.own is not None:
        datum = module.datum(step.own.datum)
        value = number_said(text)
        if value is None and not (step.own.word and text):
            raise RenewalError(f"{step.title}: write what another tester shows for {lowered(datum.title)}, such as 1.5.")
        good, says = value_accepted(
            step.own, datum, value if value is not None else 0.0, f"{text} {'' if step.own.word else datum.unit}".strip()
        )
        return (DONE if good else FAILED), f"{says}, by another tester"
    if step.sort in (Sort.ROUTINE, Sort.DRIVE) and not text:
        raise RenewalError(f"{step.title}: without a talk, write down with what it was done and what came of it.")
    return DONE, accepts_word(step, text)


def code_says(module: Module, entries: Sequence[Entry]) -> tuple[bool, str]:
    """Whether a module has no code since it was restarted, and what is said of it. Raises RenewalError where nobody has read since."""
    restarted = [e.id for e in standing(entries, RENEWAL_STEP.name) if e.text("module") == module.title and e.text("step") == RESTART]
    scans = [e for e in standing(entries, "scan") if e.id > max(restarted, default=0) and _is_of(module, e.text("text"))]
    if not scans:
        raise RenewalError("Read its codes first, after the restart: then it is seen whether one came back.")
    made_here = {one.code.name for one in codes_of(entries).self_made}
    last = kept_codes(scans[-1].text("codes"))
    own = [code.name for code in last if code.module in (module.title, "") and code.name not in made_here]
    return not own, f"{', '.join(own)} is there" if own else f"read out after the restart: none of {lowered(module.title)}"


def _is_of(module: Module, how: str) -> bool:
    """Whether a reading out, by how it was made, tells of a module: what was read of others alone does not."""
    return not how.startswith(BY_PONDREL) or module.title in how


def taught_by(entries: Sequence[Entry], since: int) -> Entry | None:
    """The line after which nothing of teaching was left, since a repair; None where there is none, or a later step was not accepted."""
    late = [e for e in standing(entries, RENEWAL_STEP.name) if e.id > since and e.text("result") != TRIED]
    last = late[-1] if late else None
    done = next((e for e in reversed(late) if e.text("left") == "0" and e.text("result") == DONE), None)
    return done if last is not None and last.text("result") == DONE else None
