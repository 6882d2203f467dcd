"""Capacitors by themselves, and what may go in instead: value, series resistance, leakage, look; ratings by what it is used for.

Life doubles for every ten degrees cooler (the Arrhenius rule as the trade uses it; common practice).
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

from ...base.judgement import judged
from ...base.quantity import show
from ...check import Limit, Verdict
from .. import cautions
from ..case import Case
from ..decide import by_number
from ..family import Check, Column, Family, Setting
from ..judged import Figures, Judged, Service

PLACE = 210

SOURCE = "common practice, no source"
PRINTED_WITHIN = judged("PRINTED_WITHIN", 20.0, "%", "how far an electrolytic capacitor may be from its printed value")
TIMING_WITHIN = judged("TIMING_WITHIN", 10.0, "%", "how far a capacitor that times may be from the one that belongs there")
ESR_TIMES = judged("ESR_TIMES", 2.0, "times", "what an old capacitor's series resistance may be, of a new one's")
CELSIUS_HALVING = 10.0
_OTHER = "Choose another one."
_SUB_FARADS = Check(
    "sub_farads", "the substitute's capacitance", ("F",), then=_OTHER,
    beyond=("It holds too little.", "It holds too much for what it times."),
)  # fmt: skip
_SUB_VOLTS = Check(
    "sub_volts", "the substitute's volts", ("V",), then=_OTHER, beyond=("It bears fewer volts than the old one: refused.", ""),
)  # fmt: skip
_SUB_TEMP = Check(
    "sub_temp", "the substitute's temperature", ("°C",), then=_OTHER, beyond=("It bears less heat than the old one: refused.", ""),
)  # fmt: skip
_SUB_ESR = Check(
    "sub_esr", "the substitute's series resistance", ("Ω",), then=_OTHER,
    beyond=("", "It resists more than the old one: it heats up and filters less."),
)  # fmt: skip
_SUB_LIFE = Check(
    "sub_life", "the substitute's life", ("",), then=_OTHER, beyond=("It does not last as long as the old one was made for.", ""),
)  # fmt: skip


def life_hours(rated_hours: float, rated_c: float, celsius: float) -> float:
    """Hours that it lasts at a temperature: twice as many for every ten degrees cooler.

    >>> life_hours(2000, 105, 85)
    8000.0
    """
    return float(rated_hours * 2.0 ** ((rated_c - celsius) / CELSIUS_HALVING))


def _value(case: Case) -> Limit | None:
    farads = case.known("farads")
    if not farads:
        return None
    within = TIMING_WITHIN if case.word("use") == "timing" else PRINTED_WITHIN
    high = 1.0 + (within if case.word("use") != "filter" else 50.0) / 100.0
    return Limit("F", farads * (1.0 - within / 100.0), farads * high, f"{SOURCE}: printed value, {case.word('use') or 'any use'}")


def _esr(case: Case) -> Limit | None:
    esr = case.known("esr")
    return Limit("Ω", most=ESR_TIMES * esr, source=f"{SOURCE}: {ESR_TIMES:g} times a new one's") if esr else None


def _leakage(case: Case) -> Limit | None:
    """0.01·C·U, in amperes, or 3 µA: the usual figure of makers' sheets for electrolytics."""
    farads, volts = case.known("farads"), case.known("volts")
    return Limit("A", most=max(0.01 * farads * 1e6 * volts, 3.0) * 1e-6, source=f"{SOURCE}: 0.01·C·U in µA") if farads and volts else None


def _sub_limits(case: Case) -> Mapping[str, tuple[Check, Limit | None]]:
    """By what is set of the substitute: the check and its limit; None where the old one's figure is not known."""
    farads, volts, temp, esr = (case.known(name) for name in ("farads", "volts", "temp", "esr"))
    if farads and case.word("use") == "timing":
        value = Limit(
            "F",
            farads * (1.0 - TIMING_WITHIN / 100.0),
            farads * (1.0 + TIMING_WITHIN / 100.0),
            f"the old one ± {TIMING_WITHIN:.0f} %, it times: {SOURCE}",
        )
    elif farads and case.word("use") == "filter":
        value = Limit("F", farads, source=f"the old one or more, it only filters: {SOURCE}")
    else:
        value = None
    return {
        "sub_farads": (_SUB_FARADS, value),
        "sub_volts": (_SUB_VOLTS, Limit("V", volts, source=f"the old one's volts or more: {SOURCE}") if volts else None),
        "sub_temp": (_SUB_TEMP, Limit("°C", temp, source=f"the old one's temperature or more: {SOURCE}") if temp is not None else None),
        "sub_esr": (_SUB_ESR, Limit("Ω", most=esr, source=f"the old one's or less: {SOURCE}") if esr else None),
    }


