"""Potentiometers by themselves: throttle, height, lever and stick sensors, swept once from end to end."""

from __future__ import annotations

from collections.abc import Sequence

from ...base.judgement import judged
from ...base.quantity import show
from ...check import Limit
from .. import cautions
from ..case import Case
from ..decide import by_number
from ..family import YES_NO, Check, Column, Family, Setting
from ..judged import Band, Chart, Dot, Figures, Judged, Line, Service
from ..sweep import Sweep, findings_of, swept

PLACE = 70

SOURCE = "common practice, no source"
LOW_END = (
    judged("TRACK_LOW_LEAST", 0.05, "share", "of its supply that a track gives at one end at the least"),
    judged("TRACK_LOW_MOST", 0.20, "share", "of its supply that a track gives at that end at the most"),
)
HIGH_END = (
    judged("TRACK_HIGH_LEAST", 0.76, "share", "of its supply that a track gives at the other end at the least"),
    judged("TRACK_HIGH_MOST", 0.95, "share", "of its supply that a track gives at the other end at the most"),
)
_LOW = Check(
    "low",
    "the lower end stop",
    ("V",),
    beyond=("Below what the module takes for whole: it will set 'low'.", "It does not come down to its stop."),
)
_HIGH = Check(
    "high",
    "the upper end stop",
    ("V",),
    beyond=("It does not come up to its stop.", "Above what the module takes for whole: it will set 'high'."),
)
_MONOTONE = Check("monotone", "it goes one way without turning back or standing still", words=YES_NO)
_DROPOUTS = Check("dropouts", "drop-outs in the sweep", ("",))


def ends_of(case: Case, sweep: Sweep, share: float = 1.0) -> list[Judged]:
    """Both end stops by their limits; ``share`` of the usual ones for a track that gives less."""
    supply, found = case.number("supply") * share, []
    good = [sweep.y[place] for place in range(len(sweep.y)) if place not in set(sweep.dropouts)]
    for check, value, (least, most) in ((_LOW, min(good), LOW_END), (_HIGH, max(good), HIGH_END)):
        limit = case.given(check.name) or Limit("V", least * supply, most * supply, f"{SOURCE}: of {show(supply, 'V')}")
        read = next(row["volts" if "volts" in row else "one"] for row in case.rows)
        found.append(by_number(case, check, value, case.u(read), limit, f"{check.says} gives {show(value, 'V')}"))
    return found


def _sweep(case: Case) -> Sweep | None:
    return swept(case.column("angle"), case.column("volts")) if case.rows else None


def _derive(case: Case) -> Sequence[Judged]:
    sweep = _sweep(case)
    return [*findings_of(sweep, "V", "angle"), *ends_of(case, sweep)] if sweep else ()


def _serve(case: Case, findings: Sequence[Judged]) -> Service:
    sweep = _sweep(case)
    if sweep is None:
        return Service()
    where = [sweep.x[place] for place in sweep.dropouts]
    low, high = min(sweep.y), max(sweep.y)
    figures: Figures = {
        "low_v": low,
        "high_v": high,
        "first_dropout_at": where[0] if where else None,
        "dropouts": float(len(where)),
    }
    says = [f"It goes from {show(sweep.y[0], 'V')} to {show(sweep.y[-1], 'V')} over {sweep.x[-1] - sweep.x[0]:.4g} of travel."]
    if where:
        says.append(
            f"Around {where[0]:.4g} the module sees the track gone for a moment: it stumbles there, or falls back to its emergency value."
        )
    return Service(figures, tuple(says))


def _chart(case: Case, findings: Sequence[Judged]) -> Chart | None:
    sweep = _sweep(case)
    if sweep is None:
        return None
    off = set(sweep.dropouts)
    line = Line("read", tuple((sweep.x[k], sweep.y[k]) for k in range(len(sweep.x)) if k not in off))
    dots = tuple(Dot(sweep.x[k], sweep.y[k], True) for k in sweep.dropouts[:200])
    supply = case.number("supply")
    bands = (Band("lower end", LOW_END[0] * supply, LOW_END[1] * supply), Band("upper end", HIGH_END[0] * supply, HIGH_END[1] * supply))
    return Chart("The sweep", ("travel", ""), ("wiper", "V"), (line,), bands, dots)


FAMILY = Family(
    "potentiometer",
    "Potentiometer",
    "potentiometer throttle position height lever stick sweep track wiper sensor tps",
    "dropouts",
    (
        Check(
            "track",
            "resistance of the whole track",
            ("Ω",),
            limit=lambda case: Limit("Ω", 500.0, 20e3, f"{SOURCE}: usual tracks"),
            beyond=("The track is shorted or bridged.", "The track is broken."),
        ),
        Check(
            "supply_read",
            "the volts that feed it",
            ("V",),
            limit=lambda case: Limit("V", 4.9, 5.1, f"{SOURCE}: 5 V reference"),
            beyond=(
                "Something pulls the reference down: unplug the other sensors on it one by one.",
                "The reference runs too high: its ground or its module.",
            ),
        ),
    ),
    (cautions.NO_BACKFEED, cautions.DEAD),
    (Setting("supply", "volts that feed it while it is swept", "V", usual=5.0),),
    (Column("angle", "how far it was moved"), Column("volts", "at the wiper", "V")),
    (_LOW, _HIGH, _DROPOUTS, _MONOTONE),
    ("monotone", "dropouts"),
    {"ohms": "track"},
    derive=_derive,
    serve=_serve,
    chart=_chart,
    sweep=True,
    kinds=("potentiometer",),
    group="Sensors",
)
