"""Devices that act only when two conditions hold: each by itself, then both, and the sensitivity set until it just acts."""

from __future__ import annotations

from collections.abc import Sequence

from ...check import Limit
from .. import cautions
from ..case import Case
from ..family import YES_NO, Check, Family, Setting
from ..judged import Judged, Service

PLACE = 280


def _no(case: Case) -> str:
    return "no"


def _advise(case: Case, findings: Sequence[Judged]) -> Sequence[str]:
    says = []
    if case.answer("both") == "no":
        seen = [name for name in ("one_seen", "two_seen") if case.answer(name) == "no"]
        if seen:
            says.append("The condition that does not arrive comes first: its wire, its sensor, its ground.")
        elif not (case.reads.get("one_seen") and case.reads.get("two_seen")):
            says.append("See first that each condition arrives by itself: signal at the plug, sensor tilted or moved by hand.")
        else:
            says.append(
                "Both arrive and it does not act: turn its sensitivity up by small steps "
                "until it just does; only then its output and the load."
            )
    if case.answer("both") == "yes" and not case.reads.get("sensitivity"):
        says.append("Turn its sensitivity down until it just no longer acts, then up until it just does, and note the mark.")
    return says


def _serve(case: Case, findings: Sequence[Judged]) -> Service:
    acts = [name for name in ("one", "two", "both") if case.answer(name) == "yes"]
    if not acts and not case.reads:
        return Service()
    worse = case.answer("one") == "yes" or case.answer("two") == "yes"
    says = (
        "It acts on one condition alone: it will come on when it must not."
        if worse
        else "It needs both, as it should."
        if acts == ["both"]
        else "It does not act."
    )
    return Service({"acts_on": ", ".join(acts)}, (says,))


FAMILY = Family(
    "two-condition",
    "Device with two conditions",
    "two conditions brake controller trailer deceleration sensitivity interlock and",
    "both",
    (
        Check("both", "it acts with both conditions", words=YES_NO, bad="It does not act when it must."),
        Check("one", "it acts with the first condition alone", words=YES_NO, good=_no, bad="The second condition stands, or is bridged."),
        Check("two", "it acts with the second condition alone", words=YES_NO, good=_no, bad="The first condition stands, or is bridged."),
        Check("one_seen", "the first condition arrives", words=YES_NO, bad="Its signal does not arrive."),
        Check("two_seen", "the second condition arrives", words=YES_NO, bad="Its signal does not arrive."),
        Check(
            "sensitivity",
            "the mark at which it just acts",
            ("",),
            exact=True,
            limit=lambda case: Limit("", 0.0, 10.0, "common practice, no source: its own scale"),
        ),
        Check(
            "output",
            "volts at its output while it acts",
            ("V",),
            limit=lambda case: Limit("V", 0.9 * case.number("supply"), source="common practice, no source: 10 % lost at the most"),
            beyond=("Its output is weak, or the load is too much.", ""),
        ),
    ),
    (cautions.TRAILER, cautions.FUSED),
    (
        Setting("first", "the first condition", usual="brake signal"),
        Setting("second", "the second condition", usual="deceleration"),
        Setting("supply", "volts that feed it", "V", usual=12.6),
    ),
    function=("both", "one", "two"),
    serve=_serve,
    advise=_advise,
    compared=False,
    group="Boards and modules",
)
