"""A motor of two speeds: slow through a resistor in line, fast without."""

from __future__ import annotations

from ..asked import Thing, fuse, ground, load, sensor, switch, text, wire
from ..maker import Maker
from ..sizes import load_of
from .typical import Given, Typical

_USUAL_OHMS = 0.6


def _things(given: Given) -> tuple[Thing, ...]:
    return (
        fuse("fuse", "motor fuse", "25 A"),
        wire("feed", "wire, fuse to switch"),
        switch("switch", "speed switch", "1, 2"),
        wire("slow", "wire, switch to resistor"),
        sensor("resistor", "series resistor", text("size", "Its ohms", "not known", load_of, ("0.4 ohm", "0.6 ohm", "not known"))),
        wire("fast", "wire, switch to motor, fast"),
        load("motor", "motor", "fan", "12 A", sorts=("fan", "motor", "pump")),
        wire("return", "wire, motor to ground"),
        ground("ground", "ground point"),
    )


def _build(m: Maker) -> None:
    out = m.fuse("fuse")
    code, label = m.code_of("switch", "S")
    behind = m.behind("switch", label or code)
    common, slow, fast = (f"{code.lower()}.{end}" for end in ("c", "1", "2"))
    m.add(code, "selector", {"c": common, "1": slow, "2": fast}, label)
    for node, words in ((common, "feed"), (slow, "slow"), (fast, "fast")):
        m.place(node, f"{label or code}, {words}", behind, connector=code)
    size = load_of(m.answers.said("resistor", "size"))
    note = "" if size else f"ohms not known, {_USUAL_OHMS:g} Ω taken"
    ohms = size.at(m.system).ohms if size else _USUAL_OHMS
    resistor = m.two("resistor", "R", "resistor", note=note, ohms=ohms, tolerance=None if size else 0.35)
    motor = m.load("motor")
    m.wire("feed", out, common, "fuse to switch")
    m.wire("slow", slow, resistor.a, "switch to resistor")
    m.parts[resistor.part]["pins"]["b"] = motor.a  # the resistor sits at the motor
    m.places.pop(resistor.b, None)
    m.wire("fast", fast, motor.a, "switch to motor")
    m.wire("return", motor.b, m.ground("ground"), "motor to ground")
    m.state("off")
    m.state("slow", **{code: "1"})
    m.state("fast", **{code: "2"})


TYPICAL = Typical(
    "two_speed",
    "Two-speed motor with a resistor",
    "motors",
    "A selector feeds the motor direct or through a resistor.",
    _things,
    _build,
)
