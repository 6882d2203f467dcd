"""A low-speed bus of two wires that goes on talking when one of them fails: a resistor of each line in every module, no end resistors."""

from __future__ import annotations

from ..asked import Thing
from ..maker import Maker
from .along import build_along, talking, things_along
from .typical import Given, Typical

_NAMES = ("body module", "left door module", "right door module", "seat module", "heater module", "roof module", "rear module", "radio")
_PINS = {"high": "bus high", "low": "bus low"}
IN_ALL_OHMS = 100.0


def _things(given: Given) -> tuple[Thing, ...]:
    return things_along(given, _NAMES, _PINS, "bus pair")


def _build(m: Maker) -> None:
    found = build_along(
        m, _PINS, "low_speed_transceiver", "low_speed_listener", {"high": "3", "low": "11"}, lambda n, count: {"ohms": IN_ALL_OHMS * count}
    )
    m.state("asleep", note="key off, doors shut, until nothing talks any more", **{name: "asleep" for name, _, _ in found})
    talking(m, found)
    source = "ISO 11898-3, from memory: high below 0.3 V and low above 4.7 V at rest"
    m.limit(what="volts", at="diag.high", state="quiet", most=0.3, source=source)
    m.limit(what="volts", at="diag.low", state="quiet", least=4.7, most=5.3, source=source)
    m.limit(
        what="volts", at="diag.low", state="asleep", least=round(0.8 * m.system, 1), source="common practice: asleep, low lies at battery"
    )


TYPICAL = Typical(
    "slow_bus",
    "Low-speed bus",
    "buses",
    "Fault-tolerant: two wires, a resistor of each in every module, on by one wire.",
    _things,
    _build,
)
