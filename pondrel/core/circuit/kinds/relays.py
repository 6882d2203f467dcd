"""Relays: contacts that a coil or a timer works."""

from __future__ import annotations

import math

from ...base.judgement import judged
from ..part import Contact, Effect, Element, Kind, Mode, Param, Seen, Severity, Sight, Span, Timed
from .common import SERIES, UNSTATED_TOLERANCE, Params, joint_tolerance, junction, number, tolerance, word

RELAY_CONTACT_OHMS = 0.005
# Both scale with the coil's voltage class.
PULL_IN_VOLTS = judged("PULL_IN_VOLTS", 8.0, "V", "a 12 V relay pulls in at this at most")
DROP_OUT_VOLTS = judged("DROP_OUT_VOLTS", 1.2, "V", "a 12 V relay drops out at this at least")
USUAL_COIL = judged("USUAL_COIL_TOLERANCE", 0.25, "share", "how far a relay's coil is from what is usual")
_COIL_HENRIES = 0.4
_LEAK_FACTOR = 1000.0
_DIODE_VOLTS = 0.6  # what the diode keeps that holds the charge of a delayed switching off


def coil_ohms(params: Params) -> float:
    """Resistance of a relay's coil as its sheet entry gives it."""
    return number(params, "coil_ohms", number(params, "ohms", 85.0))


def _coil_spread(params: Params) -> float:
    """How sure one is of a coil's ohms: of what is usual, since one relay has 70 Ω and the next 100."""
    return USUAL_COIL if params.get("coil_ohms") is None and params.get("ohms") is None else 0.06


def _relay(params: Params, pins: tuple[str, ...]) -> tuple[Element, ...]:
    pull_in = number(params, "pull_in", PULL_IN_VOLTS)
    drop_out = number(params, "drop_out", DROP_OUT_VOLTS)
    ohms = number(params, "contact_ohms", RELAY_CONTACT_OHMS)
    spread = joint_tolerance({"contact_ohms": params.get("contact_ohms")}, "contact_ohms")
    elements = [
        Element("", "30", "87", ohms, spread, contact=Contact("coil", pull_in, drop_out)),
        Element(
            "coil",
            "85",
            "86",
            coil_ohms(params),
            number(params, "tolerance", _coil_spread(params)),
            henries=number(params, "henries", _COIL_HENRIES),
        ),
    ]
    if "87a" in pins:
        elements.append(Element("rest", "30", "87a", ohms, spread, contact=Contact("coil", pull_in, drop_out, True)))
    suppressor = word(params, "suppressor", "none")
    if suppressor == "diode":
        elements.append(junction("diode", "85", "86", 0.75, 0.2, 0.5, drawn=False))
    elif suppressor == "resistor":
        elements.append(Element("resistor", "85", "86", number(params, "suppressor_ohms", 680.0), 0.05, drawn=False))
    return tuple(elements)


def _relay_check(params: Params) -> str | None:
    pull_in, drop_out = number(params, "pull_in", PULL_IN_VOLTS), number(params, "drop_out", DROP_OUT_VOLTS)
    if params.get("ohms") is not None and params.get("coil_ohms") is not None:
        return "give coil_ohms or ohms, not both: they mean the same"
    if drop_out > pull_in:
        return f"drop_out ({drop_out:g} V) must not exceed pull_in ({pull_in:g} V)"
    return None


_QUARTER = Severity(Span.TURNS, lambda params: 0.25 * coil_ohms(params), "a quarter of the coil's ohms")


def _clicks(seen: Seen) -> tuple[Sight, ...]:
    pulled = seen.conducts["coil"] and abs(seen.volts["coil"]) >= number(seen.params, "pull_in", PULL_IN_VOLTS)
    return (Sight("clicks", float(pulled), "clicks as it is switched on" if pulled else "does not click"),)


def _timed(params: Params, pins: tuple[str, ...]) -> tuple[Element, ...]:
    ohms, threshold = number(params, "ohms", 470e3), number(params, "threshold", 6.0)
    late_off = word(params, "delays", "on") == "off"
    # Delay on: charged through the timing resistor. Delay off: charged at once, discharged through it.
    charge, discharge = (1e3, ohms) if late_off else (ohms, _LEAK_FACTOR * ohms)
    times = Contact("timer", threshold, 0.95 * threshold, signed=True)
    elements = [
        Element("", "30", "87", number(params, "contact_ohms", RELAY_CONTACT_OHMS), joint_tolerance({}), contact=times),
        Element("timer", "*rc", "31", discharge, 0.05, farads=number(params, "farads", 22e-6), drawn=False),
        Element("trigger", "15", "31", 10e3, UNSTATED_TOLERANCE),
    ]
    # Late off: a diode keeps the charge in when the trigger goes dead.
    elements.append(
        junction("charge", "15", "*rc", 0.6 + 1e-3 * charge, 1e-3, charge, drawn=False)
        if late_off
        else Element("charge", "15", "*rc", charge, 0.05, drawn=False)
    )
    return tuple(elements)


