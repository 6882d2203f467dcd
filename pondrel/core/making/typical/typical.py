"""What a typical circuit is: what is asked of it, and how the answers become a sheet."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from ...base.errors import MakingError
from ..asked import Thing, choice, fuse, ground, module, text, wire
from ..maker import MINUS, Maker
from ..sizes import whole_of

__all__ = ["CIRCUIT", "Typical", "many", "module_feed", "module_things", "numbered", "on_the_module", "picked", "to_case"]

CIRCUIT = "circuit"
LONGEST_TITLE = 120
Given = Mapping[str, str]


@dataclass(frozen=True)
class Typical:
    """A typical circuit: its ``name`` on the command line, ``title`` and ``family`` in words, a ``summary`` of what leads where; ``things``
    are asked about, given the answers so far, and ``build`` puts what was answered on a sheet."""

    name: str
    title: str
    family: str
    summary: str
    things: Callable[[Given], tuple[Thing, ...]]
    build: Callable[[Maker], None]

    def asks(self, given: Given) -> tuple[Thing, ...]:
        """All that is asked, the circuit as a whole first."""
        first, *rest = self.things(given)
        head = (text("title", "Name of the circuit, with the vehicle", self.title), choice("volts", "Supply", "12 V", "24 V"))
        if first.key == CIRCUIT:
            return Thing(CIRCUIT, first.title, (*head, *first.asked)), *rest
        return Thing(CIRCUIT, "The circuit", head), first, *rest


def picked(given: Given, key: str, *ways: str) -> str:
    """The answer to a question that decides what else is asked; the first where it is none of them."""
    said = " ".join(given.get(key, "").split())
    return said if said in ways else ways[0]


def many(given: Given, key: str, default: int, most: int, least: int = 1) -> int:
    """How many of something are asked about; the default where the answer is none."""
    try:
        return whole_of(given.get(key, "") or str(default), least, most, "them")
    except MakingError:
        return default


def numbered(key: str, count: int) -> tuple[str, ...]:
    """The keys of several things of a sort: ``lamp1``, ``lamp2``."""
    return tuple(f"{key}{n}" for n in range(1, count + 1))


def module_things(pins: Mapping[str, str], title: str = "control module", reach: str = "cover") -> tuple[Thing, ...]:
    """What is asked of a control module and its own feed: fuse, wire, the module, ground wire, ground."""
    return (
        fuse("module_fuse", f"{title} fuse", "15 A"),
        wire("module_feed", f"wire, fuse to {title}"),
        module("module", title, {**pins, "supply": "supply", "ground": "ground"}, reach),
        wire("module_return", f"wire, {title} to ground"),
        ground("module_ground", f"{title} ground"),
    )


def module_feed(m: Maker, pins: Mapping[str, str]) -> dict[str, str]:
    """Put a control module with its feed and ground on the sheet; the nodes of its pins, as `Maker.module_pins` gives them."""
    out = m.fuse("module_fuse")
    nodes = m.module_pins("module", {**pins, "supply": "supply", "ground": "ground"})
    m.wire("module_feed", out, nodes["supply"], f"fuse to {nodes['label']}")
    m.add(nodes["part"], "module", {"supply": nodes["supply"], "gnd": nodes["ground"]}, nodes["label"])
    m.wire("module_return", nodes["ground"], m.ground("module_ground"), f"{nodes['label']} to ground")
    return nodes


def on_the_module(m: Maker, nodes: Mapping[str, str], pin: str, kind: str, label: str, **params: Any) -> str:
    """Put what is at a pin of the module on the sheet: an output or an input. Its name there."""
    name = f"{nodes['part']}.{nodes[pin].rpartition('.')[2]}"
    end = "in" if kind == "module_input" else "out"
    return m.add(name, kind, {"supply": nodes["supply"], end: nodes[pin], "gnd": nodes["ground"]}, label, **params)


def to_case(m: Maker, node: str, label: str) -> str:
    """A part that returns through its case: the joint of the case on the engine or frame. Its name on the sheet."""
    return m.add(m.next_code("G"), "ground", {"a": node, "b": MINUS}, label)
