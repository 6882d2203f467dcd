"""Motors and fans by themselves: ohms, current running and held, drop at the brushes."""

from __future__ import annotations

from collections.abc import Sequence

from ...base.judgement import judged
from ...base.quantity import show
from ...check import Limit, Verdict
from .. import cautions
from ..case import Case
from ..family import COPPER, YES_NO, Check, Family, Setting
from ..judged import Figures, Judged, Service

PLACE = 60

SOURCE = "common practice, no source"
BRUSH_DROP = judged("BRUSH_DROP", 0.5, "V", "lost between a motor's plug and its commutator at the most, for each brush")
RUNNING_OVER = judged("RUNNING_OVER", 1.2, "times", "what a motor draws running at the most, of its rated current")
MOTOR_CASE_OHMS = judged("MOTOR_CASE_OHMS", 100e3, "Ω", "what a motor's winding has to its case at the least")


def _rated(case: Case) -> float | None:
    watts = case.known("watts")
    return watts / case.number("volts") if watts else None


def _running(case: Case) -> Limit | None:
    rated = _rated(case)
    return (
        Limit("A", 0.2 * rated, RUNNING_OVER * rated, f"{SOURCE}: of {case.known('watts'):g} W at {case.number('volts'):g} V")
        if rated
        else None
    )


def _serve(case: Case, findings: Sequence[Judged]) -> Service:
    ohms, running, stall = case.value("ohms"), case.value("running"), case.value("stall")
    volts = case.number("volts")
    figures: Figures = {"rated_a": _rated(case), "stall_a": stall, "running_w": None, "share_of_stall": None}
    says = []
    if ohms and 0.0 < ohms < 1e6:
        figures["stall_a"] = stall or volts / ohms
        says.append(
            f"Held, {show(ohms, 'Ω')} draw {show(volts / ohms, 'A')} from {show(volts, 'V')}: what the fuse must bear while it starts."
        )
    if running:
        figures["running_w"] = running * volts
        says.append(f"Running it takes {show(running * volts, 'W')} from {show(volts, 'V')}.")
    held = figures["stall_a"]
    if running and isinstance(held, float) and held:
        figures["share_of_stall"] = running / held
        if running > 0.7 * held:
            says.append("It draws nearly what it draws when held: it is jammed, or hardly turns.")
    return Service(figures, tuple(says))


def _advise(case: Case, findings: Sequence[Judged]) -> Sequence[str]:
    says = []
    running = next((found for found in findings if found.check == "running"), None)
    if running and running.verdict is Verdict.OUTSIDE and running.limit and isinstance(running.value, float):
        low = running.value < running.limit.least
        says.append(
            "It runs light: is the wheel or the gear still on it?"
            if low
            else "Turn it by hand: bearings, a jammed wheel or what it drives hold it up."
        )
    if case.answer("turns") == "no" and case.value("ohms"):
        says.append("Turn the shaft a little and read again: a dead bar or a hung brush comes and goes with the angle.")
    return says


FAMILY = Family(
    "motor",
    "Motor, fan, pump",
    "motor fan blower pump wiper window brush armature commutator stall",
    "running",
    (
        Check(
            "running",
            "current while it runs",
            ("A",),
            limit=_running,
            beyond=("It runs light, or has bad brushes.", "It is held up, or its turns are shorted."),
        ),
        Check(
            "ohms",
            "resistance between its terminals",
            ("Ω",),
            law=COPPER,
            beyond=("Turns are shorted.", "A brush hangs, or the winding is open."),
            limit=lambda case: Limit("Ω", most=1e3, source=f"{SOURCE}: not open"),
        ),
        Check(
            "stall",
            "current while its shaft is held, for a second",
            ("A",),
            limit=lambda case: (
                Limit("A", 2.0 * (_rated(case) or 0.0), source=f"{SOURCE}: more than twice the rated current") if _rated(case) else None
            ),
            beyond=("Too little for a held motor: brushes, commutator or feed.", ""),
        ),
        Check(
            "brush_drop",
            "drop from the plug to the commutator while it runs",
            ("V",),
            limit=lambda case: Limit("V", most=BRUSH_DROP, source=SOURCE),
            beyond=("", "The brushes are worn or dirty."),
        ),
        Check(
            "case",
            "resistance from the winding to its case",
            ("Ω",),
            limit=lambda case: Limit("Ω", MOTOR_CASE_OHMS, source=SOURCE),
            beyond=("Brush dust or a burnt winding leads to the case.", ""),
        ),
        Check("turns", "it turns freely by hand", words=YES_NO, bad="What holds it up comes before the motor."),
        Check("even", "it runs evenly, without sparks or howling", words=YES_NO, bad="Brushes, commutator or bearings are worn."),
    ),
    (cautions.UNPLUGGED, cautions.FUSED, cautions.TURNING, cautions.VAPOUR),
    (Setting("watts", "its watts", "W"), Setting("volts", "volts that it is tried with", "V", usual=12.6)),
    function=("turns", "even", "running"),
    aliases={"amps": "running", "current": "running"},
    serve=_serve,
    advise=_advise,
    kinds=("motor", "fan"),
    group="Loads",
)
