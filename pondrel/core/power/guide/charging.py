"""What every way of charging reads, whatever makes the current: the steps, and how what was read becomes one of their outcomes."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from ...base.judgement import OWN_RULE, judged
from ...check import Verdict
from .. import cautions
from ..common import batteries
from ..families.charge import charging_limit, flat, trend
from .model import SLIPS, Cases, Step
from .words import by_verdict

__all__ = ["RUNS", "drop_of", "loaded_step", "raised_step", "rest_step", "sense_step", "trend_step"]

RUNS = (cautions.HANDS, cautions.LEFT_ON)
LOADED_BELOW = judged("LOADED_BELOW_V", 0.5, "V", "under its limit from which on loaded volts point to a fault on a guided way", OWN_RULE)


def _raised_word(cases: Cases) -> str:
    """Whether it charges at raised speed."""
    case = cases["charge"]
    first = next(iter(case.reads.get("raised", ())), None)  # those after it are the trend's
    if first is None:
        return ""
    volts, rest, band = first.value, case.value("rest"), charging_limit(case)
    if band.keeps(volts):
        return "good"
    if volts > band.most:
        return "high"
    return "none" if rest is not None and volts <= rest + 0.2 * batteries(case) else "low"


def _loaded_word(cases: Cases) -> str:
    """Little too low tells nothing: a battery that still charges takes it. Nor does too much, which was seen before."""
    volts, band = cases["charge"].value("loaded"), charging_limit(cases["charge"], "loaded")
    if volts is None or volts > band.most or by_verdict(cases, "charge", "loaded", "judged", "judged") == "":
        return ""
    return "good" if volts >= band.least else "low" if volts < band.least - LOADED_BELOW * batteries(cases["charge"]) else ""


def _charged_word(cases: Cases) -> str:
    """Whether the battery was flat before."""
    case = cases["charge"]
    return "" if case.value("rest") is None else "flat" if flat(case) else "not flat"


def _trend_word(cases: Cases) -> str:
    """Where the volts go."""
    moving = trend(cases["charge"])
    if moving is None:
        return ""
    if moving.verdict is Verdict.OUTSIDE and moving.last > charging_limit(cases["charge"]).most:
        return "runs up"
    return {Verdict.WITHIN: "comes up", Verdict.OUTSIDE: "stays low"}.get(moving.verdict, "")


def drop_of(check: str) -> Callable[[Cases], str]:
    """Whether a cable or a ground loses too much."""
    return lambda cases: by_verdict(cases, "charge", check, within="little", outside="lost")


Rows = Mapping[str, Mapping[str, float]]


def rest_step(given: Rows, flat: float) -> Step:
    """The battery before the start; ``flat`` is how likely it is under a cause that ``given`` does not name."""
    return Step(
        "rest",
        "Battery before the start",
        "charge",
        "rest",
        1.0,
        ("not flat", "flat"),
        _charged_word,
        {"not flat": 1.0 - flat, "flat": flat},
        given,
        "plus post",
        "minus post",
        "engine off, all off",
        "A flat battery holds the charging volts down for minutes: then the trend counts.",
    )


def raised_step(usual: Mapping[str, float], given: Rows, do: str) -> Step:
    """Volts at the posts at raised speed."""
    return Step(
        "raised",
        "Volts at raised speed",
        "charge",
        "raised",
        1.0,
        ("good", "low", "none", "high"),
        _raised_word,
        usual,
        given,
        "plus post",
        "minus post",
        do,
        "13.5 to 14.7 V: it charges. No more than at rest: nothing comes.",
        cautions=RUNS,
        after=("rest",),
    )


def trend_step(given: Rows) -> Step:
    """Volts over minutes, read until it is plain where they go."""
    return Step(
        "trend", "Where the volts go", "charge", "raised", 5.0, ("comes up", "stays low", "runs up"), _trend_word,
        {"stays low": 0.93, "comes up": 0.05}, given, "plus post", "minus post",
        "engine at raised speed, read again every five minutes; the minutes are noted by themselves, or type them: 13.1 @5min",
        "12.2 rising to 14.1 V in ten minutes is good; 12.5 falling to 11.9 V is not.",
        cautions=RUNS, repeated=True, timed=True, after=("raised",), slips=0.3 * SLIPS,  # several readings, not one
    )  # fmt: skip


def loaded_step(given: Rows, title: str, do: str, hint: str) -> Step:
    """Volts with what the vehicle has switched on."""
    return Step(
        "loaded", title, "charge", "loaded", 1.0, ("good", "low"), _loaded_word, {"low": 0.93, "good": 0.07}, given, "plus post",
        "minus post", do, hint, cautions=RUNS, after=("raised",),
        when=lambda words: (words.get("raised") == "good" and words.get("rest") != "flat") or words.get("trend") == "comes up",
    )  # fmt: skip


def sense_step(behind: str, do: str) -> Step:
    """What arrives at the regulator of the volts that it is to hold."""
    return Step(
        "sense", "Sense wire of the regulator", "charge", "sense_drop", 1.0, ("little", "lost", "has none"),
        drop_of("sense_drop"), {"little": 0.495, "has none": 0.5}, {"sense": {"lost": 0.97, "has none": 0.005}},
        "plus post", "sense pin at the regulator's plug, plugged in", do,
        "Over 0.2 V: the regulator sees too little, and charges the posts too high.", behind, cautions=RUNS, after=("raised",),
        when=lambda words: words.get("raised") == "high" or words.get("trend") == "runs up", absent="has none",
    )  # fmt: skip
