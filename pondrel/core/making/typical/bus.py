"""A bus of two wires: an end resistor at each end, modules along it by junctions or stubs, a diagnosis socket."""

from __future__ import annotations

from ..asked import Thing, fuse, ground, module, text, times, wire
from ..maker import Maker
from ..sizes import load_of
from .typical import CIRCUIT, Given, Typical, many, numbered

MOST = 8
_NAMES = ("dash module", "door module", "body module", "brake module", "seat module", "roof module", "rear module", "engine module")
_PINS = {"high": "bus high", "low": "bus low"}
OHMS = 120.0


def _things(given: Given) -> tuple[Thing, ...]:
    count = many(given, f"{CIRCUIT}.modules", 3, MOST, 2)
    ends = text("size", "Ohms of each end resistor", "120 ohm", load_of, ("120 ohm", "60 ohm", "100 ohm"))
    things: list[Thing] = [
        Thing(CIRCUIT, "The circuit", (times("modules", "How many modules on this side of any gateway", 3, MOST, "modules", 2), ends)),
        fuse("fuse", "module fuse", "15 A"),
        ground("ground", "module ground"),
    ]
    for n, key in enumerate(numbered("module", count)):
        things.append(module(key, _NAMES[n], _PINS, "behind trim"))
        if n:
            things.append(wire(f"pair{n + 1}", f"bus pair to {_NAMES[n]}", "not known", "0.5"))
    return tuple(things)


def _build(m: Maker) -> None:
    count = many(m.answers.given, f"{CIRCUIT}.modules", 3, MOST, 2)
    size = load_of(m.answers.said(CIRCUIT, "size"))
    ohms = (size.ohms if size else OHMS) or OHMS
    out, earth = m.fuse("fuse"), m.ground("ground")
    before: dict[str, str] = {}
    names = []
    for n, key in enumerate(numbered("module", count), 1):
        nodes = m.module_pins(key, _PINS)
        m.add(nodes["part"], "bus_transceiver", {"high": nodes["high"], "low": nodes["low"], "gnd": earth, "supply": out}, nodes["label"])
        names.append((nodes["part"], nodes["label"]))
        if before:
            for line in ("high", "low"):
                m.wire(f"pair{n}", before[line], nodes[line], f"bus {line} to {nodes['label']}")
        if n in (1, count):
            m.add(
                m.next_code("R"),
                "bus_terminator",
                {"high": nodes["high"], "low": nodes["low"]},
                f"end resistor in the {nodes['label']}",
                ohms=ohms,
            )
        before = nodes
    first = m.parts[names[0][0]]["pins"]
    for line, cavity in (("high", "6"), ("low", "14")):
        node = f"diag.{line}"
        m.add(m.next_code("W"), "wire", {"a": first[line], "b": node}, f"stub to the diagnosis socket, {line}", length_m=1.0, csa_mm2=0.5)
        m.place(node, f"diagnosis socket pin {cavity}", connector="DIAG", cavity=cavity)
    logger = m.add(m.next_code("N"), "bus_listener", {"high": "diag.high", "low": "diag.low"}, "logger at the diagnosis socket")
    m.see(logger, "hears")
    m.state("asleep", note="key off, doors shut, until nothing talks any more", **dict.fromkeys((name for name, _ in names), "off"))
    m.state("quiet", key="on", note="between two messages: seen with a scope, since no meter is fast enough")
    for name, label in names:
        m.state(
            f"{label} talks",
            key="on",
            note="while it holds the line: seen with a scope, since nobody can hold it by hand",
            **{name: "dominant"},
        )
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
