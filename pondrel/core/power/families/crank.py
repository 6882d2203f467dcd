"""Cranking: the battery's lowest volts, what is lost on either side and at each joint, current and speed, and what is heard.

A low cranking voltage alone does not name the battery: amperes, a load test or a boost do. What loses little while no current flows has
proved nothing.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from ...base.judgement import judged
from ...base.quantity import show
from ...bench.case import Case, Read
from ...bench.decide import by_number
from ...bench.family import YES_NO, Check, Family, Setting
from ...bench.judged import Figures, Judged, Service
from ...check import Limit, Verdict
from .. import cautions
from ..common import PRACTICE, SYSTEM, TYPE, ahead, batteries, check_in, current, held, limit, not_comparable, scaled, unsigned
from ..heavy import PIECES, PIECES_BY_NAME, SIDE_MOST

PLACE = 20

CRANK_LEAST = judged("CRANK_LEAST_V", 9.6, "V", "what the battery keeps at the least while the engine is cranked")
FLOWS_AMPS = judged("FLOWS_AMPS", 50.0, "A", "a starter's current from which on drops say something")
FLOWS_SAG = judged("FLOWS_SAG_V", 0.6, "V", "by which the battery sags where a starter's current flows")
SPEED_LEAST = judged("CRANK_SPEED_LEAST", 120.0, "1/min", "cranking speed at the least, engine warm or at some 20 °C")
CONTROL_LEAST = judged("CONTROL_LEAST_V", 9.0, "V", "what arrives at the starter's terminal 50 at the least with the key at start")
# What a starter takes in a 12 V vehicle at the most, by fuel; half of it at 24 V. Common practice, no source.
AMPS_MOST = {"petrol": 250.0, "diesel": 450.0}

HEARD = ("nothing", "one click", "clicks fast", "turns slowly", "turns normally", "spins without the engine")
CHECKS = (
    Check(
        "battery",
        "lowest volts at the battery's posts while cranking",
        ("V",),
        aside=True,
        warm=True,
        beyond=("That alone does not name the battery: a starter that drags or a stiff engine pulls a good one down.", ""),
        then="Load test the battery or read the starter's amperes, whichever is at hand.",
    ),
    Check(
        "supply_drop",
        "plus post to the starter's stud, while cranking",
        ("V",),
        aside=True,
        beyond=("", "It is lost on the plus side."),
        then="Read across each piece of the plus side, at the post first.",
    ),
    Check(
        "ground_drop",
        "starter's case to the minus post, while cranking",
        ("V",),
        aside=True,
        beyond=("", "It is lost on the ground side."),
        then="Read across each piece of the ground side, at the post first.",
    ),
    *(
        Check(
            piece.name,
            f"{piece.says}, while cranking",
            ("V",),
            aside=True,
            beyond=("", f"Here it is lost: {piece.title}."),
            then=piece.mend,
        )
        for piece in PIECES
    ),
    Check("rest", "volts at the posts before, nothing on", ("V",), aside=True),
    Check("at_starter", "starter's stud to its own case, while cranking", ("V",), aside=True),
    Check(
        "amps",
        "starter's current",
        ("A",),
        aside=True,
        beyond=("", "It takes too much: it drags, or the engine is stiff."),
        then="Turn the engine by hand with the battery's minus off: stiff is the engine, free is the starter.",
    ),
    Check("rpm", "cranking speed", ("rpm",), aside=True, beyond=("It turns too slowly.", "")),
    Check(
        "control",
        "terminal 50 to the starter's case, key at start",
        ("V",),
        aside=True,
        beyond=("Its control line does not bring enough.", ""),
        then="Go back along it: relay, neutral or clutch switch, key, fuse.",
    ),
    Check("heard", "what is heard with the key at start", words=HEARD, aside=True),
    Check("engine", "the engine turns by hand", words=YES_NO, aside=True),
    Check("lamp", "immobiliser or interlock lamp", words=("out", "stays on", "flashes"), aside=True),
    Check("boost", "with a good boost battery", words=("starts", "turns better", "no change"), aside=True),
    Check("tap", "a tap on the starter's body", words=("then it turned", "no change"), aside=True),
)
_STARTER_VOLTS = Check("at_starter", "what arrives at the starter", ("V",))


def usual_amps(case: Case) -> float:
    """What the starter takes at the most by what is known of it."""
    own = case.known("usual_amps")
    fuel = case.word("fuel") or ("diesel" if batteries(case) > 1.0 else "petrol")
    return 1.3 * own if own else AMPS_MOST[fuel] / batteries(case)


def flows(case: Case) -> bool | None:
    """Whether a starter's current flowed while drops were read; None where nothing tells."""
    amps, sag, heard = _starter_amps(case), _sag(case), case.answer("heard")
    if amps is not None:
        return amps >= FLOWS_AMPS
    if heard in ("turns slowly", "turns normally"):
        return True
    if sag is not None:
        return sag >= scaled(case, FLOWS_SAG)
    if heard in ("nothing", "one click", "clicks fast", "spins without the engine"):
        return False
    low = case.value("battery")
    return None if low is None else low < scaled(case, 12.0)


