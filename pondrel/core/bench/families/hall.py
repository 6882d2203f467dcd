"""Hall sensors and two-wire active sensors by themselves: levels of volts, or of milliamperes."""

from __future__ import annotations

from collections.abc import Sequence

from ...base.judgement import judged
from ...base.quantity import show
from ...check import Limit
from .. import cautions
from ..case import Case
from ..family import YES_NO, Check, Family, Setting
from ..judged import Judged, Service

PLACE = 110

SOURCE = "common practice, no source"
LOW_AMPS = (5.6e-3, 8.4e-3)  # about 7 mA
HIGH_AMPS = (11.2e-3, 16.8e-3)  # about 14 mA
HALL_LOW_MOST = judged("HALL_LOW_MOST", 0.8, "V", "what a Hall sensor's output has at the most when it is low")
HALL_HIGH_SHARE = judged(
    "HALL_HIGH_SHARE", 0.8, "share", "of what pulls it up that a Hall sensor's output has at the least when it is high"
)


def _two_wires(case: Case) -> bool:
    return case.word("wires") == "2"


def _serve(case: Case, findings: Sequence[Judged]) -> Service:
    low, high, burden = case.value("low_amps"), case.value("high_amps"), case.number("burden")
    if low is not None and high is not None:
        swing = (high - low) * burden
        ratio = high / low if low else None
        return Service(
            {"swing_v": swing, "ratio": ratio},
            (f"Across {show(burden, 'Ω')} that swings by {show(swing, 'V')}; twice the current is the other level.",),
        )
    low_v, high_v = case.value("low"), case.value("high")
    if low_v is not None and high_v is not None:
        return Service({"swing_v": high_v - low_v}, (f"It swings by {show(high_v - low_v, 'V')}.",))
    return Service()


def _advise(case: Case, findings: Sequence[Judged]) -> Sequence[str]:
    if case.answer("switches") == "no" or (case.read("high") and case.read("low") and case.value("high") == case.value("low")):
        return ("Read its supply and ground at the plug, and pull its output up with 10 kΩ: without a pull-up nothing is to be seen.",)
    return ()


FAMILY = Family(
    "hall",
    "Hall or two-wire speed sensor",
    "hall active wheel speed sensor two-wire current cam crank square wave",
    "low",
    (
        Check(
            "low",
            "its output when low",
            ("V",),
            limit=lambda case: None if _two_wires(case) else Limit("V", most=HALL_LOW_MOST, source=SOURCE),
            beyond=("", "It does not pull down: its ground, or the sensor."),
        ),
        Check(
            "high",
            "its output when high",
            ("V",),
            limit=lambda case: (
                None
                if _two_wires(case)
                else Limit("V", HALL_HIGH_SHARE * case.number("pulled_to"), source=f"{SOURCE}: of {show(case.number('pulled_to'), 'V')}")
            ),
            beyond=("It does not let go, or its pull-up is missing.", ""),
        ),
        Check("supply", "volts at its plug", ("V",), limit=lambda case: Limit("V", 4.75, 15.0, SOURCE), beyond=("It is not fed.", "")),
        Check(
            "low_amps",
            "its lower current",
            ("A",),
            limit=lambda case: Limit("A", *LOW_AMPS, source=f"{SOURCE}: 7 mA"),
            beyond=("It is dead or open.", "It leaks or is shorted."),
        ),
        Check(
            "high_amps",
            "its higher current",
            ("A",),
            limit=lambda case: Limit("A", *HIGH_AMPS, source=f"{SOURCE}: 14 mA"),
            beyond=("It does not switch up: gap, wheel or sensor.", "It is shorted."),
        ),
        Check("duty", "share of time that it is high, turning evenly", ("%",), limit=lambda case: Limit("%", 30.0, 70.0, SOURCE)),
        Check(
            "switches", "it switches once for each tooth that passes", words=YES_NO, bad="No tooth is seen: gap, wheel, supply or sensor."
        ),
    ),
    (cautions.NO_BACKFEED, cautions.UNPLUGGED, "An active sensor is never read with an ohmmeter: its current can kill it."),
    (
        Setting("wires", "how many wires it has", words=("2", "3"), usual="3"),
        Setting("pulled_to", "what pulls its output up", "V", usual=5.0),
        Setting("burden", "the module's resistor", "Ω", usual=115.0),
    ),
    function=("switches", "duty"),
    serve=_serve,
    advise=_advise,
    kinds=("hall_switch", "current_sensor"),
    group="Sensors",
)
