"""It does not charge and has magnets instead of an alternator: stator, its plug, regulator-rectifier. Bikes, boats, small engines."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from ....bench.cautions import GENERATOR
from ....bench.families.rectifier import DIODE_WORDS
from ....bench.families.stator import PHASES, PLUG_WORDS
from ... import cautions
from ..charging import RUNS, drop_of, loaded_step, raised_step, rest_step, sense_step, trend_step
from ..model import Cases, Cause, Deed, DrawnPath, Mended, Step, Way
from ..open_joints import with_open_joints, with_open_rows
from ..words import by_verdict, of_answer, rows, tester_word
from .charge import SAID as SAID_OF_CHARGING

PLACE = 25

_LIVE = (GENERATOR, cautions.HANDS)
_AT_REVS = "engine at the speed its maker names for it, else well above idle"
_NOTHING_VOLTS = 2.0  # between two phases at idle, up to which nothing comes. Common practice, no source


def _some(check: str) -> Callable[[Cases], str]:
    def word(cases: Cases) -> str:
        volts = cases["stator"].value(check)
        return "" if volts is None else "nothing" if volts < _NOTHING_VOLTS else "volts"

    return word


def _phases_word(cases: Cases) -> str:
    """How the three phases stand beside each other, and whether there is enough of all of them by the house's school."""
    case = cases["stator"]
    values = [case.value(name) for name in PHASES]
    read = [value for value in values if value is not None]
    if len(read) < len(PHASES):
        return ""
    if max(read) < _NOTHING_VOLTS:
        return "nothing"
    if by_verdict(cases, "stator", "balance", "even", "uneven") == "uneven":
        return "uneven"
    low = [by_verdict(cases, "stator", name, "enough", "off") == "off" for name in PHASES]
    return "even, too little" if any(low) else "even"


def _phase(check: str, title: str, minutes: float, *after: str) -> Step:
    one, other = check[0].upper(), check[1].upper()
    return Step(
        f"ac_{check}",
        title,
        "stator",
        check,
        minutes,
        ("volts", "nothing"),
        _some(check),
        {"volts": 0.95},
        {"stator": {"volts": 0.88, "nothing": 0.12}},
        f"stator's plug, phase {one}",
        f"stator's plug, phase {other}",
        "unplugged from the regulator, engine at idle, meter on AC volts",
        "20 to 35 V of one type; what counts is that all three are alike.",
        "stator",
        cautions=_LIVE,
        unit="V",
        alternating=True,
        after=after,
    )


# A stator that burnt has often burnt its plug, too.
_SEEN_AT_THE_PLUG = {PLUG_WORDS[0]: 0.8, PLUG_WORDS[1]: 0.2}

