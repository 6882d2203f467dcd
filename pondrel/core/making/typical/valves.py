"""Several valves of one set, each driven by its own output of a module: on a common feed, or fed one by one with the case as return."""

from __future__ import annotations

from ..asked import Thing, choice, fuse, load, times, wire
from ..maker import Maker
from .typical import CIRCUIT, Given, Typical, many, module_feed, module_things, numbered, on_the_module, picked, to_case

_CASE, _COMMON = "from plus, they return through the case", "to ground, on a common feed"
_WAYS = (_CASE, _COMMON)
MOST = 6


def _pins(count: int) -> dict[str, str]:
    return {f"output{n}": f"output to valve {n}" for n in range(1, count + 1)}


def _things(given: Given) -> tuple[Thing, ...]:
    way, count = picked(given, f"{CIRCUIT}.control", *_WAYS), many(given, f"{CIRCUIT}.valves", 3, MOST, 2)
    asked = (choice("control", "How the module drives them", *_WAYS), times("valves", "How many valves", 3, MOST, "valves", 2))
    things: list[Thing] = [Thing(CIRCUIT, "The circuit", asked), *module_things(_pins(count))]
    if way == _COMMON:
        things += [fuse("fuse", "valve fuse"), wire("feed", "wire, fuse to the valves")]
    for n, key in enumerate(numbered("valve", count), 1):
        things.append(load(key, f"valve {n}", "valve", sorts=("valve", "solenoid", "injector"), reach="underneath"))
        things.append(wire(f"drive{n}", f"wire, module to valve {n}"))
    return tuple(things)


def _build(m: Maker) -> None:
    given = m.answers.given
    way, count = picked(given, f"{CIRCUIT}.control", *_WAYS), many(given, f"{CIRCUIT}.valves", 3, MOST, 2)
    nodes = module_feed(m, _pins(count))
    feed = ""
    if way == _COMMON:
        out, feed = m.fuse("fuse"), "valves.feed"
        m.wire("feed", out, feed, "fuse to the valves")
    drivers = []
    for n, key in enumerate(numbered("valve", count), 1):
        valve, pin = m.load(key), f"output{n}"
        label = m.parts[valve.part].get("label") or valve.part
        driver = on_the_module(m, nodes, pin, "high_side" if way == _CASE else "low_side", f"{nodes['label']} output to {label}")
        if way == _CASE:
            m.wire(f"drive{n}", nodes[pin], valve.a, f"module to {label}")
            _rename(m, valve.part, valve.b, "valves.case")
        else:
            _rename(m, valve.part, valve.a, feed)
            m.wire(f"drive{n}", valve.b, nodes[pin], f"{label} to module")
        m.see(driver, "diagnosis")
        drivers.append((driver, label))
    if way == _CASE:
        to_case(m, "valves.case", "case of the valves on the frame")
        m.place("valves.case", "case of the valve block")
    else:
        m.place(feed, "common feed of the valves")
    m.state("key on", key="on")
    for driver, label in drivers:
        m.state(f"{label} driven", key="on", note="one output at a time by the tester", **{driver: "on"})


def _rename(m: Maker, part: str, node: str, new: str) -> None:
    """Put a valve's pin on what all of them have in common."""
    pins = m.parts[part]["pins"]
    pins.update({pin: new for pin, on in pins.items() if on == node})
    m.places.pop(node, None)


TYPICAL = Typical(
    "valves",
    "Several valves of one module",
    "module-driven valves",
    "Two to six valves, an output each, with one feed or one case.",
    _things,
    _build,
)
