"""Coils by themselves: solenoids, clutches, injectors, valves' windings."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import replace

from ...base.conditions import Conditions
from ...base.judgement import judged
from ...base.quantity import show
from ...check import Limit, Verdict, around
from .. import cautions
from ..case import Case
from ..decide import by_number
from ..family import COPPER, YES_NO, Check, Family, Setting
from ..judged import Chart, Judged, Service
from ..winding import SETTINGS, chart_of, good_ohms_of, ohms_at, serve_of, winding_of

PLACE = 10

# By sort: what windings of its kind have, Ω. Common practice, no source: the maker's limit goes before.
USUAL: Mapping[str, tuple[float, float]] = {
    "shift solenoid": (11.0, 15.0),
    "lock-up solenoid": (15.0, 25.0),
    "compressor clutch": (3.0, 4.5),
    "injector": (11.0, 17.0),
    "valve": (15.0, 40.0),
    "relay coil": (60.0, 110.0),
}
CASE_OHMS = judged("CASE_OHMS", 100e3, "Ω", "what a winding has to its case at the least")
LEADS_GOOD_OHMS = judged("LEADS_GOOD_OHMS", 0.5, "Ω", "what leads and clips have at the most that can be measured with")
NOMINAL_WITHIN = judged("COIL_NOMINAL_WITHIN", 10.0, "%", "how far a winding may be from the ohms that it should have")
PULL_IN_MOST = judged("BENCH_PULL_IN", 9.0, "V", "a cold 12 V solenoid or clutch pulls in at this at most")
HOT_RISE_WITHIN = judged("HOT_RISE_WITHIN", 5.0, "%", "how far hot ohms may be from what copper makes of the cold ones")


def _usual(case: Case) -> Limit | None:
    nominal = case.known("nominal")
    if nominal:
        return around(nominal, NOMINAL_WITHIN, "Ω", f"{nominal:g} Ω ± {NOMINAL_WITHIN:.0f} % at 20 °C: common practice, no source",
                      conditions=Conditions(celsius=20.0))  # fmt: skip
    least, most = USUAL.get(case.word("sort"), (0.0, 0.0))
    return Limit("Ω", least, most, f"common practice, no source: {case.word('sort')}") if most else None


def _good(case: Case) -> float | None:
    return good_ohms_of(case, "ohms", _usual(case))


_MARGIN = Check("margin", "volts to spare when hot", ("V",), beyond=("On the vehicle it stays out, or lets go when hot.", ""))
_RISE = Check(
    "hot_rise",
    "how far the hot ohms are from what copper makes of the cold ones",
    ("%",),
    beyond=(
        "Hot it has fewer ohms than copper can: turns touch when it is warm.",
        "Hot it has more ohms than copper makes: a joint inside opens when it is warm.",
    ),
)


def _derive(case: Case) -> Sequence[Judged]:
    found = []
    own = winding_of(case)
    pulled = case.read("pull_in")
    if own and pulled and own.pull_amps and case.said & {"joint", "gap", "supply", "hot"}:
        hot, supply = case.number("hot"), case.number("supply")
        needed = own.volts_needed(hot) or 0.0
        u = case.u(pulled) * needed / pulled.value if pulled.value else 0.0
        told = f"at {hot:.4g} °C it needs {show(needed, 'V')}, and {show(supply, 'V')} are there"
        limit = Limit("V", least=0.0, source="common practice, no source: it must pull in when hot")
        margin = by_number(case, _MARGIN, supply - needed, u, limit, told)
        beyond = f" {_MARGIN.beyond[0]}" if margin.verdict is Verdict.OUTSIDE else ""
        found.append(replace(margin, because=f"{told}: {_spare(supply - needed)}.{beyond}"))
    hot_read, read = case.read("hot_ohms"), case.read("ohms")
    if hot_read and read and not (hot_read.measured.over_range or read.measured.over_range):
        found += _rise(case)
    return found


def _spare(volts: float) -> str:
    return f"{volts:.2f} V to spare" if volts >= 0.0 else f"{-volts:.2f} V too few"


def _rise(case: Case) -> list[Judged]:
    hot, cold = case.read("hot_ohms"), case.read("ohms")
    assert hot is not None and cold is not None
    if hot.noted.celsius is None or cold.noted.celsius is None:
        return [
            Judged(
                "hot_rise",
                Verdict.NOT_COMPARABLE,
                hot.value,
                "Ω",
                "cold and hot ohms want their temperatures beside them.",
                then="Note how warm it was at both readings, as in 14.2 @70C.",
            )
        ]
    expected = ohms_at(case.net(cold), cold.noted.celsius, hot.noted.celsius)
    if expected <= 0.0:
        return []
    share = 100.0 * (case.net(hot) / expected - 1.0)
    u = 100.0 * math.hypot(case.u(hot) / expected, case.net(hot) * case.u(cold) / (expected * case.net(cold)))
    told = f"at {hot.noted.celsius:.4g} °C copper makes {show(expected, 'Ω')} of it and {show(case.net(hot), 'Ω')} are read, {share:+.1f} %"
    limit = Limit("%", -HOT_RISE_WITHIN, HOT_RISE_WITHIN, "copper by IEC 60028; width: common practice, no source", "standard")
    return [by_number(case, _RISE, share, u, limit, told)]


def _serve(case: Case, findings: Sequence[Judged]) -> Service:
    return serve_of(case, _good(case))


def _advise(case: Case, findings: Sequence[Judged]) -> Sequence[str]:
    says = []
    ohms = [found for found in findings if found.check == "ohms"]
    outside = any(found.verdict is Verdict.OUTSIDE for found in ohms)
    own, good = winding_of(case), _good(case)
    if outside and own and good and own.ohms_20 < good:
        says.append(f"About {100 * (1 - own.ohms_20 / good):.0f} % of its turns are shorted: renew it, and see that its driver is whole.")
    elif outside:
        says.append("Read the new one before it goes in: if it reads the same, the limit or the part number is wrong.")
    if case.word("wires") == "1":
        says.append("It returns through its case: clean and read the case joint too, it is part of the circuit.")
    if ohms and all(found.verdict is Verdict.WITHIN for found in ohms) and not case.reads.get("click"):
        says.append("Its ohms say nothing of a stuck plunger: let it click on a fused supply.")
    if any(found.check == "leads_shorted" and found.verdict is not Verdict.WITHIN for found in findings):
        says.insert(0, "First better clips: with these leads no reading of ohms counts.")
    return says


def _chart(case: Case, findings: Sequence[Judged]) -> Chart | None:
    return chart_of(case, _good(case))


FAMILY = Family(
    "coil",
    "Coil, solenoid, clutch, injector",
    "coil solenoid clutch injector winding magnet shift lock-up compressor electromagnet",
    "ohms",
    (
        Check(
            "ohms",
            "resistance of the winding",
            ("Ω",),
            limit=_usual,
            law=COPPER,
            beyond=("Turns are shorted, or it is the wrong coil.", "A bad joint or a break inside, or the wrong coil; not shorted turns."),
        ),
        Check("hot_ohms", "resistance when it is hot", ("Ω",), law=COPPER, aside=True),
        Check(
            "pull_in",
            "volts at which it pulls in, slowly raised",
            ("V",),
            limit=lambda case: Limit("V", most=PULL_IN_MOST, source="common practice, no source: cold, 12 V"),
            beyond=("", "It wants more volts than it will get when hot: gap, stiff plunger or lost turns."),
        ),
        Check("click", "it clicks when it is powered", words=YES_NO, bad="It is stuck, open, or its plunger is worn."),
        Check("plunger", "its plunger moves freely by hand", words=YES_NO, bad="Dirt or wear holds it: clean it or renew it."),
        Check(
            "case",
            "resistance from the winding to its case",
            ("Ω",),
            limit=lambda case: None if case.word("wires") == "1" else Limit("Ω", CASE_OHMS, source="common practice, no source"),
            beyond=("The winding touches its case.", ""),
        ),
        Check(
            "leads_shorted",
            "the leads with their clips held together",
            ("Ω",),
            limit=lambda case: Limit("Ω", most=LEADS_GOOD_OHMS, source="common practice, no source"),
            beyond=("", "Leads or clips are bad."),
        ),
    ),
    (cautions.UNPLUGGED, cautions.FUSED, cautions.LOW_OHMS, cautions.POLARITY, cautions.VAPOUR),
    (
        Setting("sort", "what it is the coil of", words=("coil", *USUAL), usual="coil"),
        Setting("wires", "how many wires it has: one returns through the case", words=("1", "2"), usual="2"),
        *SETTINGS,
    ),
    derived=(_MARGIN, _RISE),
    function=("click", "plunger", "pull_in"),
    aliases={"resistance": "ohms", "r": "ohms"},
    needed=lambda case: ("ohms",),
    derive=_derive,
    serve=_serve,
    advise=_advise,
    chart=_chart,
    kinds=("coil", "solenoid", "clutch", "injector"),
    group="Coils and relays",
)
