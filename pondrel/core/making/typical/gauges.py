"""Gauges on one instrument regulator, each with its sender."""

from __future__ import annotations

from typing import Any

from ..asked import Thing, choice, fuse, ground, part, sensor, switch, text, times, wire
from ..maker import MINUS, Maker
from ..sizes import load_of
from .typical import CIRCUIT, Given, Typical, many, numbered, picked

_BIMETAL, _SOLID = "pulsing, with a heated strip", "solid-state"
_REGULATORS = (_BIMETAL, _SOLID)
MOST = 3
_NAMES = ("fuel gauge", "temperature gauge", "oil gauge")
_SENDERS = ("tank sender", "temperature sender", "oil sender")
_RANGES = (("180 ohm", "10 ohm"), ("700 ohm", "40 ohm"), ("180 ohm", "10 ohm"))


def _things(given: Given) -> tuple[Thing, ...]:
    count = many(given, f"{CIRCUIT}.gauges", 2, MOST)
    things: list[Thing] = [
        Thing(
            CIRCUIT,
            "The circuit",
            (choice("regulator", "The regulator is", *_REGULATORS), times("gauges", "How many gauges", 2, MOST, "gauges")),
        ),
        fuse("fuse", "instrument fuse", "10 A"),
        switch("key", "ignition switch"),
        wire("feed", "wire, ignition to regulator"),
        part("regulator", "instrument regulator", reach="behind trim"),
        ground("case", "case of the regulator on the panel", "behind trim"),
    ]
    for n in range(count):
        ohms = text("size", "Its ohms", "60 ohm", load_of)
        low, high = _RANGES[n]
        ends = (text("empty", "Ohms at the low end", low, load_of), text("full", "Ohms at the high end", high, load_of))
        things += [
            sensor(f"gauge{n + 1}", _NAMES[n], ohms, reach="behind trim"),
            wire(f"signal{n + 1}", f"wire, {_NAMES[n]} to its sender"),
            sensor(f"sender{n + 1}", _SENDERS[n], *ends, reach="underneath"),
            ground(f"ground{n + 1}", f"{_SENDERS[n]} ground", "underneath"),
        ]
    return tuple(things)


def _ohms(m: Maker, thing: str, name: str) -> float:
    size = load_of(m.answers.said(thing, name))
    return (size.at(m.system).ohms if size else None) or 60.0


def _build(m: Maker) -> None:
    given = m.answers.given
    count, how = many(given, f"{CIRCUIT}.gauges", 2, MOST), picked(given, f"{CIRCUIT}.regulator", *_REGULATORS)
    out, key = m.fuse("fuse"), m.switch("key")
    m.parts[key.part]["pins"]["a"] = out
    m.places.pop(key.a, None)
    code, label = m.code_of("regulator", "U")
    feed, common = f"{code.lower()}.in", f"{code.lower()}.out"
    behind = m.behind("regulator", label or code)
    case = m.ground("case")
    pins = {"in": feed, "out": common, "gnd": case}
    if how == _BIMETAL:
        m.add(code, "bimetal_regulator", pins, label)
    else:
        m.add(code, "reference", pins, label, amps=1.0)
    m.place(feed, f"{label or code}, feed", behind)
    m.place(common, f"{label or code}, output to the gauges", behind)
    m.wire("feed", key.b, feed, "ignition to regulator")
    half: dict[str, Any] = {key.part: "closed"}
    full: dict[str, Any] = {key.part: "closed"}
    for gauge_key, wire_key, sender_key, ground_key in zip(
        *(numbered(k, count) for k in ("gauge", "signal", "sender", "ground")), strict=True
    ):
        empty, most, ohms = _ohms(m, sender_key, "empty"), _ohms(m, sender_key, "full"), _ohms(m, gauge_key, "size")
        ends = sorted(5.0 / (ohms + end) for end in (empty, most))
        gauge = m.two(gauge_key, "P", "gauge", ohms=ohms, empty_amps=round(ends[0], 4), full_amps=round(ends[1], 4))
        m.parts[gauge.part]["pins"]["a"] = common
        m.places.pop(gauge.a, None)
        sender = m.two(sender_key, "B", "level_sender", empty_ohms=empty, full_ohms=most)
        m.wire(wire_key, gauge.b, sender.a, f"{m.parts[gauge.part].get('label') or gauge.part} to its sender")
        earth, earth_label = m.code_of(ground_key, "G")
        m.add(earth, "ground", {"a": sender.b, "b": MINUS}, earth_label)
        m.see(gauge.part, "indicates")
        half[sender.part], full[sender.part] = 50, 100
    m.state("off")
    m.state("senders half way", key="on", **half)
    m.state("senders at the high end", key="on", **full)
    if how == _BIMETAL:
        m.note = "The regulator pulses: on a slow meter its mean shows, about 5 V."


TYPICAL = Typical(
    "gauges",
    "Gauges on an instrument regulator",
    "instruments",
    "One to three gauges with their senders on one regulator.",
    _things,
    _build,
)
