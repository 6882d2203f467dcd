"""It does not charge: the charge lamp, lights that follow the engine's speed, a battery that empties while driving."""

from __future__ import annotations

from dataclasses import replace

from ....base.judgement import OWN_RULE, judged
from ....check import Verdict
from ... import cautions
from ...families.charge import charging_limit, flat, trend
from ..model import Cases, Cause, Deed, DrawnPath, Step, Way
from ..words import by_verdict, of_answer

PLACE = 20

LOADED_BELOW = judged("LOADED_BELOW_V", 0.5, "V", "under its limit from which on loaded volts point to a fault on a guided way", OWN_RULE)

_RUNS = (cautions.HANDS, cautions.LEFT_ON)
_NOTHING_GIVEN = ("excitation", "belt", "alternator")


def _raised_word(cases: Cases) -> str:
    case = cases["charge"]
    volts, rest, band = case.value("raised"), case.value("rest"), charging_limit(case)
    if volts is None:
        return ""
    if band.keeps(volts):
        return "good"
    if volts > band.most:
        return "high"
    return "none" if rest is not None and volts <= rest + 0.2 * (2.0 if case.word("system") == "24" else 1.0) else "low"


def _loaded_word(cases: Cases) -> str:
    """Little too low tells nothing: a battery that still charges takes it."""
    volts, band = cases["charge"].value("loaded"), charging_limit(cases["charge"], "loaded")
    if volts is None or by_verdict(cases, "charge", "loaded", "judged", "judged") == "":
        return ""
    return (
        "good"
        if volts >= band.least
        else "low"
        if volts < band.least - LOADED_BELOW * (2.0 if cases["charge"].word("system") == "24" else 1.0)
        else ""
    )


def _rest_word(cases: Cases) -> str:
    case = cases["charge"]
    return "" if case.value("rest") is None else "flat" if flat(case) else "charged"


def _trend_word(cases: Cases) -> str:
    moving = trend(cases["charge"])
    if moving is None:
        return ""
    if moving.verdict is Verdict.OUTSIDE and moving.last > charging_limit(cases["charge"]).most:
        return "runs up"
    return {Verdict.WITHIN: "comes up", Verdict.OUTSIDE: "stays low"}.get(moving.verdict, "")


def _amps_word(cases: Cases) -> str:
    case = cases["charge"]
    amps, rated = case.value("amps"), case.known("rated")
    if amps is None:
        return ""
    return "many" if abs(amps) >= (0.75 * rated if rated else 40.0) else "few"


def _drop(check: str):  # type: ignore[no-untyped-def]
    return lambda cases: by_verdict(cases, "charge", check, within="little", outside="lost")


