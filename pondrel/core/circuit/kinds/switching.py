"""Switches that a hand, a pressure or a crash works."""

from __future__ import annotations

from collections.abc import Callable

from ..part import NEVER, Contact, Dial, Effect, Element, Kind, Mode, Param
from .common import JOINT, SERIES, Params, joint_tolerance, number, resists, sticks, word

SWITCH_OHMS = 0.01
WAYS = 8
_ALWAYS: frozenset[str] | None = None


def contact(params: Params, name: str, a: str, b: str, positions: frozenset[str]) -> Element:
    """A switch contact that is closed in the given positions."""
    return Element(name, a, b, number(params, "ohms", SWITCH_OHMS), joint_tolerance(params), contact=Contact(positions=positions))


def _two_pins(closed_in: str) -> Callable[[Params, tuple[str, ...]], tuple[Element, ...]]:
    def build(params: Params, pins: tuple[str, ...]) -> tuple[Element, ...]:
        return (contact(params, "", "a", "b", frozenset({closed_in})),)

    return build


def _selector(params: Params, pins: tuple[str, ...]) -> tuple[Element, ...]:
    ways = [pin for pin in pins if pin != "c"]
    return tuple(contact(params, "" if way == "1" else f"way{way}", "c", way, frozenset({way})) for way in ways)


def _selector_modes() -> tuple[Mode, ...]:
    modes = []
    for n in range(1, WAYS + 1):
        element = "" if n == 1 else f"way{n}"
        modes.append(Mode(f"way{n}_open", 0.6, ((element, Effect.OPEN),), words=f"does not close to {n}"))
        modes.append(Mode(f"way{n}_high_resistance", 0.6, ((element, Effect.VALUE),), SERIES, f"burnt contact of {n}"))
    return tuple(modes)


def _brake(params: Params, pins: tuple[str, ...]) -> tuple[Element, ...]:
    contacts = [contact(params, "", "a", "b", frozenset({"pressed"}))]
    if "c" in pins and "d" in pins:
        contacts.append(contact(params, "second", "c", "d", frozenset({"released"})))
    return tuple(contacts)


def _second_check(params: Params, pins: tuple[str, ...]) -> str | None:
    return "give both c and d, or neither: they are the second contact" if ("c" in pins) != ("d" in pins) else None


_PRESSURE = Dial("bar", "bar", 0.0, 2000.0, 0.0, "pressure at the switch")


def _pressure(params: Params, pins: tuple[str, ...]) -> tuple[Element, ...]:
    above = number(params, "bar", 0.0) >= number(params, "threshold", 1.0)
    closed = above == (word(params, "closes", "above") == "above")
    ohms = number(params, "ohms", SWITCH_OHMS)
    return (Element("", "a", "b", ohms, joint_tolerance(params), contact=Contact(positions=_ALWAYS) if closed else NEVER),)


def _combined_pressure(params: Params, pins: tuple[str, ...]) -> tuple[Element, ...]:
    bar, ohms = number(params, "bar", 0.0), number(params, "ohms", SWITCH_OHMS)

    def closed_where(holds: bool, name: str, a: str, b: str) -> Element:
        return Element(name, a, b, ohms, joint_tolerance(params), contact=Contact(positions=_ALWAYS) if holds else NEVER)

    contacts = [closed_where(number(params, "low", 2.0) <= bar < number(params, "high", 27.0), "", "a", "b")]
    if "c" in pins and "d" in pins:
        contacts.append(closed_where(bar >= number(params, "middle", 15.0), "fan", "c", "d"))
    return tuple(contacts)


def _combined_check(params: Params) -> str | None:
    low, middle, high = (number(params, name, otherwise) for name, otherwise in (("low", 2.0), ("middle", 15.0), ("high", 27.0)))
    return None if low < middle < high else f"low ({low:g} bar), middle ({middle:g} bar) and high ({high:g} bar) must rise in that order"


_OHMS = Param("ohms", "Ω", "ohms", "resistance when closed", default="0.01", least="zero")

