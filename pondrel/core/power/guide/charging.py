"""How charging volts that were read become one of a step's outcomes."""

from __future__ import annotations

from collections.abc import Callable

from ...base.judgement import OWN_RULE, judged
from ...check import Verdict
from ..common import batteries
from ..families.charge import charging_limit, flat, trend
from .model import Cases
from .words import by_verdict

__all__ = ["charged_word", "drop_of", "loaded_word", "raised_word", "trend_word"]

LOADED_BELOW = judged("LOADED_BELOW_V", 0.5, "V", "under its limit from which on loaded volts point to a fault on a guided way", OWN_RULE)


def raised_word(cases: Cases) -> str:
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


def loaded_word(cases: Cases) -> str:
    """Little too low tells nothing: a battery that still charges takes it."""
    volts, band = cases["charge"].value("loaded"), charging_limit(cases["charge"], "loaded")
    if volts is None or by_verdict(cases, "charge", "loaded", "judged", "judged") == "":
        return ""
    return "good" if volts >= band.least else "low" if volts < band.least - LOADED_BELOW * batteries(cases["charge"]) else ""


def charged_word(cases: Cases) -> str:
    """Whether the battery was flat before."""
    case = cases["charge"]
    return "" if case.value("rest") is None else "flat" if flat(case) else "charged"


def trend_word(cases: Cases) -> str:
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
