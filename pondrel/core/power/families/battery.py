"""Battery: charge from rested volts, the load test, cold-cranking amperes by their standard, internal resistance, what a tester said."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from ...base.judgement import judged
from ...base.lead_acid import charge_of, freezes_at, inner_ohms, load_least, rested_volts, sae_amps
from ...base.quantity import show
from ...bench.case import Case, Read
from ...bench.decide import by_number
from ...bench.family import Check, Column, Family, Setting
from ...bench.judged import Chart, Dot, Figures, Judged, Line, School, Service
from ...check import Limit, Verdict
from .. import cautions
from ..common import PRACTICE, STANDARD, SYSTEM, TYPE, batteries, check_in, current, held, limit, not_comparable, scaled

PLACE = 10

REST_LEAST = judged("REST_LEAST_V", 12.4, "V", "what a rested battery of 12 V has at the least before it is load tested or blamed")
OVERNIGHT_LEAST = judged("OVERNIGHT_LEAST_V", 12.4, "V", "what a battery of 12 V that was charged still has after a night by itself")
SURFACE_ABOVE = judged("SURFACE_ABOVE_V", 12.9, "V", "rested volts above this are a surface charge, not the battery's own (12 V, flooded)")
RESTED_MINUTES = judged("RESTED_MINUTES", 120.0, "min", "from when on a battery that was charged or driven counts as rested")
LOAD_SHARE = judged("LOAD_SHARE", 0.1, "share", "by which a test load may be off half the rating and still be that test")
CCA_LEAST = judged("CCA_LEAST_SHARE", 0.7, "share", "of its rating that a tester's cold-cranking figure has at the least")
OHMS_MOST = judged("INNER_OHMS_TIMES", 1.6, "times", "a good battery's internal resistance that a used one has at the most")
HALVES_MOST = judged("HALVES_MOST_V", 0.2, "V", "by which the two batteries of a 24 V system may be apart at rest")
LOAD_SOURCE = "trade-council table, from memory: least volts after 15 s at half the SAE figure"
REST_SOURCE = "trade-council table, from memory: rested volts by charge"

_WORDS = ("good", "good, recharge", "charge and retest", "replace", "bad cell", "check connection")
CHECKS = (
    Check(
        "rest",
        "volts at its posts, rested",
        ("V",),
        aside=True,
        warm=True,
        beyond=("It is not charged.", "That is surface charge or a charger: lamps on for two minutes, then wait and read again."),
        then="Charge it fully, let it rest, and read it again: a flat battery is judged only then.",
    ),
    Check(
        "load",
        "volts at its posts after 15 s under load",
        ("V",),
        aside=True,
        warm=True,
        beyond=("It cannot give what it is rated for.", ""),
        then="Renew it, and find out what wore it out: age, deep discharge, heat.",
    ),
    Check(
        "overnight",
        "volts after a night by itself: charged before, minus off",
        ("V",),
        limit=lambda case: limit(case, OVERNIGHT_LEAST),
        beyond=("It does not hold what it was given: it empties itself.", ""),
        then="Renew it.",
    ),
    Check("load_amps", "the load that it was tested with", ("A",), aside=True),
    Check("tester", "what a tester said", words=_WORDS, aside=True),
    Check(
        "tester_cca",
        "cold-cranking amperes that a tester showed",
        ("A",),
        aside=True,
        beyond=("It has lost too much of its rating.", ""),
        then="Clean posts and clamps, charge it, and test it again before it is renewed.",
    ),
    Check("half", "volts of one of its two batteries, rested", ("V",), aside=True),
    Check("half_load", "volts of one of the two under the same load", ("V",), aside=True),
    Check(
        "case",
        "case, posts and clamps",
        words=("sound", "bulged or cracked", "loose or green", "frozen"),
        good=lambda case: "sound",
        bad="What is loose or green is cleaned and tightened first; a cracked or frozen case ends the battery's work.",
    ),
)
_INNER = Check("inner", "its internal resistance", ("Ω",), beyond=("", "It is worn, or its posts are dirty."),
               then="Clean posts and clamps and read it again on the lead of the posts themselves.")  # fmt: skip
_HALVES = Check("halves", "how far the two batteries are apart", ("V",), beyond=("", "One of the two pulls the other down."),
                then="Charge each by itself and load test each: they are renewed together.")  # fmt: skip
DERIVED = (_INNER, _HALVES)


def sae_of(case: Case) -> float | None:
    """The rating as SAE amperes; None where it is not known."""
    amps = case.known("cca")
    return sae_amps(amps, case.word("standard") or "sae") if amps else None


def charge(case: Case) -> tuple[float, float] | None:
    """State of charge in percent as a span, from the last rested volts; None where they were not read."""
    read = case.read("rest")
    return charge_of(read.value / batteries(case), read.noted.celsius, case.word("type")) if read else None


def _rest(case: Case, read: Read) -> Judged:
    glass = case.word("type") == "glass-mat"
    usual = limit(
        case, REST_LEAST + (0.15 if glass else 0.0), SURFACE_ABOVE + (0.0 if case.word("type") == "flooded" else 0.3), REST_SOURCE
    )
    found = held(case, check_in(CHECKS, "rest"), read, usual)
    minutes = case.known("rested")
    if found.limit is not None and read.value > found.limit.most and found.verdict is Verdict.OUTSIDE:
        return not_comparable(found, "", check_in(CHECKS, "rest").beyond[1])
    if minutes is not None and minutes < RESTED_MINUTES and found.verdict is not Verdict.OUTSIDE:
        return not_comparable(
            found, f"It has rested for {minutes:.0f} min only, and volts taken so soon flatter it.",
            f"Wait until it has rested for {RESTED_MINUTES / 60.0:.0f} h, or load test it: that asks for no rest.",
        )  # fmt: skip
    return found


def _load(case: Case, read: Read) -> Judged:
    check, celsius, given = check_in(CHECKS, "load"), read.noted.celsius, case.given("load")
    if given is not None:
        return held(case, check, read, given)
    least = load_least(celsius) if celsius is not None else None
    if least is None:
        # Whatever the temperature: what holds at the warm end holds everywhere, what fails at the cold end fails everywhere.
        warm, cold = (limit(case, load_least(at) or 0.0, source=LOAD_SOURCE) for at in (21.0, -18.0))
        passes, fails = held(case, check, read, warm), held(case, check, read, cold)
        if passes.verdict is Verdict.WITHIN:
            found = passes
        elif fails.verdict is Verdict.OUTSIDE and celsius is None:
            found = fails
        else:
            why = "How warm it was is not noted." if celsius is None else f"The table ends at −18 °C, and it was {celsius:.4g} °C."
            return not_comparable(passes, why, "Read it again and note the battery's temperature beside it, as in 9.7@15C.")
    else:
        found = held(case, check, read, limit(case, least, source=f"{LOAD_SOURCE}, at {celsius:.4g} °C"))
    return _by_load(case, _by_charge(case, found))


def _by_charge(case: Case, found: Judged) -> Judged:
    """A flat battery fails any load test, and says nothing of itself by that."""
    if found.verdict is not Verdict.OUTSIDE:
        return found
    span, then = charge(case), "Charge it fully, let it rest, and load test it again."
    if span is None:
        return not_comparable(found, "Whether it was charged is not known: rested volts were not read.", "Read its rested volts first.")
    if span[1] < 70.0:
        return not_comparable(found, f"It was charged to about {_percent(span)} only, and a flat battery fails any load test.", then)
    return found


def _by_load(case: Case, found: Judged) -> Judged:
    """Less load than half the rating proves less, more asks for more."""
    load, sae = current(case, "load_amps"), sae_of(case)
    amps = None if load is None else load.value
    if amps is None or sae is None:
        return found
    half = sae / 2.0
    other = f"It was loaded with {show(amps, 'A')}, and half its SAE figure is {show(half, 'A')}."
    if amps < (1.0 - LOAD_SHARE) * half and found.verdict is not Verdict.OUTSIDE:
        return not_comparable(found, other, f"Load it with {show(half, 'A')} for 15 s.")
    if amps > (1.0 + LOAD_SHARE) * half and found.verdict is not Verdict.WITHIN:
        return not_comparable(found, other, f"Load it with {show(half, 'A')} for 15 s.")
    return replace(found, because=f"{found.because} {other}") if found.verdict is not Verdict.TOO_CLOSE else found


def _tester(case: Case, read: Read) -> Judged:
    """What a tester said, and what that is worth."""
    word, cleaned, span = read.word, case.word("posts") == "cleaned", charge(case)
    says = f"The tester said '{word}'"
    if word == "good":
        return Judged("tester", Verdict.WITHIN, word, "", f"{says}. It may still not crank: a tester does not load it as a starter does.")
    if word == "check connection" or (word in ("replace", "bad cell") and not cleaned):
        return Judged(
            "tester",
            Verdict.NOT_COMPARABLE,
            word,
            "",
            f"{says} with the posts as they were found: that is no verdict on the battery.",
            then="Clean posts and clamps to bare metal, clip onto the lead posts, and test it again.",
        )
    if word == "good, recharge":
        return Judged(
            "tester",
            Verdict.WITHIN,
            word,
            "",
            f"{says}: sound but flat. Flat as it is it may not crank, whatever else is wrong.",
            then="Charge it, or crank with a boost, before anything else is judged.",
        )
    if word == "charge and retest" or (span is not None and span[1] < 70.0):
        return Judged("tester", Verdict.NOT_COMPARABLE, word, "", f"{says}, and it is not charged: no tester can judge it so.",
                      then="Charge it fully, let it rest, and test it again.")  # fmt: skip
    return Judged("tester", Verdict.OUTSIDE, word, "", f"{says}, with clean posts.", then="Renew it; load test it first if you can.")


def _cca(case: Case, read: Read) -> Judged:
    rated, standard = case.known("cca"), case.word("standard")
    usual = (
        Limit("A", CCA_LEAST * rated, source=f"{PRACTICE}: {100 * CCA_LEAST:.0f} % of {rated:g} A ({standard.upper()})") if rated else None
    )
    found = held(case, check_in(CHECKS, "tester_cca"), read, usual)
    if found.verdict is Verdict.OUTSIDE and case.word("posts") != "cleaned":
        return not_comparable(found, "The posts were not cleaned before.", "Clean posts and clamps and test it again.")
    return found


def _inner(case: Case) -> list[Judged]:
    """Internal resistance from the slope through two loads or more."""
    rows = [(row["amps"].value, row["volts"].value) for row in case.rows]
    if len(rows) < 2 or len({amps for amps, _ in rows}) < 2:
        return []
    amps, shown = np.array(rows).T
    slope = float(np.polyfit(amps, shown, 1)[0])
    ohms, n = -slope, batteries(case)
    blur = max(case.blur(row["volts"]) for row in case.rows)
    by_amps = max(case.u(row["amps"]) for row in case.rows) / float(np.ptp(amps))
    u = math.hypot(blur / float(np.sqrt(((amps - amps.mean()) ** 2).sum())), ohms * by_amps)
    told = f"{show(float(np.ptp(shown)), 'V')} between {show(float(amps.min()), 'A')} and {show(float(amps.max()), 'A')}: {show(ohms, 'Ω')}"
    sae = sae_of(case)
    usual = (
        Limit("Ω", most=OHMS_MOST * n * inner_ohms(sae), source=f"{PRACTICE}: of a battery of {sae:.0f} A (SAE), at 25 °C") if sae else None
    )
    return [by_number(case, _INNER, ohms, u, case.given("inner") or usual, told)]


def _halves(case: Case) -> list[Judged]:
    found = []
    for one, whole in (("half", "rest"), ("half_load", "load")):
        read, both = case.read(one), case.read(whole)
        if read is not None and both is not None and batteries(case) > 1.0:
            apart = abs(2.0 * read.value - both.value)
            most = HALVES_MOST if one == "half" else 2.0 * HALVES_MOST
            told = f"One has {show(read.value, 'V')}, the other {show(both.value - read.value, 'V')}: {show(apart, 'V')} apart"
            u = math.hypot(2.0 * case.blur(read), case.blur(both))  # one meter: its scale cancels
            found.append(by_number(case, _HALVES, apart, u, case.given("halves") or Limit("V", most=most, source=PRACTICE), told))
    return found


def _derive(case: Case) -> Sequence[Judged]:
    ways = {"rest": _rest, "load": _load, "tester": _tester, "tester_cca": _cca}
    found = [way(case, read) for name, way in ways.items() for read in case.reads.get(name, ())[-1:]]
    found = _by_school(case, found)
    return [*found, *_inner(case), *_halves(case)]


def _by_school(case: Case, found: list[Judged]) -> list[Judged]:
    """Where load test and tester contradict each other the house's school decides; the other stands among the ways to judge."""
    sides = {"load test": ("load",), "tester": ("tester", "tester_cca")}
    mine = sides[case.word("judge") or "load test"]
    said = {one.check: one.verdict for one in found if one.verdict in (Verdict.WITHIN, Verdict.OUTSIDE)}
    own = {verdict for check, verdict in said.items() if check in mine}
    others = {
        check for check, verdict in said.items() if check in ("load", "tester", "tester_cca") and check not in mine and {verdict} != own
    }
    return [one for one in found if not own or one.check not in others]


