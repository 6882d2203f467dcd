"""Three-phase stators by themselves: balance between the phases, each phase to ground, and output against speed."""

from __future__ import annotations

import math
from collections.abc import Sequence

from ...base.judgement import judged
from ...base.quantity import show
from ...check import Limit, Verdict, worst
from ...check.laws import fixed
from .. import cautions
from ..case import Case, Read
from ..decide import by_number, by_reading, span_words
from ..family import COPPER, Check, Column, Family, Setting
from ..judged import Chart, Dot, Figures, Judged, Line, School, Service

PLACE = 180

SOURCE = "common practice, no source"
PLUG_WORDS = ("sound", "brown, melted or green")
PHASES = ("ab", "bc", "ca")
TO_GROUND = ("a_ground", "b_ground", "c_ground")
SPREAD_MOST = judged("SPREAD_MOST", 10.0, "%", "of their mean by which the phases of a stator may be apart")
INSULATION_OHMS = judged("STATOR_GROUND_OHMS", 100e3, "Ω", "what a stator's phase has to ground at the least")
FAST_VOLTS = judged("FAST_VOLTS", 20.0, "V", "what a stator of 12 V gives between two phases at raised speed at the least")
GROUND_VOLTS_MOST = judged("GROUND_VOLTS_MOST", 0.5, "V", "what a stator's phase shows to ground at the most: nothing leads there")
IDLE_VOLTS = (20.0, 35.0)  # V AC phase to phase, unloaded, at idle: one type. Common practice, no source
BRIDGE = 3.0 * math.sqrt(2.0) / math.pi  # mean of a three-phase bridge, of the volts line to line: 1.35
DIODE_VOLTS = 0.7
_BALANCE = Check(
    "balance",
    "how far the phases are apart, of their mean",
    ("%",),
    beyond=("", "Turns are shorted, or a joint is bad, in the phase that differs."),
)


def _phase_reads(case: Case) -> list[Read]:
    return [read for name in PHASES if (read := case.read(name)) is not None]


def _level(case: Case, unit: str) -> Limit | None:
    """What each phase should give: as given for `phase`, else by the school of idle volts."""
    given = next((limit for limit in case.limits.get("phase", ()) if limit.unit == unit), None)
    if given is not None:
        return given
    if unit == "V" and case.word("at") == "idle" and case.word("judge") != "balance":
        return Limit("V", *IDLE_VOLTS, source=f"{SOURCE}: one type, unloaded at idle")
    return None


def _derive(case: Case) -> Sequence[Judged]:
    found = [*_levels(case), *_grounds(case), *_balance(case)]
    dc, ac = case.read("dc"), _phase_reads(case)
    if dc is not None and len(ac) == 3 and all(read.unit == "V" for read in ac):
        mean = sum(read.value for read in ac) / 3.0
        expected = BRIDGE * mean - 2.0 * DIODE_VOLTS
        limit = case.given("dc") or Limit(
            "V", 0.9 * expected, 1.1 * expected, "three-phase bridge, 1.35·U less two diodes; ± 10 %: common practice", "standard"
        )
        found.append(by_reading(case, Check("dc", "", ("V",), beyond=("A diode is open, or its joint.", "")), dc, limit))
    return found


def _levels(case: Case) -> list[Judged]:
    found = []
    for name in PHASES:
        for read in case.reads.get(name, ()):
            own = next((limit for limit in case.limits.get(name, ()) if limit.unit == read.unit), None) or _level(case, read.unit)
            check = Check(
                name,
                "",
                (read.unit,),
                law=COPPER if read.unit == "Ω" else fixed,
                beyond=("Too little: shorted turns, a weak magnet, or too slow.", "A break or a bad joint.")
                if read.unit == "Ω"
                else (
                    "Too few volts: shorted turns, a burnt phase or a weak magnet.",
                    "Too many volts: it runs faster than the limit has it.",
                ),
            )
            if own is not None or read.measured.over_range:
                open_limit = own or Limit("Ω", most=1e3, source=f"{SOURCE}: not open")
                found.append(by_reading(case, check, read, open_limit))
    return found


def _grounds(case: Case) -> list[Judged]:
    found = []
    for name in TO_GROUND:
        for read in case.reads.get(name, ()):
            ohms = read.unit == "Ω"
            usual = Limit("Ω", INSULATION_OHMS, source=SOURCE) if ohms else Limit("V", most=GROUND_VOLTS_MOST, source=SOURCE)
            given = next((limit for limit in (*case.limits.get(name, ()), *case.limits.get("ground", ())) if limit.unit == read.unit), None)
            check = Check(
                name,
                "",
                (read.unit,),
                beyond=("This phase leads to ground: the stator is burnt.", "")
                if ohms
                else ("", "This phase leads to ground: the stator is burnt."),
            )
            found.append(by_reading(case, check, read, given or usual))
    return found


def _balance(case: Case) -> list[Judged]:
    reads = _phase_reads(case)
    if len(reads) < 3 or len({read.unit for read in reads}) > 1 or any(read.measured.over_range for read in reads):
        return []
    values = [case.net(read) for read in reads]
    mean = sum(values) / 3.0
    if mean <= 0.0:
        return [
            Judged(
                "balance",
                Verdict.OUTSIDE,
                0.0,
                "%",
                "Nothing between any two phases.",
                then="See that it turns, and that the leads conduct.",
            )
        ]
    spread = 100.0 * (max(values) - min(values)) / mean
    ends = [reads[values.index(max(values))], reads[values.index(min(values))]]
    u = 100.0 * math.hypot(*(case.u(read) for read in ends)) / mean
    limit = case.given("balance") or Limit("%", most=SPREAD_MOST, source=SOURCE)
    pairs = (f"{name} {show(value, reads[0].unit)}" for name, value in zip(PHASES, values, strict=True))
    told = f"phases {', '.join(pairs)}: {spread:.3g} % apart"
    return [by_number(case, _BALANCE, spread, u, limit, told)]


