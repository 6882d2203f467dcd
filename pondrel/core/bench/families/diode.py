"""Single diodes by themselves, by the meter's diode test."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from ...check import Limit
from .. import cautions
from ..case import Case
from ..family import YES_NO, Check, Family, Setting
from ..judged import Judged, Service

PLACE = 200

# By sort: volts forward by diode test. Common practice, no source.
FORWARD: Mapping[str, tuple[float, float]] = {"silicon": (0.4, 0.8), "schottky": (0.12, 0.45), "led": (1.5, 3.6), "zener": (0.5, 0.9)}


def _forward(case: Case) -> Limit:
    return Limit("V", *FORWARD[case.word("sort")], source=f"common practice, no source: {case.word('sort')}, diode test")


def _reverse(case: Case) -> Limit | None:
    volts = case.known("breaks_at")
    if case.word("sort") != "zener" or not volts:
        return None
    return Limit("V", 0.93 * volts, 1.07 * volts, "common practice, no source: printed volts ± 7 %")


def _serve(case: Case, findings: Sequence[Judged]) -> Service:
    forward, amps = case.value("forward"), case.known("amps")
    if forward is None or not amps:
        return Service()
    return Service({"watts": forward * amps}, (f"At {amps:g} A it turns {forward * amps:.2g} W into heat.",))


FAMILY = Family(
    "diode",
    "Diode",
    "diode zener schottky led suppression blocking",
    "forward",
    (
        Check(
            "forward",
            "volts forward, by diode test",
            ("V",),
            limit=_forward,
            beyond=("It is shorted, or another sort of diode.", "It is open, or another sort of diode."),
        ),
        Check("blocks", "it blocks the other way round", words=YES_NO, bad="It is shorted, or something lies beside it."),
        Check("reverse", "volts at which it breaks through, with 5 mA", ("V",), limit=_reverse),
        Check(
            "leak",
            "ohms the other way round",
            ("Ω",),
            limit=lambda case: Limit("Ω", 1e6, source="common practice, no source"),
            beyond=("It leaks.", ""),
        ),
    ),
    (cautions.DEAD, cautions.DISCHARGE, "Lift one leg of it: what lies beside it conducts too."),
    (
        Setting("sort", "what it is", words=tuple(FORWARD), usual="silicon"),
        Setting("breaks_at", "a zener's printed volts", "V"),
        Setting("amps", "its working current", "A"),
    ),
    function=("blocks",),
    serve=_serve,
    kinds=("diode", "zener", "led"),
    group="Charging",
)
