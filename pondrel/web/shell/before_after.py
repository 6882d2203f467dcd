"""A reading before and after a repair beside the place where it belongs: two bars over one grey place, in percent of the plot."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from flask import Flask

from ...core.base.quantity import show
from ...core.bench import Judged
from ...core.check import Verdict, spelled
from ...core.job.proof import Pair
from ...core.meter.instrument import INSTRUMENTS
from ...core.remedy.again import Retaken
from .workshop import units

__all__ = ["Beside", "Number", "beside", "beside_judged", "init_app", "laid_out"]

LEAST_WIDE = 0.8  # percent: nought is seen, too


@dataclass(frozen=True, slots=True)
class Number:
    """One of the two: ``when``, its bar's width in percent, the number as it is shown, and its verdict."""

    when: str
    wide: float
    text: str
    verdict: Verdict


@dataclass(frozen=True, slots=True)
class Beside:
    """The figure of one pair: what is read, the place in percent and in words with whose it is, and the numbers."""

    title: str
    place: tuple[float, float]
    belongs: str
    source: str
    numbers: tuple[Number, ...]
    differs: str

    @property
    def says(self) -> str:
        """All of it in words, for whoever cannot see the drawing."""
        told = "; ".join(f"{one.when} {one.text}, {one.verdict}" for one in self.numbers)
        return f"{self.title}: {told}; it should be {self.belongs}"


def laid_out(
    title: str, place: tuple[float, float, str, str], numbers: Sequence[tuple[str, float, str, Verdict]], differs: str = ""
) -> Beside:
    """A figure of numbers (when, SI value, text, verdict) over the place from low to high, with its words and whose it is."""
    low, high, belongs, source = place
    shown = [abs(value) for _, value, _, _ in numbers if math.isfinite(value)]
    most = max([*shown, *(abs(edge) for edge in (low, high) if math.isfinite(edge))], default=1.0) * 1.06 or 1.0

    def wide(value: float) -> float:
        return round(min(max(100.0 * abs(value) / most, LEAST_WIDE), 100.0) if math.isfinite(value) else 100.0, 1)

    first = 0.0 if not math.isfinite(low) or low * high < 0 else 100.0 * min(abs(low), abs(high)) / most
    last = 100.0 if not math.isfinite(high) else 100.0 * max(abs(low) if math.isfinite(low) else 0.0, abs(high)) / most
    told = tuple(Number(when, wide(value), text, verdict) for when, value, text, verdict in numbers)
    return Beside(title, (round(first, 1), round(max(last - first, LEAST_WIDE), 1)), belongs, source, told, differs)


def beside(pair: Pair) -> Beside | None:
    """The figure of a pair; None where nothing of it could be worked out."""
    known = [(when, one) for when, one in (("before", pair.before), ("after", pair.after)) if one is not None]
    if pair.before is None:
        return None
    unit = INSTRUMENTS[pair.before.reading.instrument].unit
    finite = [abs(_value(one)) for _, one in known if math.isfinite(_value(one))]
    factor, prefix, digits = _scale(max(finite, default=0.0), unit)

    def text(one: Retaken) -> str:
        return "OL" if one.reading.measured.over_range else f"{_value(one) / factor:.{digits}f} {prefix}{unit}"

    numbers = [(when, _value(one), text(one), one.verdict) for when, one in known]
    return laid_out(pair.title, _place(known[-1][1], unit), numbers, pair.differs)


def beside_judged(title: str, known: Sequence[tuple[str, Judged]]) -> Beside | None:
    """The figure of findings of one check, each with when it was read: as they are at the limit's own conditions. None where it is no
    number, or has no limit."""
    first = known[0][1]
    if first.limit is None or isinstance(first.value, str):
        return None
    numbers = [(when, _brought(one), show(_brought(one), one.unit), one.verdict) for when, one in known if not isinstance(one.value, str)]
    place = (max(first.limit.least, 0.0), first.limit.most, spelled(first.limit, units()), "")
    return laid_out(title, place, numbers)


def _brought(one: Judged) -> float:
    return one.brought if one.brought is not None else float(one.value)


def _value(one: Retaken) -> float:
    return one.reading.measured.value


def _scale(most: float, unit: str) -> tuple[float, str, int]:
    """In what both numbers are told, so that they can be compared at a glance: a factor, its prefix, and digits behind the point."""
    shown = show(most, unit)
    prefix = shown.removesuffix(unit)[-1:].strip()
    factor = {"µ": 1e-6, "m": 1e-3, "k": 1e3, "M": 1e6}.get(prefix, 1.0)
    size = most / factor
    return factor, prefix if factor != 1.0 else "", 0 if size >= 100.0 else 1 if prefix == "m" and size >= 10.0 else 2


def _place(one: Retaken, unit: str) -> tuple[float, float, str, str]:
    """Where the number belongs: by the sheet's own limit, else where a sound circuit has it."""
    if one.findings:
        limit = one.findings[0].limit
        words = spelled(limit, units())
        return limit.least, limit.most, words, ""
    return one.low, one.high, f"about {show(one.should, unit)}", "as it is computed for a sound circuit"


def init_app(app: Flask) -> None:
    """Give the templates the figure."""
    app.jinja_env.globals.update(beside=beside)