def _percent(span: tuple[float, float]) -> str:
    low, high = span
    return f"{high:.0f} %" if high - low < 1.0 else f"{low:.0f} to {high:.0f} %"


def _serve(case: Case, findings: Sequence[Judged]) -> Service:
    span, sae = charge(case), sae_of(case)
    figures: Figures = {"charge_low_percent": None, "charge_high_percent": None, "sae_amps": sae, "load_amps": sae / 2.0 if sae else None}
    says = []
    if span is not None:
        figures |= {
            "charge_low_percent": round(span[0], 1),
            "charge_high_percent": round(span[1], 1),
            "freezes_c": round(freezes_at(span[0])),
        }
        says.append(f"Charged to about {_percent(span)}." + (" Which sort of battery it is was not said." if not case.word("type") else ""))
        if span[0] < 40.0:
            says.append(f"So flat it freezes at about {freezes_at(span[0]):.0f} °C: charge it before a frosty night.")
    if sae and case.word("standard") != "sae":
        says.append(
            f"{case.known('cca'):g} A by {case.word('standard').upper()} is about {sae:.0f} A by SAE; half of that is the test load."
        )
    inner = next((found for found in findings if found.check == "inner"), None)
    if inner is not None and isinstance(inner.value, float) and inner.value > 0.0:
        figures["inner_ohms"] = inner.value
        figures["short_circuit_amps"] = scaled(case, rested_volts(100.0)) / inner.value
    return Service(figures, tuple(says))


