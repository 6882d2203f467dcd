"""Inductive pick-ups by themselves: ohms, insulation, and volts that grow with speed."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ...base.errors import ReadingError
from ...base.judgement import judged
from ...base.quantity import show
from ...check import Limit, Verdict
from .. import cautions
from ..case import Case
from ..decide import by_number
from ..family import COPPER, YES_NO, Check, Column, Family, Setting
from ..judged import Chart, Dot, Figures, Judged, Line, Service

PLACE = 100

USUAL = (200.0, 2500.0)  # Ω. Common practice, no source
SOURCE = "common practice, no source"
CRANKING_VOLTS = judged("CRANKING_VOLTS", 0.2, "V", "what an inductive pick-up gives at cranking speed at the least, effective")
GROWS_WITHIN = judged("GROWS_WITHIN", 25.0, "%", "how far a pick-up's volts may be from growing with speed")
_GROWS = Check(
    "grows",
    "how far its volts are from growing with speed",
    ("%",),
    beyond=("", "A cracked magnet, metal dust on it, or run-out of the wheel."),
)


def _derive(case: Case) -> Sequence[Judged]:
    if not case.rows:
        return ()
    rpm, volts = np.array(case.column("rpm")), np.array(case.column("volts"))
    if len(rpm) < 2 or (rpm <= 0.0).any():
        raise ReadingError("Two speeds above nought with their volts are wanted at least.")
    slope = float(rpm @ volts / (rpm @ rpm))
    if slope <= 0.0:
        return (Judged("grows", Verdict.OUTSIDE, 0.0, "%", "It gives no volts at any speed.", then="Read its ohms and its gap."),)
    off = 100.0 * np.abs(volts / (slope * rpm) - 1.0)
    place = int(off.argmax())
    u = 100.0 * case.u(case.rows[place]["volts"]) / (slope * float(rpm[place]))
    limit = case.given("grows") or Limit("%", most=GROWS_WITHIN, source=SOURCE)
    told = (
        f"{show(float(volts[place]), 'V')} at {rpm[place]:.4g} rpm, where "
        f"{show(slope * float(rpm[place]), 'V')} follow from the others: {off[place]:.0f} % off"
    )
    return (by_number(case, _GROWS, float(off[place]), u, limit, told),)


def _serve(case: Case, findings: Sequence[Judged]) -> Service:
    if not case.rows:
        return Service()
    rpm, volts = np.array(case.column("rpm")), np.array(case.column("volts"))
    slope = float(rpm @ volts / (rpm @ rpm))
    figures: Figures = {"volts_per_1000rpm": 1000.0 * slope, "cranking_v": 200.0 * slope}
    return Service(
        figures,
        (f"It gives {show(1000.0 * slope, 'V')} for every 1000 rpm, so about {show(200.0 * slope, 'V')} while cranking at 200 rpm.",),
    )


def _chart(case: Case, findings: Sequence[Judged]) -> Chart | None:
    if not case.rows:
        return None
    rpm, volts = np.array(case.column("rpm")), np.array(case.column("volts"))
    slope, end = float(rpm @ volts / (rpm @ rpm)), float(rpm.max())
    dots = tuple(Dot(float(x), float(y)) for x, y in zip(rpm, volts, strict=True))[:200]
    return Chart(
        "Its volts grow with speed",
        ("speed", "rpm"),
        ("pick-up", "V"),
        (Line("in proportion", ((0.0, 0.0), (end, slope * end)), "good"),),
        (),
        dots,
    )


FAMILY = Family(
    "pickup",
    "Inductive pick-up",
    "pickup pick-up inductive crank cam wheel speed sensor variable reluctance abs",
    "ohms",
    (
        Check(
            "ohms",
            "resistance of the winding",
            ("Ω",),
            limit=lambda case: Limit("Ω", *USUAL, source=SOURCE),
            law=COPPER,
            beyond=("Turns are shorted.", "It is open, or breaks when warm: read it warm and bent too."),
        ),
        Check(
            "case",
            "resistance from the winding to its screen or case",
            ("Ω",),
            limit=lambda case: Limit("Ω", 100e3, source=SOURCE),
            beyond=("The winding touches its screen.", ""),
        ),
        Check(
            "volts",
            "volts at cranking speed, effective",
            ("V",),
            limit=lambda case: Limit("V", CRANKING_VOLTS, source=SOURCE),
            beyond=("Gap too wide, magnet weak or dirty.", ""),
        ),
        Check("clean", "its tip is clean and whole", words=YES_NO, bad="Metal dust bridges the magnet: clean it and read again."),
    ),
    (cautions.UNPLUGGED, cautions.DEAD),
    (Setting("gap", "its gap to the wheel", "mm"),),
    (Column("rpm", "speed", "rpm"), Column("volts", "effective volts", "V")),
    (_GROWS,),
    ("volts", "clean"),
    derive=_derive,
    serve=_serve,
    chart=_chart,
    kinds=("pickup",),
    group="Sensors",
)
