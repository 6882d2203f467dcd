"""Filament lamps and light-emitting ones by themselves."""

from __future__ import annotations

from collections.abc import Sequence

from ...base.judgement import judged
from ...base.quantity import show
from ...check import Limit
from ...wiring.drop import LIGHT_POWER
from .. import cautions
from ..case import Case
from ..family import YES_NO, Check, Family, Setting
from ..judged import Figures, Judged, Service

PLACE = 220

SOURCE = "common practice, no source"
COLD_LEAST = judged("COLD_LEAST", 1.0 / 16.0, "share", "of its hot ohms that a filament has cold at the least")
COLD_MOST = judged("COLD_MOST", 1.0 / 8.0, "share", "of its hot ohms that a filament has cold at the most")
LAMP_WITHIN = judged("LAMP_WITHIN", 15.0, "%", "how far a lamp's current may be from what its watts make")


def _rated(case: Case) -> float | None:
    watts = case.known("watts")
    return watts / case.number("volts") if watts else None


def _cold(case: Case) -> Limit | None:
    rated = _rated(case)
    if not rated or case.word("sort") != "filament":
        return None
    hot = case.number("volts") / rated
    return Limit("Ω", COLD_LEAST * hot, COLD_MOST * hot, f"{SOURCE}: a cold filament of {case.known('watts'):g} W")


def _current(case: Case) -> Limit | None:
    rated = _rated(case)
    part = LAMP_WITHIN / 100.0
    return (
        Limit("A", rated * (1.0 - part), rated * (1.0 + part), f"{SOURCE}: {case.known('watts'):g} W ± {LAMP_WITHIN:.0f} %")
        if rated
        else None
    )


def _serve(case: Case, findings: Sequence[Judged]) -> Service:
    rated, volts = _rated(case), case.number("volts")
    figures: Figures = {"rated_a": rated, "hot_ohms": volts / rated if rated else None, "light_share": None}
    says = (
        [f"Hot it has {show(volts / rated, 'Ω')} and draws {show(rated, 'A')}; cold it takes some ten times that for a moment."]
        if rated
        else []
    )
    at = case.value("at_lamp")
    if at is not None and case.word("sort") == "filament" and at >= 0.0:
        figures["light_share"] = (at / volts) ** LIGHT_POWER
        says.append(f"At {show(at, 'V')} it gives {100 * float(figures['light_share'] or 0.0):.0f} % of its light.")
    return Service(figures, tuple(says))


FAMILY = Family(
    "lamp",
    "Lamp",
    "lamp bulb filament led light",
    "ohms",
    (
        Check(
            "ohms",
            "its ohms, cold",
            ("Ω",),
            limit=_cold,
            beyond=("It is another lamp, or shorted.", "It is burnt out, or its socket is corroded."),
        ),
        Check("amps", "its current", ("A",), limit=_current, beyond=("It is not fed, or another lamp.", "It is another lamp, or shorted.")),
        Check(
            "at_lamp",
            "volts at its contacts while it is on",
            ("V",),
            limit=lambda case: Limit("V", 0.95 * case.number("volts"), 1.2 * case.number("volts"), f"{SOURCE}: 5 % lost at the most"),
            beyond=("Volts are lost on the way: feed or ground.", "Too many volts: it burns out soon."),
        ),
        Check("lights", "it lights fully", words=YES_NO, bad="It is burnt out, or turned round if it is an LED."),
        Check("steady", "it does not flicker when knocked", words=YES_NO, bad="Its socket or its solder is loose."),
    ),
    (cautions.FUSED, cautions.HOT, "Gas-discharge lamps: high voltage, battery off and qualified people only."),
    (
        Setting("sort", "what it is", words=("filament", "led"), usual="filament"),
        Setting("watts", "its watts", "W"),
        Setting("volts", "its volts", "V", usual=12.0),
    ),
    function=("lights", "steady"),
    serve=_serve,
    kinds=("lamp",),
    group="Loads",
)
