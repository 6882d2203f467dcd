"""A bus of two wires: an end resistor at each end, modules along it by junctions or stubs, a diagnosis socket."""

from __future__ import annotations

from ..asked import Thing, text
from ..maker import Maker
from ..sizes import load_of
from .along import build_along, talking, things_along
from .typical import CIRCUIT, Given, Typical

_NAMES = ("dash module", "door module", "body module", "brake module", "seat module", "roof module", "rear module", "engine module")
_PINS = {"high": "bus high", "low": "bus low"}
OHMS = 120.0


def _things(given: Given) -> tuple[Thing, ...]:
    ends = text("size", "Ohms of each end resistor", "120 ohm", load_of, ("120 ohm", "60 ohm", "100 ohm"))
    return things_along(given, _NAMES, _PINS, "bus pair", (ends,))


def _build(m: Maker) -> None:
    size = load_of(m.answers.said(CIRCUIT, "size"))
    ohms = (size.ohms if size else OHMS) or OHMS
    found = build_along(m, _PINS, "bus_transceiver", "bus_listener", {"high": "6", "low": "14"}, lambda n, count: {})
    for _, label, nodes in (found[0], found[-1]):
        pins = {line: nodes[line] for line in _PINS}
        m.add(m.next_code("R"), "bus_terminator", pins, f"end resistor in the {label}", ohms=ohms)
    m.state("asleep", note="key off, doors shut, until nothing talks any more", **{name: "off" for name, _, _ in found})
    talking(m, found)
    m.limit(what="ohms", **{"from": "diag.high", "to": "diag.low"}, state="asleep", least=round(0.45 * ohms, 1), most=round(0.55 * ohms, 1),
            source="common practice: two end resistors side by side")  # fmt: skip


TYPICAL = Typical(
    "bus",
    "Two-wire bus",
    "buses",
    "Two end resistors, modules along the pair, a diagnosis socket.",
    _things,
    _build,
)
