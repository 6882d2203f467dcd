"""What can be probed and how it is reached; pins that are the other way round."""

from __future__ import annotations

from ...base.brief import quoted
from ...base.errors import MakingError
from ..asked import Asked, text
from ..document import Document
from ..reach import REACHES, reached
from .common import behind
from .step import Given, Outcome, Step

__all__ = ["STEPS"]


def _reach(document: Document, node: str, given: Given) -> Outcome:
    at = " ".join(given.get("at", "").split())
    if given.get("probe") == "no":
        if node == document.minus:
            raise MakingError("Battery minus is always within reach: it is the zero of every voltage.")
        key = next((key for key in document.places if str(key) == node), None)
        if key is not None:
            del document.places[key]
            document.tidy()
        return Outcome(f"{node} cannot be probed", node=node)
    document.place(node, at or node)
    entry = document.place_at(node) or {}
    if at:
        document.put(entry, "at", at)
    if given.get("colour"):
        document.put(entry, "colour", " ".join(given["colour"].split()))
    said = given.get("reach", "")
    if said:
        document.put(entry, "behind", behind(document, at or str(entry.get("at") or node), said))
        document.tidy()
    return Outcome(f"{node}: {at or entry.get('at')}{f', {said}' if said else ''}", node=node)


def _reach_asks(document: Document, node: str) -> tuple[Asked, ...]:
    entry = document.place_at(node) or {}
    return (
        text("at", "What it is called", str(entry.get("at", ""))),
        text("reach", "How it is reached", "", check=reached, offer=tuple(REACHES)),
        text("colour", "Colour of the wire there", str(entry.get("colour", ""))),
    )


def _swap(document: Document, name: str, given: Given) -> Outcome:
    """Two pins change places: of a plug its far sides, of anything else their nodes."""
    pins = document.part(name)["pins"]
    one, other = (given.get(key, "").strip() for key in ("one", "other"))
    plug = document.kind(name).name == "plug"
    names = {str(pin): pin for pin in pins}
    first, second = (names.get(f"{said}b" if plug else said) for said in (one, other))
    if first is None or second is None or first == second:
        there = sorted({pin.rstrip("ab") if plug else pin for pin in names}, key=lambda pin: (len(pin), pin))
        raise MakingError(f"{quoted(one)} and {quoted(other)} are not two pins of {name}: it has {', '.join(there)}.")
    pins[first], pins[second] = pins[second], pins[first]
    return Outcome(f"{name}: {one} and {other} are the other way round", part=name)


def _swap_asks(document: Document, name: str) -> tuple[Asked, ...]:
    plug = document.kind(name).name == "plug"
    ends = tuple(dict.fromkeys(pin.rstrip("ab") if plug else pin for pin in document.pins(name)))
    return (
        text("one", "Pin", ends[0], offer=ends),
        text("other", "and pin", ends[1] if len(ends) > 1 else "", offer=ends),
    )


def _has_two(document: Document, name: str) -> bool:
    return document.kind(name).name != "plug" or len(document.pins(name)) > 2


STEPS = (
    Step("reach", "How it is reached", "node", _reach, asks=_reach_asks),
    Step("swap_pins", "Pins the other way round", "part", _swap, _has_two, _swap_asks),
)