def _schools(case: Case) -> Sequence[School]:
    """Those who load it, and those who go by a tester."""
    load, tester = case.read("load"), case.read("tester") or case.read("tester_cca")
    by_load = _load(case, load) if load else None
    by_tester = (_tester(case, tester) if tester.check == "tester" else _cca(case, tester)) if tester else None
    return (
        School("Load test", show(load.value, "V") if load else "", LOAD_SOURCE, by_load.verdict if by_load else None),
        School("Tester", (tester.word or show(tester.value, "A")) if tester else "", PRACTICE, by_tester.verdict if by_tester else None),
    )


def _advise(case: Case, findings: Sequence[Judged]) -> Sequence[str]:
    verdicts = {found.check: found.verdict for found in findings}
    if verdicts.get("load") is Verdict.WITHIN and verdicts.get("tester") is Verdict.OUTSIDE:
        return ("The load test passed it and the tester did not: the load test is the harder question. Test it again after a full charge.",)
    return ()


def _chart(case: Case, findings: Sequence[Judged]) -> Chart | None:
    if len(case.rows) < 2:
        return None
    rows = [(row["amps"].value, row["volts"].value) for row in case.rows]
    ends = (0.0, max(amps for amps, _ in rows))
    amps, shown = np.array(rows).T
    slope, at = (float(x) for x in np.polyfit(amps, shown, 1)) if len(set(amps)) > 1 else (0.0, rows[0][1])
    return Chart(
        "Volts against load",
        ("load", "A"),
        ("at the posts", "V"),
        (Line("its own resistance", tuple((x, at + slope * x) for x in ends)),),
        (),
        tuple(Dot(x, y) for x, y in rows),
    )


FAMILY = Family(
    "battery",
    "Battery",
    "battery accumulator charge load test cold cranking amperes cca tester",
    "rest",
    CHECKS,
    (cautions.HYDROGEN, cautions.FROZEN, cautions.UNFUSED),
    (
        SYSTEM,
        TYPE,
        STANDARD,
        Setting("cca", "cold-cranking amperes on its label", "A"),
        Setting("rested", "minutes since it was charged or driven", "min", zero=True),
        Setting("judge", "a battery is judged by", words=("load test", "tester"), usual="load test", house="battery"),
        Setting("posts", "posts and clamps", words=("as found", "cleaned"), usual="as found"),
    ),
    (Column("amps", "load", "A"), Column("volts", "at the posts", "V")),
    DERIVED,
    needed=lambda case: ("rest", "load"),
    derive=_derive,
    serve=_serve,
    advise=_advise,
    chart=_chart,
    schools=_schools,
    table="Volts by load",
    compared=False,
    group="Starting and charging",
)
