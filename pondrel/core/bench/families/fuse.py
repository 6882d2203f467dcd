"""Fuses by themselves: whole or blown, what flows through one by its millivolts, and how long it bears a current (ISO 8820-3)."""

from __future__ import annotations

import math
from collections.abc import Sequence

from ...base.conductor import fuse_cold_ohms
from ...base.fuse_ohms import BY_MILLIVOLTS
from ...base.judgement import judged
from ...base.melting import melting_seconds, melting_words
from ...base.quantity import show
from ...check import Limit, Verdict
from ..case import Case
from ..family import Check, Family, Setting
from ..judged import Figures, Judged, Service

PLACE = 230

SOURCE = "common practice, no source"
FUSE_OHMS_TIMES = judged("FUSE_OHMS_TIMES", 3.0, "times", "what a whole blade fuse with its clips may have, of its cold ohms")


def _rating(case: Case) -> float | None:
    return case.known("rating")


def _serve(case: Case, findings: Sequence[Judged]) -> Service:
    rating = _rating(case)
    if not rating:
        return Service()
    drop, amps = case.value("drop"), case.value("amps")
    cold = case.known("cold_ohms") or fuse_cold_ohms(rating)
    figures: Figures = {"cold_ohms": cold, "amps_by_drop": None, "melts_least_s": None, "melts_most_s": None}
    says = []
    if drop is not None:
        figures["amps_by_drop"] = drop / cold
        says.append(f"{show(drop, 'V')} across it is about {show(drop / cold, 'A')}, give or take {100 * BY_MILLIVOLTS:.0f} %.")
    if amps is not None:
        least, most = melting_seconds(rating, amps)
        figures["melts_least_s"] = None if math.isinf(least) else least
        figures["melts_most_s"] = None if math.isinf(most) else most
        share = 100.0 * amps / rating
        says.append(
            f"{show(amps, 'A')} is {share:.0f} % of its rating: "
            + ("it bears that for at least 100 h." if math.isinf(least) else f"it melts in {melting_words(rating, amps)} (ISO 8820-3).")
        )
    return Service(figures, tuple(says))


def _advise(case: Case, findings: Sequence[Judged]) -> Sequence[str]:
    says = []
    if case.answer("look") in ("blown", "melted plastic") or any(
        found.check == "ohms" and found.verdict is Verdict.OUTSIDE for found in findings
    ):
        says += [
            "Before another goes in: what blew it? Read ohms from its dead side to "
            "ground, loads unplugged one by one, and look where wires rub.",
            "The new one has the same type and rating, never a larger one.",
        ]
    if case.answer("look") == "melted plastic":
        says.append("Melted plastic is a loose clip, not an overload: renew the holder.")
    return says


FAMILY = Family(
    "fuse",
    "Fuse",
    "fuse blade link rating blown millivolt parasitic draw",
    "ohms",
    (
        Check(
            "ohms",
            "its ohms, pulled",
            ("Ω",),
            limit=lambda case: Limit(
                "Ω", most=max(FUSE_OHMS_TIMES * fuse_cold_ohms(_rating(case) or 1.0), 0.1), source=f"{SOURCE}: a whole blade fuse"
            ),
            beyond=("", "It is blown, or cracked."),
        ),
        Check(
            "look",
            "what it looks like",
            words=("whole", "blown", "melted plastic"),
            good=lambda case: "whole",
            bad="A blown fuse is a sign, not the fault.",
        ),
        Check(
            "amps",
            "current through it",
            ("A",),
            limit=lambda case: (
                Limit("A", most=0.8 * (_rating(case) or math.inf), source=f"{SOURCE}: 80 % of its rating, lasting")
                if _rating(case)
                else None
            ),
            beyond=("", "More than it bears for long."),
        ),
        Check("drop", "millivolts across it while it is in", ("V",), aside=True),
        Check(
            "holder",
            "drop across its holder under load",
            ("V",),
            limit=lambda case: Limit("V", most=0.1, source=SOURCE),
            beyond=("", "The clips are loose or burnt."),
        ),
    ),
    ("Pull it with the key off; at high currents the battery off first.", "Never bridge it, never a larger one."),
    (Setting("rating", "its amperes", "A"), Setting("cold_ohms", "its own cold ohms, as measured", "Ω")),
    aliases={"resistance": "ohms"},
    serve=_serve,
    advise=_advise,
    kinds=("fuse", "fusible_link"),
    compared=False,
    group="Fuses, switches, plugs",
)