def _derive(case: Case) -> Sequence[Judged]:
    found = []
    for name, (check, limit) in _sub_limits(case).items():
        value = case.known(name)
        if value is not None:
            limit = case.given(name) or limit
            judged_ = by_number(case, check, value, 0.0, limit, f"{check.says} of {show(value, check.units[0])}")
            if limit is None and name == "sub_farads" and case.known("farads"):
                because = f"{check.says} of {show(value, 'F')}: what it is for is not said."
                then = "Say what it is for: where it times the value must be the same, where it only filters it may be more."
                judged_ = replace(judged_, because=because, then=then)
            found.append(judged_)
    if case.known("sub_life") and case.known("life"):
        found.append(
            by_number(
                case,
                _SUB_LIFE,
                case.known("sub_life") or 0.0,
                0.0,
                Limit("", case.known("life") or 0.0, source=SOURCE),
                f"{case.known('sub_life'):g} h of life",
            )
        )
    if case.word("polarity") == "reversed":
        found.append(
            Judged(
                "polarity",
                Verdict.OUTSIDE,
                "reversed",
                "",
                "Stripe and leg the wrong way round: it boils and bursts. The stripe is minus, the longer leg plus.",
                then="Turn it round before anything is powered; one that was powered reversed is scrap.",
            )
        )
    elif case.word("polarity") == "right":
        found.append(Judged("polarity", Verdict.WITHIN, "right", "", "Polarity: stripe to minus, longer leg to plus."))
    ripple, most = case.value("ripple"), case.known("ripple_most")
    if ripple is not None and most:
        read = case.read("ripple")
        assert read is not None
        found.append(
            by_number(
                case,
                Check("ripple", "", ("A",), beyond=("", "It heats itself to death.")),
                ripple,
                case.u(read),
                Limit("A", most=most, source="its own rating", kind="maker"),
                f"{show(ripple, 'A')} of ripple",
            )
        )
    return found


def _is_substitute(case: Case) -> bool:
    return any(name.startswith("sub_") for name in case.said)


def _needed(case: Case) -> Sequence[str]:
    if not _is_substitute(case):
        return ()
    wanted = ["use", "farads", "volts", "temp", "sub_farads", "sub_volts", "sub_temp"]
    return (*wanted, "sub_esr") if case.word("use") == "filter" and case.known("esr") else tuple(wanted)


def _fits(case: Case, row: Mapping[str, float]) -> bool:
    limits = _sub_limits(case)
    return all(limit is None or limit.keeps(row[name]) for name in ("farads", "volts", "temp") for _, limit in [limits[f"sub_{name}"]])


def _serve(case: Case, findings: Sequence[Judged]) -> Service:
    farads, sub, temp, sub_temp = (case.known(name) for name in ("farads", "sub_farads", "temp", "sub_temp"))
    at, life = case.number("at"), case.number("life_rated")
    figures: Figures = {
        "at_c": at,
        "life_h": None,
        "sub_life_h": None,
        "life_times": None,
        "delay_times": None,
    }
    says = []
    if temp is not None:
        figures["life_h"] = life_hours(life, temp, at)
        says.append(
            f"Rated {life:g} h at {temp:g} °C it lasts about {figures['life_h']:.0f} h at {at:g} °C: twice as long for every 10 °C cooler."
        )
    if temp is not None and sub_temp is not None:
        figures["sub_life_h"] = life_hours(case.known("sub_life") or life, sub_temp, at)
        figures["life_times"] = float(figures["sub_life_h"] or 0.0) / float(figures["life_h"] or 1.0)
        says.append(f"The substitute lasts {figures['life_times']:.3g} times as long.")
    if farads and sub and case.word("use") == "timing":
        figures["delay_times"] = sub / farads
        says.append(f"With {show(sub, 'F')} instead of {show(farads, 'F')} every delay is {sub / farads:.3g} times as long.")
    if farads:
        volts = f", {case.known('volts'):g} V or more" if case.known("volts") else ""
        heat = f", {temp:g} °C or more" if temp is not None else ""
        size = (
            "as many or more"
            if case.word("use") == "filter"
            else "the same"
            if case.word("use") == "timing"
            else "the same unless it only filters"
        )
        says.append(f"What may go in: {show(farads, 'F')} ({size}){volts}{heat}, low series resistance, the same or smaller in size.")
    if case.rows:
        kept = [row["name"].typed for row in case.rows if _fits(case, {name: row[name].value for name in ("farads", "volts", "temp")})]
        figures["fits"] = ", ".join(kept)
        says.append(f"Of what is in stock these fit: {', '.join(kept)}." if kept else "Nothing of what is in stock fits.")
    return Service(figures, tuple(says))


