"""Fused feed, switch, load, ground: the plainest circuit there is."""

from __future__ import annotations

from ..asked import Thing, fuse, ground, load, switch, wire
from ..maker import Maker
from .typical import Given, Typical


def _things(given: Given) -> tuple[Thing, ...]:
    return (
        fuse("fuse", "fuse"),
        wire("feed", "wire, fuse to switch"),
        switch("switch", "switch"),
        wire("switched", "wire, switch to load"),
        load("load", "load", size="21 W"),
        wire("return", "wire, load to ground"),
        ground("ground", "ground point"),
    )


def _build(m: Maker) -> None:
    out, switch_, load_ = m.fuse("fuse"), m.switch("switch"), m.load("load")
    m.wire("feed", out, switch_.a, "fuse to switch")
    m.wire("switched", switch_.b, load_.a, "switch to load")
    m.wire("return", load_.b, m.ground("ground"), "load to ground")
    m.state("off")
    m.state("on", **{switch_.part: "closed"})


TYPICAL = Typical(
    "switched_load",
    "Switched load",
    "lights and loads",
    "Fuse, switch, load, ground: a lamp, a motor, a heater.",
    _things,
    _build,
)
