"""Conductors and joints: what should lose no volts, and where most volts are lost."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import replace
from itertools import pairwise

from ...base.conductor import AWG_SIZES, awg_ohms_per_metre, copper_ohms_at, metric_ohms_per_metre
from ...base.judgement import judged
from ..part import Build, Effect, Element, Kind, Mode, Param
from .common import (
    CSA,
    JOINT,
    LENGTH,
    OHMS,
    SERIES,
    SHUNT,
    Params,
    fed_by_plus,
    feeds,
    grounds,
    joint,
    joint_tolerance,
    leak,
    nothing,
    number,
    opens,
    resists,
    tolerance,
)

# Sound joints; a joint's own value scatters widely and matters little.
CONTACT_OHMS = judged("CONTACT_OHMS", 0.003, "Ω", "a sound contact")
SPLICE_OHMS = judged("SPLICE_OHMS", 0.001, "Ω", "a sound splice")
GROUND_OHMS = judged("GROUND_OHMS", 0.003, "Ω", "a sound ground")
SLIP_RING_OHMS = judged("SLIP_RING_OHMS", 0.05, "Ω", "a sound slip ring with its brush")
WIRE_TOLERANCE = judged("WIRE_TOLERANCE", 0.12, "share", "how far a wire is from its ohms")
SHOWN_PINS = 2  # of a plug, in its description
MOST_PINS = 199
_PIN = re.compile(r"([1-9]|[1-9]\d|1\d\d)[ab]")


def wire_ohms(params: Params) -> float:
    """Resistance of a wire from what its sheet entry gives: ``ohms``, or length with section or AWG, at its temperature."""
    if params.get("ohms") is not None:
        return number(params, "ohms", 0.0)
    per_metre = (
        metric_ohms_per_metre(number(params, "csa_mm2", 1.0)) if params.get("awg") is None else awg_ohms_per_metre(str(params["awg"]))
    )
    return copper_ohms_at(per_metre * number(params, "length_m", 0.0), number(params, "temperature", 20.0))


def _wire(params: Params, pins: tuple[str, ...]) -> tuple[Element, ...]:
    through = Element("", "a", "b", wire_ohms(params), number(params, "tolerance", WIRE_TOLERANCE))
    return (through, leak("b"), fed_by_plus("b"))


def _joint(healthy_ohms: float) -> Build:
    def build(params: Params, pins: tuple[str, ...]) -> tuple[Element, ...]:
        return (joint(params, healthy_ohms),)

    return build


def _splice(params: Params, pins: tuple[str, ...]) -> tuple[Element, ...]:
    if len(pins) == 2:
        return _joint(SPLICE_OHMS)(params, pins)
    # A star: the crimp is the leg of pin a, each further wire has a sound leg of its own.
    leg, tolerance = number(params, "ohms", SPLICE_OHMS) / 2.0, joint_tolerance(params)
    return (
        Element("", "a", "*crimp", leg, tolerance),
        *(Element(f"leg_{pin}", "*crimp", pin, leg, tolerance) for pin in pins[1:]),
    )


def _plug_numbers(pins: tuple[str, ...]) -> list[int]:
    """Numbers of the pins that have both sides, in ascending order."""
    numbers = {int(pin[:-1]) for pin in pins if _PIN.fullmatch(pin)}
    return sorted(n for n in numbers if f"{n}a" in pins and f"{n}b" in pins)


def _bridge_of(low: int, high: int) -> str:
    """What stands for two pins in the name of a mode: 12 for pins 1 and 2, 9_10 for pins 9 and 10."""
    return f"{low}{high}" if high < 10 else f"{low}_{high}"


def _plug(params: Params, pins: tuple[str, ...]) -> tuple[Element, ...]:
    numbers = _plug_numbers(pins)
    joints = [joint(params, CONTACT_OHMS, "" if n == numbers[0] else f"pin{n}", f"{n}a", f"{n}b") for n in numbers]
    bridges = pairwise(numbers)
    return (*joints, *(nothing(f"water{_bridge_of(low, high)}", f"{low}a", f"{high}a") for low, high in bridges))


def _plug_modes(numbers: Sequence[int]) -> tuple[Mode, ...]:
    modes = []
    for n in numbers:
        element = "" if n == numbers[0] else f"pin{n}"
        modes.append(Mode(f"pin{n}_open", 1.0, ((element, Effect.OPEN),), words=f"pin {n} backed out or broken"))
        modes.append(Mode(f"pin{n}_high_resistance", 2.0, ((element, Effect.VALUE),), SERIES, f"pin {n} corroded or loose"))
    for low, high in pairwise(numbers):
        both = _bridge_of(low, high)
        words = f"water or dirt between pins {low} and {high}"
        modes.append(Mode(f"pins{both}_shorted", 0.2, ((f"water{both}", Effect.VALUE),), SHUNT, words))
    return tuple(modes)


def _plug_of(pins: tuple[str, ...]) -> Kind:
    """The kind of a plug with just these pins."""
    numbers = sorted({int(pin[:-1]) for pin in pins if _PIN.fullmatch(pin)}) or [1]
    first = tuple(f"{numbers[0]}{side}" for side in "ab")
    more = tuple(f"{n}{side}" for n in numbers[1:] for side in "ab")
    return replace(_PLUG, pins=first, optional_pins=more, modes=_plug_modes(numbers))


def _plug_check(params: Params, pins: tuple[str, ...]) -> str | None:
    halves: dict[str, set[str]] = {}
    for pin in pins:
        halves.setdefault(pin[:-1], set()).add(pin[-1])
    odd = sorted(number for number, sides in halves.items() if len(sides) == 1)
    return f"pin {odd[0]} has one side only: give {odd[0]}a and {odd[0]}b" if odd else None


def _wire_check(params: Params) -> str | None:
    if params.get("csa_mm2") is not None and params.get("awg") is not None:
        return "give csa_mm2 or awg, not both"
    return None


_PARAMS = (
    LENGTH,
    CSA,
    Param("awg", "AWG", "", "gauge size instead of csa_mm2", choices=AWG_SIZES),
    Param("temperature", "°C", "degrees Celsius", "temperature of the copper", default="20", least="any"),
    OHMS,
    tolerance(WIRE_TOLERANCE),
)

_PLUG = Kind(
    "plug",
    "A plug and socket of any number of pins; each pin n joins na to nb.",
    ("1a", "1b"),
    _plug,
    _plug_modes(range(1, SHOWN_PINS + 1)),
    (Param("ohms", "Ω", "ohms", "healthy resistance of each pin", default="0.003", least="zero"), JOINT),
    optional_pins=tuple(f"{n}{side}" for n in range(2, SHOWN_PINS + 1) for side in "ab"),
    joint=True,
    symbol="contact",
    built="joint",
    current="of the first pin, from its a to its b; the others are listed as `NAME.pinN`",
    notes=f"Any pins from 1 to {MOST_PINS} in any choice, each with both sides, such as `17a` and `17b`; every one fails as pins 1 and 2 "
    "do. Water bridges a pin and the next one fitted, on their a sides: `pins12_shorted`, beyond pin 9 `pins9_10_shorted`.",
    check_pins=_plug_check,
    sized=_plug_of,
    pin_pattern=_PIN.pattern,
    also=("multi plug", "coupling", "coupler", "connector block", "multi pin connector", "header"),
)

KINDS = (
    Kind(
        "wire",
        "A copper wire, by length and section (mm² or AWG) at its temperature, or by its ohms.",
        ("a", "b"),
        _wire,
        (
            opens(0.5, words="broken"),
            resists(0.5, words="broken strands or green copper"),
            grounds(0.4, words="chafed through to ground"),
            feeds(0.05, "chafed through to a wire that is always fed"),
        ),
        _PARAMS,
        needs=(("ohms",), ("length_m", "csa_mm2"), ("length_m", "awg")),
        symbol="wire",
        built="wire",
        notes="`short_to_ground` leaves the wire at its pin b, `short_to_plus` comes in there.",
        check=_wire_check,
        also=("cable", "lead", "conductor", "harness", "line", "jumper", "trace", "strand"),
        called="wire, {}",
        nouns=("wire", "cable", "lead", "strap"),
    ),
    Kind(
        "contact",
        "One pin of a plug or a terminal: two conductors touching.",
        ("a", "b"),
        _joint(CONTACT_OHMS),
        (opens(1.0, words="pin backed out or broken"), resists(2.0, words="corroded or loose")),
        (Param("ohms", "Ω", "ohms", "healthy resistance", default="0.003", least="zero"), JOINT),
        joint=True,
        symbol="contact",
        built="joint",
        also=("pin", "terminal", "connector", "crimp", "connection", "joint", "joint pin", "tab", "spade", "socket"),
    ),
    _PLUG,
    Kind(
        "splice",
        "A crimped or soldered joint of two or more wires.",
        ("a", "b"),
        _splice,
        (opens(0.5, words="pulled apart"), resists(1.0, words="corroded crimp")),
        (
            Param("ohms", "Ω", "ohms", "healthy resistance from pin a to any other", default="0.001", least="zero"),
            JOINT,
        ),
        optional_pins=("c", "d", "e", "f", "g", "h"),
        joint=True,
        symbol="splice",
        built="joint",
        notes="With three pins and more, the crimp at pin a is what fails: everything behind it suffers alike.",
        also=("solder joint", "junction", "node", "branch", "tap", "junction block"),
    ),
    Kind(
        "ground",
        "A ground point: ring terminal, bolt and body up to battery minus.",
        ("a", "b"),
        _joint(GROUND_OHMS),
        (opens(1.0, words="loose or broken off"), resists(2.5, words="corroded or painted over")),
        (Param("ohms", "Ω", "ohms", "healthy resistance", default="0.003", least="zero"), JOINT),
        joint=True,
        grounds=True,
        symbol="ground",
        built="joint",
        also=("earth", "chassis", "mass", "ground point", "gnd", "body", "frame", "strap", "minus"),
    ),
    Kind(
        "slip_ring",
        "A slip ring, clock spring or brush: a joint that turns.",
        ("a", "b"),
        _joint(SLIP_RING_OHMS),
        (opens(1.5, words="track or brush broken"), resists(2.0, words="worn or dirty")),
        (Param("ohms", "Ω", "ohms", "healthy resistance", default=f"{SLIP_RING_OHMS:g}", least="zero"), JOINT),
        joint=True,
        symbol="slip_ring",
        built="joint",
        also=("clock spring", "brush", "rotary joint", "spiral cable"),
    ),
)