def _starter_amps(case: Case) -> float | None:
    read = current(case, "amps")
    return None if read is None else read.value


def _sag(case: Case) -> float | None:
    rest, low = case.value("rest"), case.value("battery")
    return rest - low if rest is not None and low is not None else None


def _drop(case: Case, name: str, read: Read) -> Judged:
    most = SIDE_MOST.get(name) or PIECES_BY_NAME[name].most
    found = held(case, check_in(CHECKS, name), unsigned(read), limit(case, most=most))
    amps = _starter_amps(case)
    if found.verdict is Verdict.OUTSIDE and amps is not None and amps > usual_amps(case):
        usual = abs(read.value) * usual_amps(case) / amps
        if case.given(name) is None and usual <= scaled(case, most):
            why = f"But {show(amps, 'A')} flow: at {show(usual_amps(case), 'A')} it would be {show(usual, 'V')}."
            return not_comparable(found, why, "Find out first why it takes so much: a starter that drags, or a stiff engine.")
    if found.verdict is Verdict.WITHIN and flows(case) is False:
        why = "No starter's current flowed, and nothing is lost without one."
        return not_comparable(found, why, "Read it again while it really turns, or with a load of 50 A and more in the starter's place.")
    return found


def _battery(case: Case, read: Read) -> Judged:
    found = held(case, check_in(CHECKS, "battery"), read, limit(case, CRANK_LEAST))
    if found.verdict is Verdict.WITHIN and flows(case) is False:
        return not_comparable(
            found, "No starter's current flowed.", "It proves the battery only while the starter turns: load test it instead."
        )
    return found


def _amps(case: Case, read: Read) -> Judged:
    usual = Limit("A", most=usual_amps(case), source=PRACTICE)
    own = unsigned(read)
    found = held(case, check_in(CHECKS, "amps"), own, usual)
    if found.verdict is Verdict.WITHIN and own.value < FLOWS_AMPS:
        return not_comparable(found, "So little does not turn an engine.", "See what is heard, and what arrives at terminal 50.")
    return found


def _at_starter(case: Case) -> list[Judged]:
    """What arrives at the starter's own stud, beside what the battery has."""
    read, low = case.read("at_starter"), case.read("battery")
    if read is None:
        return []
    both = SIDE_MOST["supply_drop"] + SIDE_MOST["ground_drop"]
    least = low.value - scaled(case, both) if low is not None else scaled(case, CRANK_LEAST - both)
    of = (
        f"{show(low.value, 'V')} at the battery less {show(scaled(case, both), 'V')}"
        if low is not None
        else "at a battery that keeps 9.6 V"
    )
    usual = Limit("V", least, source=f"{PRACTICE}: {of}")
    found = by_number(case, replace(_STARTER_VOLTS, then="Read the drop on both sides."), read.value, case.u(read),
                      case.given("at_starter") or usual, f"{show(read.value, 'V')} arrive at the starter")  # fmt: skip
    if found.verdict is Verdict.WITHIN and flows(case) is False:
        found = not_comparable(found, "No starter's current flowed.", "Read it again while it really turns.")
    return [found]


_WORDS = {
    ("lamp", "stays on"): "The vehicle itself forbids the start: key, transponder or selector first, no cable.",
    ("lamp", "flashes"): "The vehicle itself forbids the start: key, transponder or selector first, no cable.",
    ("engine", "no"): "The engine does not turn by hand: no starter turns it either. Look for water, a seized accessory or a broken belt.",
    ("tap", "then it turned"): "A tap made it turn: worn brushes or a sticking plunger. It will stay away again.",
    ("heard", "spins without the engine"): "It spins by itself: the drive slips or a ring gear's teeth are gone, and no cable is at fault.",
}


def _said(case: Case) -> list[Judged]:
    """Findings of what was heard, seen and tried."""
    found = []
    for (name, word), says in _WORDS.items():
        if case.answer(name) == word:
            found.append(Judged(name, Verdict.OUTSIDE, word, "", f"{ahead(FAMILY, name)}: {word}. {says}"))
    if case.answer("engine") == "yes":
        found.append(Judged("engine", Verdict.WITHIN, "yes", "", "The engine turns by hand: it is not what holds."))
    return found


