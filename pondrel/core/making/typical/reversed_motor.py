"""A motor that a pair of switches turns both ways: at rest both of its leads are on ground."""

from __future__ import annotations

from ..asked import Thing, fuse, ground, load, switch, wire
from ..maker import Maker
from .typical import Given, Typical


def _things(given: Given) -> tuple[Thing, ...]:
    return (
        fuse("fuse", "motor fuse", "20 A"),
        wire("feed", "wire, fuse to the switches"),
        switch("switch1", "switch UP"),
        switch("switch2", "switch DOWN"),
        wire("lead1", "wire, switch UP to motor"),
        wire("lead2", "wire, switch DOWN to motor"),
        load("motor", "motor", "motor", "8 A", reach="behind trim", sorts=("motor", "pump")),
        wire("return", "wire, switches to ground"),
        ground("ground", "ground point of the switches"),
    )


def _build(m: Maker) -> None:
    feed, back = "switches.feed", "switches.ground"
    m.wire("feed", m.fuse("fuse"), feed, "fuse to the switches")
    motor = m.load("motor")
    names = []
    for key, lead, end in (("switch1", "lead1", motor.a), ("switch2", "lead2", motor.b)):
        code, label = m.code_of(key, "S")
        out = f"{code.lower()}.out"
        m.add(code, "selector", {"c": out, "1": feed, "2": back}, label)
        m.place(out, f"{label or code}, lead to the motor", m.behind(key, label or code))
        m.wire(lead, out, end, f"{label or code} to motor")
        names.append((code, label or code))
    m.place(feed, "feed of the switches", m.behind("switch1", names[0][1]))
    m.place(back, "ground pin of the switches", m.behind("switch1", names[0][1]))
    m.wire("return", back, m.ground("ground"), "switches to ground")
    (one, up), (other, down) = names
    m.state("at rest", **{one: "2", other: "2"})
    m.state(f"{up} pressed", **{one: "1", other: "2"})
    m.state(f"{down} pressed", **{one: "2", other: "1"})


TYPICAL = Typical(
    "reversed_motor",
    "Motor reversed by two switches",
    "motors",
    "Two change-over switches turn the motor both ways.",
    _things,
    _build,
)