STEPS = (
    Step(
        "lamp_key",
        "Charge lamp, key on",
        "charge",
        "lamp_key",
        0.2,
        ("on", "off"),
        of_answer("charge", "lamp_key"),
        {"on": 0.96},
        {
            "excitation": {"off": 0.8, "on": 0.2},
            "alternator": {"on": 0.85, "off": 0.15},
        },
        do="key on, engine off: look at the dash",
        hint="On: lamp and exciter wire conduct. Off: lamp, fuse or exciter wire. It costs nothing to look.",
    ),
    Step(
        "lamp_running",
        "Charge lamp, engine running",
        "charge",
        "lamp_running",
        0.3,
        ("off", "dim", "on"),
        of_answer("charge", "lamp_running"),
        {"off": 0.96},
        {
            "excitation": {"off": 0.8, "on": 0.2},
            "belt": {"on": 0.9, "off": 0.1},
            "alternator": {"on": 0.6, "dim": 0.1, "off": 0.3},
            "cable": {"on": 0.2, "dim": 0.2, "off": 0.6},
            "ground": {"on": 0.2, "dim": 0.2, "off": 0.6},
            "diode": {"dim": 0.6, "off": 0.35},
        },
        do="engine at idle: look at the dash",
        hint="Off is good, if it was on before. Dim: a diode or a joint.",
        cautions=_RUNS,
    ),
    Step(
        "belt",
        "Belt and pulley",
        "charge",
        "belt",
        0.7,
        ("sound", "loose or squeals", "slips", "missing"),
        of_answer("charge", "belt"),
        {"sound": 0.92, "loose or squeals": 0.08},
        {"belt": {"loose or squeals": 0.5, "slips": 0.28, "missing": 0.2}},
        do="engine off: press it in the middle, it gives way by 6 to 13 mm",
        hint="A loose belt charges at idle and not under load.",
        cautions=("Engine off and key out before a hand goes near the belt.",),
    ),
    Step(
        "rest",
        "Battery before the start",
        "charge",
        "rest",
        1.0,
        ("charged", "flat"),
        _rest_word,
        {"charged": 0.6, "flat": 0.4},
        {"coming_up": {"flat": 0.95}, "fine": {"charged": 0.85}},
        "plus post",
        "minus post",
        "engine off, all off",
        "A flat battery holds the charging volts down for minutes: then the trend counts.",
    ),
    Step(
        "raised",
        "Volts at raised speed",
        "charge",
        "raised",
        1.0,
        ("good", "low", "none", "high"),
        _raised_word,
        {"none": 0.75, "low": 0.2},
        {
            "fine": {"good": 0.97},
            "coming_up": {"low": 0.65, "none": 0.05, "good": 0.28},
            "belt": {"none": 0.5, "low": 0.47},
            "cable": {"low": 0.5, "none": 0.45},
            "ground": {"low": 0.6, "none": 0.35},
            "diode": {"good": 0.55, "low": 0.43},
            "regulator_high": {"high": 0.97},
            "load": {"low": 0.25, "good": 0.72},
            "excitation": {"none": 0.94},
        },
        "plus post",
        "minus post",
        "engine at about 2000 r/min",
        "13.5 to 14.7 V: it charges. No more than at rest: nothing comes.",
        cautions=_RUNS,
        after=("rest",),
    ),
    Step(
        "trend",
        "Where the volts go",
        "charge",
        "raised",
        5.0,
        ("comes up", "stays low", "runs up"),
        _trend_word,
        {"stays low": 0.93, "comes up": 0.05},
        {
            "coming_up": {"comes up": 0.97},
            "cable": {"comes up": 0.35, "stays low": 0.62},
            "ground": {"comes up": 0.35, "stays low": 0.62},
            "belt": {"comes up": 0.15, "stays low": 0.82},
            "fine": {"comes up": 0.97},
            "diode": {"comes up": 0.3, "stays low": 0.7},
            "load": {"stays low": 0.9, "comes up": 0.1},
            "regulator_high": {"runs up": 0.8, "comes up": 0.15},
        },
        "plus post",
        "minus post",
        "engine at raised speed; note the volts with the minutes since it was started, as in 13.1 @5min",
        "12.2 rising to 14.1 V in ten minutes is good; 12.5 falling to 11.9 V is not.",
        cautions=_RUNS,
        repeated=True,
        timed=True,
        when=lambda words: words.get("raised") in ("low", "none") or words.get("rest") == "flat",
        after=("raised",),
    ),
    Step(
        "loaded",
        "Volts with lamps and blower on",
        "charge",
        "loaded",
        1.0,
        ("good", "low"),
        _loaded_word,
        {"low": 0.93, "good": 0.07},
        {
            "fine": {"good": 0.96},
            "coming_up": {"good": 0.95, "low": 0.05},
            "cable": {"good": 0.25, "low": 0.72},
            "ground": {"good": 0.25, "low": 0.72},
            "diode": {"low": 0.8, "good": 0.2},
            "regulator_high": {"good": 0.4, "low": 0.1},
            "load": {"low": 0.95},
        },
        "plus post",
        "minus post",
        "about 2000 r/min, lamps, blower and rear glass on",
        "Low only now: belt, a diode, or more load than it can carry.",
        cautions=_RUNS,
        after=("raised",),
        when=lambda words: (words.get("raised") == "good" and words.get("rest") != "flat") or words.get("trend") == "comes up",
    ),
    Step(
        "cable_drop",
        "Lost in the output cable",
        "charge",
        "cable_drop",
        1.0,
        ("little", "lost"),
        _drop("cable_drop"),
        {"little": 0.97},
        {"cable": {"lost": 0.98}},
        "alternator's output stud",
        "plus post",
        "about 2000 r/min, lamps and blower on",
        "Over 0.3 V: cable, link or a lug. A broken link stands there with all of it.",
        "alternator",
        cautions=(*_RUNS, cautions.UNFUSED),
        after=("raised",),
    ),
    Step(
        "ground_drop",
        "Lost on the alternator's ground",
        "charge",
        "ground_drop",
        1.0,
        ("little", "lost"),
        _drop("ground_drop"),
        {"little": 0.97},
        {"ground": {"lost": 0.98}},
        "alternator's case",
        "minus post",
        "about 2000 r/min, lamps and blower on",
        "Over 0.2 V: bracket or strap.",
        "alternator",
        cautions=_RUNS,
        after=("raised",),
    ),
    Step(
        "excitation",
        "Exciter wire",
        "charge",
        "excitation",
        1.0,
        ("good", "low"),
        lambda cases: by_verdict(cases, "charge", "excitation", "good", "low"),
        {"good": 0.95},
        {"excitation": {"low": 0.98}},
        "exciter wire, unplugged",
        "alternator's case",
        "key on, engine off",
        "9 V and more: the wire is good. Less: lamp, fuse or wire.",
        "alternator",
        cautions=("Engine off while it is unplugged.",),
    ),
    Step(
        "amps",
        "Output amperes",
        "charge",
        "amps",
        1.0,
        ("many", "few"),
        _amps_word,
        {"few": 0.93},
        {
            "load": {"many": 0.95},
            "coming_up": {"many": 0.85},
            "fine": {"many": 0.5},
            "regulator_high": {"many": 0.6},
            "cable": {"few": 0.7},
        },
        do="clamp around the output cable; about 2000 r/min, all switched on",
        hint="Near its rating: it gives all it has. Few: the alternator or its drive.",
        needs=frozenset({"clamp"}),
        cautions=_RUNS,
        after=("raised",),
    ),
    Step(
        "ripple",
        "Ripple at the posts",
        "charge",
        "ripple",
        2.0,
        ("little", "much"),
        lambda cases: by_verdict(cases, "charge", "ripple", "little", "much"),
        {"little": 0.95},
        {"diode": {"much": 0.94}},
        "plus post",
        "minus post",
        "about 2000 r/min, lamps on; peak to peak by a scope",
        "Over 0.5 V: a diode.",
        needs=frozenset({"scope"}),
        cautions=_RUNS,
        after=("raised",),
    ),
)

