"""How what was read becomes one of a step's outcomes."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping

from ...base.judgement import OWN_RULE, judged
from ...base.quantity import parse_reading
from ...bench.verdict import outcome
from ...check import Verdict
from ..families.battery import charge
from ..heavy import PIECES_BY_NAME, SIDE_MOST
from ..registry import JUDGES
from .model import Cases, Step

__all__ = [
    "by_verdict",
    "drop_word",
    "load_word",
    "of_answer",
    "rest_word",
    "rows",
    "shared_settings",
    "shown_unit",
    "tester_word",
    "unit_of",
    "with_unit",
]

FULL_PERCENT = judged("FULL_PERCENT", 68.0, "%", "of its charge from which on a battery is not why it does not start", OWN_RULE)
FLAT_PERCENT = judged("FLAT_PERCENT", 35.0, "%", "of its charge under which a battery is charged before anything else is judged", OWN_RULE)
OF_SAG = judged("DROP_OF_SAG", 0.35, "share", "of what the battery gives way by that a side must lose to be at fault", OWN_RULE)
OF_SIDE = judged("DROP_OF_SIDE", 0.4, "share", "of what its side loses that a piece must lose to be at fault", OWN_RULE)
ALL_SHARE = 0.7  # of the battery's volts from which on a drop is all of them: nothing conducts there


def by_verdict(cases: Cases, family: str, check: str, within: str, outside: str) -> str:
    """One word where it is within its limits, another where it is outside. Where the meter cannot decide, the side on which the number lies
    counts: the ways' tables allow for slips anyway. What is not comparable tells nothing."""
    found = next((one for one in outcome(JUDGES[family], cases[family]).findings if one.check == check), None)
    if found is None or found.verdict is Verdict.NOT_COMPARABLE or found.limit is None or isinstance(found.value, str):
        return ""
    return within if found.limit.keeps(found.value) else outside


def of_answer(family: str, check: str) -> Callable[[Cases], str]:
    """The word that was answered itself."""
    return lambda cases: cases[family].answer(check)


def shared_settings(families: Iterable[str]) -> frozenset[str]:
    """The names of settings under which two of the families ask different things."""
    asked: dict[str, set[tuple[str, ...]]] = {}
    for name in families:
        for setting in JUDGES[name].settings:
            asked.setdefault(setting.name, set()).add(setting.words)
    return frozenset(name for name, words in asked.items() if len(words) > 1)


def unit_of(step: Step) -> str:
    """The SI unit in which a step is read; empty where it is answered in words."""
    check = JUDGES[step.family].check(step.check)
    return step.unit or (check.units[0] if check and check.units else "")


def shown_unit(step: Step) -> str:
    """The unit as a meter has it on its range switch: alternating volts are ``V~``."""
    return f"{unit_of(step)}{'~' if step.alternating else ''}"


def with_unit(step: Step, text: str) -> str:
    """What was typed, with the step's unit where its check would take another one for meant. Raises ReadingError for what is none in it."""
    value, at, noted = text.partition("@")
    bare = value.strip()
    if step.unit:
        parse_reading(bare, step.unit)
    return f"{bare} {step.unit}{' @' if at else ''}{noted}" if step.unit and bare[-1:].isdigit() else text


def rest_word(cases: Cases) -> str:
    """How full a battery is: two thirds and more, down to a third, less."""
    span = charge(cases["battery"])
    if span is None:
        return ""
    middle = (span[0] + span[1]) / 2.0 if cases["battery"].word("type") else span[1]
    return "full" if middle >= FULL_PERCENT else "flat" if middle < FLAT_PERCENT else "low"


def drop_word(cases: Cases, name: str, words: tuple[str, str, str]) -> str:
    """Of a drop: little, too much, or all of the battery's volts.

    A starter that is held, or drags, draws several times its current and loses several times the volts in every good joint. So a side has
    lost too much only where that is much beside what the battery gives way by, and a piece only where it has a good part of its side.
    """
    case = cases["crank"]
    read = case.read(name)
    if read is None:
        return ""
    twice = 2.0 if case.word("system") == "24" else 1.0
    drop = abs(read.value)
    if drop >= ALL_SHARE * 12.0 * twice:
        return words[2]
    piece = PIECES_BY_NAME.get(name)
    if drop <= (piece.most if piece else SIDE_MOST[name]) * twice:
        return words[0]
    rest, low, side = case.value("rest"), case.value("battery"), case.value(piece.side) if piece else None
    sag = rest - low if rest is not None and low is not None else 0.0
    if drop < OF_SAG * sag * (0.5 if piece else 1.0) or (side is not None and drop < OF_SIDE * abs(side)):
        return words[0]
    return words[1]


def tester_word(cases: Cases) -> str:
    """What a battery tester's verdict comes to, by its words."""
    said = cases["battery"].answer("tester")
    return {"good": "good", "good, recharge": "flat", "charge and retest": "flat", "replace": "bad", "bad cell": "bad"}.get(
        said, "connection" if said else ""
    )


def load_word(cases: Cases) -> str:
    """Whether a battery passes its load test."""
    return by_verdict(cases, "battery", "load", within="passes", outside="fails")


def rows(names: tuple[str, ...], **row: float) -> dict[str, Mapping[str, float]]:
    """One row of a step's table for several causes: the chance of each outcome, an underscore for a blank."""
    return {name: {key.replace("_", " "): value for key, value in row.items()} for name in names}
