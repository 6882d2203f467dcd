"""It does not charge: the charge lamp, lights that follow the engine's speed, a battery that empties while driving."""

from __future__ import annotations

from dataclasses import replace

from ... import cautions
from ..charging import RUNS, drop_of, loaded_step, raised_step, rest_step, sense_step, trend_step
from ..model import Cases, Cause, Deed, DrawnPath, Mended, Step, Way
from ..open_joints import with_open_joints, with_open_rows
from ..words import by_verdict, of_answer, rows

PLACE = 20

SAID = (
    r"\b(?:not|no longer|never|hardly) (?:be(?:ing)? )?charg|\bno charge\b|\bstops? charging\b",
    r"\bcharges? (?:poorly|badly|too)|\bovercharg",
    r"\b(?:charge|charging|battery) (?:lamp|light|warning)",
    r"\b(?:light|lamp|headlight|headlamp)s?\b.*\b(?:bright|dim|follow|pulse|swell|fade).*\b(?:revs?|engine|idle)",
    r"\b(?:alternator|generator|dynamo)\b",
    r"\bbattery (?:\w+ )?(?:sags|falls|sinks|drops|runs down|empties)|\bboils?\b.*\bbattery|\bbattery\b.*\bboils?\b",
)

_NOTHING_GIVEN = ("excitation", "belt", "alternator")


