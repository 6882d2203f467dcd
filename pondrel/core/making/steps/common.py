"""What several steps need: lines to put something into, nodes that stand for a pin, states in which a circuit works."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from ...base.errors import MakingError
from ..document import Document
from ..reach import OPEN, reached

__all__ = ["LINE", "behind", "is_line", "split", "working_states"]

LINE = frozenset({"wire", "contact", "splice", "fuse", "ground", "slip_ring"})  # symbols of what joins its two ends and is no load


def is_line(document: Document, name: str) -> bool:
    """Whether a part joins two ends and nothing more."""
    return document.kind(name).symbol in LINE and len(document.pins(name)) == 2


def split(document: Document, wire: str, near: str, far: str) -> tuple[str, str]:
    """Open a line for something to be put in; returns the two nodes that it goes between.

    A wire keeps its first half, up to the node ``near``, and a second wire goes on from ``far``, each half as long. What is put into a
    joint stands before it.
    """
    if not is_line(document, wire):
        raise MakingError(f"{document.called(wire)} is no wire or joint: put it into the wire beside it.")
    entry, pins = document.part(wire), document.pins(wire)
    one, other = pins
    end = pins[other]
    if document.kind(wire).name == "wire":
        rest = {key: value for key, value in entry.items() if key not in ("kind", "pins")}
        if "length_m" in rest:
            half = round(float(rest["length_m"]) / 2, 3)
            document.put(entry, "length_m", half)
            rest["length_m"] = half
        elif "ohms" in rest:
            document.put(entry, "ohms", float(rest["ohms"]) / 2)
            rest["ohms"] = float(rest["ohms"]) / 2
        entry["pins"][_key(entry["pins"], other)] = near
        document.add(document.free("W"), "wire", {"a": far, "b": end}, **rest)
        return near, far
    entry["pins"][_key(entry["pins"], one)] = far
    return pins[one], far


def _key(pins: Mapping[Any, Any], name: str) -> Any:
    return next(key for key in pins if str(key) == name)


def behind(document: Document, label: str, said: str, otherwise: str | None = None) -> str | None:
    """The access for what is reached in the way that was said, entered where it is new; ``otherwise`` where nothing was said."""
    if not said:
        return otherwise
    way = reached(said)
    if way.way == OPEN and not way.minutes:
        return None
    name = "_".join("".join(c if c.isalnum() else " " for c in f"{way.way} {label}".lower()).split())
    entry = {"minutes": way.minutes, "note": f"{way.way}, to get at {label}"}
    document.put(document.access, name, entry | ({"caution": way.caution} if way.caution else {}))
    return name


def working_states(document: Document) -> list[Any]:
    """The states that switch something on; all of them where none does."""
    names = {str(name) for name in document.parts}
    working = [state for state in document.states.values() if any(str(key) in names for key in state)]
    return working or list(document.states.values())
