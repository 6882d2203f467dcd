"""It goes flat standing: a battery that no longer holds, charging that does not fill it, or something that does not sleep."""

from __future__ import annotations

from ... import cautions
from ..model import Cause, Deed, Step, Way
from ..words import by_verdict, load_word, of_answer, rest_word, tester_word

PLACE = 30

STEPS = (
    Step(
        "open",
        "Doors, bonnet and key",
        "draw",
        "open",
        0.5,
        ("all shut, key away", "something open"),
        of_answer("draw", "open"),
        {"all shut, key away": 0.9},
        {"none": {"something open": 0.5, "all shut, key away": 0.5}},
        do="go round: doors, bonnet, glove box, boot, key",
        hint="What is not latched keeps modules awake.",
    ),
    Step(
        "rest",
        "Battery at rest",
        "battery",
        "rest",
        1.0,
        ("full", "low", "flat"),
        rest_word,
        {"low": 0.45, "flat": 0.35, "full": 0.2},
        {},
        "plus post",
        "minus post",
        "all off, charged before and rested since",
        "How far it went down since it was charged.",
    ),
    Step(
        "tester",
        "What the tester says",
        "battery",
        "tester",
        2.0,
        ("good", "flat", "bad", "connection"),
        tester_word,
        {"good": 0.55, "flat": 0.4},
        {"battery_weak": {"bad": 0.8, "flat": 0.1, "good": 0.1}},
        do="charge it first, then clip onto the lead of the posts",
        hint="It must be charged before: a flat one tests bad.",
        needs=frozenset({"tester"}),
        cautions=(cautions.HYDROGEN,),
    ),
    Step(
        "load",
        "Load test",
        "battery",
        "load",
        2.0,
        ("passes", "fails"),
        load_word,
        {"passes": 0.95},
        {"battery_weak": {"fails": 0.92}},
        do="charged; half the SAE cranking amperes for 15 s; note its temperature",
        hint="9.6 V and more at 21 °C: the battery is good.",
        needs=frozenset({"load tester"}),
        cautions=(cautions.HYDROGEN,),
        after=("rest",),
    ),
    Step(
        "overnight",
        "After a night by itself",
        "battery",
        "overnight",
        30.0,
        ("holds", "sinks"),
        lambda cases: by_verdict(cases, "battery", "overnight", "holds", "sinks"),
        {"holds": 0.96},
        {"battery_weak": {"sinks": 0.85}},
        "plus post",
        "minus post",
        "charged in the evening, minus off over night; read in the morning, before minus goes on again",
        "It needs no tester. 12.4 V and more: it holds, and what emptied it is the vehicle.",
        cautions=(cautions.HYDROGEN,),
        after=("rest",),
    ),
    Step(
        "raised",
        "Charging volts",
        "charge",
        "raised",
        1.0,
        ("good", "low"),
        lambda cases: by_verdict(cases, "charge", "raised", "good", "low"),
        {"good": 0.96},
        {"not_charged": {"low": 0.97}},
        "plus post",
        "minus post",
        "engine at about 2000 r/min, lamps on",
        "13.5 to 14.7 V: it is filled while driving.",
        cautions=(cautions.HANDS, cautions.LEFT_ON),
    ),
    Step(
        "draw",
        "Draw at rest",
        "draw",
        "amps",
        3.0,
        ("asleep", "awake"),
        lambda cases: by_verdict(cases, "draw", "amps", "asleep", "awake"),
        {"asleep": 0.97},
        {"draws": {"awake": 0.97}},
        "clamp around the minus cable, or a meter in line",
        "",
        "locked, nothing opened; note the minutes since locking, as in 0.35 @60min",
        "50 mA at the most, up to an hour after locking.",
        cautions=(cautions.DO_NOT_WAKE,),
        repeated=True,
        after=("open",),
    ),
)

DEEDS = (
    Deed(
        "charge",
        "Charge it fully",
        10.0,
        "A flat battery tests bad and holds charging down: charge it, lamps on for two minutes, then go on.",
        lambda words: words.get("rest") in ("flat", "low"),
        frozenset({"rest", "tester", "load", "raised"}),
        {},
        "",
        (cautions.HYDROGEN, cautions.FROZEN, cautions.BOOST),
    ),
)

CAUSES = (
    Cause(
        "draws",
        "something does not sleep",
        45.0,
        "Read the millivolts across each fuse: the one that carries it leads to the circuit.",
        ({"draw": "awake"},),
        "The draw an hour after locking.",
        family="draw",
    ),
    Cause(
        "battery_weak",
        "the battery no longer holds its charge",
        25.0,
        "Charge it fully, test it once more, then renew it.",
        ({"load": "fails"}, {"tester": "bad"}, {"overnight": "sinks"}),
        "Rested volts after a night.",
    ),
    Cause("not_charged", "it is not filled while driving", 15.0, "Go on with charging.", ({"raised": "low"},), "Charging volts, lamps on."),
    Cause(
        "none",
        "nothing is wrong: short trips, long standing, or something left on",
        15.0,
        "Ask how it is driven and how long it stood; charge it.",
        (
            {"draw": "asleep", "raised": "good", "overnight": "holds"},
            {"draw": "asleep", "raised": "good", "load": "passes"},
            {"draw": "asleep", "raised": "good", "tester": "good"},
        ),
        "Rested volts after two nights.",
    ),
)

_NOT_AIR = r"^(?!.*\b(?:tyre|tire|spring|valve|air)s?\b).*"
SAID = (
    _NOT_AIR + r"\b(?:goes|went|runs|is|was) (?:\w+ )?flat\b",
    r"\bbattery (?:is |was )?(?:flat|dead|empty)\b",
    _NOT_AIR + r"\bflat\b.*\b(?:after|night|overnight|morning|weekend|days|standing)\b",
    r"\b(?:after|over|every) .*\b(?:dead|empty) battery\b",
    r"\bdrain(?:s|ed|ing)?\b.*\bbattery|\bbattery\b.*\bdrain|\bdraw at rest\b|\bparasitic\b",
)

WAY = Way(
    "drain",
    "It goes flat standing",
    "Flat after a night, or after some days",
    CAUSES,
    STEPS,
    DEEDS,
    ("battery", "charge", "draw"),
    said=SAID,
)
