"""A LIN line: a master that pulls it up by a kiloohm, and the modules that answer it on one wire."""

from __future__ import annotations

from ..asked import Thing
from ..maker import Maker
from .along import build_along, talking, things_along
from .typical import Given, Typical

_NAMES = ("body module", "rain sensor", "wiper motor", "mirror", "window switch", "horn", "fan", "lamp module")
_PINS = {"line": "LIN line"}
MASTER_OHMS, SLAVE_OHMS = 1000.0, 30e3


def _things(given: Given) -> tuple[Thing, ...]:
    return things_along(given, _NAMES, _PINS, "line")


def _build(m: Maker) -> None:
    found = build_along(
        m, _PINS, "lin_node", "lin_listener", {"line": "1"}, lambda n, count: {"ohms": SLAVE_OHMS if n else MASTER_OHMS}
    )  # fmt: skip
    m.state("asleep", note="key off, until nothing talks any more", **{name: "off" for name, _, _ in found})
    talking(m, found)
    m.limit(
        what="volts", at="diag.line", state="quiet", least=round(0.8 * m.system, 1), source="ISO 17987-4, from memory: recessive above 80 %"
    )
    for _, label, _ in found:
        m.limit(what="volts", at="diag.line", state=f"{label} talks", most=round(0.2 * m.system, 1),
                source="ISO 17987-4, from memory: dominant below 20 %")  # fmt: skip


TYPICAL = Typical(
    "lin",
    "LIN line",
    "buses",
    "A master that pulls one wire up, modules that pull it down to talk.",
    _things,
    _build,
)
