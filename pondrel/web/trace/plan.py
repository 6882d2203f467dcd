"""The plan as an outline: the next few tests, under each what its outcomes would mean and what comes then."""

from __future__ import annotations

import math
from dataclasses import dataclass

from ...core.circuit.sheet import Sheet
from ...core.isolate import Alternative, Node, percent
from ..shell.titles import title_of
from ..shell.words import minutes_text, reading_text

__all__ = ["Outcome", "Plan", "Step", "plan_of"]

AS_GOOD_AS_NAMED = 0.95


@dataclass(frozen=True, slots=True)
class Step:
    """A test, called by its ``title`` with a ``note`` on state and minutes, and its outcomes; or an end of the plan, without outcomes:
    ``sure`` where one target is as good as named."""

    title: str
    note: str
    outcomes: tuple[Outcome, ...]
    sure: bool = False


@dataclass(frozen=True, slots=True)
class Outcome:
    """What a test shows, how likely that is as text, and what comes then."""

    text: str
    share: str
    then: Step


@dataclass(frozen=True, slots=True)
class Order:
    """An order of attack: its name, words for it, the test that it begins with, and the minutes expected."""

    name: str
    words: str
    begins: str
    minutes: str


@dataclass(frozen=True)
class Plan:
    """The outline, and the orders of attack side by side."""

    first: Step
    orders: tuple[Order, ...]


def plan_of(sheet: Sheet, root: Node, orders: tuple[Alternative, ...]) -> Plan:
    """The plan in words."""
    shown = tuple(Order(o.name, o.words, title_of(sheet, o.test) if o.test else "", f"{o.minutes:.0f} min") for o in orders)
    return Plan(_step(sheet, root), shown)


def _step(sheet: Sheet, node: Node) -> Step:
    if node.test is None or not node.branches:
        names = [f"{sheet.parts[name].called if name else 'nothing wrong'} {percent(p)}" for name, p in node.targets[:2]]
        sure = bool(node.targets) and node.targets[0][1] >= AS_GOOD_AS_NAMED
        return Step(" or ".join(names) or "open", "then prove it" if sure else "", (), sure)
    test = node.test
    note = ", ".join(filter(None, (test.state, minutes_text(node.minutes))))
    outcomes = tuple(
        Outcome(b.word or _range(b.low, b.high, test.instrument), percent(b.share), _step(sheet, b.then)) for b in node.branches
    )
    return Step(title_of(sheet, test), note, outcomes)


def _range(low: float, high: float, meter: str) -> str:
    if math.isinf(low) and low < 0:
        return f"below {reading_text(high, meter)}"
    if math.isinf(high):
        return f"above {reading_text(low, meter)}"
    return f"{reading_text(low, meter).split(' ')[0]} to {reading_text(high, meter)}"