def _derive(case: Case) -> Sequence[Judged]:
    found: list[Judged] = []
    for name in ("battery", "supply_drop", "ground_drop", *PIECES_BY_NAME, "amps"):
        for read in case.reads.get(name, ())[-1:]:
            way = {"battery": _battery, "amps": _amps}.get(name)
            found.append(way(case, read) if way else _drop(case, name, read))
    found += _at_starter(case)
    for name, usual in (("rpm", Limit("rpm", SPEED_LEAST, source=PRACTICE)), ("control", limit(case, CONTROL_LEAST))):
        found += [held(case, check_in(CHECKS, name), read, usual) for read in case.reads.get(name, ())[-1:]]
    return [*found, *_said(case)]


def _cause(case: Case, findings: Sequence[Judged]) -> tuple[str, str]:
    """The cause by what was read, as a short name and a sentence; empty where it does not follow."""
    outside = {found.check for found in findings if found.verdict is Verdict.OUTSIDE}
    within = {found.check for found in findings if found.verdict is Verdict.WITHIN}
    if "lamp" in outside:
        return "immobiliser", "The vehicle forbids the start."
    if "heard" in outside:
        return "drive", "The starter's drive does not take the engine along."
    if "engine" in outside:
        return "engine", "The engine does not turn."
    piece = next((piece for piece in PIECES if piece.name in outside), None)
    if piece is not None:
        return piece.name, f"{piece.title[:1].upper()}{piece.title[1:]} loses the volts."
    for side in ("supply_drop", "ground_drop"):
        if side in outside:
            return side, f"One piece of the {'plus' if side == 'supply_drop' else 'ground'} side loses the volts."
    if "control" in outside and case.answer("heard") in ("nothing", "one click", "clicks fast", ""):
        return "control", "The starter's control line does not bring enough."
    if "battery" in outside and "amps" in within:
        return "battery", "The battery sags under a current that is not too much for it."
    if "amps" in outside or (case.answer("boost") == "no change" and {"supply_drop", "ground_drop"} <= within):
        if case.answer("engine") == "yes":
            return "starter", "The starter takes too much or turns too little, and the engine is free."
        return "", "The starter drags or the engine is stiff: turn the engine by hand."
    if "tap" in outside:
        return "starter", "The starter came back with a tap: its brushes or its plunger."
    if "battery" in outside:
        return "", "The battery sags: whether it is weak or too much is asked of it, amperes or a load test tell."
    return "", ""


def _serve(case: Case, findings: Sequence[Judged]) -> Service:
    cause, says = _cause(case, findings)
    low, amps, sag = case.value("battery"), _starter_amps(case), _sag(case)
    plus, ground = case.value("supply_drop"), case.value("ground_drop")
    figures: Figures = {"cause": cause or None, "at_starter_v": case.value("at_starter"), "inner_ohms": None}
    if figures["at_starter_v"] is None and None not in (low, plus, ground):
        figures["at_starter_v"] = low - abs(plus) - abs(ground)  # type: ignore[operator, arg-type]
    told = [says] if says else []
    if sag is not None and amps is not None and amps >= FLOWS_AMPS:
        figures["inner_ohms"] = sag / amps
        told.append(f"The battery gives way by {show(sag, 'V')} at {show(amps, 'A')}: {show(sag / amps, 'Ω')} inside, posts included.")
    if amps is not None and amps >= FLOWS_AMPS:
        for name, drop in (("plus", plus), ("ground", ground)):
            if drop is not None:
                figures[f"{name}_ohms"] = abs(drop) / amps
    if isinstance(figures["at_starter_v"], float) and low is not None:
        told.append(f"Of {show(low, 'V')} at the battery the starter gets {show(figures['at_starter_v'], 'V')}.")
    return Service(figures, tuple(told))


FAMILY = Family(
    "crank",
    "Cranking",
    "starter crank start click slow turn voltage drop cable strap solenoid",
    "battery",
    CHECKS,
    (cautions.NEUTRAL, cautions.NO_START, cautions.SECONDS, cautions.HANDS, cautions.HYDROGEN, cautions.UNFUSED),
    (
        SYSTEM,
        TYPE,
        Setting("fuel", "fuel of the engine", words=("petrol", "diesel")),
        Setting("usual_amps", "amperes that this starter takes", "A"),
    ),
    derived=(),
    needed=lambda case: ("battery", "supply_drop", "ground_drop"),
    derive=_derive,
    serve=_serve,
    compared=False,
    group="Starting and charging",
)
