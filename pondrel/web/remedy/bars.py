"""Money on one axis: for every way a tick for what is paid today, a dot for the average, and a bar for eight times in ten."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass

from ...core.remedy.options import Option

__all__ = ["Axis", "Bar", "axis_for"]

LEFT, RIGHT, WIDTH = 8.0, 284.0, 292.0  # pixels of the drawing, which is not scaled
_LABEL_HALF = 34.0


@dataclass(frozen=True, slots=True)
class Bar:
    """Where a way's marks stand, in pixels; ``label`` is where its average is written."""

    today: float
    average: float
    low: float
    high: float
    label: float


@dataclass(frozen=True, slots=True)
class Axis:
    """The axis that all rows share: its end, and its ticks as pixel and amount."""

    most: float
    ticks: tuple[tuple[float, float], ...]

    def at(self, amount: float) -> float:
        """Where an amount stands."""
        return LEFT + (RIGHT - LEFT) * min(max(amount / self.most, 0.0), 1.0)

    def bar(self, option: Option) -> Bar | None:
        """The marks of a way, None where nothing is reckoned."""
        if option.today is None or option.outlook is None:
            return None
        own = option.outlook
        average = self.at(own.average)
        label = min(max(average, LEFT + _LABEL_HALF), RIGHT - _LABEL_HALF)
        return Bar(self.at(option.today), average, self.at(own.low), self.at(own.high), label)


def axis_for(options: Iterable[Option]) -> Axis:
    """The axis on which all of them have their place, with three or four round ticks."""
    most = max((option.outlook.high for option in options if option.outlook), default=100.0) * 1.04
    raw = max(most, 1.0) / 4.0
    size = 10.0 ** math.floor(math.log10(raw))
    step = next(own * size for own in (1.0, 2.0, 2.5, 5.0, 10.0) if own * size >= raw)
    axis = Axis(most, ())
    return Axis(most, tuple((axis.at(k * step), k * step) for k in range(int(most / step) + 1)))
