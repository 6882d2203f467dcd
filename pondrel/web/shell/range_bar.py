"""The range bar: a number beside its limit, with the strips on both sides of every edge in which the meter cannot decide.

Positions are shares of the bar's width in percent, so that it is drawn for its real width and not scaled.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from flask import Flask

from ...core.base.quantity import show
from ...core.check import Finding

__all__ = ["RangeBar", "init_app", "range_bar"]

MARGIN = 0.18  # of the span of what is shown, on either side
LEAST_WIDTH = 0.6  # percent: a reading's own width is seen however sharp the meter
ENDS = (12.0, 88.0)  # percent: a word that stands nearer to an end than this begins or ends there


@dataclass(frozen=True, slots=True)
class Stretch:
    """From ``x`` on so ``wide``, both in percent."""

    x: float
    wide: float


@dataclass(frozen=True, slots=True)
class Mark:
    """A place at ``x`` percent, what is written there, and the anchor of the words."""

    x: float
    text: str
    anchor: str


@dataclass(frozen=True, slots=True)
class RangeBar:
    """What is allowed, its edges, the strips where the meter cannot decide, the number and its own width, others
    of the same sort (percent); ``says`` tells all of it."""

    allowed: Stretch
    edges: tuple[Mark, ...]
    strips: tuple[Stretch, ...]
    number: Mark
    width: Stretch
    says: str
    others: tuple[float, ...] = ()


def range_bar(finding: Finding, others: Sequence[float] = ()) -> RangeBar | None:
    """The bar of a finding with others of the same sort; None where there is no number that can stand beside its limit."""
    limit, value = finding.limit, finding.brought
    edges = [edge for edge in (limit.least, limit.most) if math.isfinite(edge)]
    if value is None or not math.isfinite(value) or not edges:
        return None
    alike = [other for other in others if math.isfinite(other)]
    shown = [*edges, value, *alike, *([0.0] if len(edges) == 1 else [])]
    span = (max(shown) - min(shown)) or abs(value) or 1.0
    low, high = min(shown) - MARGIN * span, max(shown) + MARGIN * span

    def x_of(number: float) -> float:
        return round(min(max(100.0 * (number - low) / (high - low), 0.0), 100.0), 1)

    def stretch(first: float, last: float) -> Stretch:
        return Stretch(x_of(first), round(x_of(last) - x_of(first), 1))

    def mark(number: float) -> Mark:
        x = x_of(number)
        return Mark(x, show(number, limit.unit), "start" if x < ENDS[0] else "end" if x > ENDS[1] else "middle")

    own = stretch(value - finding.guard, value + finding.guard)
    if own.wide < LEAST_WIDTH:
        own = Stretch(round(own.x - LEAST_WIDTH / 2.0, 1), LEAST_WIDTH)
    return RangeBar(
        stretch(max(limit.least, low), min(limit.most, high)),
        tuple(mark(edge) for edge in edges),
        tuple(stretch(edge - finding.guard, edge + finding.guard) for edge in edges),
        mark(value),
        own,
        f"{show(value, limit.unit)}, {finding.verdict}",
        tuple(x_of(other) for other in alike),
    )


def init_app(app: Flask) -> None:
    """Give the templates ``range_bar_of``."""
    app.jinja_env.globals["range_bar_of"] = range_bar
