"""Loads: what the circuit is there to feed."""

from __future__ import annotations

import math
from collections.abc import Mapping

from ..part import GROUND, Effect, Element, Kind, Law, Mode, Param, Severity, Span
from .common import SHUNT, doubled, grounds, number, opens, resists, tolerance

_TURNS = Severity(Span.TURNS, lambda params: 0.25 * number(params, "ohms", 1.0), "a quarter of its ohms")


def _resistor(params: Mapping[str, object], pins: tuple[str, ...]) -> tuple[Element, ...]:
    return (Element("", "a", "b", number(params, "ohms", 1.0), number(params, "tolerance", 0.03)),)


def _coil(params: Mapping[str, object], pins: tuple[str, ...]) -> tuple[Element, ...]:
    return (
        Element("", "a", "b", number(params, "ohms", 1.0), number(params, "tolerance", 0.06)),
        Element("leak", "a", GROUND, math.inf),
    )


def _lamp(params: Mapping[str, object], pins: tuple[str, ...]) -> tuple[Element, ...]:
    volts, watts = number(params, "volts", 12.0), number(params, "watts", 10.0)
    filament = Element(
        "", "a", "b", volts * volts / watts, number(params, "tolerance", 0.05), law=Law.FILAMENT, volts=volts, amps=watts / volts
    )
    return (filament, Element("bridge", "a", "b", math.inf))


KINDS = (
    Kind(
        "resistor",
        "A plain resistance: a heater, a series resistor, a motor under steady load.",
        ("a", "b"),
        _resistor,
        (
            opens(0.8),
            resists(0.4, words="drifted high", severity=doubled("twice its ohms")),
            Mode("shorted", 0.2, (("", Effect.VALUE),), Severity(Span.TURNS, lambda params: 0.01, "0.01 Ω"), "shorted"),
        ),
        (Param("ohms", "Ω", "ohms", "resistance", required=True), tolerance(0.03)),
        symbol="resistor",
        load="",
    ),
    Kind(
        "coil",
        "A winding: solenoid, clutch, valve.",
        ("a", "b"),
        _coil,
        (
            opens(1.0, words="winding open"),
            resists(0.3, words="winding reads high", severity=doubled("twice its ohms")),
            Mode("shorted", 0.5, (("", Effect.VALUE),), _TURNS, "shorted turns"),
            grounds(0.3, words="winding touches its case"),
        ),
        (Param("ohms", "Ω", "ohms", "resistance of the winding", required=True), tolerance(0.06)),
        symbol="coil",
        load="",
        notes="`short_to_ground` leaves the winding at pin a.",
    ),
    Kind(
        "lamp",
        "A filament lamp: current rises with about the 0.55 power of voltage; cold it has about a twelfth of its hot resistance.",
        ("a", "b"),
        _lamp,
        (opens(2.0, words="filament broken"), Mode("shorted", 0.2, (("bridge", Effect.VALUE),), SHUNT, "shorted in its holder")),
        (
            Param("volts", "V", "volts", "rated voltage", default="12"),
            Param("watts", "W", "watts", "power at rated voltage", required=True),
            tolerance(0.05, "its current"),
        ),
        symbol="lamp",
        load="",
    ),
)
