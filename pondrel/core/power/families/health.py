"""The check of two minutes: rest, crank, charge, ripple; the coldest night after which it still starts, and what is near its end."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ...base.judgement import OWN_RULE, judged
from ...base.lead_acid import charge_of, cold_factor
from ...base.quantity import show
from ...bench.case import Case
from ...bench.common import RIPPLE_MOST
from ...bench.family import Check, Family, Setting
from ...bench.judged import Chart, Dot, Figures, Judged, Line, Service
from ...check import Limit, Verdict
from .. import cautions
from ..common import PRACTICE, SYSTEM, TYPE, batteries, held, limit
from .battery import REST_LEAST, REST_SOURCE
from .charge import SCHOOLS
from .crank import CRANK_LEAST

PLACE = 60

STARTS_ABOVE = judged(
    "STARTS_ABOVE_V", 7.2, "V", "at the battery's posts below which a cold engine is no longer started for sure",
    "SAE J537, to which volts cold-cranking amperes are rated; from memory",
)  # fmt: skip
STIFFER = judged("STIFFER_PER_KELVIN", 0.012, "1/K", "by which a starter's current grows with every degree of cold")
POLARISED = judged("POLARISED_V", 0.5, "V", "of a battery's sag under a starter that is no resistance and stays in the cold")
COLDEST_ASKED = -40.0
_DOUBT = judged("COLD_DOUBT", 0.2, "share", "by which the sag in the cold may be other than reckoned", OWN_RULE)
NEAR_SHARE = judged(
    "NEAR_ITS_END", 0.25, "share", "of the way from good to its limit that is left where something is near its end", OWN_RULE
)

CHECKS = (
    Check("rest", "volts at the posts, rested", ("V",), aside=True, warm=True, beyond=("It is not charged.", ""),
          then="Charge it before anything else is judged."),
    Check("crank", "lowest volts at the posts while it starts", ("V",), aside=True, warm=True, beyond=("It sags too far.", ""),
          then="Go on with cranking: drops and amperes tell why."),
    Check("charge", "volts at the posts at raised speed", ("V",), aside=True, beyond=("It does not charge enough.", "It charges too high."),
          then="Go on with charging: the lamp first."),
    Check("ripple", "ripple at the posts, peak to peak", ("V",), aside=True, beyond=("", "A diode is gone."), then="Take a capture of it."),
    Check("draw", "draw at rest, asleep", ("A",), aside=True, beyond=("", "Something does not sleep."), then="Read across the fuses."),
)  # fmt: skip
SAME_WARMTH = 5.0  # °C by which two visits may be apart and still be as warm
# What a good one shows, and where it is at its end.
_GOOD = {"rest": 12.65, "crank": 10.6}


@dataclass(frozen=True, slots=True)
class Cold:
    """The coldest temperature (°C) at which it still starts, and the span in which that lies; at the ends of the scale it is that far at
    least."""

    celsius: float
    low: float
    high: float


def coldest(rest: float, crank: float, celsius: float) -> Cold | None:
    """The coldest start, from volts (of 12 V) at rest and lowest while cranking, at a temperature; None where it did not sag.

    Of the sag what is no resistance stays; the rest grows with the battery's ohms and with what a stiffer engine asks for. It starts as
    long as enough volts are left.
    """
    sag = rest - crank
    if sag <= 0.0:
        return None

    def where(times: float) -> float:
        at = celsius
        while at > COLDEST_ASKED and rest - times * sag_at(sag, at, celsius) >= STARTS_ABOVE:
            at -= 1.0
        return at

    return Cold(where(1.0), where(1.0 - _DOUBT), where(1.0 + _DOUBT))


def sag_at(sag: float, cold: float, warm: float) -> float:
    """A sag (V, of 12) at one temperature as it would be at a lower one."""
    fixed = min(POLARISED, sag)
    return fixed + (sag - fixed) * cold_factor(cold) / cold_factor(warm) * (1.0 + STIFFER * max(warm - cold, 0.0))


def _limits(case: Case) -> dict[str, Limit]:
    school = case.word("school") or "13.5-14.7"
    return {
        "rest": limit(case, REST_LEAST, source=REST_SOURCE), "crank": limit(case, CRANK_LEAST),
        "charge": limit(case, *SCHOOLS[school], f"{PRACTICE}: school of {school.replace('-', ' to ')}"),
        "ripple": Limit("V", most=RIPPLE_MOST, source=PRACTICE), "draw": Limit("A", most=0.05, source=f"{PRACTICE}: asleep"),
    }  # fmt: skip


def _derive(case: Case) -> Sequence[Judged]:
    usual = _limits(case)
    return [held(case, check, read, usual[check.name]) for check in CHECKS for read in case.reads.get(check.name, ())[-1:]]


def _cold(case: Case) -> Cold | None:
    rest, crank = case.read("rest"), case.read("crank")
    if rest is None or crank is None:
        return None
    celsius = next((read.noted.celsius for read in (crank, rest) if read.noted.celsius is not None), None)
    n = batteries(case)
    return None if celsius is None else coldest(rest.value / n, crank.value / n, celsius)


def _near(case: Case, findings: Sequence[Judged]) -> list[str]:
    """What is within its limit with little left."""
    n, names = batteries(case), []
    for found in findings:
        good = _GOOD.get(found.check)
        if good is None or found.verdict not in (Verdict.WITHIN, Verdict.TOO_CLOSE) or found.limit is None or isinstance(found.value, str):
            continue
        left = (found.value / n - found.limit.least / n) / (good - found.limit.least / n)
        if left < NEAR_SHARE:
            names.append({"rest": "charge", "crank": "battery or starter"}[found.check])
    return names


def _serve(case: Case, findings: Sequence[Judged]) -> Service:
    cold, near = _cold(case), _near(case, findings)
    figures: Figures = {"coldest_c": None, "coldest_low_c": None, "coldest_high_c": None, "near_its_end": ", ".join(near) or None}
    says = []
    if cold is not None:
        figures |= {"coldest_c": cold.celsius, "coldest_low_c": cold.low, "coldest_high_c": cold.high}
        if cold.celsius <= COLDEST_ASKED:
            says.append(f"It should start down to {COLDEST_ASKED:.0f} °C.")
        elif cold.celsius >= case_warmth(case):
            says.append("It hardly starts as warm as it is now.")
        else:
            says.append(f"It should still start at about {cold.celsius:.0f} °C ({cold.low:.0f} to {cold.high:.0f} °C).")
    elif case.read("crank") is not None:
        says.append("Note how warm it was beside the volts, and the coldest start can be told.")
    if near:
        says.append(f"Near its end: {', '.join(near)}.")
    rest = case.value("rest")
    if rest is not None:
        figures["charge_percent"] = round(charge_of(rest / batteries(case), None, case.word("type"))[1])
    return Service(figures, tuple(says))


def case_warmth(case: Case) -> float:
    """The temperature at which it was cranked."""
    celsius = next((read.noted.celsius for name in ("crank", "rest") if (read := case.read(name)) and read.noted.celsius is not None), None)
    return 20.0 if celsius is None else celsius


def _chart(case: Case, findings: Sequence[Judged]) -> Chart | None:
    rest, crank, cold = case.read("rest"), case.read("crank"), _cold(case)
    if rest is None or crank is None or cold is None:
        return None
    warm, n = case_warmth(case), batteries(case)
    sag = (rest.value - crank.value) / n
    steps = [warm - k * (warm - COLDEST_ASKED) / 24.0 for k in range(25)]
    lines = [
        Line(name, tuple((at, rest.value - n * times * sag_at(sag, at, warm)) for at in reversed(steps)), role)
        for name, times, role in (("reckoned", 1.0, "read"), ("at worst", 1.0 + _DOUBT, "suspect"))
    ]
    floor = Line("least that starts", ((COLDEST_ASKED, n * STARTS_ABOVE), (warm, n * STARTS_ABOVE)), "good")
    return Chart(
        "Volts left while cranking, by cold", ("outside", "°C"), ("at the posts", "V"), (*lines, floor), (), (Dot(warm, crank.value),)
    )


def _since(case: Case, then: Case) -> Sequence[str]:
    """What changed from an earlier visit, and whether that was as warm."""
    says = []
    for check in CHECKS:
        new, old = case.read(check.name), then.read(check.name)
        if new is None or old is None:
            continue
        apart = new.value - old.value
        warmth = (new.noted.celsius, old.noted.celsius)
        other = warmth[0] is not None and warmth[1] is not None and abs(warmth[0] - warmth[1]) > SAME_WARMTH
        at = f", at {warmth[0]:.0f} °C and not {warmth[1]:.0f} °C" if other else ""
        if abs(apart) > case.blur(new) + then.blur(old):
            more = "more" if apart > 0.0 else "less"
            says.append(f"{check.says[:1].upper()}{check.says[1:]}: {show(abs(apart), new.unit)} {more} than then{at}.")
    cold, before = _cold(case), _cold(then)
    if cold is not None and before is not None and abs(cold.celsius - before.celsius) >= 3.0:
        says.append(f"Coldest start {cold.celsius:.0f} °C, {before.celsius:.0f} °C then.")
    return says or ["As it was then."]


FAMILY = Family(
    "health",
    "Two-minute check",
    "health check winter rest crank charge ripple battery starter alternator",
    "rest",
    CHECKS,
    (cautions.NEUTRAL, cautions.HANDS, cautions.LEFT_ON),
    (SYSTEM, TYPE, Setting("school", "charging volts by the school of", words=tuple(SCHOOLS), usual="13.5-14.7", house="charging")),
    needed=lambda case: ("rest", "crank", "charge"),
    derive=_derive,
    serve=_serve,
    chart=_chart,
    compared=False,
    since=_since,
    group="Starting and charging",
)
