"""Switches by themselves: closed, open, under load, and moved."""

from __future__ import annotations

from collections.abc import Sequence

from ...base.judgement import judged
from ...base.quantity import show
from ...check import Limit
from .. import cautions
from ..case import Case
from ..family import YES_NO, Check, Family, Setting
from ..judged import Judged, Service

PLACE = 240

SOURCE = "common practice, no source"
SWITCH_DROP = judged("SWITCH_DROP", 0.2, "V", "lost in a closed switch at its working current at the most")
SWITCH_OHMS = judged("SWITCH_OHMS", 0.5, "Ω", "what a closed switch has at the most, without load")
SWITCH_OPEN_OHMS = judged("SWITCH_OPEN_OHMS", 1e6, "Ω", "what an open switch has at the least")


def _serve(case: Case, findings: Sequence[Judged]) -> Service:
    drop, amps = case.value("drop"), case.known("amps")
    if drop is None or not amps:
        return Service()
    return Service(
        {"ohms": drop / amps, "watts": drop * amps},
        (f"{show(drop, 'V')} at {show(amps, 'A')} are {show(drop / amps, 'Ω')} and {show(drop * amps, 'W')} inside it.",),
    )


FAMILY = Family(
    "switch",
    "Switch",
    "switch contact button brake light door lever reed pressure switch",
    "closed",
    (
        Check(
            "closed",
            "its ohms closed",
            ("Ω",),
            limit=lambda case: Limit("Ω", most=SWITCH_OHMS, source=SOURCE),
            beyond=("", "It does not close, or its contacts are dirty."),
        ),
        Check(
            "open",
            "its ohms open",
            ("Ω",),
            limit=lambda case: Limit("Ω", SWITCH_OPEN_OHMS, source=SOURCE),
            beyond=("It does not open, or it is wet inside.", ""),
        ),
        Check(
            "drop",
            "drop across it closed, under load",
            ("V",),
            limit=lambda case: Limit("V", most=SWITCH_DROP, source=SOURCE),
            beyond=("", "Its contacts are burnt."),
        ),
        Check("steady", "the number stands still when it is moved and knocked", words=YES_NO, bad="It makes contact now and then only."),
        Check("returns", "it goes back by itself where it should", words=YES_NO, bad="It sticks."),
        Check("switches_at", "pressure at which it switches", ("kPa",)),
    ),
    (cautions.UNPLUGGED, cautions.DEAD),
    (Setting("amps", "the current through it meanwhile", "A"),),
    function=("steady", "returns", "drop"),
    aliases={"ohms": "closed"},
    serve=_serve,
    kinds=("switch", "inertia_switch", "pressure_switch", "brake_switch"),
    group="Fuses, switches, plugs",
)
