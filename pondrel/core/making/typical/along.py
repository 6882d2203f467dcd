"""What the typical buses share: modules one behind the other, a diagnosis socket with a logger, and a state for each module that talks."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import Any

from ..asked import Asked, Thing, fuse, ground, module, times, wire
from ..maker import Maker
from .typical import CIRCUIT, Given, many, numbered

__all__ = ["MOST", "Along", "build_along", "talking", "things_along"]

MOST, USUAL = 8, 3
Along = list[tuple[str, str, dict[str, str]]]
_SEEN_WITH_A_SCOPE = "while it holds the line: seen with a scope, since nobody can hold it by hand"


def things_along(given: Given, names: Sequence[str], pins: Mapping[str, str], wires: str, asked: Sequence[Asked] = ()) -> tuple[Thing, ...]:
    """What is asked of a bus with some modules, named as they usually are; ``wires``: what joins them is called."""
    count = many(given, f"{CIRCUIT}.modules", USUAL, MOST, 2)
    first = times("modules", "How many modules on this side of any gateway", USUAL, MOST, "modules", 2)
    things: list[Thing] = [
        Thing(CIRCUIT, "The circuit", (first, *asked)),
        fuse("fuse", "module fuse", "15 A"),
        ground("ground", "module ground"),
    ]
    for n, key in enumerate(numbered("module", count)):
        things.append(module(key, names[n], pins, "behind trim"))
        if n:
            things.append(wire(f"pair{n + 1}", f"{wires} to {names[n]}", "not known", "0.5"))
    return tuple(things)


def build_along(
    m: Maker,
    pins: Mapping[str, str],
    kind: str,
    listener: str,
    cavities: Mapping[str, str],
    params: Callable[[int, int], Mapping[str, Any]],
) -> Along:
    """Modules joined by wires from one to the next, each with its parameters by its number from 0 and how many there are, and a diagnosis
    socket at the first with a logger in it that is looked at. Code, label and nodes of each module."""
    count = many(m.answers.given, f"{CIRCUIT}.modules", USUAL, MOST, 2)
    out, earth = m.fuse("fuse"), m.ground("ground")
    found: Along = []
    for n, key in enumerate(numbered("module", count), 1):
        nodes = m.module_pins(key, pins)
        m.add(
            nodes["part"], kind, {**{line: nodes[line] for line in pins}, "gnd": earth, "supply": out}, nodes["label"],
            **params(n - 1, count),
        )  # fmt: skip
        for line in pins if found else ():
            m.wire(f"pair{n}", found[-1][2][line], nodes[line], f"{pins[line]} to {nodes['label']}")
        found.append((nodes["part"], nodes["label"], nodes))
    at = {}
    for line, cavity in cavities.items():
        at[line] = f"diag.{line}"
        said = f"stub to the diagnosis socket, {line}"
        m.add(m.next_code("W"), "wire", {"a": found[0][2][line], "b": at[line]}, said, length_m=1.0, csa_mm2=0.5)
        m.place(at[line], f"diagnosis socket pin {cavity}", connector="DIAG", cavity=cavity)
    feeds = {"bus_listener": {}, "low_speed_listener": {"gnd": earth}, "lin_listener": {"gnd": earth, "supply": out}}
    logger = m.add(m.next_code("N"), listener, {**at, **feeds[listener]}, "logger at the diagnosis socket")
    m.see(logger, "hears")
    return found


def talking(m: Maker, found: Along) -> None:
    """A state between two messages, and one for each module that talks."""
    m.state("quiet", key="on", note="between two messages: seen with a scope, since no meter is fast enough")
    for name, label, _ in found:
        m.state(f"{label} talks", key="on", note=_SEEN_WITH_A_SCOPE, **{name: "dominant"})
