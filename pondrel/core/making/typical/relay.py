"""A load behind a relay, whose coil a switch or a module drives, in its feed or to ground."""

from __future__ import annotations

from ..asked import Thing, choice, fuse, ground, load, relay, switch, wire
from ..maker import Maker
from .typical import CIRCUIT, Given, Typical, module_feed, module_things, on_the_module, picked

_IN_FEED, _TO_GROUND = "a switch in its feed", "a switch to ground"
_MODULE_HIGH, _MODULE_LOW = "a module, from plus", "a module, to ground"
_WAYS = (_IN_FEED, _TO_GROUND, _MODULE_HIGH, _MODULE_LOW)
_PINS = {"output": "output to the relay"}


def _things(given: Given) -> tuple[Thing, ...]:
    way = picked(given, f"{CIRCUIT}.control", *_WAYS)
    by_module, at_plus = way in (_MODULE_HIGH, _MODULE_LOW), way in (_IN_FEED, _MODULE_HIGH)
    driver = "module" if by_module else "switch"
    return (
        Thing(CIRCUIT, "The circuit", (choice("control", "What drives the relay's coil", *_WAYS),)),
        fuse("fuse", "load fuse", "20 A"),
        wire("feed", "wire, fuse to relay"),
        relay("relay", "relay"),
        wire("switched", "wire, relay to load"),
        load("load", "load", "motor", "8 A"),
        wire("return", "wire, load to ground"),
        ground("ground", "ground point of the load"),
        *(module_things(_PINS) if by_module else (switch("switch", "switch"),)),
        *(() if way == _MODULE_HIGH else (wire("coil_feed", f"wire, feed to {'switch' if at_plus else 'coil'}"),)),
        wire("coil_link", f"wire, {driver} to coil" if at_plus else f"wire, coil to {driver}"),
        *(
            ()
            if way == _MODULE_LOW
            else (
                wire("coil_return", f"wire, {'coil' if at_plus else 'switch'} to ground"),
                ground("coil_ground", "ground point of the coil"),
            )
        ),
    )


def _build(m: Maker) -> None:
    way = picked(m.answers.given, f"{CIRCUIT}.control", *_WAYS)
    out, k, load_ = m.fuse("fuse"), m.relay("relay"), m.load("load")
    m.wire("feed", out, k["30"], "fuse to relay")
    m.wire("switched", k["87"], load_.a, "relay to load")
    m.wire("return", load_.b, m.ground("ground"), "load to ground")
    if way in (_MODULE_HIGH, _MODULE_LOW):
        low = way == _MODULE_LOW
        nodes = module_feed(m, _PINS)
        driver = on_the_module(m, nodes, "output", "low_side" if low else "high_side", f"{nodes['label']} output to the relay")
        m.see(driver, "diagnosis")
        above = below = nodes["output"]
        m.state("off", key="on")
        m.state("on", key="on", **{driver: "on"})
    else:
        switch_ = m.switch("switch")
        above, below = switch_.a, switch_.b
        m.state("off")
        m.state("on", **{switch_.part: "closed"})
    if way == _IN_FEED:
        m.wire("coil_feed", out, above, "feed to switch")
    elif way != _MODULE_HIGH:
        m.wire("coil_feed", out, k["86"], "feed to coil")
    if way in (_IN_FEED, _MODULE_HIGH):
        m.wire("coil_link", below, k["86"], "to the coil")
        m.wire("coil_return", k["85"], m.ground("coil_ground"), "coil to ground")
    else:
        m.wire("coil_link", k["85"], above, "from the coil")
        if way == _TO_GROUND:
            m.wire("coil_return", below, m.ground("coil_ground"), "switch to ground")


TYPICAL = Typical(
    "relay",
    "Load behind a relay",
    "relays",
    "A relay feeds the load; a switch or a module drives its coil.",
    _things,
    _build,
)