STEPS = (
    Step(
        "plug",
        "Plug between stator and regulator",
        "stator",
        "plug",
        1.0,
        PLUG_WORDS,
        of_answer("stator", "plug"),
        {PLUG_WORDS[0]: 0.96},
        {"plug": {PLUG_WORDS[1]: 0.95}, "stator": _SEEN_AT_THE_PLUG, "stator_ground": _SEEN_AT_THE_PLUG},
        do="engine off: unplug it, look at every pin, smell it",
        hint="The plug that carries the phases burns before anything else does.",
        behind="stator",
    ),
    rest_step(
        {"coming_up": {"flat": 0.95}, "fine": {"not flat": 0.85}, "battery_bad": {"flat": 0.7, "not flat": 0.3}},
        flat=0.6,
    ),
    Step(
        "tester",
        "What the tester says",
        "battery",
        "tester",
        2.0,
        ("good", "flat", "bad", "connection"),
        tester_word,
        {"good": 0.44, "flat": 0.52, "connection": 0.03},
        {"battery_bad": {"bad": 0.75, "flat": 0.2}},
        do="clip onto the lead of the posts",
        hint="A small battery with one bad cell pulls the volts down like a dead stator.",
        needs=frozenset({"tester"}),
        cautions=(cautions.HYDROGEN,),
    ),
    raised_step(
        {"none": 0.6, "low": 0.365, "good": 0.03},
        {
            "fine": {"good": 0.98, "low": 0.015},
            "coming_up": {"low": 0.66, "none": 0.05, "good": 0.285},
            **rows(("regulator_high", "sense"), high=0.7, good=0.12, low=0.16),
            "stator": {"none": 0.465, "low": 0.465, "good": 0.065},
            "stator_ground": {"none": 0.2, "low": 0.45, "good": 0.34},
            "battery_bad": {"low": 0.76, "none": 0.15, "good": 0.085},
        },
        _AT_REVS,
    ),
    trend_step(
        {
            **rows(("coming_up", "fine"), comes_up=0.98, stays_low=0.015),
            "stator": {"stays low": 0.85, "comes up": 0.14},
            "stator_ground": {"stays low": 0.64, "comes up": 0.35},
            "battery_bad": {"stays low": 0.7, "comes up": 0.28},
            "cable": {"comes up": 0.3, "stays low": 0.67},
            "ground": {"comes up": 0.3, "stays low": 0.67},
            **rows(("regulator_high", "sense"), runs_up=0.92, comes_up=0.06),
        },
    ),
    loaded_step(
        {
            "fine": {"good": 0.96},
            "coming_up": {"good": 0.95, "low": 0.05},
            "stator": {"low": 0.9, "good": 0.1},
            "stator_ground": {"low": 0.6, "good": 0.4},
            "battery_bad": {"low": 0.7, "good": 0.3},
            "cable": {"good": 0.1, "low": 0.88},
            "ground": {"good": 0.1, "low": 0.88},
            **rows(("regulator_high", "sense"), good=0.4, low=0.1),
        },
        "Volts with lamps on",
        f"{_AT_REVS}; lamps and heated grips on",
        "Low only now: a phase is missing, or more is fitted than it can carry.",
    ),
    Step(
        "a_ground",
        "Stator to ground",
        "stator",
        "a_ground",
        1.0,
        ("nothing leads", "leads to ground"),
        lambda cases: by_verdict(cases, "stator", "a_ground", "nothing leads", "leads to ground"),
        {"nothing leads": 0.998},
        {"stator_ground": {"leads to ground": 0.97}, "stator": {"leads to ground": 0.1, "nothing leads": 0.9}},
        "stator's plug, any phase",
        "engine block, bare metal",
        "engine off, unplugged from the regulator, meter on ohms",
        "The three are joined inside: one reading tells for all. OL is good.",
        "stator",
        unit="Ω",
    ),
    _phase("ab", "Phase A to phase B", 1.5),
    _phase("bc", "Phase B to phase C", 0.5, "ac_ab"),
    replace(
        _phase("ca", "Phase C to phase A", 0.5, "ac_ab", "ac_bc"),
        outcomes=("even", "even, too little", "uneven", "nothing"),
        outcome=_phases_word,
        usual={"even": 0.79, "even, too little": 0.2, "uneven": 0.003},
        given={
            "stator": {"uneven": 0.9, "even": 0.03, "nothing": 0.05, "even, too little": 0.02},
            "stator_ground": {"even": 0.6, "even, too little": 0.18, "uneven": 0.2},
            "magnets": {"even, too little": 0.9, "nothing": 0.06},
        },
        hint="More than a tenth apart: turns are shorted or a winding is open.",
    ),
    Step(
        "ac_fast",
        "Phase A to phase B at raised speed",
        "stator",
        "fast",
        0.7,
        ("enough", "too little"),
        lambda cases: by_verdict(cases, "stator", "fast", "enough", "too little"),
        {"enough": 0.97},
        {"magnets": {"too little": 0.93}, "stator": {"too little": 0.3, "enough": 0.7}},
        "stator's plug, phase A",
        "stator's plug, phase B",
        f"unplugged from the regulator, meter on AC volts; {_AT_REVS}",
        "45 V and more of most types. Behind the bridge it is 1.35 times that, less two diodes: under 20 V nothing can charge.",
        "stator",
        cautions=_LIVE,
        after=("ac_ca",),
        when=lambda words: words.get("ac_ca") in ("even, too little", "nothing"),
        unit="V",
        alternating=True,
    ),
    Step(
        "diodes",
        "Diodes of the regulator",
        "rectifier",
        "diodes",
        4.0,
        DIODE_WORDS,
        of_answer("rectifier", "diodes"),
        {DIODE_WORDS[0]: 0.975},
        {"regulator": {DIODE_WORDS[0]: 0.35, DIODE_WORDS[1]: 0.4, DIODE_WORDS[2]: 0.25}},
        do="unplugged, diode test: each phase pin to plus and to ground, then leads changed over",
        hint="0.4 to 0.7 V one way, OL the other. Its own control part is not tested by that.",
        behind="stator",
    ),
    Step(
        "cable_drop",
        "Lost from the regulator to plus",
        "charge",
        "cable_drop",
        1.0,
        ("little", "lost"),
        drop_of("cable_drop"),
        {"little": 0.992},
        {"cable": {"lost": 0.98}},
        "regulator's output",
        "plus post",
        f"{_AT_REVS}; lamps on",
        "Over 0.3 V: main fuse, plug or wire. An open fuse stands there with all of it.",
        "stator",
        cautions=RUNS,
        after=("raised",),
    ),
    Step(
        "ground_drop",
        "Lost on the regulator's ground",
        "charge",
        "ground_drop",
        1.0,
        ("little", "lost"),
        drop_of("ground_drop"),
        {"little": 0.992},
        {"ground": {"lost": 0.98}},
        "regulator's case or ground wire",
        "minus post",
        f"{_AT_REVS}; lamps on",
        "Over 0.2 V: its screws, paint under it, or the ground wire.",
        "stator",
        cautions=RUNS,
        after=("raised",),
    ),
    sense_step("stator", _AT_REVS),
    Step(
        "other_battery",
        "With a good battery in its place",
        "charge",
        "other_battery",
        4.0,
        ("comes up", "no change"),
        of_answer("charge", "other_battery"),
        {"no change": 0.93},
        {"battery_bad": {"comes up": 0.94}, "coming_up": {"comes up": 0.9}, "fine": {"comes up": 0.9}},
        do="engine off, a charged battery of the same volts on the leads; start, raise the speed, read the posts again",
        hint="It charges now: the battery was it.",
        needs=frozenset({"boost"}),
        cautions=(cautions.HYDROGEN, cautions.LEFT_ON),
        after=("raised",),
    ),
)

