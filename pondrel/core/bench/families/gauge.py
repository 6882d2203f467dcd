"""Gauges in the dash by themselves: fed with known ohms or volts in place of their sender."""

from __future__ import annotations

from collections.abc import Sequence

from ...base.judgement import judged
from ...base.quantity import show
from ...check import Limit, Verdict
from .. import cautions
from ..case import Case
from ..family import COPPER, YES_NO, Check, Family, Setting
from ..judged import Judged, Service

PLACE = 150

SOURCE = "common practice, no source"
NEEDLE_WITHIN = judged("NEEDLE_WITHIN", 7.0, "%", "of its scale by which a needle may be off with known ohms in place of its sender")


def _at(percent: float) -> Limit:
    return Limit("%", percent - NEEDLE_WITHIN, percent + NEEDLE_WITHIN, SOURCE)


def _feed(case: Case) -> Limit:
    nominal = case.number("volts")
    return Limit("V", 0.9 * nominal, 1.1 * nominal, f"{SOURCE}: {nominal:g} V ± 10 %")


def _advise(case: Case, findings: Sequence[Judged]) -> Sequence[str]:
    bad = {found.check for found in findings if found.verdict is Verdict.OUTSIDE}
    if "feed" in bad:
        return ("First its feed: read the instrument regulator by its mean or its effective value.",)
    if {"at_empty", "at_full"} <= bad:
        return ("Off at both ends: its ground or its feed before the gauge.",)
    return ("With known ohms it follows: the sender or its wire is next.",) if case.reads.get("at_full") and not bad else ()


def _serve(case: Case, findings: Sequence[Judged]) -> Service:
    ohms = case.value("ohms")
    if not ohms or ohms > 1e6:
        return Service()
    amps = case.number("volts") / (ohms + (case.known("sender_full") or 0.0))
    return Service({"full_a": amps}, (f"At full it takes {show(amps, 'A')} from {show(case.number('volts'), 'V')}.",))


FAMILY = Family(
    "gauge",
    "Gauge",
    "gauge fuel temperature oil instrument needle dash bimetal",
    "at_full",
    (
        Check(
            "at_full",
            "what it shows with the ohms of a full sender",
            ("%",),
            limit=lambda case: _at(100.0),
            beyond=("It reads too low.", "It reads too high."),
        ),
        Check(
            "at_half", "what it shows half way", ("%",), limit=lambda case: _at(50.0), beyond=("It reads too low.", "It reads too high.")
        ),
        Check(
            "at_empty",
            "what it shows with the ohms of an empty sender",
            ("%",),
            limit=lambda case: _at(0.0),
            beyond=("It rests too low.", "It reads too high."),
        ),
        Check(
            "feed",
            "the volts that feed it, mean or effective as its kind has it",
            ("V",),
            limit=_feed,
            beyond=("All gauges on it read low.", "All gauges on it read high and burn."),
        ),
        Check(
            "ohms",
            "resistance of its winding",
            ("Ω",),
            law=COPPER,
            limit=lambda case: Limit("Ω", 5.0, 500.0, SOURCE),
            beyond=("It is shorted.", "It is open."),
        ),
        Check("steady", "the needle stands still", words=YES_NO, bad="A ticking needle is fed with pulses: read its regulator."),
    ),
    (
        cautions.FUSED,
        "A bimetal gauge takes minutes: wait until the needle stands.",
        "Never ground a gauge's wire without ohms in line: it burns.",
    ),
    (Setting("volts", "what feeds it", "V", usual=5.0), Setting("sender_full", "what its sender has when full", "Ω")),
    function=("at_full", "at_empty", "steady"),
    serve=_serve,
    advise=_advise,
    kinds=("gauge",),
    group="Gauges",
)
