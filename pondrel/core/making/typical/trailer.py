"""A trailer socket: one pin a function, one ground for all, the lamps of the trailer behind the plug."""

from __future__ import annotations

from ..asked import Thing, fuse, ground, load, sensor, switch, times, wire
from ..maker import Maker
from .typical import CIRCUIT, Given, Typical, many

MOST = 6
# Pins by function as on seven-pole sockets, from memory of ISO 1724.
_FUNCTIONS = (
    ("left turn", "1", "21 W"), ("right turn", "4", "21 W"), ("brake", "6", "42 W"), ("right tail", "5", "10 W"),
    ("left tail", "7", "10 W"), ("fog", "2", "21 W"),
)  # fmt: skip
_GROUND_PIN = "3"


def _things(given: Given) -> tuple[Thing, ...]:
    count = many(given, f"{CIRCUIT}.functions", 4, MOST)
    things: list[Thing] = [
        Thing(CIRCUIT, "The circuit", (times("functions", "How many functions", 4, MOST, "functions"),)),
        sensor("socket", "trailer socket", pins=" ".join([pin for _, pin, _ in _FUNCTIONS[:count]] + [_GROUND_PIN]), reach="open"),
        wire("ground_wire", "wire, socket to ground"),
        ground("ground", "ground point of the socket"),
        wire("trailer_ground", "ground wire in the trailer"),
    ]
    for n, (name, _, size) in enumerate(_FUNCTIONS[:count], 1):
        things += [
            fuse(f"fuse{n}", f"trailer {name} fuse", "7.5 A"),
            switch(f"switch{n}", f"{name} switched"),
            wire(f"feed{n}", f"wire, {name} to the socket"),
            load(f"lamp{n}", f"trailer {name} lamp", "lamp", size, sorts=("lamp", "LED lamp", "resistor")),
        ]
    return tuple(things)


def _build(m: Maker) -> None:
    count = many(m.answers.given, f"{CIRCUIT}.functions", 4, MOST)
    code, label = m.code_of("socket", "X")
    said = [pin for pin in m.answers.said("socket", "pins").replace(",", " ").split() if pin.isdecimal()]
    pins = said if len(set(said)) == count + 1 else [*(pin for _, pin, _ in _FUNCTIONS[:count]), _GROUND_PIN]
    m.add(code, "plug", {end: f"{code.lower()}.{pin}{side}" for pin in pins for end, side in ((f"{pin}a", ""), (f"{pin}b", "t"))}, label)
    behind = m.behind("socket", label or code)
    words = [*(name for name, _, _ in _FUNCTIONS[:count]), "ground"]
    for pin, what in zip(pins, words, strict=True):
        for side, where in (("", label or code), ("t", "trailer plug")):
            m.place(
                f"{code.lower()}.{pin}{side}", f"{where} pin {pin}, {what}", behind, connector=code if not side else f"{code}T", cavity=pin
            )
    lamps, on = "trailer.ground", {}
    for n, ((name, _, _), pin) in enumerate(zip(_FUNCTIONS[:count], pins, strict=False), 1):
        out, made, lamp = m.fuse(f"fuse{n}"), m.switch(f"switch{n}"), m.load(f"lamp{n}")
        m.parts[made.part]["pins"]["a"] = out
        m.places.pop(made.a, None)
        m.wire(f"feed{n}", made.b, f"{code.lower()}.{pin}", f"{name} to the socket")
        m.parts[lamp.part]["pins"] = {"a": f"{code.lower()}.{pin}t", "b": lamps}
        m.places.pop(lamp.a, None)
        m.places.pop(lamp.b, None)
        on[made.part] = name
    m.place(lamps, "ground terminal of the trailer's lamps")
    m.fed_by = 20.0
    m.wire("trailer_ground", lamps, f"{code.lower()}.{pins[-1]}t", "ground wire in the trailer")
    m.wire("ground_wire", f"{code.lower()}.{pins[-1]}", m.ground("ground"), "socket to ground")
    m.state("all off")
    for part, name in on.items():
        m.state(f"{name} on", **{part: "closed"})
    m.state("all on", **dict.fromkeys(on, "closed"))


TYPICAL = Typical(
    "trailer",
    "Trailer socket",
    "lights and loads",
    "One pin a function and one ground, the trailer's lamps behind it.",
    _things,
    _build,
)