_LAST = "Volts at the posts at raised speed, lamps on."
_SOUND = {
    "plug": PLUG_WORDS[0],
    "ac_ca": "even|even, too little",
    "a_ground": "nothing leads",
    "cable_drop": "little",
    "ground_drop": "little",
}
CAUSES = (
    *(
        Cause(
            name,
            title,
            weight,
            "Renew or rewind it. What burnt it comes first: regulator, plug and battery are read before the new one goes in.",
            proofs,
            "Volts of all three phases, then volts at the posts and where they go.",
            "stator",
            family="stator",
            cautions=(cautions.ISOLATE, "Magnets pull the cover and fingers: hold it straight, use the puller screws."),
        )
        for name, title, weight, proofs in (
            ("stator", "a phase of the stator is burnt or open", 16.0, ({"ac_ca": "uneven"},)),
            ("stator_ground", "the stator leads to ground: it is burnt", 10.0, ({"a_ground": "leads to ground"},)),
        )
    ),
    Cause(
        "plug",
        "the plug between stator and regulator is burnt",
        18.0,
        "New pins in a plug of the same current, no pin soldered half through; look for what it drew.",
        ({"plug": PLUG_WORDS[1]},),
        _LAST,
    ),
    Cause(
        "regulator",
        "the regulator-rectifier does not pass it on",
        26.0,
        "Renew it; clean its seat and its ground, it cools through them.",
        (
            {"diodes": f"{DIODE_WORDS[1]}|{DIODE_WORDS[2]}"},
            {**_SOUND, "raised": "none|low"},
            {**_SOUND, "trend": "stays low"},
        ),
        _LAST,
        family="rectifier",
        cautions=(cautions.ISOLATE,),
    ),
    Cause(
        "regulator_high",
        "the regulator lets the volts run up",
        6.0,
        "Renew it, and look at what the high volts have killed: lamps, battery.",
        ({"raised": "high", "sense": "little|has none"}, {"trend": "runs up", "sense": "little|has none"}),
        _LAST,
        cautions=(cautions.ISOLATE,),
    ),
    Cause("sense", "the regulator's sense wire brings too little", 2.0, "Follow it: plug, fuse, key.", ({"sense": "lost"},), _LAST),
    Cause(
        "cable",
        "the way from the regulator to plus loses it",
        9.0,
        "Read across main fuse, plug and wire; clean, tighten, renew.",
        ({"cable_drop": "lost"},),
        "The drop along it, lamps on.",
        pieces=True,
    ),
    Cause(
        "ground",
        "the regulator's ground loses it",
        6.0,
        "Bare metal under its screws, or a ground wire of its own.",
        ({"ground_drop": "lost"},),
        "The drop from its case to the minus post, lamps on.",
    ),
    Cause(
        "magnets",
        "all three phases give too little: magnets or rotor",
        2.0,
        "Look at the magnets: loose, cracked, or a rotor that turns on its key. Was the speed what the limit is meant for?",
        (
            {
                "ac_fast": "too little",
                "diodes": DIODE_WORDS[0],
                "cable_drop": "little",
                "ground_drop": "little",
                "plug": PLUG_WORDS[0],
            },
        ),
        "Volts of all three phases at the same speed.",
    ),
    Cause(
        "battery_bad",
        "the battery takes it all: a bad cell",
        7.0,
        "Renew the battery.",
        ({"tester": "bad"}, {"other_battery": "comes up", "trend": "stays low"}),
        "Rested volts after a night, and the volts at raised speed.",
        cautions=(cautions.HYDROGEN,),
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
        7.0,
        "Ask when it does not: hot, wet, at idle, after long standing.",
        ({"raised": "good", "loaded": "good"},),
        "The same readings, hot.",
        target="none",
    ),
)

