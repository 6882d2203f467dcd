"""Branch off a node: a load with its wire and ground, or a wire to another node."""

from __future__ import annotations

from ...base.brief import near, quoted
from ...base.errors import MakingError
from ..asked import Asked, choice, text
from ..document import Document
from ..loads import LOADS, load_params
from ..sizes import load_of
from .common import behind
from .step import Given, Outcome, Step

__all__ = ["STEPS"]

USUAL = {"length_m": 2.0, "csa_mm2": 1.0, "tolerance": 0.8, "note": "length and section not known, 2 m of 1 mm² taken"}
GROUND = "ground"


def _load(document: Document, node: str, given: Given) -> Outcome:
    sort = given.get("sort", "") or "lamp"
    kind, params, note = load_params(sort, load_of(given.get("size", "")), document.before.supply_volts)
    name = document.new_name(given.get("name", ""), LOADS[sort].letter)
    a, b = document.new_node(f"{name.lower()}.1"), document.new_node(f"{name.lower()}.2")
    label = given.get("label") or sort
    document.add(document.free("W"), "wire", {"a": node, "b": a}, **USUAL, label=f"to {name}")
    document.add(name, kind, {"a": a, "b": b}, **params, label=label, note=note)
    way = behind(document, label, given.get("reach", ""))
    for end, pin in ((a, "1"), (b, "2")):
        document.place(end, f"{label} {name} pin {pin}", way, connector=name, cavity=pin)
    _back(document, b, given.get("back", ""), name)
    if LOADS[sort].seen:
        seen = f"{label} {name}" if label in document.observe else label
        document.put(document.observe, seen, {"part": name, "sees": LOADS[sort].seen})
    return Outcome(f"{sort} {name} branched off at {node}", part=name)


def _back(document: Document, node: str, said: str, name: str) -> None:
    """The way back from a load: to a ground of its own, or by a wire to a node that is named."""
    if said and said != GROUND:
        document.add(document.free("W"), "wire", {"a": node, "b": _node(document, said)}, **USUAL, label=f"{name} to {said}")
        return
    earth = document.free("G")
    stud = document.new_node(earth.lower())
    document.add(document.free("W"), "wire", {"a": node, "b": stud}, **USUAL, label=f"{name} to ground")
    document.add(earth, "ground", {"a": stud, "b": document.minus}, label=f"ground of {name}")
    document.place(stud, f"ground {earth}")


def _node(document: Document, said: str) -> str:
    if said not in document.nodes():
        raise MakingError(f"No place {quoted(said)} is on this sheet{near(said, sorted(document.nodes()))}.")
    return said


def _wire(document: Document, node: str, given: Given) -> Outcome:
    to = _node(document, given.get("to", "").strip() or "nowhere")
    if to == node:
        raise MakingError("A wire from a place to itself joins nothing: choose another place.")
    name = document.new_name(given.get("name", ""), "W")
    document.add(name, "wire", {"a": node, "b": to}, **USUAL, label=f"{node} to {to}")
    return Outcome(f"wire {name} put between {node} and {to}", part=name)


def _load_asks(document: Document, node: str) -> tuple[Asked, ...]:
    return (
        choice("sort", "What is fed", *LOADS),
        text("size", "Watts, amps or ohms, whichever you know", check=load_of),
        text("back", "Its way back: a place, or a ground of its own", GROUND, offer=(GROUND,)),
    )


def _wire_asks(document: Document, node: str) -> tuple[Asked, ...]:
    return (text("to", "To which place", offer=sorted(str(place) for place in document.places if str(place) != node)),)


def _there(document: Document, node: str) -> bool:
    return node in document.nodes()


STEPS = (
    Step("branch", "Branch off a load", "node", _load, _there, _load_asks),
    Step("wire_to", "Wire to another place", "node", _wire, _there, _wire_asks),
)
