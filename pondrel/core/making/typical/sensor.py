"""A sensor at a module: two wires against a pull-up, or three wires on its 5 V reference."""

from __future__ import annotations

from ..asked import Asked, Thing, choice, sensor, text, wire
from ..maker import Maker
from ..sizes import load_of
from .typical import CIRCUIT, Given, Typical, module_feed, module_things, on_the_module, picked

_NTC, _PRESSURE, _POT, _LEVEL = "temperature, two wires", "pressure, three wires", "position, three wires", "level, two wires"
_SORTS = (_NTC, _PRESSURE, _POT, _LEVEL)
PULL_UP, PULL_DOWN = 2200.0, 150_000.0


def _pins(three: bool) -> dict[str, str]:
    return {"signal": "signal", "low": "sensor ground"} | ({"ref": "5 V reference"} if three else {})


def _things(given: Given) -> tuple[Thing, ...]:
    sort = picked(given, f"{CIRCUIT}.sort", *_SORTS)
    three = sort in (_PRESSURE, _POT)
    pull = text("size", "Pull-up in the module", "not known", load_of, ("1 kohm", "2.2 kohm", "4.7 kohm", "not known"))
    asked = choice("sort", "What sort of sensor", *_SORTS)
    return (
        Thing(CIRCUIT, "The circuit", (asked,)),
        *module_things(_pins(three)),
        *(() if three else (Thing("pull_up", "module input", (pull,)),)),
        sensor("sensor", "sensor", *_sizes(sort), pins="1, 2, 3" if three else "1, 2"),
        *((wire("reference", "wire, reference to sensor"),) if three else ()),
        wire("signal", "wire, sensor signal to module"),
        wire("low", "wire, sensor ground to module"),
    )


def _sizes(sort: str) -> tuple[Asked, ...]:
    if sort == _NTC:
        return (text("size", "Ohms at 25 °C", "2.2 kohm", load_of, ("1 kohm", "2.2 kohm", "10 kohm")),)
    if sort == _LEVEL:
        return (
            text("empty", "Ohms when empty", "10 ohm", load_of),
            text("full", "Ohms when full", "180 ohm", load_of),
        )
    return (text("size", "Ohms between its supply and its ground", "not known", load_of, ("1 kohm", "5 kohm", "not known")),)


def _ohms(m: Maker, thing: str, name: str, usual: float) -> float:
    size = load_of(m.answers.said(thing, name))
    return (size.at(m.system).ohms or usual) if size else usual


def _build(m: Maker) -> None:
    sort = picked(m.answers.given, f"{CIRCUIT}.sort", *_SORTS)
    three = sort in (_PRESSURE, _POT)
    nodes = module_feed(m, _pins(three))
    m.add(m.next_code("G"), "splice", {"a": nodes["low"], "b": nodes["ground"]}, "sensor ground inside the module")
    (_three if three else _two)(m, nodes, sort)
    m.see(_input(m, nodes, three), "code")


def _input(m: Maker, nodes: dict[str, str], three: bool) -> str:
    pull = {"pull_volts": 0.0, "ohms": PULL_DOWN} if three else {"pull_volts": 5.0, "ohms": _ohms(m, "pull_up", "size", PULL_UP)}
    if not three and load_of(m.answers.said("pull_up", "size")) is None:
        pull["tolerance"] = 0.4
    limits = {"low_code": 0.25, "high_code": 4.75}
    return on_the_module(m, nodes, "signal", "module_input", f"{nodes['label']} input", **pull, **limits)


def _two(m: Maker, nodes: dict[str, str], sort: str) -> None:
    if sort == _NTC:
        made = m.two("sensor", "B", "thermistor", ohms=_ohms(m, "sensor", "size", PULL_UP), beta=3500.0)
        states = {"cold": 20, "warm": 85}
    else:
        empty, full = _ohms(m, "sensor", "empty", 10.0), _ohms(m, "sensor", "full", 180.0)
        made = m.two("sensor", "B", "level_sender", empty_ohms=empty, full_ohms=full)
        states = {"half full": 50, "full": 100}
    m.wire("signal", made.a, nodes["signal"], "sensor signal")
    m.wire("low", made.b, nodes["low"], "sensor ground")
    for name, setting in states.items():
        m.state(name, key="on", **{made.part: setting})


def _three(m: Maker, nodes: dict[str, str], sort: str) -> None:
    code, label = m.code_of("sensor", "B")
    said = m.answers.said("sensor", "pins").replace(",", " ").split()
    pins = said if len(set(said)) == 3 else ["1", "2", "3"]
    supply, signal, low = (f"{code.lower()}.{pin}" for pin in pins)
    m.add(f"{nodes['part']}.5V", "reference", {"in": nodes["supply"], "out": nodes["ref"], "gnd": nodes["ground"]}, "5 V reference")
    if sort == _PRESSURE:
        m.add(code, "pressure_sensor", {"supply": supply, "signal": signal, "gnd": low}, label, ohms=_ohms(m, "sensor", "size", 800.0))
        states = {"no pressure": 0, "half pressure": 5}
    else:
        m.add(
            code, "potentiometer", {"a": low, "w": signal, "b": supply}, label, low=10.0, high=90.0, ohms=_ohms(m, "sensor", "size", 5000.0)
        )
        states = {"at rest": 0, "half way": 50, "at its end": 100}
    behind = m.behind("sensor", label or code)
    for node, words, pin in ((supply, "reference", pins[0]), (signal, "signal", pins[1]), (low, "ground", pins[2])):
        m.place(node, f"{label or code} pin {pin}, {words}", behind, connector=code, cavity=pin)
    m.wire("reference", nodes["ref"], supply, "reference to sensor")
    m.wire("signal", signal, nodes["signal"], "sensor signal")
    m.wire("low", low, nodes["low"], "sensor ground")
    for name, setting in states.items():
        m.state(name, key="on", **{code: setting})


TYPICAL = Typical(
    "sensor",
    "Sensor at a module",
    "sensors",
    "Temperature, level, pressure or position: pull-up or 5 V reference, signal, ground.",
    _things,
    _build,
)