def _timed_delay(timed: Timed) -> float:
    """Seconds from the trigger to the contact: the time constant's course to the threshold, through what leaks."""
    threshold, volts = number(timed.params, "threshold", 6.0), timed.volts["trigger"]
    charge, leak = timed.ohms["charge"], timed.ohms["timer"]
    if word(timed.params, "delays", "on") == "off":
        start = (volts - _DIODE_VOLTS) * leak / (leak + charge) if math.isfinite(leak) else volts - _DIODE_VOLTS
        held = 0.95 * threshold
        return leak * timed.farads * math.log(start / held) if start > held and math.isfinite(leak) else math.inf if start > held else 0.0
    if not math.isfinite(charge):
        return math.inf
    share = leak / (leak + charge) if math.isfinite(leak) else 1.0
    reached = volts * share
    return -charge * share * timed.farads * math.log(1.0 - threshold / reached) if reached > threshold else math.inf


_CONTACT_MODES = (
    Mode("contact_open", 0.7, (("", Effect.OPEN),), words="contact does not close"),
    Mode("contact_high_resistance", 1.0, (("", Effect.VALUE),), SERIES, "burnt contact"),
)
_LEAKS = Severity(Span.SHUNT, lambda params: 0.5 * number(params, "ohms", 470e3), "half the timing resistor")

KINDS = (
    Kind(
        "relay",
        "A relay with terminals after DIN 72552: coil 85–86, contact 30–87, resting contact 30–87a where there is one.",
        ("30", "87", "85", "86"),
        _relay,
        (
            Mode("coil_open", 0.6, (("coil", Effect.OPEN),), words="coil open"),
            Mode("coil_shorted", 0.3, (("coil", Effect.VALUE),), _QUARTER, "coil has shorted turns"),
            *_CONTACT_MODES,
            Mode("contact_welded", 0.4, (("", Effect.CLOSED), ("rest", Effect.OPEN)), words="contact welded"),
            Mode("suppressor_shorted", 0.2, (("diode", Effect.PLAIN),), words="suppression diode shorted, or fitted the wrong way round"),
        ),
        (
            Param("coil_ohms", "Ω", "ohms", "coil resistance", default="85"),
            Param("ohms", "Ω", "ohms", "short for coil_ohms"),
            Param("pull_in", "V", "volts", "coil voltage at which it pulls in", default="8"),
            Param("drop_out", "V", "volts", "coil voltage below which it drops out", default="1.2", least="zero"),
            Param("contact_ohms", "Ω", "ohms", "healthy contact resistance", default="0.005", least="zero"),
            Param(
                "suppressor",
                "",
                "",
                "what is across the coil; a diode conducts from 85 to 86, so 86 is plus",
                choices=("none", "diode", "resistor"),
                default="none",
            ),
            Param("suppressor_ohms", "Ω", "ohms", "resistor across the coil", default="680"),
            Param("henries", "H", "henries", "inductance of the coil", default=f"{_COIL_HENRIES:g}", least="zero"),
            tolerance(0.06, "the coil's ohms"),
        ),
        optional_pins=("87a",),
        joint=True,
        symbol="relay",
        built="relay",
        shapes={"": "switch", "rest": "switch", "coil": "coil"},
        load="coil",
        current="through the contact, from pin 30 to pin 87; the coil is listed as `NAME.coil`, from 85 to 86",
        shows=_clicks,
        check=_relay_check,
        also=("contactor", "changeover relay", "starter relay", "solenoid relay"),
    ),
    Kind(
        "timed_relay",
        "An electronic relay with an RC delay: its contact follows terminal 15 late. In a lasting state the delay is over.",
        ("30", "87", "15", "31"),
        _timed,
        (
            *_CONTACT_MODES,
            Mode("contact_welded", 0.4, (("", Effect.CLOSED),), words="contact welded"),
            Mode("capacitor_dry", 0.6, (("timer", Effect.DRY),), words="timing capacitor dried out: too soon"),
            Mode("capacitor_leaky", 0.8, (("timer", Effect.VALUE),), _LEAKS, "timing capacitor leaks: late or never"),
            Mode("timer_open", 0.4, (("charge", Effect.OPEN),), words="timing resistor open: never switches on"),
        ),
        (
            Param("ohms", "Ω", "ohms", "timing resistor", default="470000"),
            Param("farads", "F", "farads", "timing capacitor", default="0.000022"),
            Param("threshold", "V", "volts", "capacitor voltage at which it switches", default="6"),
            Param("delays", "", "", "which edge it delays", choices=("on", "off"), default="on"),
            Param("contact_ohms", "Ω", "ohms", "healthy contact resistance", default="0.005", least="zero"),
        ),
        joint=True,
        symbol="relay",
        built="relay",
        shapes={"": "switch", "trigger": "coil"},
        delay=_timed_delay,
        current="through the contact, from pin 30 to pin 87",
        notes="Delay on: t = −R·C·ln(1 − threshold/U). Delay off: t = R·C·ln(U/(0.95·threshold)), less the drop of its diode.",
        also=("delay relay", "timer", "time relay", "flasher", "wiper relay"),
    ),
)
