"""Control units as a load of their own: what they draw awake and asleep, and what wakes them."""

from __future__ import annotations

import math

from ..part import Contact, Effect, Element, Kind, Mode, Param, Seen, Severity, Sight, Span
from .common import ALIVE_VOLTS, ASLEEP_VOLTS, UNSTATED_TOLERANCE, Params, fed, inner, nothing, number, opens, spread_of, tolerance

_AWAKE_AMPS, _ASLEEP_AMPS = 0.25, 0.0008
_WAKE_OHMS = 10e3


def _module(params: Params, pins: tuple[str, ...]) -> tuple[Element, ...]:
    volts = number(params, "volts", 12.6)
    awake, asleep = number(params, "amps", _AWAKE_AMPS), number(params, "sleep_amps", _ASLEEP_AMPS)
    spread = number(params, "tolerance", spread_of(params, "amps", 0.2, UNSTATED_TOLERANCE))
    by_wake = "wake" in pins
    fed_by_supply, told = fed("supply", "gnd")
    runs = Contact("wake", ALIVE_VOLTS, ASLEEP_VOLTS, signed=True) if by_wake else fed_by_supply
    elements = [
        Element("", "supply", "gnd", volts / max(awake, 1e-6), spread, contact=runs, powered=True),
        # What it draws asleep, and what its memory and its watch over the wake line need.
        Element("idle", "supply", "gnd", volts / asleep if asleep > 0.0 else math.inf, UNSTATED_TOLERANCE, powered=True),
        nothing("inside", "supply", "gnd"),
        Element("insomnia", "supply", "gnd", math.inf, spread, drawn=False, powered=True, spare=volts / max(awake, 1e-6)),
        inner("supply"),
        told,
    ]
    if by_wake:
        elements.append(Element("wake", "wake", "gnd", number(params, "wake_ohms", _WAKE_OHMS), UNSTATED_TOLERANCE, drawn=False))
    return tuple(elements)


def _check(params: Params) -> str | None:
    awake, asleep = number(params, "amps", _AWAKE_AMPS), number(params, "sleep_amps", _ASLEEP_AMPS)
    return f"sleep_amps ({asleep:g} A) must be less than amps ({awake:g} A)" if asleep >= awake else None


def _answers(seen: Seen) -> tuple[Sight, ...]:
    alive = seen.conducts[""] and seen.volts[""] >= ASLEEP_VOLTS
    return (Sight("answers", float(alive), "answers" if alive else "does not answer"),)


_INSIDE = Severity(Span.SHUNT, lambda params: 0.01, "0.01 Ω")

KINDS = (
    Kind(
        "module",
        "A control unit as its supply sees it: what it draws awake and asleep, and what wakes it.",
        ("supply", "gnd"),
        _module,
        (
            opens(0.4, words="dead: draws nothing and does not answer"),
            Mode("does_not_wake", 0.2, (("wake", Effect.OPEN),), words="wake line broken inside"),
            Mode("stays_awake", 0.3, (("insomnia", Effect.APPEARS),), words="does not fall asleep"),
            Mode("shorted", 0.2, (("inside", Effect.VALUE),), _INSIDE, "shorted inside from supply to ground"),
        ),
        (
            Param("volts", "V", "volts", "volts at which it draws its currents", default="the sheet's `supply.nominal`, else 12.6"),
            Param("amps", "A", "amperes", "what it draws awake", default=f"{_AWAKE_AMPS:g}"),
            Param("sleep_amps", "A", "amperes", "what it draws asleep", default=f"{_ASLEEP_AMPS:g}", least="zero"),
            Param("wake_ohms", "Ω", "ohms", "what its wake pin loads its line with", default=f"{_WAKE_OHMS:g}"),
            tolerance(0.2, "what it draws awake"),
        ),
        optional_pins=("wake",),
        supply_param="volts",
        symbol="module",
        built="module",
        load="",
        current="what it draws awake, from supply to gnd; what it draws asleep is listed as `NAME.idle`",
        notes="With the pin `wake` it is awake while that line is fed; without, whenever it has supply. Its inputs and outputs are parts "
        "of their own, fed from the same nodes.",
        shows=_answers,
        check=_check,
        also=("ecu", "controller", "control unit", "control module", "ecm", "bcm", "computer"),
    ),
)
