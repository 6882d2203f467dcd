"""Several lamps, each with a feed of its own, on one ground: where that is bad they feed each other."""

from __future__ import annotations

from ..asked import Thing, fuse, ground, load, switch, times, wire
from ..maker import Maker
from .typical import CIRCUIT, Given, Typical, many, numbered

MOST = 6
_NAMES = ("tail lamp", "brake lamp", "turn lamp", "reversing lamp", "fog lamp", "plate lamp")
_SIZES = ("5 W", "21 W", "21 W", "21 W", "21 W", "5 W")


def _things(given: Given) -> tuple[Thing, ...]:
    count = many(given, f"{CIRCUIT}.lamps", 3, MOST, 2)
    things: list[Thing] = [Thing(CIRCUIT, "The circuit", (times("lamps", "How many lamps", 3, MOST, "lamps", 2),))]
    for n in range(count):
        name = _NAMES[n]
        things += [
            fuse(f"fuse{n + 1}", f"{name} fuse"),
            switch(f"switch{n + 1}", f"{name} switch"),
            wire(f"feed{n + 1}", f"wire, {name} switch to lamp"),
            load(f"lamp{n + 1}", name, "lamp", _SIZES[n], sorts=("lamp", "LED lamp")),
        ]
    return (*things, wire("return", "wire, lamps to ground"), ground("ground", "ground point of the lamps"))


def _build(m: Maker) -> None:
    count = many(m.answers.given, f"{CIRCUIT}.lamps", 3, MOST, 2)
    common, switches = "lamps.ground", []
    for feed_key, fuse_key, switch_key, lamp_key in zip(*(numbered(k, count) for k in ("feed", "fuse", "switch", "lamp")), strict=True):
        out, made, lamp = m.fuse(fuse_key), m.switch(switch_key), m.load(lamp_key)
        m.parts[made.part]["pins"]["a"] = out  # the switch sits at its fuse
        m.places.pop(made.a, None)
        m.wire(feed_key, made.b, lamp.a, f"switch to {m.parts[lamp.part].get('label') or lamp.part}")
        m.parts[lamp.part]["pins"]["b"] = common
        m.places.pop(lamp.b, None)
        switches.append((made.part, m.parts[lamp.part].get("label") or lamp.part))
    m.place(common, "ground terminal in the lamp housing")
    m.wire("return", common, m.ground("ground"), "lamps to ground")
    m.state("all off")
    for name, label in switches:
        m.state(f"{label} on", **{name: "closed"})
    m.state("all on", **{name: "closed" for name, _ in switches})


TYPICAL = Typical(
    "shared_ground",
    "Lamps on a shared ground",
    "lights and loads",
    "Two to six lamps with a feed each and one ground.",
    _things,
    _build,
)
