"""Instrument regulators by themselves: those that pulse, judged as their gauges feel them, and solid ones.

A magnetic gauge follows the mean, duty × supply; a heated one the effective value, supply × √duty.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

from ...base.judgement import judged
from ...base.quantity import show
from ...check import Limit, Verdict
from .. import cautions
from ..case import Case
from ..decide import by_number
from ..family import YES_NO, Check, Family, Setting
from ..judged import Band, Chart, Figures, Judged, Line, School, Service

PLACE = 160

SOURCE = "common practice, no source"
FEEDS_WITHIN = judged("FEEDS_WITHIN", 10.0, "%", "how far what an instrument regulator gives may be from its volts")
STEADY_WITHIN = judged("STEADY_WITHIN", 5.0, "%", "how far several means of an instrument regulator may be apart")
STUCK_ON, STUCK_OFF = 98.0, 2.0  # percent of the time
_RMS = Check(
    "rms", "its effective value, which a heated gauge follows", ("V",), beyond=("The gauges read low.", "The gauges read high and burn.")
)
_BY_DUTY = Check("mean_by_duty", "its mean by duty and supply", ("V",), beyond=("The gauges read low.", "The gauges read high."))
_STEADY = Check("steadiness", "how far its means are apart", ("%",), beyond=("", "It does not hold: contacts or ground."))


def _limit(case: Case, name: str) -> Limit:
    given = case.given(name) or case.given("mean")
    nominal = case.number("volts")
    part = nominal * FEEDS_WITHIN / 100.0
    return given or Limit("V", nominal - part, nominal + part, f"{SOURCE}: {nominal:g} V ± {FEEDS_WITHIN:.0f} %")


def _heated(case: Case) -> bool:
    return case.word("gauge") == "heated"


def rms_of(case: Case) -> float | None:
    """The effective value: as read, else supply × √duty, else of a steady mean."""
    rms, supply, duty, mean = (case.value(name) for name in ("rms", "supply", "duty", "mean"))
    if rms is not None:
        return rms
    if supply and duty is None and mean is not None and case.word("sort") == "pulsing":
        duty = 100.0 * mean / supply
    if supply and duty is not None and duty >= 0.0:
        return supply * math.sqrt(min(duty, 100.0) / 100.0)
    return mean if case.word("sort") == "solid" else None


def _derive(case: Case) -> Sequence[Judged]:
    mean, supply, duty = (case.value(name) for name in ("mean", "supply", "duty"))
    found = [*_stuck(case)]
    if _heated(case):
        rms = rms_of(case)
        if rms is not None:
            told, u = _rms_words(case, rms)
            found.append(by_number(case, _RMS, rms, u, _limit(case, "rms"), told))
        elif mean is not None:
            found.append(
                Judged(
                    "rms",
                    Verdict.NOT_COMPARABLE,
                    mean,
                    "V",
                    "A heated gauge follows the effective value, and a mean alone does not tell it.",
                    then="Read the supply and the share of time that it is on, or the effective value.",
                )
            )
    else:
        read = case.read("mean")
        if read is not None and mean is not None:
            found.append(by_number(case, _MEAN, mean, case.u(read), _limit(case, "mean"), f"A mean of {show(mean, 'V')}"))
        if supply and duty is not None:
            value = supply * duty / 100.0
            u = math.hypot(_u(case, "supply") * duty / 100.0, _u(case, "duty") * supply / 100.0)
            found.append(
                by_number(
                    case,
                    _BY_DUTY,
                    value,
                    u,
                    _limit(case, "mean_by_duty"),
                    f"{duty:.3g} % of {show(supply, 'V')} is a mean of {show(value, 'V')}",
                )
            )
    means = [read.value for read in case.reads.get("mean", ())]
    if len(means) > 1:
        middle = sum(means) / len(means)
        apart = 100.0 * (max(means) - min(means)) / abs(middle) if middle else 0.0
        u = 100.0 * math.sqrt(2.0) * _u(case, "mean") / abs(middle) if middle else 0.0
        found.append(
            by_number(
                case,
                _STEADY,
                apart,
                u,
                case.given("steadiness") or Limit("%", most=STEADY_WITHIN, source=SOURCE),
                f"{len(means)} means lie {apart:.2g} % apart",
            )
        )
    return found


def _u(case: Case, name: str) -> float:
    read = case.read(name)
    return case.u(read) if read else 0.0


def _rms_words(case: Case, rms: float) -> tuple[str, float]:
    supply, duty, mean = (case.value(name) for name in ("supply", "duty", "mean"))
    if case.read("rms"):
        return f"An effective value of {show(rms, 'V')}", _u(case, "rms")
    if supply and duty:
        u = rms * math.hypot(_u(case, "supply") / supply, 0.5 * _u(case, "duty") / duty)
        return f"On {duty:.3g} % of the time at {show(supply, 'V')}, the heat is that of {show(rms, 'V')}", u
    if supply and mean:
        u = rms * 0.5 * math.hypot(_u(case, "supply") / supply, _u(case, "mean") / mean)
        return f"A mean of {show(mean, 'V')} out of pulses of {show(supply, 'V')} heats like {show(rms, 'V')}", u
    return f"A steady {show(rms, 'V')}", _u(case, "mean")


def _stuck(case: Case) -> list[Judged]:
    """On or off all the time."""
    mean, supply, duty = (case.value(name) for name in ("mean", "supply", "duty"))
    share = duty if duty is not None else 100.0 * mean / supply if mean is not None and supply else None
    if share is None or STUCK_OFF < share < STUCK_ON:
        return []
    on = share >= STUCK_ON
    because = "It is stuck on: the gauges get the whole supply, read high and burn." if on else "It is stuck off: no gauge on it moves."
    then = "Pull its feed before the gauges burn, then renew it." if on else "Read its feed and its ground before it is renewed."
    return [Judged("stuck", Verdict.OUTSIDE, "on" if on else "off", "", because, then=then)]


def _serve(case: Case, findings: Sequence[Judged]) -> Service:
    mean, supply, duty = (case.value(name) for name in ("mean", "supply", "duty"))
    if mean is None and supply and duty is not None:
        mean = supply * duty / 100.0
    rms = rms_of(case)
    nominal = case.number("volts")
    figures: Figures = {"mean_v": mean, "rms_v": rms, "duty": duty, "gauge_share": None}
    felt = rms if _heated(case) else mean
    says = []
    if felt is not None and nominal:
        share = (felt / nominal) ** 2 if _heated(case) else felt / nominal
        figures["gauge_share"] = share
        says.append(
            f"{case.word('gauge').capitalize()} gauges feel {show(felt, 'V')} where {show(nominal, 'V')} belong: they get "
            f"{100 * share:.0f} % of their {'heat' if _heated(case) else 'pull'}."
        )
    return Service(figures, tuple(says))


def _advise(case: Case, findings: Sequence[Judged]) -> Sequence[str]:
    says = []
    if case.word("sort") == "pulsing":
        says.append("It pulses only while it is loaded: read it with a gauge connected.")
    if any(found.verdict is Verdict.OUTSIDE for found in findings):
        says.append("Its case is its ground on many: read the drop from its case to the battery before it is renewed.")
    return says


def _schools(case: Case) -> Sequence[School]:
    """What a magnetic and what a heated gauge would make of it."""
    supply, duty, mean = (case.value(name) for name in ("supply", "duty", "mean"))
    if mean is None and supply and duty is not None:
        mean = supply * duty / 100.0
    rms, ways = rms_of(case), []
    for name, value, check in (("With magnetic gauges", mean, _MEAN), ("With heated gauges", rms, _RMS)):
        limit = _limit(case, check.name)
        verdict = by_number(case, check, value, 0.0, limit, "").verdict if value is not None else None
        ways.append(
            School(name, f"{show(value, 'V')} of {show(case.number('volts'), 'V')}" if value is not None else "", limit.source, verdict)
        )
    return ways


def _chart(case: Case, findings: Sequence[Judged]) -> Chart | None:
    supply, duty, mean = (case.value(name) for name in ("supply", "duty", "mean"))
    if supply and duty is None and mean is not None:
        duty = 100.0 * mean / supply
    if not supply or duty is None or not 0.0 < duty < 100.0:
        return None
    share = duty / 100.0
    pulses = tuple(point for k in range(3) for point in ((k, 0.0), (k, supply), (k + share, supply), (k + share, 0.0)))
    lines = (
        Line("its pulses", tuple((float(x), float(y)) for x, y in (*pulses, (3, 0.0))), "good"),
        Line("mean", ((0.0, supply * share), (3.0, supply * share)), "read"),
        Line("as heat", ((0.0, supply * math.sqrt(share)), (3.0, supply * math.sqrt(share))), "suspect"),
    )
    limit = _limit(case, "rms" if _heated(case) else "mean")
    return Chart("What the gauges get", ("pulses", ""), ("output", "V"), lines, (Band("should be", limit.least, limit.most),))


_MEAN = Check(
    "mean", "its mean, which a magnetic gauge follows", ("V",), aside=True, beyond=("The gauges read low.", "The gauges read high.")
)

FAMILY = Family(
    "regulator",
    "Instrument regulator",
    "instrument voltage stabiliser regulator bimetal gauge supply 5 v 10 v pulsing",
    "mean",
    (
        _MEAN,
        Check("duty", "share of the time that it is on", ("%",), aside=True),
        Check("supply", "the volts that feed it", ("V",), aside=True),
        Check("rms", "its effective value", ("V",), aside=True),
        Check(
            "ground",
            "drop from its case to the battery",
            ("V",),
            limit=lambda case: Limit("V", most=0.1, source=SOURCE),
            beyond=("", "Its ground is bad: it gives too much."),
        ),
        Check("moves", "a needle moves within a minute", words=YES_NO, bad="No needle moves."),
    ),
    (cautions.FUSED, cautions.POLARITY, cautions.HOT),
    (
        Setting("gauge", "what its gauges are", words=("magnetic", "heated"), usual="magnetic"),
        Setting("volts", "what it should give", "V", usual=5.0),
        Setting("sort", "what it is", words=("pulsing", "solid"), usual="pulsing"),
    ),
    (),
    (_RMS, _BY_DUTY, _STEADY),
    ("moves",),
    {"average": "mean"},
    derive=_derive,
    serve=_serve,
    advise=_advise,
    chart=_chart,
    schools=_schools,
    kinds=("bimetal_regulator",),
    group="Gauges",
)