_LAST = "Volts at the posts at raised speed, lamps and blower on."
CAUSES = (
    Cause(
        "excitation",
        "it is not excited: lamp, fuse or exciter wire",
        14.0,
        "Follow the exciter wire back: plug, lamp, fuse, key.",
        ({"lamp_key": "off"}, {"excitation": "low"}),
        "The lamp comes on with the key and goes out running; then the volts.",
        pieces=True,
    ),
    Cause(
        "belt",
        "the belt does not drive it",
        14.0,
        "Tension or renew the belt; look at tensioner and pulley.",
        ({"belt": "loose or squeals|slips|missing"},),
        _LAST,
    ),
    Cause(
        "cable",
        "the output cable or its link loses it",
        9.0,
        "Read across lug, link and cable; clean, tighten, renew.",
        ({"cable_drop": "lost"},),
        "The drop along the cable, loaded.",
        pieces=True,
    ),
    Cause(
        "ground",
        "the alternator's ground loses it",
        5.0,
        "Clean bracket and strap to bare metal.",
        ({"ground_drop": "lost"},),
        "The drop from its case to the minus post, loaded.",
    ),
    Cause(
        "alternator",
        "the alternator itself does not charge",
        26.0,
        "Brushes and regulator first, if they come off by themselves; else rebuild or renew it.",
        (
            {"raised": "none|low", "belt": "sound", "lamp_key": "on", "cable_drop": "little"},
            {"trend": "stays low", "belt": "sound", "lamp_key": "on", "cable_drop": "little"},
            {"raised": "none|low", "belt": "sound", "excitation": "good", "cable_drop": "little"},
        ),
        _LAST,
    ),
    Cause(
        "diode",
        "a diode of the alternator is gone",
        7.0,
        "Renew the rectifier, or the alternator.",
        ({"ripple": "much"}, {"lamp_running": "dim"}),
        "The ripple, and volts loaded.",
    ),
    Cause(
        "regulator_high",
        "the regulator lets the volts run up",
        5.0,
        "Look at its sense wire and ground first; then renew the regulator.",
        ({"raised": "high"},),
        _LAST,
    ),
    Cause(
        "load",
        "more is asked of it than it can give",
        4.0,
        "Add up what is switched on; look for a battery that takes it all, or something fitted later.",
        ({"amps": "many", "loaded": "low"}, {"amps": "many", "raised": "low"}),
        _LAST,
    ),
    Cause(
        "coming_up",
        "it charges: the battery was flat and is coming up",
        8.0,
        "Let it charge fully, and find out why it went flat.",
        ({"trend": "comes up", "loaded": "good"},),
        "Rested volts tomorrow.",
        target="none",
    ),
    Cause(
        "fine",
        "it charges as it should",
        8.0,
        "Ask when it does not: hot, wet, at idle, after long standing.",
        ({"raised": "good", "loaded": "good"},),
        "The same readings, hot.",
        target="none",
    ),
)