DEEDS = (
    Deed(
        "plug_renewed",
        "Renew the plug's pins",
        20.0,
        "Cut back to bright wire, new pins, no solder that wicks into the crimp; then go on, it may not have been all.",
        lambda words: words.get("plug") == PLUG_WORDS[1],
        frozenset({"plug", "raised", "trend", "loaded", "ac_ab", "ac_bc", "ac_ca", "ac_fast"}),
        {"plug": 0.05},
        "plug",
        ("Engine off and cold, battery minus off.",),
    ),
)

# By step: red, black, state and what is unplugged on the typical circuit of a stator.
_PROBES = {
    "rest": ("batt+", "batt-", "stopped", ""),
    "raised": ("batt+", "batt-", "fast", ""),
    "trend": ("batt+", "batt-", "fast", ""),
    "loaded": ("batt+", "batt-", "fast", ""),
    "a_ground": ("gen1.u", "batt-", "stopped", "V1"),
    "ac_fast": ("gen1.u", "gen1.v", "fast", "V1"),
    "ac_ab": ("gen1.u", "gen1.v", "idle", "V1"),
    "ac_bc": ("gen1.v", "gen1.w", "idle", "V1"),
    "ac_ca": ("gen1.w", "gen1.u", "idle", "V1"),
    "cable_drop": ("v1.plus", "batt+", "fast", ""),
    "ground_drop": ("v1.case", "batt-", "fast", ""),
}
_JOINTS = ("cable", "ground")
_DEAD = {
    "raised": rows(_JOINTS, none=0.95, low=0.03, good=0.015),
    "trend": rows(_JOINTS, stays_low=0.97, comes_up=0.02),
    "cable_drop": rows(("cable",), lost=0.985),
    "ground_drop": rows(("ground",), lost=0.985),
}
_VEHICLES = r"(?:motor ?bike|motorcycle|bike|scooter|moped|outboard|snow ?mobile|quad|mower|boat)"
WAY = Way(
    "magnet",
    "It does not charge: magnets, no alternator",
    "Bike, boat or small engine with stator and regulator-rectifier",
    with_open_joints(CAUSES, _JOINTS),
    tuple(with_open_rows(replace(step, probe=_PROBES.get(step.name)), _DEAD.get(step.name, {}), _JOINTS) for step in STEPS),
    DEEDS,
    ("charge", "stator", "rectifier", "battery"),
    {"stator": "stator and regulator"},
    DrawnPath(
        "The charging path, engine running",
        ("Battery", "raised"),
        ("Regulator", ""),
        (("cable_drop", "fuse and wire"), ("ground_drop", "ground")),
    ),
    "stator",
    (
        *SAID_OF_CHARGING,
        r"\b(?:stator|magneto|flywheel|regulator-rectifier)\b",
        rf"\b{_VEHICLES}\b.*\bcharg|\bcharg.*\b{_VEHICLES}\b",
    ),
    mends={
        "stator": Mended("stator", "stator"),
        "plug": Mended("stator plug", "joint"),
        "regulator": Mended("regulator-rectifier", "board"),
        "regulator_high": Mended("regulator-rectifier", "board"),
        "sense": Mended("sense wire", "wire"),
        "cable": Mended("wire from the regulator to plus", "wire"),
        "ground": Mended("regulator's ground", "joint"),
        "magnets": Mended("stator and magnets", "stator"),
        "battery_bad": Mended("battery", "battery"),
    },
)
