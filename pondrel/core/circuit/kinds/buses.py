"""What hangs on a bus of two wires: transceivers of modules, end resistors, and a logger that listens."""

from __future__ import annotations

from ..part import PULSED, Contact, Effect, Element, Kind, Law, Mode, Param, Seen, Sight
from .common import UNSTATED_TOLERANCE, Params, duty_check, fed, grounds, leak, number, opens, resists, shorts, tolerance

__all__ = ["BUS_LINES", "DUTY", "KINDS", "heard"]


def heard(share: float, says: str) -> tuple[Sight, ...]:
    """What a receiver makes of the module that talks: ``share`` of what it takes for a message, 1 where it may go either way."""
    return (Sight("hears", share, f"hears {says}: {'a message' if share > 1.0 else 'nothing'}"),)


def _terminator(params: Params, pins: tuple[str, ...]) -> tuple[Element, ...]:
    return (Element("", "high", "low", number(params, "ohms", 120.0), number(params, "tolerance", 0.01)),)


# A high-speed CAN transceiver (ISO 11898-2, from memory): recessive about 2.5 V on both lines through tens of kilohms, dominant about
# 3.5 V and 1.5 V into 60 Ω.
RECESSIVE_VOLTS, RECESSIVE_OHMS = 2.5, 30e3
DRIVE_OHMS, DRIVE_VOLTS = 22.5, 1.75


def _transceiver(params: Params, pins: tuple[str, ...]) -> tuple[Element, ...]:
    drives = Contact(
        positions=frozenset({"dominant", PULSED}), duty=number(params, "duty", 50.0) / 100.0, hertz=number(params, "hertz", 500e3)
    )
    alive = Contact(positions=frozenset({"recessive", "dominant", PULSED}))
    feeds, told = fed("supply", "gnd")
    power = feeds if "supply" in pins else None

    def side(name: str, pin: str, volts: float, ohms: float, contact: Contact) -> Element:
        return Element(
            name,
            pin,
            "gnd",
            ohms,
            0.02,
            law=Law.EMF,
            volts=volts,
            ohms_tolerance=UNSTATED_TOLERANCE,
            contact=contact,
            powered=True,
            power=power,
        )

    drivers = (
        side("", "high", RECESSIVE_VOLTS, RECESSIVE_OHMS, alive),
        side("low", "low", RECESSIVE_VOLTS, RECESSIVE_OHMS, alive),
        side("drive_high", "high", RECESSIVE_VOLTS + DRIVE_VOLTS, DRIVE_OHMS, drives),
        side("drive_low", "low", RECESSIVE_VOLTS - DRIVE_VOLTS, DRIVE_OHMS, drives),
        leak("high"),
        Element("input", "high", "low", RECESSIVE_OHMS, UNSTATED_TOLERANCE, drawn=False),
    )
    return (*drivers, told) if power else drivers


# A receiver decides by itself between 0.5 and 0.9 V between the lines (ISO 11898-2, from memory).
_DECIDES_AT = 0.7


def _hears(seen: Seen) -> tuple[Sight, ...]:
    """What reaches a receiver of the module that talks in this state: the volts between both lines, none where they are crossed."""
    between = max(seen.volts.get("input", seen.volts[""]), 0.0)
    return heard(between / _DECIDES_AT, f"{between:.2f} V between the lines")


def _listener(params: Params, pins: tuple[str, ...]) -> tuple[Element, ...]:
    return (Element("", "high", "low", RECESSIVE_OHMS, UNSTATED_TOLERANCE, drawn=False),)


DUTY = Param("duty", "%", "percent", "share of time that it is dominant when pulsed", default="50")
_LOADED_BUS = "A bus line carries a few milliamperes: a lamp or load on it stops the bus and may burn a transceiver."
BUS_LINES = {pin: {"lamp": _LOADED_BUS, "load": _LOADED_BUS} for pin in ("high", "low")}

KINDS = (
    Kind(
        "bus_terminator",
        "The resistor at one end of a two-wire bus.",
        ("high", "low"),
        _terminator,
        (
            opens(1.0, words="open or not fitted"),
            resists(0.3, words="too many ohms: the wrong one, or corroded"),
            shorts(0.1, "lines shorted at it", ""),
        ),
        (Param("ohms", "Ω", "ohms", "resistance", default="120"), tolerance(0.01)),
        symbol="resistor",
        built="component",
        current="from high to low",
        never=BUS_LINES,
        also=("terminator", "termination", "end resistor", "can resistor", "terminating resistor"),
    ),
    Kind(
        "bus_listener",
        "A logger or tester on a bus: it hears who talks, and what it hears is evidence; it is no part of the vehicle.",
        ("high", "low"),
        _listener,
        (),
        symbol="module",
        built="module",
        current="from high to low",
        shows=_hears,
        never=BUS_LINES,
        also=("logger", "listener", "bus logger", "sniffer"),
    ),
    Kind(
        "bus_transceiver",
        "A module's bus pins: both lines held at 2.5 V when recessive, driven apart when dominant, a static mean when it talks.",
        ("high", "low", "gnd"),
        _transceiver,
        (
            Mode("drive_high_open", 0.1, (("drive_high", Effect.OPEN),), words="does not drive the high line"),
            Mode("drive_low_open", 0.1, (("drive_low", Effect.OPEN),), words="does not drive the low line"),
            Mode(
                "holds_dominant",
                0.1,
                (("drive_high", Effect.CLOSED), ("drive_low", Effect.CLOSED)),
                words="holds the bus and lets nobody talk",
            ),
            shorts(0.2, "lines shorted inside", "input"),
            grounds(0.2, words="high line shorted to ground inside"),
        ),
        (DUTY, Param("hertz", "Hz", "hertz", "how often a second it goes dominant", default="500000")),
        optional_pins=("supply",),
        positions=("off", "recessive", "dominant", PULSED),
        momentary=frozenset({"dominant"}),
        rest="recessive",
        symbol="module",
        built="module",
        current="of the high line's bias, from high to gnd",
        shows=_hears,
        check=duty_check,
        never=BUS_LINES,
        also=("transceiver", "can", "can node", "bus", "bus node", "lin"),
    ),
)
