"""Readings over time at one place: one event with a trend, of which the last number counts.

A battery that is charged, a bearing that warms, a capacitor that fills: what was read at first does not contradict what is read later. Only
readings whose time was noted are taken so; two without one are two readings.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..base.quantity import show
from ..circuit.unplug import in_words
from ..meter.instrument import uncertainty_at
from .asked import Measurement
from .items import Item, Observation, Reading

__all__ = ["EARLIER", "Trend", "lasting", "trends"]

EARLIER = "earlier"  # the sort of what an earlier reading becomes
_STEADY = 2.0  # standard uncertainties of the difference by which a number must change


@dataclass(frozen=True, slots=True)
class Trend:
    """Readings of one test at several times: their numbers (counted from 0, in the order of time), how long they span (minutes), the first
    and the last value (SI), and what that is in words."""

    test: Measurement
    numbers: tuple[int, ...]
    minutes: float
    first: float
    last: float
    says: str

    def as_json(self) -> dict[str, object]:
        """The command line's answer, its readings counted from 1."""
        return {
            "instrument": self.test.instrument, "red": self.test.red, "black": self.test.black, "state": self.test.state,
            "readings": [number + 1 for number in self.numbers], "minutes": self.minutes, "first": self.first, "last": self.last,
            "says": self.says,
        }  # fmt: skip


def trends(items: Sequence[Item]) -> tuple[Trend, ...]:
    """Every series of readings of one test at different times, in the order of their first one."""
    series: dict[tuple[Measurement, bool], list[tuple[float, int]]] = {}
    for number, item in enumerate(items):
        if isinstance(item, Reading) and item.conditions.minutes is not None:
            series.setdefault((item.test, item.elsewhere), []).append((item.conditions.minutes, number))
    return tuple(_trend(items, sorted(own)) for own in series.values() if len({minutes for minutes, _ in own}) > 1)


def lasting(items: Sequence[Item]) -> tuple[Item, ...]:
    """The items with every earlier reading of a series as one that says nothing about faults: as many, in the same order."""
    gone: dict[int, Trend] = {}
    for trend in trends(items):
        times = {number: _minutes(items[number]) for number in trend.numbers}
        gone.update({number: trend for number, minutes in times.items() if minutes < max(times.values())})
    return tuple(
        Observation(EARLIER, item.red, EARLIER, item.state, gone[number].says) if number in gone and isinstance(item, Reading) else item
        for number, item in enumerate(items)
    )


def _minutes(item: Item) -> float:
    assert isinstance(item, Reading) and item.conditions.minutes is not None
    return item.conditions.minutes


def _trend(items: Sequence[Item], timed: list[tuple[float, int]]) -> Trend:
    first, last = (items[timed[place][1]] for place in (0, -1))
    assert isinstance(first, Reading) and isinstance(last, Reading)
    span = timed[-1][0] - timed[0][0]
    values = first.measured.value, last.measured.value
    where = f"between {last.red} and {last.black}" + (f" {in_words(', '.join(last.without))}" if last.without else "")
    unit = last.meter.unit
    shown = ["OL" if not np.isfinite(value) else show(value, unit) for value in values]
    if not np.isfinite(values).all():
        how = f"went from {shown[0]} to {shown[1]}" if values[0] != values[1] else "stayed OL"
    else:
        blur = float(np.hypot(*(uncertainty_at(last.meter, np.array(value)) for value in values)))
        change = values[1] - values[0]
        moved = "rose" if change > 0.0 else "fell"
        how = f"stayed at {shown[1]}" if abs(change) <= _STEADY * blur else f"{moved} from {shown[0]} to {shown[1]}"
    says = f"{last.instrument.capitalize()} {where} {how} in {_span(span)}; the last number counts."
    return Trend(last.test, tuple(number for _, number in timed), span, *values, says)


def _span(minutes: float) -> str:
    if minutes < 2.0:
        return f"{60.0 * minutes:.3g} s"
    return f"{minutes:.3g} min" if minutes < 120.0 else f"{minutes / 60.0:.3g} h"