DEEDS = (
    Deed(
        "belt_tightened", "Tension or renew the belt", 15.0, "Slack off, set the tension, run it a minute, press it again.",
        lambda words: words.get("belt") in ("loose or squeals", "slips", "missing"),
        frozenset({"belt", "lamp_running", "raised", "trend", "loaded", "amps", "cable_drop", "ground_drop"}), {"belt": 0.04}, "belt",
        ("Engine off and key out before a hand goes near the belt.",),
    ),
)  # fmt: skip

# By step: red, black and state on the typical circuit of an alternator.
_PROBES = {
    "rest": ("batt+", "batt-", "standing"), "raised": ("batt+", "batt-", "running"), "trend": ("batt+", "batt-", "running"),
    "loaded": ("batt+", "batt-", "running, loads on"), "cable_drop": ("gen1.b+", "batt+", "running, loads on"),
    "ground_drop": ("gen1.case", "batt-", "running, loads on"), "excitation": ("gen1.l", "gen1.case", "key on"),
}  # fmt: skip
_UNPLUGGED = {"excitation": "GEN1"}
# What is mended at the alternator, or along its unfused cable.
_AT_THE_CABLE = frozenset({"alternator", "diode", "regulator_high", "cable", "ground"})
WAY = Way(
    "charge",
    "It does not charge",
    "Charge lamp, or lights that follow the engine's speed",
    tuple(replace(cause, cautions=(cautions.ISOLATE, cautions.UNFUSED)) if cause.name in _AT_THE_CABLE else cause for cause in CAUSES),
    tuple(replace(step, probe=(*own, _UNPLUGGED.get(step.name, "")) if (own := _PROBES.get(step.name)) else None) for step in STEPS),
    DEEDS,
    ("charge",),
    {"alternator": "the alternator"},
    DrawnPath(
        "The charging path, engine running",
        ("Battery", "raised"),
        ("Alternator", ""),
        (("cable_drop", "output cable"), ("ground_drop", "bracket and strap")),
    ),
    "alternator",
)