def _serve(case: Case, findings: Sequence[Judged]) -> Service:
    reads = _phase_reads(case)
    if len(reads) < 3:
        return Service()
    values, unit = [case.net(read) for read in reads], reads[0].unit
    mean = sum(values) / 3.0
    figures: Figures = {"mean": mean, "unit": unit}
    says = []
    if unit == "V" and math.isfinite(mean):
        figures["rectified_v"] = max(BRIDGE * mean - 2.0 * DIODE_VOLTS, 0.0)
        says.append(
            "Rectified, without a battery, that would be about "
            f"{show(float(figures['rectified_v'] or 0.0), 'V')}: 1.35 times, less two diodes."
        )
    odd = _odd_phase(values)
    if odd:
        says.append(f"Phase {odd} is the one that differs: it is in both pairs that are off.")
        figures["odd_phase"] = odd
    return Service(figures, tuple(says))


def _odd_phase(values: Sequence[float]) -> str:
    """The phase that both odd pairs share, where two pairs are alike and unlike the third."""
    if not all(math.isfinite(value) for value in values):
        return ""
    ab, bc, ca = values
    gaps = {
        "c": (abs(bc - ca), abs((bc + ca) / 2 - ab)),
        "a": (abs(ab - ca), abs((ab + ca) / 2 - bc)),
        "b": (abs(ab - bc), abs((ab + bc) / 2 - ca)),
    }
    near, (apart, off) = min(gaps.items(), key=lambda item: item[1][0])
    return near if off > SPREAD_MOST / 100.0 * max(values) and apart < 0.3 * off else ""


def _advise(case: Case, findings: Sequence[Judged]) -> Sequence[str]:
    says = []
    reads = _phase_reads(case)
    if any(read.unit == "V" for read in reads) and case.word("at") != "idle" and not case.limits.get("phase"):
        says.append(
            f"How many volts it should give at {case.word('at') or 'that speed'} is not "
            "known here: the maker's figure, as in --limit 'phase 45..60V'."
        )
    if any(found.verdict is Verdict.OUTSIDE for found in findings):
        says.append("What burnt it? Read the regulator-rectifier, the battery and the plug between before the new one goes in.")
    return says


def _schools(case: Case) -> Sequence[School]:
    """Those who go by volts at idle, and those who go by balance whatever the speed."""
    reads = _phase_reads(case)
    if len(reads) < 3 or any(read.unit != "V" for read in reads):
        return ()
    idle = Limit("V", *IDLE_VOLTS, source=f"{SOURCE}: one type, unloaded at idle")
    found = [by_reading(case, Check(read.check, "", ("V",)), read, idle).verdict for read in reads]
    by_idle = worst(found) if case.word("at") == "idle" else Verdict.NOT_COMPARABLE
    balance = _balance(case)
    return (
        School("Volts at idle", span_words(idle), idle.source, by_idle),
        School(
            "Balance at any speed",
            f"{float(balance[0].value):.3g} % apart" if balance else "",
            SOURCE,
            balance[0].verdict if balance else None,
        ),
    )


def _chart(case: Case, findings: Sequence[Judged]) -> Chart | None:
    if not case.rows:
        return None
    rpm, volts = case.column("rpm"), case.column("volts")
    slope = sum(x * y for x, y in zip(rpm, volts, strict=True)) / (sum(x * x for x in rpm) or 1.0)
    end = max(rpm)
    return Chart(
        "Output against speed",
        ("speed", "rpm"),
        ("phase to phase", "V"),
        (Line("in proportion", ((0.0, 0.0), (end, slope * end)), "good"),),
        (),
        tuple(Dot(x, y) for x, y in zip(rpm, volts, strict=True))[:200],
    )


FAMILY = Family(
    "stator",
    "Three-phase stator",
    "stator alternator permanent magnet phase ground balance charging generator",
    "ab",
    (
        *(Check(name, f"phase {name[0]} to phase {name[1]}", ("Ω", "V"), aside=True) for name in PHASES),
        *(Check(name, f"phase {name[0]} to ground", ("Ω", "V"), aside=True) for name in TO_GROUND),
        Check("dc", "rectified, no battery on it", ("V",), aside=True),
        Check(
            "fast",
            "phase to phase at raised speed, unplugged",
            ("V",),
            limit=lambda case: Limit("V", least=FAST_VOLTS, source=f"{SOURCE}: a 12 V system; the maker's figure is higher"),
            beyond=("Too little to charge at any speed: shorted turns, or magnets that are weak or loose.", ""),
        ),
        Check(
            "plug",
            "plug between stator and regulator",
            words=PLUG_WORDS,
            good=lambda case: PLUG_WORDS[0],
            bad="Its pins get hot: new pins or a new plug, and look for what it drew.",
        ),
    ),
    (cautions.GENERATOR, cautions.DEAD, cautions.LEFT_ON),
    (
        Setting("at", "engine speed while volts are read: idle, or as in 1500rpm", usual="idle"),
        Setting("judge", "a stator is judged by", words=("idle volts", "balance"), usual="idle volts", house="stator"),
    ),
    (Column("rpm", "speed", "rpm"), Column("volts", "phase to phase", "V")),
    (_BALANCE, Check("phase", "each phase", ("Ω", "V")), Check("ground", "each phase to ground", ("Ω", "V"))),
    needed=lambda case: ("balance", *TO_GROUND),
    derive=_derive,
    serve=_serve,
    advise=_advise,
    chart=_chart,
    schools=_schools,
    kinds=("stator",),
    group="Charging",
)
