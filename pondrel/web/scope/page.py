"""The scope's page: what is measured, judged and marked of a capture, and what it is laid beside."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from ...core.base.quantity import show
from ...core.scope import PATTERNS, Pattern
from ...core.scope.compare import Difference, differences, trigger_of
from ...core.scope.moved import Change, Mark, changes_at
from ...core.scope.one_by_one import Plan, Standing, opened_in, plan_from, standing
from ...core.wave.measure import QUANTITIES
from ...store.captures import CaptureRow, JudgedRow, MarkRow
from ...store.prepared import Prepared
from ..shell.letters import letter
from .open import measures_for, prepared_for

__all__ = ["Chip", "MarkShown", "Measured", "Other", "Scope", "scope_of", "undisturbed_until"]

FIRST_CHIPS = ("cycle_mean", "mean", "rms", "duty", "period", "frequency", "top", "base", "ripple")
MOST_FIRST = 6
LONGEST_CHIP = 16  # characters: a sentence is no chip


@dataclass(frozen=True, slots=True)
class Chip:
    """A judged number: what it is called, the number as it is shown, its verdict's word."""

    says: str
    text: str
    verdict: str


@dataclass(frozen=True, slots=True)
class Measured:
    """A measured number: its name, what it is called, its standard's term, the number as it is shown, give or take how much, and whether
    it is a chip from the first."""

    name: str
    says: str
    term: str
    text: str
    give: str
    first: bool


@dataclass(frozen=True, slots=True)
class MarkShown:
    """A mark with its letter and what came of it."""

    letter: str
    row: MarkRow
    change: Change


@dataclass(frozen=True, slots=True)
class Other:
    """The capture that this one is laid beside: by how much it is shifted (s) so that both begin alike, and what differs."""

    row: CaptureRow
    shift: float
    by_trigger: bool
    differences: Sequence[Difference]


@dataclass(frozen=True, slots=True)
class Scope:
    """All that the page shows of a capture, of the channel at ``place``."""

    row: CaptureRow
    prepared: Prepared
    place: int
    chips: Sequence[Chip]
    measured: Sequence[Measured]
    marks: Sequence[MarkShown]
    judged: JudgedRow | None
    pattern: Pattern | None
    other: Other | None
    things: str
    plan: Plan | None
    one_by_one: Standing | None

    @property
    def gone(self) -> Sequence[tuple[float, float]]:
        """From when to when the channel is gone (s)."""
        return self.prepared.gone[self.place]

    @property
    def outcome(self) -> Mapping[str, Any]:
        """What it came to the last time it was judged, as it was kept; empty where it was not."""
        found = self.judged.given.get("outcome") if self.judged else None
        return found if isinstance(found, dict) else {}

    @property
    def lead(self) -> Mapping[str, Any]:
        """The finding that says most; empty where it was not judged."""
        findings = self.outcome.get("findings") or [{}]
        return dict(findings[0])

    @property
    def length(self) -> str:
        """How long it is, in words."""
        return show(self.row.seconds, "s")


def scope_of(
    row: CaptureRow, channel: str, marks: Sequence[MarkRow], judged: JudgedRow | None, other: CaptureRow | None, align: str, things: str
) -> Scope:
    """The page of a capture."""
    own, chips = prepared_for(row), _chips(judged)
    place = own.channel(channel or (str(judged.given.get("channel", "")) if judged else ""))
    pattern = PATTERNS.get(judged.pattern) if judged else None
    shown = _marks(row, place, marks)
    plan = plan_from(things) if things else None
    now = standing(plan, opened_in(plan, [one.change for one in shown])) if plan is not None else None
    return Scope(
        row, own, place, chips, _measured(own, place, {chip.text for chip in chips}), shown, judged, pattern,
        _beside(row, place, other, align) if other is not None else None, things, plan, now,
    )  # fmt: skip


def _chips(judged: JudgedRow | None) -> Sequence[Chip]:
    outcome = judged.given.get("outcome") if judged else None
    found = []
    for one in outcome.get("findings", ()) if isinstance(outcome, dict) else ():
        value = one["value"]
        counted = not isinstance(value, str) and not one["unit"] and float(value).is_integer()
        text = value if isinstance(value, str) else f"{float(value):.0f}" if counted else show(float(value), one["unit"])
        if len(text) <= LONGEST_CHIP:
            found.append(Chip(one["check"], text, one["verdict"]))
    return found


def _measured(own: Prepared, place: int, shown_already: Collection[str]) -> Sequence[Measured]:
    unit, numbers = own.capture.channels[place].unit, own.numbers[place]
    first = [name for name in FIRST_CHIPS if name in numbers and not (name == "mean" and "cycle_mean" in numbers)][:MOST_FIRST]
    found = []
    for name, quantity in QUANTITIES.items():
        if name in numbers:
            value, u = numbers[name]
            text, give = quantity.shown(value, unit), quantity.shown(2.0 * u, unit)
            found.append(Measured(name, quantity.says, quantity.term, text, give, name in first and text not in shown_already))
    for number, phase in enumerate(own.phases):
        text, give = f"{phase.degrees:.3g}°, {show(phase.seconds, 's')}", f"{2.0 * phase.degrees_u:.2g}°"
        found.append(Measured(f"phase-{number}", f"{phase.other} rises after {phase.reference}", "", text, give, False))
    for number, delay in enumerate(own.delays):
        found.append(Measured(f"delay-{number}", delay.says, "", show(delay.seconds, "s"), show(2.0 * delay.u, "s"), not number))
    return found


def _marks(row: CaptureRow, place: int, marks: Sequence[MarkRow]) -> Sequence[MarkShown]:
    if not marks:
        return ()
    own = prepared_for(row)
    changes = changes_at(own.capture, own.capture.channels[place], measures_for(row, place), [Mark(mark.at, mark.says) for mark in marks])
    return [MarkShown(letter(k), mark, change) for k, (mark, change) in enumerate(zip(marks, changes, strict=True))]


def undisturbed_until(row: CaptureRow, place: int, marks: Sequence[MarkRow]) -> float:
    """Up to which time (s) a channel is what it was from the beginning: the first mark at which it changed, else its end."""
    capture = prepared_for(row).capture
    changed = (one.row.at for one in _marks(row, place, marks) if one.change.changed)
    return next(changed, capture.start + capture.seconds)


def _beside(row: CaptureRow, place: int, other: CaptureRow, align: str) -> Other:
    there = prepared_for(other)
    name = row.channels[place][0]
    second = there.channel(name)
    one, two = measures_for(row, place), measures_for(other, second)
    mine, its = trigger_of(one), trigger_of(two)
    if align != "start" and mine is not None and its is not None:
        return Other(other, mine - its, True, differences(two, one))
    return Other(other, one.start - two.start, False, differences(two, one))