KINDS = (
    Kind(
        "switch",
        "A switch with two positions, set by the sheet's states.",
        ("a", "b"),
        _two_pins("closed"),
        (*sticks(1.0, 0.5, "does not close", "does not open"), resists(1.0, words="burnt contacts")),
        (_OHMS, JOINT),
        positions=("open", "closed"),
        rest="open",
        joint=True,
        symbol="switch",
        built="switch",
        also=(
            "button",
            "push button",
            "toggle",
            "rocker",
            "key",
            "key switch",
            "ignition switch",
            "reed",
            "limit switch",
            "microswitch",
            "isolator",
            "door switch",
        ),
        called="switch, {}",
        nouns=("switch", "button", "key"),
    ),
    Kind(
        "selector",
        f"A switch with up to {WAYS} ways: joins its common pin c to the way that the state names.",
        ("c", "1"),
        _selector,
        _selector_modes(),
        (_OHMS, JOINT),
        optional_pins=tuple(str(n) for n in range(2, WAYS + 1)),
        positions=("off", *(str(n) for n in range(1, WAYS + 1))),
        rest="off",
        joint=True,
        symbol="switch",
        built="switch",
        current="of way 1, from c to 1; the others are listed as `NAME.wayN`",
        also=("rotary switch", "multi way switch", "mode switch", "ignition lock", "changeover"),
    ),
    Kind(
        "inertia_switch",
        "An inertia switch: closed until a crash trips it.",
        ("a", "b"),
        _two_pins("set"),
        (*sticks(1.5, 0.1, "tripped or does not close", "does not trip"), resists(1.0, words="burnt or dirty contact")),
        (_OHMS, JOINT),
        positions=("set", "tripped"),
        rest="set",
        joint=True,
        symbol="switch",
        built="switch",
        also=("crash switch", "impact switch"),
    ),
    Kind(
        "pressure_switch",
        "A switch worked by pressure; a state gives the pressure in bar.",
        ("a", "b"),
        _pressure,
        (*sticks(1.0, 0.7, "does not close", "does not open"), resists(1.0, words="dirty contact")),
        (
            Param("threshold", "bar", "bar", "pressure at which it switches", default="1"),
            Param("closes", "", "", "where it conducts", choices=("above", "below"), default="above"),
            _OHMS,
            JOINT,
        ),
        dial=_PRESSURE,
        joint=True,
        symbol="switch",
        built="switch",
        also=("oil pressure switch", "air switch", "vacuum switch", "pressostat"),
    ),
    Kind(
        "combined_pressure_switch",
        "A refrigerant pressure switch: a–b conducts between its low and high limit, c–d (where fitted) from its middle one on.",
        ("a", "b"),
        _combined_pressure,
        (
            *sticks(1.2, 0.5, "does not close between its limits", "does not open at its limits"),
            resists(1.0, words="dirty contact"),
            Mode("fan_stuck_open", 0.5, (("fan", Effect.OPEN),), words="fan contact does not close"),
            Mode("fan_stuck_closed", 0.3, (("fan", Effect.CLOSED),), words="fan contact does not open"),
        ),
        (
            Param("low", "bar", "bar", "pressure below which a–b opens: charge lost", default="2", least="zero"),
            Param("middle", "bar", "bar", "pressure from which c–d closes: fan wanted", default="15"),
            Param("high", "bar", "bar", "pressure from which a–b opens: too high", default="27"),
            _OHMS,
            JOINT,
        ),
        optional_pins=("c", "d"),
        dial=_PRESSURE,
        joint=True,
        symbol="switch",
        built="switch",
        current="from pin a to pin b; the fan's contact is listed as `NAME.fan`",
        check=_combined_check,
        check_pins=_second_check,
        also=("trinary switch", "triple pressure switch", "refrigerant pressure switch", "dual pressure switch"),
    ),
    Kind(
        "brake_switch",
        "A brake-pedal switch: a–b closes when the pedal is pressed, c–d (where fitted) opens.",
        ("a", "b"),
        _brake,
        (
            *sticks(1.0, 0.6, "does not close", "does not open"),
            resists(1.0, words="burnt contact"),
            Mode("second_stuck_open", 0.5, (("second", Effect.OPEN),), words="second contact does not close"),
            Mode("second_stuck_closed", 0.4, (("second", Effect.CLOSED),), words="second contact does not open"),
        ),
        (_OHMS, JOINT),
        optional_pins=("c", "d"),
        positions=("released", "pressed"),
        rest="released",
        joint=True,
        symbol="switch",
        built="switch",
        check_pins=_second_check,
        also=("stop lamp switch", "brake light switch", "pedal switch", "clutch switch"),
    ),
)
