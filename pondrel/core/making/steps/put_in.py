"""Put something into a wire: a fuse, a switch, the pin of a plug, a splice, a relay's contact."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping

from ...base.brief import quoted
from ...base.errors import MakingError
from ..asked import Asked, choice, text
from ..document import Document
from ..sizes import rating_of
from .common import behind, is_line, split, working_states
from .step import Given, Outcome, Step

__all__ = ["STEPS"]

USUAL_RATING = 10.0


def _ends(document: Document, wire: str, name: str, one: str, other: str) -> tuple[str, str]:
    """The two nodes of what is put into a wire, named after it."""
    return split(document, wire, document.new_node(f"{name.lower()}.{one}"), document.new_node(f"{name.lower()}.{other}"))


def _fuse(document: Document, wire: str, given: Given) -> Outcome:
    name = document.new_name(given.get("name", ""), "F")
    rating = rating_of(given.get("rating", "")) or USUAL_RATING
    a, b = _ends(document, wire, name, "in", "out")
    document.add(name, "fuse", {"a": a, "b": b}, rating=rating, label=given.get("label"))
    for node, side in ((a, "feed side"), (b, "load side")):
        document.place(node, f"fuse {name}, {side}", behind(document, f"fuse {name}", given.get("reach", "")))
    return Outcome(f"fuse {name} put into {wire}", part=name)


def _switch(document: Document, wire: str, given: Given) -> Outcome:
    name = document.new_name(given.get("name", ""), "S")
    a, b = _ends(document, wire, name, "1", "2")
    document.add(name, "switch", {"a": a, "b": b}, label=given.get("label"))
    for node, pin in ((a, "1"), (b, "2")):
        document.place(node, f"switch {name} pin {pin}", behind(document, f"switch {name}", given.get("reach", "")))
    for state in working_states(document):
        state[name] = "closed"
    return Outcome(f"switch {name} put into {wire}", part=name)


def _splice(document: Document, wire: str, given: Given) -> Outcome:
    name = document.new_name(given.get("name", ""), "SP")
    a, b = _ends(document, wire, name, "a", "b")
    document.add(name, "splice", {"a": a, "b": b}, label=given.get("label"))
    return Outcome(f"splice {name} put into {wire}", part=name)


_PIN = re.compile(r"\d{1,3}")


def _plug(document: Document, wire: str, given: Given) -> Outcome:
    """The next pin of a plug that is there, or of a new one."""
    said, pin = given.get("name", "").strip(), given.get("pin", "").strip()
    there = next((str(name) for name in document.parts if str(name).lower() == said.lower()), "")
    if there and document.kind(there).name != "plug":
        raise MakingError(f"{there} is no plug: name another, or leave the name empty for a new one.")
    taken = {re.sub(r"\D", "", p) for p in document.pins(there)} if there else set()
    if pin and (not _PIN.fullmatch(pin) or not 1 <= int(pin) <= 199):
        raise MakingError(f"{quoted(pin)} is no pin of a plug: a number from 1 to 199 is wanted.")
    if pin and pin in taken:
        raise MakingError(f"Pin {pin} of {there} is in another wire already.")
    pin = pin or next(str(n) for n in range(1, 200) if str(n) not in taken)
    name = there or document.new_name(said, "C")
    a, b = _ends(document, wire, name, pin, f"{pin}m")
    if there:
        document.part(there)["pins"][f"{pin}a"] = a
        document.part(there)["pins"][f"{pin}b"] = b
    else:
        document.add(name, "plug", {f"{pin}a": a, f"{pin}b": b}, label=given.get("label") or f"plug {name}")
    way = next((document.places[n].get("behind") for n in document.places if str(n).startswith(f"{name.lower()}.")), None)
    way = behind(document, f"plug {name}", given.get("reach", ""), way)
    for node, side in ((a, "feed side"), (b, "far side")):
        document.place(node, f"plug {name} pin {pin}, {side}", way, connector=name, cavity=pin)
    return Outcome(f"{name} pin {pin} put into {wire}", part=name)


def _relay(document: Document, wire: str, given: Given) -> Outcome:
    """A relay's contact, its coil fed from the same line and grounded through a switch of its own."""
    name = document.new_name(given.get("name", ""), "K")
    a, b = _ends(document, wire, name, "30", "87")
    own = name.lower()
    plus, low = document.new_node(f"{own}.86"), document.new_node(f"{own}.85")
    document.add(name, "relay", {"30": a, "87": b, "85": low, "86": plus}, label=given.get("label"))
    document.rename_node(plus, a)
    switch = document.free("S")
    document.add(switch, "switch", {"a": low, "b": document.minus}, label=f"switch of {name}")
    for node, terminal in ((a, "30"), (b, "87"), (low, "85")):
        document.place(node, f"relay {name} terminal {terminal}", behind(document, f"relay {name}", given.get("reach", "")))
    for state in working_states(document):
        state[switch] = "closed"
    return Outcome(f"relay {name} put into {wire}", part=name)


_WAYS: Mapping[str, Callable[[Document, str, Given], Outcome]] = {
    "fuse": _fuse, "switch": _switch, "plug pin": _plug, "splice": _splice, "relay contact": _relay,
}  # fmt: skip


def _put_in(document: Document, wire: str, given: Given) -> Outcome:
    what = given.get("what", "") or "fuse"
    if what not in _WAYS:
        raise MakingError(f"{quoted(what)} cannot be put into a wire: {', '.join(_WAYS)}.")
    return _WAYS[what](document, wire, given)


def _asks(document: Document, wire: str) -> tuple[Asked, ...]:
    return (choice("what", "Put in", *_WAYS), text("name", "Its name, empty for the next free one"))


STEPS = (Step("put_in", "Put in", "part", _put_in, is_line, _asks),)
