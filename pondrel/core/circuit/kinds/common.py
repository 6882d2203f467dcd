"""Parameters, severities and modes that several kinds share, so that one word means one thing everywhere."""

from __future__ import annotations

from collections.abc import Mapping

from ..part import Effect, Mode, Param, Severity, Span

# Added resistance when a fault is named without a value: a joint that visibly dims a lamp.
SERIES = Severity(Span.SERIES, lambda params: 1.0, "1 Ω")
SHUNT = Severity(Span.SHUNT, lambda params: 0.01, "0.01 Ω")

OHMS = Param("ohms", "Ω", "ohms", "resistance, overrides what would be computed", least="zero")


def tolerance(default: float, of: str = "the value") -> Param:
    """The parameter ``tolerance`` with a kind's own default."""
    return Param("tolerance", "", "", f"one standard deviation as a share of {of}", default=f"{default:g}", least="zero")


# A sound joint's resistance is known to a factor of a few where the sheet does not give it, and to half where it does.
JOINT_TOLERANCE, GIVEN_JOINT_TOLERANCE = 1.2, 0.5
JOINT = Param(
    "tolerance", "", "", "one standard deviation as a share of the value",
    default=f"{JOINT_TOLERANCE:g}; {GIVEN_JOINT_TOLERANCE:g} where the ohms are given", least="zero",
)  # fmt: skip


def joint_tolerance(params: Mapping[str, object], key: str = "ohms") -> float:
    """Tolerance of a joint or contact whose resistance is the parameter ``key``."""
    return number(params, "tolerance", JOINT_TOLERANCE if params.get(key) is None else GIVEN_JOINT_TOLERANCE)


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


def number(params: Mapping[str, object], name: str, otherwise: float) -> float:
    """A parameter as float, or ``otherwise`` where the sheet is silent."""
    value = params.get(name)
    return otherwise if value is None else float(value)  # type: ignore[arg-type]
