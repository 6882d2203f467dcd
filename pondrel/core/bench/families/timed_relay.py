"""Electronic timed relays: their delay, the resistor and capacitor behind it, and what another capacitor does."""

from __future__ import annotations

import math
from collections.abc import Sequence

from ...base.errors import ReadingError
from ...base.judgement import judged
from ...base.quantity import show
from ...check import Limit, Verdict
from .. import cautions
from ..case import Case
from ..decide import by_number
from ..family import COPPER, YES_NO, Check, Column, Family, Setting
from ..judged import Chart, Dot, Figures, Judged, Line, Service
from ..rc import delay_to, fitted_tau, tau_for
from .relay import PULLS_IN, SOURCE, twice

PLACE = 30

THUMB = judged("THUMB", 0.15, "s", "how far a stopwatch in the hand is off, as a standard deviation")
DELAY_WITHIN = judged("DELAY_WITHIN", 25.0, "%", "how far a relay's delay is from what its resistor and capacitor make")
_FIT = Check(
    "farads_by_curve",
    "the capacitor by the curve that was read",
    ("F",),
    beyond=("It has lost capacitance: renew it.", "It charges too slowly: the resistor has risen, or another capacitor is fitted."),
)


def _expected(case: Case) -> float | None:
    """The delay that resistor and capacitor make."""
    ohms, farads = case.known("ohms"), case.known("farads")
    if not 0.0 < case.number("threshold") < 100.0:
        raise ReadingError("The threshold is a share of the supply between 0 and 100 %, and 63.2 % where nobody knows it.")
    return delay_to(ohms * farads, case.number("threshold") / 100.0) if ohms and farads else None


def _delay(case: Case) -> Limit | None:
    expected = _expected(case)
    if expected is None:
        return None
    part = expected * DELAY_WITHIN / 100.0
    return Limit("s", expected - part, expected + part, f"its own resistor and capacitor; ± {DELAY_WITHIN:.0f} %: {SOURCE}")


def _derive(case: Case) -> Sequence[Judged]:
    ohms, farads = case.known("ohms"), case.known("farads")
    if not case.rows or not ohms:
        return ()
    tau, share = fitted_tau(case.column("seconds"), case.column("volts"), case.number("supply"))
    found = tau / ohms
    limit = case.given("farads_by_curve") or (Limit("F", 0.8 * farads, 1.2 * farads, f"printed value ± 20 %: {SOURCE}") if farads else None)
    return (
        by_number(
            case,
            _FIT,
            found,
            found * share,
            limit,
            f"the curve rises with {show(tau, 's')}, through {show(ohms, 'Ω')} that is {show(found, 'F')}",
        ),
    )


def _serve(case: Case, findings: Sequence[Judged]) -> Service:
    threshold = case.number("threshold") / 100.0
    ohms, farads, sub = case.known("ohms"), case.known("farads"), case.known("sub_farads")
    delay = case.value("delay")
    figures: Figures = {
        "tau_s": None,
        "delay_s": _expected(case),
        "farads_by_delay": None,
        "sub_delay_s": None,
    }
    says = []
    if ohms and farads:
        figures["tau_s"] = ohms * farads
        says.append(
            f"{show(ohms, 'Ω')} and {show(farads, 'F')} make {show(ohms * farads, 's')}; to "
            f"{100 * threshold:.0f} % that takes {show(_expected(case) or 0.0, 's')}."
        )
    if delay and ohms and math.isfinite(delay):
        figures["farads_by_delay"] = tau_for(delay, threshold) / ohms
        says.append(f"A delay of {show(delay, 's')} through {show(ohms, 'Ω')} is {show(tau_for(delay, threshold) / ohms, 'F')}.")
    if sub and farads:
        before = delay if delay else _expected(case)
        if before:
            figures["sub_delay_s"] = before * sub / farads
            says.append(
                f"{show(sub, 'F')} instead of {show(farads, 'F')} makes the delay "
                f"{sub / farads:.2g} times as long: {show(before * sub / farads, 's')}."
            )
        figures["sub_factor"] = sub / farads
    return Service(figures, tuple(says))


def _advise(case: Case, findings: Sequence[Judged]) -> Sequence[str]:
    says = []
    if any(found.check in ("delay", "farads_by_curve") and found.verdict is Verdict.OUTSIDE for found in findings):
        says += [
            "Measure its timing capacitor by itself, out of the circuit.",
            "A plain relay on the same pins takes over where the delay can be done without.",
        ]
    if case.answer("timing") == "no":
        says.append("No timing to be seen: the relay stage may be pulled in from elsewhere; read its pull-in and its control pin.")
    return says


def _chart(case: Case, findings: Sequence[Judged]) -> Chart | None:
    ohms, farads, supply = case.known("ohms"), case.known("farads"), case.number("supply")
    if not ohms or not farads:
        return None
    sub = case.known("sub_farads")
    end = 4.0 * ohms * max(farads, sub or 0.0)

    def curve(tau: float) -> tuple[tuple[float, float], ...]:
        return tuple((end * k / 60, supply * -math.expm1(-end * k / 60 / tau)) for k in range(61))

    lines = [Line("as it should be", curve(ohms * farads), "good")]
    if sub:
        lines.append(Line(f"with {show(sub, 'F')}", curve(ohms * sub), "suspect"))
    dots = [Dot(row["seconds"].value, row["volts"].value) for row in case.rows[:300]]
    delay = case.value("delay")
    if delay and delay <= end:
        dots.append(Dot(delay, supply * case.number("threshold") / 100.0))
    return Chart("Its capacitor charges until it switches", ("time", "s"), ("capacitor", "V"), tuple(lines), (), tuple(dots))


FAMILY = Family(
    "timed-relay",
    "Timed relay",
    "timer relay delay intermittent wiper glow time capacitor rc after-run",
    "delay",
    (
        Check(
            "delay",
            "delay by stopwatch or capture",
            ("s",),
            limit=_delay,
            beyond=(
                "It is too short: its capacitor has lost capacitance.",
                "It is too long: another capacitor is fitted, or the resistor has risen.",
            ),
        ),
        Check("timing", "there is a delay at all", words=YES_NO, bad="Its timing stage is dead, or bridged."),
        Check(
            "coil",
            "resistance of the coil",
            ("Ω",),
            law=COPPER,
            limit=lambda case: Limit("Ω", 60.0 * twice(case) ** 2, 110.0 * twice(case) ** 2, SOURCE),
        ),
        Check("pull_in", "volts at which it pulls in", ("V",), limit=lambda case: Limit("V", most=PULLS_IN * twice(case), source=SOURCE)),
        Check("repeats", "the delay is the same ten times on end", words=YES_NO, bad="A leaking capacitor makes another delay each time."),
    ),
    (cautions.UNPLUGGED, cautions.FUSED, cautions.POLARITY, cautions.DISCHARGE),
    (
        Setting("ohms", "its timing resistor", "Ω"),
        Setting("farads", "its timing capacitor, as printed", "F"),
        Setting("sub_farads", "the capacitor that would go in instead", "F"),
        Setting("threshold", "share of the supply at which it switches", "%", usual=63.2),
        Setting("supply", "volts that it is fed with", "V", usual=12.0),
        Setting("system", "what it is made for", words=("12 V", "24 V"), usual="12 V"),
    ),
    (Column("seconds", "time", "s"), Column("volts", "across the capacitor", "V")),
    (_FIT,),
    ("timing", "delay", "repeats"),
    derive=_derive,
    serve=_serve,
    advise=_advise,
    chart=_chart,
    sweep=True,
    kinds=("timed_relay",),
    group="Coils and relays",
)
