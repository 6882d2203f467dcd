"""Parameters, severities, modes and elements that several kinds share, so that one word means one thing everywhere."""

from __future__ import annotations

import math
from collections.abc import Mapping

from ...base.judgement import judged
from ..part import GROUND, NEVER, SUPPLY, Contact, Effect, Element, Law, Mode, Param, Severity, Span

Params = Mapping[str, object]

# Added resistance when a fault is named without a value: a joint that visibly dims a lamp.
SERIES = Severity(Span.SERIES, lambda params: 1.0, "1 Ω")
SHUNT = Severity(Span.SHUNT, lambda params: 0.01, "0.01 Ω")

OHMS = Param("ohms", "Ω", "ohms", "resistance, overrides what would be computed", least="zero")
CSA = Param("csa_mm2", "mm²", "square millimetres", "section")
LENGTH = Param("length_m", "m", "metres", "length")


def tolerance(default: float, of: str = "the value") -> Param:
    """The parameter ``tolerance`` with a kind's own default."""
    return Param("tolerance", "", "", f"one standard deviation as a share of {of}", default=f"{default:g}", least="zero")


def spread_of(params: Params, name: str, given: float, unstated: float) -> float:
    """One standard deviation, as a share, of what the parameter ``name`` says: how sure one is of it where the sheet gives it, and of a
    kind's own default, which is no more than what is usual."""
    return unstated if params.get(name) is None else given


UNSTATED_TOLERANCE = judged("UNSTATED_TOLERANCE", 0.5, "share", "how far what is usual of a part's inside is from the one at hand")
INNER_OHMS = judged("INNER_OHMS", 2e4, "Ω", "what an ohmmeter finds at a pin of electronics without power, by the median")
INNER_TOLERANCE = judged("INNER_TOLERANCE", 1.3, "share", "how unknown that is of one pin, besides what all pins have in common")


def inner(pin: str, ground: str = "gnd", name: str = "inner") -> Element:
    """What an ohmmeter finds at a pin of electronics while the battery is off and all that needs power rests: nobody knows what."""
    return Element(name, pin, ground, INNER_OHMS, INNER_TOLERANCE, contact=NEVER, drawn=False, asleep=True)


# A sound joint's resistance is known to a factor of a few where the sheet does not give it, and to half where it does.
JOINT_TOLERANCE, GIVEN_JOINT_TOLERANCE = 1.2, 0.5
JOINT = Param(
    "tolerance",
    "",
    "",
    "one standard deviation as a share of the value",
    default=f"{JOINT_TOLERANCE:g}; {GIVEN_JOINT_TOLERANCE:g} where the ohms are given",
    least="zero",
)


def joint_tolerance(params: Params, key: str = "ohms") -> float:
    """Tolerance of a joint or contact whose resistance is the parameter ``key``."""
    return number(params, "tolerance", JOINT_TOLERANCE if params.get(key) is None else GIVEN_JOINT_TOLERANCE)


def joint(params: Params, ohms: float, name: str = "", a: str = "a", b: str = "b") -> Element:
    """Two conductors touching, ``ohms`` where the sheet is silent."""
    return Element(name, a, b, number(params, "ohms", ohms), joint_tolerance(params))


def doubled(text: str) -> Severity:
    """A load that reads high: twice its own ohms where no value is given."""
    return Severity(Span.SERIES, lambda params: 2.0 * number(params, "ohms", 1.0), text)


def opens(weight: float, element: str = "", words: str = "open") -> Mode:
    """The mode ``open``."""
    return Mode("open", weight, ((element, Effect.OPEN),), words=words)


def resists(weight: float, element: str = "", words: str = "high resistance", severity: Severity = SERIES) -> Mode:
    """The mode ``high_resistance``: the element's whole resistance becomes the severity."""
    return Mode("high_resistance", weight, ((element, Effect.VALUE),), severity, words)


