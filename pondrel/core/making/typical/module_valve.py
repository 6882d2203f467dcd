"""One valve that a module drives: from plus or to ground, with a return of its own or through its case."""

from __future__ import annotations

from ..asked import Thing, choice, fuse, ground, load, wire
from ..maker import Maker
from .typical import CIRCUIT, Given, Typical, module_feed, module_things, on_the_module, picked, to_case

_LOW, _HIGH, _CASE = "to ground", "from plus", "from plus, the valve returns through its case"
_WAYS = (_LOW, _HIGH, _CASE)
_PINS = {"output": "output to the valve"}


def _things(given: Given) -> tuple[Thing, ...]:
    way = picked(given, f"{CIRCUIT}.control", *_WAYS)
    return (
        Thing(CIRCUIT, "The circuit", (choice("control", "How the module drives it", *_WAYS),)),
        *module_things(_PINS),
        load("valve", "valve", "valve", sorts=("valve", "solenoid", "injector", "clutch", "motor", "lamp"), reach="underneath"),
        wire("drive", "wire, module to valve"),
        *((fuse("fuse", "valve fuse"), wire("feed", "wire, fuse to valve")) if way == _LOW else ()),
        *((wire("return", "wire, valve to ground"), ground("ground", "ground point of the valve")) if way == _HIGH else ()),
    )


def _build(m: Maker) -> None:
    way = picked(m.answers.given, f"{CIRCUIT}.control", *_WAYS)
    nodes, valve = module_feed(m, _PINS), m.load("valve")
    driver = on_the_module(m, nodes, "output", "low_side" if way == _LOW else "high_side", f"{nodes['label']} output")
    if way == _LOW:
        m.wire("feed", m.fuse("fuse"), valve.a, "fuse to valve")
        m.wire("drive", valve.b, nodes["output"], "valve to module")
    else:
        m.wire("drive", nodes["output"], valve.a, "module to valve")
        if way == _HIGH:
            m.wire("return", valve.b, m.ground("ground"), "valve to ground")
        else:
            to_case(m, valve.b, "case of the valve on the engine")
    m.see(driver, "diagnosis")
    m.places[nodes["output"]]["caution"] = "Never power the valve while it is plugged into its module."
    m.state("key on", key="on")
    m.state("driven", key="on", note="by the tester's output test, or as the module does it", **{driver: "on"})


TYPICAL = Typical(
    "module_valve",
    "Valve driven by a module",
    "module-driven valves",
    "A module switches one valve, to ground or from plus.",
    _things,
    _build,
)
