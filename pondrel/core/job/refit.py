"""How far the refit of a job is: steps ticked, cards drawn, what came off and is not back on, and what was seized for the next time."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from ..base.errors import PondrelError
from ..base.torque import torque_from
from ..base.written import Content, EntryError, EntryField, EntryKind
from ..check import Verdict
from ..circuit.unplug import ALONE
from ..evidence.registry import SORTS
from ..refit.board import VALUE
from ..refit.card import CARD, Card, card_from
from ..refit.components import COMPONENT, Component, component_from
from ..refit.step import TORQUE, Step
from ..refit.steps import BACK_ON, CAME_OFF, FITTED_STEP
from .changes import ACTION, UNPLUGGED
from .entry import Entry, standing

__all__ = [
    "FUNCTION",
    "REFIT_KINDS",
    "Refit",
    "came_off_of",
    "components_of",
    "function_list",
    "left_over",
    "refit_of",
    "tick",
    "unplugged_in",
]

FUNCTION = EntryKind(
    "function",
    "Function",
    (
        EntryField("name", "The function", longest=80),
        EntryField("when", "Before or after", choices=("before", "after")),
        EntryField("works", "Whether it works", choices=("yes", "no")),
        EntryField("text", "In a few words", required=False, longest=200),
    ),
    lambda c: f"{c['name']}, {c['when']}: {'works' if c['works'] == 'yes' else 'does not'}" + (f", {c['text']}" if c.get("text") else ""),
)
REFIT_KINDS = (CARD, CAME_OFF, FITTED_STEP, COMPONENT, FUNCTION)


@dataclass(frozen=True, slots=True)
class Refit:
    """The steps with the entry that ticks each (None while open), and the cards, the last of each title."""

    steps: tuple[tuple[Step, Entry | None], ...]
    cards: tuple[tuple[Entry, Card], ...]

    @property
    def left(self) -> tuple[Step, ...]:
        """Steps that are still open."""
        return tuple(step for step, entry in self.steps if entry is None)

    @property
    def says(self) -> str:
        """How far it is, in a few words."""
        done = len(self.steps) - len(self.left)
        return f"{done} of {len(self.steps)} steps" if self.steps else "nothing to fit"


def refit_of(entries: Sequence[Entry], steps: Sequence[Step]) -> Refit:
    """How far it is since the last conclusion."""
    concluded = max((e.id for e in standing(entries, "conclusion") if e.content.get("faulty")), default=0)
    ticked = {e.text("step"): e for e in standing(entries, FITTED_STEP.name) if e.id > concluded}
    cards: dict[str, tuple[Entry, Card]] = {}
    for entry in standing(entries, CARD.name):
        try:
            cards[entry.text("title")] = (entry, card_from(entry.content))
        except PondrelError:
            continue
    return Refit(tuple((step, ticked.get(step.name)) for step in steps), tuple(cards.values()))


def tick(step: Step, text: str, components: Sequence[Component]) -> Content:
    """A step's tick as it is written down. Raises PondrelError where it may not be ticked yet."""
    if step.must and not text:
        raise EntryError(f"{step.title}: write down {step.wanted.partition(',')[0]}.")
    if step.wanted == TORQUE and text:
        text = torque_from(text).says
    if step == VALUE and not text:
        if not components:
            raise EntryError("No part of the board is listed: write each down with what is printed on it, or why there is none.")
        for one in components:
            if one.fit is None:
                raise EntryError(f"{one.name}: what is printed on the new one is not written down yet.")
            if one.fit.verdict is not Verdict.WITHIN:
                raise EntryError(f"{one.name}: {' '.join(one.fit.says)} Fit another one, or write why it may stay.")
    return {"step": step.name, "title": step.title, "text": text}


def came_off_of(entries: Sequence[Entry]) -> tuple[str, ...]:
    """What was written down to have come off, in order."""
    return tuple(dict.fromkeys(e.text("what") for e in standing(entries, CAME_OFF.name)))


def components_of(entries: Sequence[Entry]) -> tuple[Component, ...]:
    """The components of the board that were written down, each as it was last, in the order in which they came."""
    return tuple({e.text("name"): component_from(e.content) for e in standing(entries, COMPONENT.name)}.values())


def left_over(entries: Sequence[Entry]) -> tuple[str, ...]:
    """What came off and is not ticked on again."""
    ticked = {e.text("step") for e in standing(entries, FITTED_STEP.name)}
    return tuple(name for name in came_off_of(entries) if f"{BACK_ON}{name}" not in ticked)


def unplugged_in(entries: Sequence[Entry]) -> tuple[str, ...]:
    """Names of what was unplugged on the way in: for a reading, or as something that was done."""
    found: dict[str, None] = {}
    for entry in standing(entries):
        names = entry.text("unplugged").split(",") if entry.kind in SORTS else []
        if entry.kind == ACTION.name and entry.text("deed") == UNPLUGGED:
            names = [entry.text("part")]
        found |= dict.fromkeys(name.strip().removesuffix(ALONE) for name in names if name.strip())
    return tuple(found)


def function_list(entries: Sequence[Entry]) -> Mapping[str, tuple[Entry | None, Entry | None]]:
    """By function what it did before and after, as it was written down last."""
    found: dict[str, tuple[Entry | None, Entry | None]] = {}
    for entry in standing(entries, FUNCTION.name):
        before, after = found.get(entry.text("name"), (None, None))
        found[entry.text("name")] = (entry, after) if entry.text("when") == "before" else (before, entry)
    return found