def grounds(weight: float, element: str = "leak", words: str = "short to ground") -> Mode:
    """The mode ``short_to_ground``: a path of the severity's ohms from ``element``'s pin to battery minus."""
    return Mode("short_to_ground", weight, ((element, Effect.VALUE),), SHUNT, words)


def feeds(weight: float, words: str) -> Mode:
    """The mode ``short_to_plus``: a path of the severity's ohms from battery plus to the pin of `fed_by_plus`."""
    return Mode("short_to_plus", weight, (("feed", Effect.VALUE),), SHUNT, words)


def shorts(weight: float, words: str, element: str = "bridge") -> Mode:
    """The mode ``shorted``: a path of the severity's ohms beside the part."""
    return Mode("shorted", weight, ((element, Effect.VALUE),), SHUNT, words)


def sticks(weight_open: float, weight_closed: float, opened: str, closed: str, element: str = "") -> tuple[Mode, Mode]:
    """The modes ``stuck_open`` and ``stuck_closed`` of a contact."""
    return (
        Mode("stuck_open", weight_open, ((element, Effect.OPEN),), words=opened),
        Mode("stuck_closed", weight_closed, ((element, Effect.CLOSED),), words=closed),
    )


ALIVE_VOLTS = judged("MODULE_WAKES_VOLTS", 5.0, "V", "supply from which on a module's output or input works")
ASLEEP_VOLTS = judged("MODULE_SLEEPS_VOLTS", 2.5, "V", "supply below which one that was awake no longer works")
_SENSE_OHMS = 2e7  # beyond what an ohmmeter shows


def fed(a: str, b: str) -> tuple[Contact, Element]:
    """What a module's elements need to be alive, and the element that tells: the volts between its supply pin ``a`` and ground ``b``."""
    return Contact("power", ALIVE_VOLTS, ASLEEP_VOLTS, signed=True), Element("power", a, b, _SENSE_OHMS, drawn=False)


def nothing(name: str, a: str, b: str) -> Element:
    """A path that is not there until a fault makes it."""
    return Element(name, a, b, math.inf, drawn=False)


def leak(pin: str) -> Element:
    """The path to battery minus that `grounds` closes."""
    return nothing("leak", pin, GROUND)


def fed_by_plus(pin: str) -> Element:
    """The path from battery plus that `feeds` closes."""
    return nothing("feed", SUPPLY, pin)


# What a junction's current multiplies with: 26 mV at room temperature times the emission coefficient.
_THERMAL_VOLTS = 0.025852
_LEAST_SATURATION = 1e-280  # amperes; a diode of hundreds of volts has none to speak of, and none has no logarithm


def junction(
    name: str, a: str, b: str, forward_volts: float, at_amps: float, ohms: float, emission: float = 1.8, shift: float = 0.0,
    tolerance: float = 0.05, drawn: bool = True,
) -> Element:  # fmt: skip
    """A diode from ``a`` to ``b`` that drops ``forward_volts`` at ``at_amps``, series ``ohms`` included; conducts ``shift`` volts later."""
    spread = emission * _THERMAL_VOLTS
    bare = max(forward_volts - ohms * at_amps, 0.1)
    return Element(
        name,
        a,
        b,
        max(ohms, 1e-4),
        tolerance,
        law=Law.JUNCTION,
        volts=shift,
        amps=max(at_amps * math.exp(-bare / spread), _LEAST_SATURATION),
        shape=spread,
        drawn=drawn,
    )


def number(params: Params, name: str, otherwise: float) -> float:
    """A parameter as float, or ``otherwise`` where the sheet is silent."""
    value = params.get(name)
    return otherwise if value is None else float(value)  # type: ignore[arg-type]


def word(params: Params, name: str, otherwise: str) -> str:
    """A parameter that is a choice, or ``otherwise`` where the sheet is silent."""
    value = params.get(name)
    return otherwise if value is None else str(value)


def duty_check(params: Params) -> str | None:
    """What is wrong with a share of time in per cent; None for nothing."""
    return "duty must be from 0 to 100 %" if number(params, "duty", 50.0) > 100.0 else None
