"""Switches and relays: what decides whether current flows."""

from __future__ import annotations

from collections.abc import Mapping

from ..part import Contact, Effect, Element, Kind, Mode, Param, Severity, Span
from .common import JOINT, SERIES, joint_tolerance, number, resists, tolerance

SWITCH_OHMS = 0.01
RELAY_CONTACT_OHMS = 0.005
# Pull-in at most 8 V, drop-out at least 1.2 V of a 12 V relay; both scale with the coil's voltage class. Common practice, no source.
PULL_IN_VOLTS = 8.0
DROP_OUT_VOLTS = 1.2


def _switch(params: Mapping[str, object], pins: tuple[str, ...]) -> tuple[Element, ...]:
    ohms = number(params, "ohms", SWITCH_OHMS)
    return (Element("", "a", "b", ohms, joint_tolerance(params), contact=Contact()),)


def coil_ohms(params: Mapping[str, object]) -> float:
    """Resistance of a relay's coil as its sheet entry gives it."""
    return number(params, "coil_ohms", number(params, "ohms", 85.0))


def _relay(params: Mapping[str, object], pins: tuple[str, ...]) -> tuple[Element, ...]:
    pull_in = number(params, "pull_in", PULL_IN_VOLTS)
    drop_out = number(params, "drop_out", DROP_OUT_VOLTS)
    ohms = number(params, "contact_ohms", RELAY_CONTACT_OHMS)
    spread = joint_tolerance({"contact_ohms": params.get("contact_ohms")}, "contact_ohms")
    made = [
        Element("", "30", "87", ohms, spread, contact=Contact("coil", pull_in, drop_out)),
        Element("coil", "85", "86", coil_ohms(params), number(params, "tolerance", 0.06)),
    ]
    if "87a" in pins:
        made.append(Element("rest", "30", "87a", ohms, spread, contact=Contact("coil", pull_in, drop_out, True)))
    return tuple(made)


def _relay_check(params: Mapping[str, object]) -> str | None:
    pull_in, drop_out = number(params, "pull_in", PULL_IN_VOLTS), number(params, "drop_out", DROP_OUT_VOLTS)
    if params.get("ohms") is not None and params.get("coil_ohms") is not None:
        return "give coil_ohms or ohms, not both: they mean the same"
    if drop_out > pull_in:
        return f"drop_out ({drop_out:g} V) must not exceed pull_in ({pull_in:g} V)"
    return None


_QUARTER = Severity(Span.TURNS, lambda params: 0.25 * coil_ohms(params), "a quarter of the coil's ohms")

KINDS = (
    Kind(
        "switch",
        "A switch with two positions, set by the sheet's states.",
        ("a", "b"),
        _switch,
        (
            Mode("stuck_open", 1.0, (("", Effect.OPEN),), words="does not close"),
            Mode("stuck_closed", 0.5, (("", Effect.CLOSED),), words="does not open"),
            resists(1.0, words="burnt contacts"),
        ),
        (Param("ohms", "Ω", "ohms", "resistance when closed", default="0.01", least="zero"), JOINT),
        positions=("open", "closed"),
        rest="open",
        symbol="switch",
    ),
    Kind(
        "relay",
        "A relay with terminals after DIN 72552: coil 85–86, contact 30–87, resting contact 30–87a where there is one.",
        ("30", "87", "85", "86"),
        _relay,
        (
            Mode("coil_open", 0.6, (("coil", Effect.OPEN),), words="coil open"),
            Mode("coil_shorted", 0.3, (("coil", Effect.VALUE),), _QUARTER, "coil has shorted turns"),
            Mode("contact_open", 0.7, (("", Effect.OPEN),), words="contact does not close"),
            Mode("contact_high_resistance", 1.0, (("", Effect.VALUE),), SERIES, "burnt contact"),
            Mode("contact_welded", 0.4, (("", Effect.CLOSED), ("rest", Effect.OPEN)), words="contact welded"),
        ),
        (
            Param("coil_ohms", "Ω", "ohms", "coil resistance", default="85"),
            Param("ohms", "Ω", "ohms", "short for coil_ohms"),
            Param("pull_in", "V", "volts", "coil voltage at which it pulls in", default="8"),
            Param("drop_out", "V", "volts", "coil voltage below which it drops out", default="1.2", least="zero"),
            Param("contact_ohms", "Ω", "ohms", "healthy contact resistance", default="0.005", least="zero"),
            tolerance(0.06, "the coil's ohms"),
        ),
        optional_pins=("87a",),
        symbol="relay",
        load="coil",
        current="through the contact, from pin 30 to pin 87; the coil is listed as `NAME.coil`, from 85 to 86",
        check=_relay_check,
    ),
)
