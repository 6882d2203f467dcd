"""Hold tests: vacuum or pressure is shut in, and the gauge is watched; one port, line or corner at a time."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace

from ...base.errors import ReadingError
from ...base.judgement import judged
from ...base.quantity import show
from ...check import Limit, Verdict
from .. import cautions
from ..case import Case
from ..decide import by_number
from ..family import Check, Column, Family
from ..judged import Chart, Dot, Figures, Judged, Line, Service

PLACE = 50

HOLD_SHARE = judged("HOLD_SHARE", 0.05, "share", "of what was shut in that may be lost in a minute, where nobody gave a limit")
_DROP = Check(
    "drop",
    "lost in a minute",
    ("kPa",),
    beyond=("", "It leaks."),
    then="Hold the gauge and its hose shut by themselves first: they leak too.",
)


def _rate(start: float, end: float, minutes: float) -> float:
    """What is lost in a minute, towards the air: vacuum is below nought and rises to it."""
    if minutes <= 0.0:
        raise ReadingError("The time between both readings is nought: minutes such as 5, or 30 s, are wanted.")
    return (abs(start) - abs(end)) / minutes


def _judge(case: Case, name: str, start: float, end: float, minutes: float) -> Judged:
    resolution = case.value("resolution")
    resolution = resolution if resolution is not None else _typed(case)
    if start * end < 0.0:
        raise ReadingError("One reading is above and one below the air: give both as pressure, or both as vacuum.")
    rate = _rate(start, end, minutes)
    # Two readings of one gauge, each to half a division either way: what is lost is known to a division over the square root of six.
    u = resolution / math.sqrt(6.0) / minutes
    limit = case.given("drop") or Limit("kPa", most=max(HOLD_SHARE * abs(start), 0.0), source="common practice, no source: 5 % a minute")
    told = f"from {show(start, 'kPa')} to {show(end, 'kPa')} in {show(minutes, 'min')} is {show(rate, 'kPa')} a minute"
    check = replace(_DROP, name=name)
    judged_ = by_number(case, check, rate, u, limit, told)
    if judged_.verdict is Verdict.TOO_CLOSE and rate * minutes < 2.0 * resolution:
        longer = minutes * 4.0
        return Judged(
            name,
            judged_.verdict,
            rate,
            "kPa",
            judged_.because,
            u,
            limit=limit,
            guard=judged_.guard,
            then=f"Watch it for {show(longer, 'min')}: in {show(minutes, 'min')} this gauge cannot show so little.",
        )
    return judged_


def _typed(case: Case) -> float:
    """The worth of the last digit that was typed, where nobody told the gauge's."""
    reads = [case.read("start"), case.read("end"), *(row[name] for row in case.rows for name in ("start", "end"))]
    return max((read.measured.resolution for read in reads if read), default=1.0)


def _derive(case: Case) -> Sequence[Judged]:
    found = []
    start, end, minutes = case.value("start"), case.value("end"), case.value("minutes")
    if start is not None and end is not None and minutes is not None:
        found.append(_judge(case, "drop", start, end, minutes))
    for row in case.rows:
        found.append(_judge(case, f"drop {row['port'].typed}", row["start"].value, row["end"].value, row["minutes"].value))
    return found


def _serve(case: Case, findings: Sequence[Judged]) -> Service:
    drops = [found for found in findings if found.check.startswith("drop") and isinstance(found.value, float)]
    if not drops:
        return Service()
    fastest = max(drops, key=lambda found: float(found.value))
    start = abs(case.value("start") or next((row["start"].value for row in case.rows), 0.0))
    rate = float(fastest.value)
    half = start / 2.0 / rate if rate > 0.0 else None
    figures: Figures = {"drop_per_min": rate, "half_gone_min": half, "fastest": fastest.check}
    says = [f"At that rate half of it is gone after {show(half, 'min')}."] if half else ["Nothing was lost that the gauge can show."]
    if rate < 0.0:
        says = ["It rose: what was shut in warmed up, or the gauge still crept. Wait until it stands, and begin anew."]
    if len(drops) > 1:
        says.append(f"{fastest.check.removeprefix('drop ').capitalize()} loses the most.")
    return Service(figures, tuple(says))


def _advise(case: Case, findings: Sequence[Judged]) -> Sequence[str]:
    if any(found.verdict is Verdict.OUTSIDE for found in findings):
        return ("Wet joints with soapy water under pressure and look for bubbles; then shut line after line off to see which one it is.",)
    return ()


def _chart(case: Case, findings: Sequence[Judged]) -> Chart | None:
    start, end, minutes = case.value("start"), case.value("end"), case.value("minutes")
    if start is None or end is None or not minutes:
        return None
    drop = next((found for found in findings if found.check == "drop"), None)
    most = drop.limit.most if drop and drop.limit else 0.0
    lost = math.copysign(most * minutes, start)
    lines = (Line("read", ((0.0, start), (minutes, end))), Line("the most it may lose", ((0.0, start), (minutes, start - lost)), "good"))
    return Chart("What it lost", ("time", "min"), ("gauge", "kPa"), lines, (), (Dot(0.0, start), Dot(minutes, end)))


FAMILY = Family(
    "hold",
    "Hold test: vacuum or pressure",
    "leak leakdown hold vacuum pressure line port corner air spring servo canister tightness",
    "start",
    (
        Check("start", "what was shut in", ("kPa",), aside=True),
        Check("end", "what was left", ("kPa",), aside=True),
        Check("minutes", "how long it was watched", ("min",), aside=True),
        Check("resolution", "the worth of one division of the gauge", ("kPa",), aside=True),
    ),
    (cautions.PRESSURE, cautions.LOW_PRESSURE, cautions.VAPOUR),
    (),
    (
        Column("port", "which port, line or corner", free=True),
        Column("start", "shut in", "kPa"),
        Column("end", "left", "kPa"),
        Column("minutes", "watched", "min"),
    ),
    (_DROP,),
    aliases={"rate": "drop", "loss": "drop", "leak": "drop"},
    needed=lambda case: () if case.rows else ("start", "end", "minutes"),
    derive=_derive,
    serve=_serve,
    advise=_advise,
    chart=_chart,
    table="Port by port",
    group="Valves and air",
)
