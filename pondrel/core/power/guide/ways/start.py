"""It does not start: nothing, a click, or it turns slowly."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from ... import cautions
from ...common import current
from ...families.crank import CONTROL_LEAST, FLOWS_AMPS, HEARD, flows, usual_amps
from ...heavy import PIECES, Piece
from ..model import Cases, Cause, Deed, DrawnPath, Mended, Step, Way
from ..open_joints import open_joint, with_open_joints, with_open_rows
from ..words import by_verdict, drop_word, load_word, of_answer, rest_word, rows, tester_word

PLACE = 10

_CRANK = (cautions.NEUTRAL, cautions.NO_START, cautions.HANDS)
_KEY = "key at start for three seconds, a helper at the key"
_GROUND = ("strap", "body", "minus_cable", "minus_clamp")
_PLUS = ("plus_clamp", "plus_cable")
_CLAMPS = ("plus_clamp", "minus_clamp")
_NOT_CLOSED = ("solenoid", "control", "immobiliser")


def _crank_word(cases: Cases) -> str:
    case = cases["crank"]
    read = case.read("battery")
    if read is None:
        return ""
    if flows(case) is False:
        return "no sag"
    return by_verdict(cases, "crank", "battery", within="holds", outside="low")


def _amps_word(cases: Cases) -> str:
    read = current(cases["crank"], "amps")
    if read is None:
        return ""
    return "none" if read.value < FLOWS_AMPS else "high" if read.value > usual_amps(cases["crank"]) else "usual"


def _control_word(cases: Cases) -> str:
    case = cases["crank"]
    volts = case.value("control")
    if volts is None:
        return ""
    twice = 2.0 if case.word("system") == "24" else 1.0
    return "none" if volts < 3.0 * twice else "good" if volts >= CONTROL_LEAST * twice else "low"


def _arrives_word(cases: Cases) -> str:
    volts = cases["crank"].value("at_starter")
    if volts is not None and volts < (4.0 if cases["crank"].word("system") == "24" else 2.0):
        return "none"
    return by_verdict(cases, "crank", "at_starter", within="good", outside="low")


def _piece_step(piece: Piece) -> Step:
    side = "plus" if piece.side == "supply_drop" else "ground"
    closed = {"contacts": ("contacts", *_NOT_CLOSED)}.get(piece.name, (piece.name,))
    return Step(
        piece.name, f"Across the {piece.title}", "crank", piece.name, 1.0, ("little", "lost"),
        lambda cases: drop_word(cases, piece.name, ("little", "lost", "lost")), {"little": 0.985, "lost": 0.015},
        rows(closed, lost=0.98, little=0.02), piece.red, piece.black, _KEY,
        f"Over {piece.most:g} V: {piece.title}. Less: it lies elsewhere on the {side} side.", "starter" if piece.far else "",
        frozenset({"helper"}), (*_CRANK, cautions.UNFUSED) if side == "plus" else _CRANK, after=(piece.side,),
        when=lambda words: words.get(piece.side) != "little", piece_of=piece.side,
    )  # fmt: skip


_SIDES = ("little", "lost", "all")
STEPS = (
    Step(
        "heard",
        "What is heard",
        "crank",
        "heard",
        0.3,
        HEARD,
        of_answer("crank", "heard"),
        {"turns slowly": 0.5, "one click": 0.3},
        {
            "battery_flat": {"nothing": 0.2, "one click": 0.2, "clicks fast": 0.3, "turns slowly": 0.3},
            "battery_weak": {"one click": 0.15, "clicks fast": 0.25, "turns slowly": 0.6},
            **rows(_CLAMPS, nothing=0.25, one_click=0.3, clicks_fast=0.2, turns_slowly=0.25),
            **rows(("plus_cable", "strap", "body", "minus_cable"), nothing=0.05, one_click=0.3, clicks_fast=0.1, turns_slowly=0.55),
            "contacts": {"one click": 0.6, "turns slowly": 0.4},
            "starter_worn": {"one click": 0.45, "turns slowly": 0.35, "nothing": 0.2},
            "starter_drags": {"turns slowly": 0.8, "one click": 0.2},
            "solenoid": {"nothing": 0.6, "clicks fast": 0.25, "one click": 0.15},
            "control": {"nothing": 0.93, "clicks fast": 0.05},
            "immobiliser": {"nothing": 0.78, "turns normally": 0.2},
            "engine": {"one click": 0.8, "turns slowly": 0.2},
            "drive": {"spins without the engine": 0.97},
            "none": {"turns normally": 0.97},
        },
        do="turn the key to start and listen",
        hint="It says whether a starter's current flows at all.",
        cautions=(cautions.NEUTRAL, cautions.HANDS),
    ),
    Step(
        "lamp",
        "Immobiliser or interlock lamp",
        "crank",
        "lamp",
        0.2,
        ("out", "stays on", "flashes"),
        of_answer("crank", "lamp"),
        {"out": 0.95, "stays on": 0.03},
        {"immobiliser": {"out": 0.1, "stays on": 0.4, "flashes": 0.5}},
        do="key on, look at the dash",
        hint="A lamp that stays on or flashes forbids the start: no cable is at fault then.",
    ),
    Step(
        "posts",
        "Posts and clamps",
        "battery",
        "case",
        0.5,
        ("sound", "loose or green"),
        lambda cases: _posts_word(cases),
        {"sound": 0.85, "loose or green": 0.15},
        rows(_CLAMPS, sound=0.2, loose_or_green=0.8),
        do="look, and try to twist the clamps by hand",
        hint="Dirty posts read as a bad battery: they are cleaned before anything is judged.",
        cautions=(cautions.HYDROGEN,),
    ),
    Step(
        "rest",
        "Battery at rest",
        "battery",
        "rest",
        1.0,
        ("full", "low", "flat"),
        rest_word,
        {"full": 0.84, "low": 0.13, "flat": 0.03},
        {
            "battery_flat": {"full": 0.02, "low": 0.28, "flat": 0.7},
            "battery_weak": {"full": 0.65, "low": 0.3, "flat": 0.05},
        },
        "plus post, the lead itself",
        "minus post, the lead itself",
        "all off, lamps off for a few minutes",
        "12.4 V and more: charged. Under 12.1 V: flat, charge or boost it first.",
    ),
    Step(
        "battery",
        "Battery while cranking",
        "crank",
        "battery",
        1.0,
        ("no sag", "holds", "low"),
        _crank_word,
        {"holds": 0.75, "no sag": 0.2},
        {
            "battery_flat": {"low": 0.8, "no sag": 0.1, "holds": 0.1},
            "battery_weak": {"low": 0.88, "holds": 0.12},
            **rows(_CLAMPS, no_sag=0.45, holds=0.5, low=0.05),
            "contacts": {"no sag": 0.6, "holds": 0.4},
            "starter_worn": {"no sag": 0.4, "holds": 0.55, "low": 0.05},
            "starter_drags": {"low": 0.55, "holds": 0.45},
            **rows(_NOT_CLOSED, no_sag=0.97, holds=0.03),
            "engine": {"low": 0.55, "holds": 0.35, "no sag": 0.1},
            "drive": {"no sag": 0.6, "holds": 0.4},
            "none": {"holds": 0.97},
        },
        "plus post, the lead itself",
        "minus post, the lead itself",
        _KEY,
        "Under 9.6 V it sags: weak, flat, or too much is asked. Hardly less than at rest: no current flows.",
        needs=frozenset({"helper"}),
        cautions=_CRANK,
        after=("rest",),
    ),
    Step(
        "supply_drop",
        "Lost on the plus side",
        "crank",
        "supply_drop",
        1.0,
        _SIDES,
        lambda cases: drop_word(cases, "supply_drop", _SIDES),
        {"little": 0.95, "lost": 0.03},
        {
            "plus_clamp": {"lost": 0.55, "all": 0.4, "little": 0.05},
            "plus_cable": {"lost": 0.8, "all": 0.15, "little": 0.05},
            "contacts": {"lost": 0.45, "all": 0.51},
            **rows(("solenoid", "control"), all=0.96, little=0.03),
            "immobiliser": {"all": 0.78, "little": 0.2},
            **rows(_GROUND, little=0.78, all=0.2),
        },
        "plus post, the lead itself",
        "starter's motor stud",
        _KEY,
        "Over 0.5 V: a piece of the plus side. All of the volts: the contacts did not close, or an open joint.",
        "starter",
        frozenset({"helper"}),
        (*_CRANK, cautions.UNFUSED),
        after=("battery",),
    ),
    Step(
        "ground_drop",
        "Lost on the ground side",
        "crank",
        "ground_drop",
        1.0,
        _SIDES,
        lambda cases: drop_word(cases, "ground_drop", _SIDES),
        {"little": 0.97, "lost": 0.02},
        rows(_GROUND, lost=0.75, all=0.2, little=0.05),
        "engine block near the starter, bare metal",
        "minus post, the lead itself",
        _KEY,
        "Over 0.3 V: strap, body, minus cable or clamp.",
        "",
        frozenset({"helper"}),
        _CRANK,
        after=("battery",),
    ),
    *(_piece_step(piece) for piece in PIECES),
    Step(
        "amps",
        "Starter's current",
        "crank",
        "amps",
        1.0,
        ("none", "usual", "high"),
        _amps_word,
        {"usual": 0.8, "none": 0.18},
        {
            "battery_flat": {"none": 0.35, "usual": 0.65},
            "battery_weak": {"none": 0.2, "usual": 0.8},
            "contacts": {"none": 0.55, "usual": 0.43},
            **rows(_CLAMPS, none=0.5, usual=0.5),
            "starter_worn": {"none": 0.35, "usual": 0.62},
            "starter_drags": {"high": 0.93, "usual": 0.07},
            **rows(_NOT_CLOSED, none=0.97),
            "engine": {"high": 0.85, "none": 0.1},
            "none": {"usual": 0.97},
        },
        do=f"clamp around the starter cable or the minus cable, {_KEY}",
        hint="High: it drags, or the engine is stiff. None: it does not switch through.",
        needs=frozenset({"clamp", "helper"}),
        cautions=_CRANK,
    ),
    Step(
        "tester",
        "What the tester says",
        "battery",
        "tester",
        2.0,
        ("good", "flat", "bad", "connection"),
        tester_word,
        {"good": 0.85, "flat": 0.1},
        {
            "battery_flat": {"flat": 0.85, "bad": 0.1},
            "battery_weak": {"bad": 0.7, "flat": 0.15, "good": 0.15},
            **rows(_CLAMPS, connection=0.6, bad=0.15, good=0.25),
        },
        do="clip it onto the lead of the posts",
        hint="'Check connection' is no verdict: clean and test again. 'Good, recharge' may still not crank.",
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
        {"passes": 0.95, "fails": 0.05},
        {
            "battery_flat": {"passes": 0.3, "fails": 0.7},
            "battery_weak": {"fails": 0.93, "passes": 0.07},
        },
        do="half the SAE cranking amperes for 15 s; note its temperature, as in 9.8 @15C",
        hint="9.6 V and more at 21 °C: the battery is good.",
        needs=frozenset({"load tester"}),
        cautions=(cautions.HYDROGEN,),
        after=("rest",),
    ),
    Step(
        "boost",
        "With a boost",
        "crank",
        "boost",
        4.0,
        ("starts", "turns better", "no change"),
        of_answer("crank", "boost"),
        {"no change": 0.8, "turns better": 0.18},
        {
            "battery_flat": {"starts": 0.9, "turns better": 0.08},
            "battery_weak": {"starts": 0.85, "turns better": 0.12},
            **rows((*_GROUND, "plus_clamp"), starts=0.75, turns_better=0.15, no_change=0.1),
            "starter_drags": {"turns better": 0.5, "no change": 0.45},
            **rows((*_NOT_CLOSED, "engine", "drive"), no_change=0.96),
            "contacts": {"no change": 0.88},
        },
        do="boost: plus onto the plus clamp, minus onto bare metal of the engine; turn the key",
        hint="No change under a good boost: neither the battery nor the ground side.",
        needs=frozenset({"boost"}),
        cautions=(cautions.BOOST, cautions.HYDROGEN, cautions.FROZEN, cautions.TWENTY_FOUR),
    ),
    Step(
        "engine",
        "Engine turned by hand",
        "crank",
        "engine",
        8.0,
        ("yes", "no"),
        of_answer("crank", "engine"),
        {"yes": 0.99, "no": 0.01},
        {"engine": {"no": 0.96, "yes": 0.04}},
        do="a bar on the crankshaft's bolt, a full turn",
        hint="It must turn against compression only.",
        cautions=(cautions.BY_HAND,),
    ),
    Step(
        "control",
        "Control line at the starter",
        "crank",
        "control",
        1.0,
        ("good", "low", "none"),
        _control_word,
        {"good": 0.93, "low": 0.05},
        {
            "control": {"none": 0.7, "low": 0.28},
            "immobiliser": {"none": 0.95},
            "battery_flat": {"low": 0.4, "good": 0.55},
            **rows((*_GROUND, "plus_clamp"), low=0.35, good=0.55, none=0.1),
        },
        "starter's terminal 50",
        "starter's case",
        _KEY,
        "9 V and more: the control line is good. Nothing: relay, switch, key or fuse.",
        "starter",
        frozenset({"helper"}),
        _CRANK,
    ),
    Step(
        "at_starter",
        "What arrives at the starter",
        "crank",
        "at_starter",
        1.0,
        ("good", "low", "none"),
        _arrives_word,
        {"good": 0.8, "low": 0.2},
        {
            "starter_worn": {"good": 0.95},
            "starter_drags": {"good": 0.8, "low": 0.2},
            "engine": {"good": 0.85, "low": 0.15},
            **rows((*_PLUS, *_GROUND), low=0.85, none=0.1),
            "contacts": {"none": 0.52, "low": 0.46},
            **rows(_NOT_CLOSED, none=0.97),
            "battery_weak": {"good": 0.9},
            "battery_flat": {"good": 0.6, "none": 0.3},
        },
        "starter's motor stud",
        "starter's case",
        _KEY,
        "As much as the battery has, less 0.8 V: starter or engine. Nothing: it is not switched through.",
        "starter",
        frozenset({"helper"}),
        _CRANK,
    ),
    Step(
        "tap",
        "A tap on the starter",
        "crank",
        "tap",
        1.0,
        ("then it turned", "no change"),
        of_answer("crank", "tap"),
        {"no change": 0.98},
        {
            "starter_worn": {"then it turned": 0.45, "no change": 0.55},
            "contacts": {"then it turned": 0.25, "no change": 0.75},
            "solenoid": {"then it turned": 0.25, "no change": 0.75},
        },
        do=f"tap its body with wood while the key is at start; {_KEY}",
        hint="Then it turned: worn brushes or a sticking plunger. It is a test, not a repair.",
        behind="starter",
        needs=frozenset({"helper"}),
        cautions=(*_CRANK, cautions.TAP),
    ),
)


def _posts_word(cases: Cases) -> str:
    said = cases["battery"].answer("case")
    return "loose or green" if said == "loose or green" else "sound" if said == "sound" else ""


def _piece_cause(piece: Piece, weight: float) -> Cause:
    return Cause(
        piece.name,
        f"the {piece.title} {'lose' if piece.title.endswith('s') else 'loses'} it",
        weight,
        piece.mend,
        ({piece.name: "lost"},),
        "Read across it again while it cranks.",
        "solenoid" if piece.name == "contacts" else "",  # its contacts are renewed with it
    )


CAUSES = (
    Cause(
        "battery_flat",
        "the battery is flat",
        26.0,
        "Charge it, and find out why it went flat: charging volts, draw at rest.",
        ({"rest": "flat"}, {"rest": "low", "boost": "starts"}, {"rest": "low", "battery": "low"}, {"tester": "flat", "rest": "low|flat"}),
        "Rested volts after a full charge, then a load test.",
    ),
    Cause(
        "battery_weak",
        "the battery is worn",
        14.0,
        "Charge it fully, test it once more, then renew it.",
        ({"load": "fails"}, {"tester": "bad"}, {"battery": "low", "amps": "usual"}, {"battery": "low", "boost": "starts"}),
        "Volts while cranking with the new one.",
    ),
    *(
        _piece_cause(
            piece,
            {"plus_clamp": 6.0, "minus_clamp": 6.0, "plus_cable": 3.0, "contacts": 6.0, "strap": 6.0, "body": 1.5, "minus_cable": 3.0}[
                piece.name
            ],
        )
        for piece in PIECES
    ),
    Cause(
        "starter_worn",
        "the starter is worn: brushes or armature",
        9.0,
        "Rebuild or renew the starter. Battery minus off first.",
        ({"at_starter": "good"}, {"supply_drop": "little", "ground_drop": "little", "boost": "no change"}, {"tap": "then it turned"}),
        "Amperes and volts at the starter while it cranks.",
        "starter",
    ),
    Cause(
        "starter_drags",
        "the starter drags",
        5.0,
        "Rebuild or renew the starter. Battery minus off first.",
        ({"amps": "high", "engine": "yes"}, {"at_starter": "good", "engine": "yes"}),
        "Amperes while it cranks.",
        "starter",
    ),
    Cause(
        "solenoid",
        "the starter's solenoid does not switch through",
        5.0,
        "Renew the solenoid, or the starter. Battery minus off first.",
        (
            {"control": "good", "at_starter": "none"},
            {"control": "good", "supply_drop": "all"},
            {"control": "good", "heard": "nothing"},
            {"control": "good", "contacts": "lost"},
        ),
        "Volts at the motor stud with the key at start.",
    ),
    Cause(
        "control",
        "the control line does not switch the starter",
        12.0,
        "Go back along it: relay, neutral or clutch switch, key, fuse.",
        ({"control": "none|low", "ground_drop": "little"},),
        "Volts at terminal 50 with the key at start.",
        pieces=True,
    ),
    Cause(
        "immobiliser",
        "the vehicle forbids the start",
        5.0,
        "Key, transponder, selector lever; ask the module for its code.",
        ({"lamp": "stays on|flashes"},),
        "The lamp goes out with the key on.",
    ),
    Cause(
        "engine",
        "the engine does not turn",
        2.0,
        "Find what holds it: water in a cylinder, a seized accessory, a broken belt.",
        ({"engine": "no"},),
        "It turns by hand.",
    ),
    Cause(
        "drive",
        "the starter spins without the engine",
        2.0,
        "Look at drive and ring gear.",
        ({"heard": "spins without the engine"},),
        "It takes the engine along.",
    ),
    Cause("clamps", "dirty or loose clamps", 0.01, "Keep them clean and greased.", (), "It starts ten times."),
    Cause(
        "none",
        "it starts: nothing is wrong now",
        4.0,
        "Ask when it does not, and try it so: hot, cold, damp, after standing.",
        ({"heard": "turns normally", "battery": "holds"},),
        "Ten starts in the state in which it failed.",
    ),
)

_AFTER_CLEANING = frozenset(
    {"posts", "heard", "battery", "supply_drop", "ground_drop", "amps", "tester", "boost", "load", *(piece.name for piece in PIECES)}
)


def _battery_first(words: Mapping[str, str]) -> bool:
    """Whether the battery must be filled or helped before anything else is judged."""
    low = words.get("rest") == "low" and (words.get("tester") == "flat" or words.get("battery") == "low")
    return words.get("boost") != "no change" and (words.get("rest") == "flat" or low)


DEEDS = (
    Deed(
        "clean_posts",
        "Clean posts and clamps",
        5.0,
        "Minus off first, plus second. Bare metal on both, then tighten: plus first, minus last.",
        lambda words: (
            words.get("posts") == "loose or green"
            or words.get("tester") == "connection"
            or any(words.get(name) == "lost" for name in _CLAMPS)
        ),
        _AFTER_CLEANING,
        {name: 0.05 for clamp in _CLAMPS for name in (clamp, open_joint(clamp))},
        "clamps",
        (cautions.HYDROGEN, cautions.UNFUSED),
    ),
    Deed(
        "charge",
        "Charge it, or go on with a boost",
        10.0,
        "A flat battery hides everything else: charge it, or leave a good boost on from here on.",
        _battery_first,
        frozenset({*_AFTER_CLEANING, "rest"}),
        {"battery_flat": 0.03},
        "battery_flat",
        (cautions.BOOST, cautions.HYDROGEN, cautions.FROZEN, cautions.TWENTY_FOUR),
    ),
)

# By step: red, black and state on the typical circuit of a starter.
_PROBES = {
    "rest": ("batt+", "batt-", "rest"), "battery": ("batt+", "batt-", "start"), "supply_drop": ("batt+", "m1.45", "start"),
    "ground_drop": ("block", "batt-", "start"), "plus_clamp": ("batt+", "clamp+", "start"), "plus_cable": ("clamp+", "m1.30", "start"),
    "contacts": ("m1.30", "m1.45", "start"), "strap": ("block", "body.engine", "start"), "body": ("body.engine", "body.minus", "start"),
    "minus_cable": ("body.minus", "clamp-", "start"), "minus_clamp": ("clamp-", "batt-", "start"), "control": ("m1.50", "m1.case", "start"),
    "at_starter": ("m1.45", "m1.case", "start"),
}  # fmt: skip
# What is seen of a joint that is all but open, by step; of what stands nowhere the joint's own row is taken.
_JOINTS = ("plus_clamp", "plus_cable", *_GROUND)
_DEAD: Mapping[str, Mapping[str, Mapping[str, float]]] = {
    "heard": {**rows(("plus_clamp", *_GROUND), nothing=0.88, one_click=0.1), **rows(("plus_cable",), one_click=0.88, nothing=0.1)},
    "battery": rows(_JOINTS, no_sag=0.97),
    "amps": rows(_JOINTS, none=0.97),
    "control": {**rows(_GROUND, low=0.5, none=0.4), **rows(("plus_clamp",), none=0.7, low=0.25)},
    "at_starter": rows(_JOINTS, none=0.96),
    "supply_drop": {**rows(("plus_clamp", "plus_cable"), all=0.95, lost=0.04), **rows(_GROUND, all=0.5, lost=0.4)},
    "contacts": rows(_GROUND, lost=0.9),
    "ground_drop": rows(_GROUND, all=0.75, lost=0.23),
    **{name: rows((name,), lost=0.98) for name in _JOINTS},
}
# What is mended at the starter, or along its unfused cable.
_AT_THE_CABLE = frozenset({"starter_worn", "starter_drags", "solenoid", "contacts", "plus_cable", "plus_clamp"})
WAY = Way(
    "start",
    "It does not start",
    "Starter clicks or turns slowly, or nothing at all",
    tuple(
        replace(cause, cautions=(cautions.ISOLATE, cautions.UNFUSED)) if cause.aim in _AT_THE_CABLE else cause
        for cause in with_open_joints(CAUSES, _JOINTS)
    ),
    tuple(
        with_open_rows(replace(step, probe=(*own, "") if (own := _PROBES.get(step.name)) else None), _DEAD.get(step.name, {}), _JOINTS)
        for step in STEPS
    ),
    DEEDS,
    ("battery", "crank"),
    {"starter": "the starter"},
    DrawnPath(
        "The heavy path, while cranking",
        ("Battery", "battery"),
        ("Starter", "at_starter"),
        (("supply_drop", "plus side"), ("ground_drop", "ground side")),
    ),
    "starter",
    (
        r"\b(?:does not|doesn.?t|do not|will not|won.?t|would not|did not|cannot|can.?t|no longer) (?:\w+ )?(?:start|crank|turn over)s?\b",
        r"\bno[ -]?(?:start|crank)\b|\bcrank(?:s|ing)?\b",
        r"\bturn(?:s|ed|ing)? (?:the engine )?(?:over )?(?:weakly|slowly|lazily|sluggishly)\b",
        r"\b(?:just|only|one|single|loud|fast) clicks?\b|\bclick,? (?:and )?nothing\b",
        r"\bclicks? (?:once|only|fast|at the roadside|(?:and|but) (?:turns|stands|stops|no|does))\b",
        r"\bstarter\b|\bsecond turn of the key\b|\bkey (?:does|to start)\b",
        r"\b(?:hard|slow|fails|refuses|unwilling|hates) to (?:start|crank)\b|\bstart(?:s|ed|ing)? (?:badly|slowly|poorly|hard)\b",
    ),
    mends={
        "battery_flat": Mended("battery", "battery"),
        "battery_weak": Mended("battery", "battery"),
        "plus_clamp": Mended("plus clamp", "joint"),
        "plus_cable": Mended("plus cable", "wire"),
        "solenoid": Mended("starter's solenoid", "relay"),
        "strap": Mended("engine strap", "joint"),
        "body": Mended("joint at the body", "joint"),
        "minus_cable": Mended("minus cable", "wire"),
        "minus_clamp": Mended("minus clamp", "joint"),
        "starter": Mended("starter", "motor"),
        "control": Mended("control line of the starter", "wire"),
        "immobiliser": Mended("immobiliser", "module"),
        "drive": Mended("starter's drive", "motor"),
        "clamps": Mended("battery clamps", "joint"),
    },
)
