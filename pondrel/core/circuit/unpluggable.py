"""What of a circuit can be unplugged one after the other while a signal is watched: minutes, and what goes off with each."""

from __future__ import annotations

from dataclasses import dataclass

from .sheet import Part, Sheet
from .unplug import parts_meant, plug_of

__all__ = ["Unpluggable", "comes_off", "unpluggables"]


@dataclass(frozen=True, slots=True)
class Unpluggable:
    """A plug, or a part that has one of its own: ``name`` on the sheet and as a person calls it; the minutes to get there (None where no
    place on it is named); and the names of what else is cut off from where the signal is watched."""

    name: str
    called: str
    minutes: float | None
    off: tuple[str, ...]


def comes_off(sheet: Sheet, part: Part) -> bool:
    """Whether a part can be unplugged: a pin of a plug, a whole plug, or what has a plug of its own."""
    if part.kind.posts or part.kind.grounds or part.kind.symbol in ("wire", "switch", "splice"):
        return False
    return not part.kind.joint or plug_of(sheet, part.name) != part.name or len(part.pins) > 2


def unpluggables(sheet: Sheet, watched: str) -> tuple[Unpluggable, ...]:
    """All of them, as the sheet has them, for a signal that is watched at the node ``watched``."""
    every = {plug_of(sheet, part.name): None for part in sheet.parts.values() if comes_off(sheet, part)}
    parts = {name: frozenset(parts_meant(sheet, (name,))) for name in every}
    reached = _reached(sheet, watched, frozenset())
    joined = [name for name in parts if parts[name] & reached]
    found = []
    for name in joined:
        left = _reached(sheet, watched, parts[name])
        off = tuple(other for other in joined if other != name and not parts[other] & left)
        found.append(Unpluggable(name, called_of(sheet, name), _minutes(sheet, parts[name]), off))
    return tuple(found)


def called_of(sheet: Sheet, name: str) -> str:
    """A part or whole plug as a person calls it."""
    if name in sheet.parts:
        return sheet.parts[name].called
    connector = sheet.connectors.get(name)
    return connector.label if connector is not None and connector.label else name


def _reached(sheet: Sheet, start: str, off: frozenset[str]) -> set[str]:
    """The parts that are joined to a node by anything but the battery's two posts, with some taken off."""
    rails = {sheet.plus, sheet.minus}
    at: dict[str, list[str]] = {}
    for part in sheet.parts.values():
        if part.name not in off and not part.kind.posts:
            for node in part.pins.values():
                at.setdefault(node, []).append(part.name)
    found: set[str] = set()
    todo = [start]
    seen = {start, *rails}
    while todo:
        for name in at.get(todo.pop(), ()):
            found.add(name)
            fresh = [node for node in sheet.parts[name].pins.values() if node not in seen]
            seen.update(fresh)
            todo += fresh
    return found


def _minutes(sheet: Sheet, parts: frozenset[str]) -> float | None:
    ways = []
    for name in parts:
        for node in sheet.parts[name].pins.values():
            place = sheet.places.get(node)
            if place is not None and node not in (sheet.plus, sheet.minus):
                ways.append(place.minutes + (sheet.access[place.behind].minutes if place.behind else 0.0))
    return min(ways, default=None)