def _advise(case: Case, findings: Sequence[Judged]) -> Sequence[str]:
    failed = [found for found in findings if found.verdict is Verdict.OUTSIDE and not found.check.startswith("sub_")]
    says = []
    if failed:
        says.append(
            "Why did the old one fail? Read the supply for overvoltage, the ripple across it, and what heats it; age alone takes ten years."
        )
    elif case.read("farads") and not case.read("esr") and case.word("use") == "filter":
        says.append("Read its series resistance too: a filter capacitor fails there first.")
    return says


FAMILY = Family(
    "capacitor",
    "Capacitor",
    "capacitor electrolytic condenser esr leakage substitute board filter timing",
    "farads",
    (
        Check(
            "farads",
            "its capacitance, out of the circuit",
            ("F",),
            limit=_value,
            beyond=("It has dried out.", "It leaks, or is another one."),
        ),
        Check("esr", "its series resistance", ("Ω",), limit=_esr, beyond=("", "It has dried out: it filters no more.")),
        Check(
            "leakage",
            "what leaks through it at its volts",
            ("A",),
            limit=_leakage,
            beyond=("", "It leaks: delays wander, the board gets damp and warm."),
        ),
        Check(
            "look",
            "what it looks like",
            words=("whole", "bulged", "leaking", "burnt"),
            good=lambda case: "whole",
            bad="It is done for; wash the board and look for eaten tracks.",
        ),
        Check("ripple", "current that ripples through it", ("A",), aside=True),
    ),
    (cautions.DISCHARGE, cautions.STATIC, "No solvent on a coated board unless it is known to be safe.", cautions.HOT),
    (
        Setting("farads", "its printed capacitance", "F"),
        Setting("volts", "its printed volts", "V"),
        Setting("temp", "its printed temperature", "°C"),
        Setting("use", "what it is for", words=("timing", "filter")),
        Setting("esr", "series resistance of a new one of its sort", "Ω"),
        Setting("sub_farads", "the substitute's capacitance", "F"),
        Setting("sub_volts", "the substitute's volts", "V"),
        Setting("sub_temp", "the substitute's temperature", "°C"),
        Setting("sub_esr", "the substitute's series resistance", "Ω"),
        Setting("polarity", "how it is put in", words=("right", "reversed")),
        Setting("at", "how warm it is where it sits", "°C", usual=65.0, service=True),
        Setting("life_rated", "hours of life at its printed temperature", usual=2000.0, service=True),
        Setting("life", "hours of life that the old one was rated for"),
        Setting("sub_life", "hours of life that the substitute is rated for"),
        Setting("ripple_most", "ripple that it is rated for", "A"),
    ),
    (
        Column("name", "which one", free=True),
        Column("farads", "capacitance", "F"),
        Column("volts", "volts", "V"),
        Column("temp", "temperature", "°C"),
    ),
    (_SUB_FARADS, _SUB_VOLTS, _SUB_TEMP, _SUB_ESR, _SUB_LIFE),
    aliases={"capacitance": "farads"},
    needed=_needed,
    derive=_derive,
    serve=_serve,
    advise=_advise,
    kinds=("capacitor",),
    table="What is in stock",
    group="Boards and modules",
)
