"""Copy a branch: a load with everything that only it hangs on, side by side with the first."""

from __future__ import annotations

import re

from ...base.errors import MakingError
from ..document import Document
from .step import Given, Outcome, Step

__all__ = ["STEPS"]


def _copy(document: Document, name: str, given: Given) -> Outcome:
    own = _alone(document, name)
    nodes = {node for part in own for node in document.pins(part).values()}
    shared = {node for node in nodes if any(part not in own for part, _ in document.at(node))}
    shared |= nodes & {document.before.plus, document.before.minus}
    new_names: dict[str, str] = {}
    new_nodes: dict[str, str] = {}
    for part in own:
        new_names[part] = document.free(re.match(r"[A-Za-z]+", part)[0] if re.match(r"[A-Za-z]+", part) else "X")  # type: ignore[index]
        for node in document.pins(part).values():
            if node not in shared and node not in new_nodes:
                prefix, _, end = node.partition(".")
                stem = new_names[part].lower() if prefix == part.lower() else document.free("n").lower() if not end else f"{prefix}x"
                new_nodes[node] = document.new_node(f"{stem}.{end}" if end else stem)
        entry = {key: value for key, value in document.part(part).items() if key not in ("kind", "pins")}
        pins = {pin: new_nodes.get(node, node) for pin, node in document.pins(part).items()}
        document.add(new_names[part], document.kind(part).name, pins, **entry)
    for node, new in new_nodes.items():
        for key in [key for key in document.places if str(key) == node]:
            place = dict(document.places[key])
            old = next((part for part in own if node.startswith(f"{part.lower()}.") or node == part.lower()), "")
            at = str(place.pop("at", ""))
            document.places[new] = {"at": at.replace(old, new_names[old]) if old and old in at else f"{at}, second", **place}
            if place.get("connector") == old:
                document.places[new]["connector"] = new_names[old]
    for state in document.states.values():
        for part in own:
            if part in state:
                state[new_names[part]] = state[part]
    for seen, entry in list(document.observe.items()):
        if str(entry.get("part")) in own:
            part = new_names[str(entry["part"])]
            document.put(document.observe, f"{seen} {part}", {"part": part, "sees": str(entry["sees"])})
    return Outcome(f"branch of {name} copied as {new_names[name]}", part=new_names[name])


def _alone(document: Document, name: str) -> list[str]:
    """A part and the parts of its line up to the first nodes that something else hangs on, in both directions."""
    if document.kind(name).posts:
        raise MakingError("The battery is not copied: a sheet counts from one.")
    own, todo = [name], list(document.pins(name).values())
    ends = {document.before.plus, document.before.minus}
    seen: set[str] = set()
    while todo:
        node = todo.pop(0)
        if node in seen or node in ends:
            continue
        seen.add(node)
        beside = {part for part, _ in document.at(node)}
        if len(beside) != 2:
            continue
        for part in sorted(beside - set(own)):
            if len(document.pins(part)) == 2:
                own.append(part)
                todo += document.pins(part).values()
    return own


STEPS = (Step("copy_branch", "Copy this branch", "part", _copy),)