def _amps_word(cases: Cases) -> str:
    case = cases["charge"]
    amps, rated = case.value("amps"), case.known("rated")
    if amps is None:
        return ""
    return "many" if abs(amps) >= (0.75 * rated if rated else 40.0) else "few"


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
            "alternator": {"on": 0.95, "off": 0.05},
            "brushes": {"off": 0.9, "on": 0.1},
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
            "alternator": {"on": 0.65, "dim": 0.1, "off": 0.25},
            "brushes": {"off": 0.9, "dim": 0.05},
            "cable": {"on": 0.2, "dim": 0.2, "off": 0.6},
            "ground": {"on": 0.2, "dim": 0.2, "off": 0.6},
            "diode": {"dim": 0.6, "off": 0.35},
        },
        do="engine at idle: look at the dash",
        hint="Off is good, if it was on before. Dim: a diode or a joint.",
        cautions=RUNS,
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
    rest_step(
        {"coming_up": {"flat": 0.95}, "fine": {"not flat": 0.85}},
        flat=0.4,
    ),
    raised_step(
        {"none": 0.765, "low": 0.2, "good": 0.03},
        {
            "fine": {"good": 0.98, "low": 0.015},
            "coming_up": {"low": 0.66, "none": 0.05, "good": 0.285},
            "belt": {"none": 0.5, "low": 0.48, "good": 0.015},
            "cable": {"low": 0.44, "none": 0.4, "good": 0.155},
            "ground": {"low": 0.61, "none": 0.36, "good": 0.025},
            "diode": {"good": 0.55, "low": 0.435, "none": 0.01},
            **rows(("regulator_high", "sense"), high=0.7, good=0.12, low=0.16),
            "load": {"low": 0.255, "good": 0.73, "none": 0.01},
            **rows(("excitation", "brushes"), none=0.95, low=0.03, good=0.015),
        },
        "engine at about 2000 r/min",
    ),
    trend_step(
        {
            "coming_up": {"comes up": 0.98, "stays low": 0.015},
            "cable": {"comes up": 0.45, "stays low": 0.54},  # a regulator that senses at the posts makes up for it
            "ground": {"comes up": 0.35, "stays low": 0.62},
            "belt": {"comes up": 0.15, "stays low": 0.82},
            "fine": {"comes up": 0.98, "stays low": 0.015},
            "diode": {"comes up": 0.55, "stays low": 0.44},
            "alternator": {"stays low": 0.75, "comes up": 0.23},
            "load": {"comes up": 0.7, "stays low": 0.29},
            **rows(("regulator_high", "sense"), runs_up=0.92, comes_up=0.06),
        },
    ),
    loaded_step(
        {
            "fine": {"good": 0.96},
            "coming_up": {"good": 0.95, "low": 0.05},
            "cable": {"good": 0.15, "low": 0.84},
            "ground": {"good": 0.1, "low": 0.88},
            "diode": {"low": 0.7, "good": 0.3},
            **rows(("regulator_high", "sense"), good=0.4, low=0.1),
            "load": {"low": 0.95},
        },
        "Volts with lamps and blower on",
        "about 2000 r/min, lamps, blower and rear glass on",
        "Low only now: belt, a diode, or more load than it can carry.",
    ),
    Step(
        "cable_drop",
        "Lost in the output cable",
        "charge",
        "cable_drop",
        1.0,
        ("little", "lost"),
        drop_of("cable_drop"),
        {"little": 0.99},
        {"cable": {"lost": 0.985}},
        "alternator's output stud",
        "plus post",
        "about 2000 r/min, lamps and blower on",
        "Over 0.3 V: cable, link or a lug. A broken link stands there with all of it.",
        "alternator",
        cautions=(*RUNS, cautions.UNFUSED),
        after=("raised",),
    ),
    Step(
        "ground_drop",
        "Lost on the alternator's ground",
        "charge",
        "ground_drop",
        1.0,
        ("little", "lost"),
        drop_of("ground_drop"),
        {"little": 0.99},
        {"ground": {"lost": 0.985}},
        "alternator's case",
        "minus post",
        "about 2000 r/min, lamps and blower on",
        "Over 0.2 V: bracket or strap.",
        "alternator",
        cautions=RUNS,
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
        "minus post",
        "key on, engine off",
        "9 V and more: the wire is good. Less: lamp, fuse or wire.",
        "alternator",
        cautions=("Engine off while it is unplugged.",),
    ),
    sense_step("alternator", "engine at about 2000 r/min"),
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
            **rows(("regulator_high", "sense"), many=0.6),
            "cable": {"few": 0.7},
        },
        do="clamp around the output cable; about 2000 r/min, all switched on",
        hint="Near its rating: it gives all it has. Few: the alternator or its drive.",
        needs=frozenset({"clamp"}),
        cautions=RUNS,
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
        cautions=RUNS,
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
        20.0,
        "Brushes and regulator first, if they come off by themselves; else rebuild or renew it.",
        (
            {"raised": "none|low", "belt": "sound", "lamp_key": "on", "cable_drop": "little"},
            {"trend": "stays low", "belt": "sound", "lamp_key": "on", "cable_drop": "little"},
            {"raised": "none|low", "belt": "sound", "excitation": "good", "cable_drop": "little"},
            {"loaded": "low", "belt": "sound", "amps": "few", "cable_drop": "little", "ground_drop": "little"},
        ),
        _LAST,
    ),
    Cause(
        "brushes",
        "no current reaches its field: worn brushes",
        6.0,
        "Brushes and regulator come off by themselves on most: renew them, look at the slip rings.",
        ({"lamp_key": "off", "excitation": "good"},),
        "The lamp comes on with the key and goes out running; then the volts.",
        "alternator",
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
        ({"raised": "high", "sense": "little|has none"}, {"trend": "runs up", "sense": "little|has none"}),
        _LAST,
    ),
    Cause(
        "sense", "its sense wire brings too little: it charges too high", 2.0, "Follow it: fuse, plug, wire.", ({"sense": "lost"},), _LAST
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
    "ground_drop": ("gen1.case", "batt-", "running, loads on"), "excitation": ("gen1.l", "batt-", "key on"),
}  # fmt: skip
# What is seen of a cable or a ground that is all but open; of what stands nowhere its own row is taken. The lamp grounds there, too.
_JOINTS = ("cable", "ground")
_DEAD = {
    "lamp_key": rows(("ground",), off=0.85, on=0.15),
    "lamp_running": {**rows(("ground",), off=0.9, dim=0.06), **rows(("cable",), on=0.45, dim=0.25, off=0.3)},
    "raised": rows(_JOINTS, none=0.95, low=0.03, good=0.015),
    "trend": rows(_JOINTS, stays_low=0.97, comes_up=0.02),
    "cable_drop": rows(("cable",), lost=0.985),
    "ground_drop": rows(("ground",), lost=0.985),
}
_UNPLUGGED = {"excitation": "GEN1"}
# What is mended at the alternator, or along its unfused cable.
_AT_THE_CABLE = frozenset({"alternator", "diode", "regulator_high", "cable", "ground"})
WAY = Way(
    "charge",
    "It does not charge",
    "Charge lamp, or lights that follow the engine's speed",
    tuple(
        replace(cause, cautions=(cautions.ISOLATE, cautions.UNFUSED)) if cause.aim in _AT_THE_CABLE else cause
        for cause in with_open_joints(CAUSES, _JOINTS)
    ),
    tuple(
        with_open_rows(
            replace(step, probe=(*own, _UNPLUGGED.get(step.name, "")) if (own := _PROBES.get(step.name)) else None),
            _DEAD.get(step.name, {}),
            _JOINTS,
        )
        for step in STEPS
    ),
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
    SAID,
    mends={
        "excitation": Mended("exciter wire", "wire"),
        "belt": Mended("belt", "part"),
        "cable": Mended("output cable", "wire"),
        "ground": Mended("alternator's ground", "joint"),
        "alternator": Mended("alternator", "alternator"),
        "diode": Mended("alternator's rectifier", "board"),
        "regulator_high": Mended("regulator", "board"),
        "sense": Mended("sense wire", "wire"),
    },
)
