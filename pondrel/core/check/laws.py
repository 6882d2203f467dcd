"""How a number changes with its conditions: what is needed to compare it with a limit that was given under others."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field, replace

from ..base.conditions import IDLE_RPM, Conditions
from ..base.conductor import copper_ohms_at
from ..base.judgement import judged

__all__ = ["Brought", "Law", "brought_to", "copper", "copper_by", "fixed", "proportional"]

# A part whose temperature nobody noted lies somewhere between a winter's night and a hot engine.
COLDEST_C = judged("COLDEST_C", -20.0, "°C", "the coldest that a part may be whose temperature was not noted")
HOTTEST_C = judged("HOTTEST_C", 120.0, "°C", "the hottest that a part may be whose temperature was not noted")
NOTED_C = judged("NOTED_C", 2.0, "°C", "how far a noted temperature may be off, as a standard deviation")
SAME_C = judged("SAME_C", 3.0, "°C", "temperatures this near to each other are the same where no law brings one to the other")
SAME_SHARE = judged("SAME_SHARE", 0.02, "share", "volts, speeds and pressures this near to each other are the same")
SAME_SPEED = judged("SAME_SPEED", 0.1, "share", "engine speeds this near to each other are the same")


@dataclass(frozen=True, slots=True)
class Brought:
    """A number at other conditions: from ``low`` to ``high`` where some were not noted, ``spread`` what the noted ones may be off by (a
    standard deviation), ``missing`` those of the wanted conditions that it could not be brought to."""

    low: float
    high: float
    spread: float = 0.0
    missing: Conditions = field(default_factory=Conditions)


Law = Callable[[float, Conditions, Conditions], Brought]  # a number, its conditions, and those wanted


def copper_by(doubt_c: float) -> Law:
    """Ohms of a copper winding, R(T) = R20·(1 + 0.00393·(T − 20)), IEC 60028, read with a thermometer that may be off by ``doubt_c`` (a
    standard deviation)."""

    def law(value: float, noted: Conditions, wanted: Conditions) -> Brought:
        if wanted.celsius is None:
            return Brought(value, value)
        at_wanted = float(copper_ohms_at(1.0, wanted.celsius))
        if noted.celsius is not None:
            factor = at_wanted / float(copper_ohms_at(1.0, noted.celsius))
            warmer = at_wanted / float(copper_ohms_at(1.0, noted.celsius + doubt_c))
            return Brought(value * factor, value * factor, abs(value * (factor - warmer)))
        low, high = (value * at_wanted / float(copper_ohms_at(1.0, celsius)) for celsius in (HOTTEST_C, COLDEST_C))
        return Brought(low, high, 0.0, Conditions(celsius=wanted.celsius))

    return law


copper = copper_by(NOTED_C)


def fixed(value: float, noted: Conditions, wanted: Conditions) -> Brought:
    """What no law brings to another temperature: a sensor, a lamp. It is compared at the limit's own only."""
    if wanted.celsius is None:
        return Brought(value, value)
    if noted.celsius is None or abs(noted.celsius - wanted.celsius) > SAME_C:
        return Brought(value, value, 0.0, Conditions(celsius=wanted.celsius))
    return Brought(value, value)


def proportional(value: float, noted: Conditions, wanted: Conditions) -> Brought:
    """Volts and amperes of a circuit of fixed ohms follow its supply."""
    if wanted.volts is None or noted.volts is None or not noted.volts:
        return Brought(value, value)
    brought = value * wanted.volts / noted.volts
    return Brought(brought, brought)


def brought_to(law: Law, value: float, noted: Conditions, wanted: Conditions) -> Brought:
    """A number brought to the conditions of a limit by a law; what the law says nothing of must be the same, or is missing."""
    found = law(value, noted, wanted)
    missing = found.missing
    if wanted.volts is not None and (noted.volts is None or (law is not proportional and not _near(noted.volts, wanted.volts, SAME_SHARE))):
        missing = replace(missing, volts=wanted.volts)
    if not _same_speed(noted, wanted):
        missing = replace(missing, idle=wanted.idle, rpm=wanted.rpm)
    if not _same(noted.kilopascals, wanted.kilopascals):
        missing = replace(missing, kilopascals=wanted.kilopascals)
    if not _same(noted.millimetres, wanted.millimetres):
        missing = replace(missing, millimetres=wanted.millimetres)
    return replace(found, missing=missing)


def _same(noted: float | None, wanted: float | None) -> bool:
    return wanted is None or (noted is not None and _near(noted, wanted, SAME_SHARE))


def _near(one: float, other: float, share: float) -> bool:
    return abs(one - other) <= share * max(abs(one), abs(other))


def _same_speed(noted: Conditions, wanted: Conditions) -> bool:
    least, most = IDLE_RPM
    if wanted.idle:
        return noted.idle or (noted.rpm is not None and least <= noted.rpm <= most)
    if wanted.rpm is None:
        return True
    return (noted.rpm is not None and _near(noted.rpm, wanted.rpm, SAME_SPEED)) or (noted.idle and least <= wanted.rpm <= most)
