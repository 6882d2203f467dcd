"""An interlock loop: a fused line through lids, plugs and switches to a module's input."""

from __future__ import annotations

from ..asked import Thing, fuse, switch, times, wire
from ..maker import Maker
from .typical import CIRCUIT, Given, Typical, many, module_feed, module_things, numbered, on_the_module

MOST = 6
_NAMES = ("emergency stop", "service plug", "charger lid", "battery lid", "crash switch", "seat switch")
_PINS = {"input": "interlock input"}
_CAUTION = (
    "Only the 12 V loop is measured here. Where it runs through orange plugs a qualified person isolates the high voltage first and "
    "writes it down; closing the loop can energise the vehicle."
)


def _things(given: Given) -> tuple[Thing, ...]:
    count = many(given, f"{CIRCUIT}.switches", 3, MOST)
    things: list[Thing] = [
        Thing(CIRCUIT, "The circuit", (times("switches", "How many switches and plugs in the loop", 3, MOST, "switches"),)),
        fuse("fuse", "interlock fuse", "5 A"),
    ]
    for n in range(count):
        things += [wire(f"stretch{n + 1}", f"wire to {_NAMES[n]}"), switch(f"switch{n + 1}", _NAMES[n])]
    return (*things, wire("last", "wire to the module"), *module_things(_PINS))


def _build(m: Maker) -> None:
    count = many(m.answers.given, f"{CIRCUIT}.switches", 3, MOST)
    m.caution, at, closed = _CAUTION, m.fuse("fuse"), {}
    for key, lead in zip(numbered("switch", count), numbered("stretch", count), strict=True):
        made = m.switch(key)
        m.wire(lead, at, made.a, f"to {m.parts[made.part].get('label') or made.part}")
        at = made.b
        closed[made.part] = "closed"
    nodes = module_feed(m, _PINS)
    m.wire("last", at, nodes["input"], "to the module")
    half = m.system / 2
    reads = on_the_module(m, nodes, "input", "module_input", "interlock input", pull_volts=0.0, ohms=2200.0, threshold=half, low_code=half)
    m.see(reads, "code")
    m.state("closed", key="on", **closed)
    for name in closed:
        m.state(f"{m.parts[name].get('label') or name} open", key="on", **(closed | {name: "open"}))


TYPICAL = Typical(
    "interlock",
    "Interlock loop",
    "interlocks",
    "A fused line through switches and plugs back to a module.",
    _things,
    _build,
)
