"""What is never done, and what is read first: prohibitions with their reasons, and cautions that lock a step.

A sheet marks its parts and places, and some kinds of part are marked by what they are. Proposals, entries, the command line, instruments
and stand-ins all ask here, so that no door goes around it. Licensed practice and local codes go before all of it.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass

from ..base.errors import PondrelError
from .sheet import Part, Sheet

__all__ = ["ACTS", "ACTS_OF", "Caution", "ForbiddenError", "check_acts", "check_instrument", "forbidden"]

# What may be forbidden at a part or place, and what it means. ``meter`` forbids every instrument.
ACTS: Mapping[str, str] = {
    "meter": "no meter of any kind", "ohms": "no ohmmeter", "lamp": "no test lamp", "load": "no substitute load",
    "unplug": "not unplugged", "power": "no power from outside", "flex": "not moved, heated or knocked",
}  # fmt: skip
# What an instrument does there.
ACTS_OF: Mapping[str, tuple[str, ...]] = {
    "ohms": ("meter", "ohms"), "continuity": ("meter", "ohms"), "lamp": ("meter", "lamp"), "load": ("meter", "load"),
}  # fmt: skip


class ForbiddenError(PondrelError):
    """Something that is never done at a part or place; the text says what and why."""


@dataclass(frozen=True, slots=True)
class Caution:
    """What to mind; where it ``locks``, its step waits until somebody has read it."""

    text: str
    locks: bool = False


def forbidden(sheet: Sheet, acts: Iterable[str], nodes: Iterable[str] = (), parts: Iterable[str] = ()) -> str:
    """The sentence that says why any of some acts is never done at some nodes or parts of a sheet; empty where nothing is against it."""
    wanted, at, of = tuple(acts), frozenset(nodes), frozenset(parts)
    if not of and at.isdisjoint(_marked(sheet)):
        return ""
    for where, never in _marks(sheet, at, of):
        act = next((act for act in wanted if act in never), None)
        if act is not None:
            return f"Never at {where}: {ACTS[act]}. {never[act]}"
    return ""


def _marked(sheet: Sheet) -> frozenset[str]:
    """The nodes at which anything is marked; found once, since it is asked for every test."""
    if "marked" not in sheet.remembered:
        found = {name for name, place in sheet.places.items() if place.never}
        for part in sheet.parts.values():
            found.update(node for pin, node in part.pins.items() if part.never or part.kind.never.get(pin))
        sheet.remembered["marked"] = frozenset(found)
    marked: frozenset[str] = sheet.remembered["marked"]
    return marked


def _marks(sheet: Sheet, nodes: frozenset[str], parts: frozenset[str]) -> Iterator[tuple[str, Mapping[str, str]]]:
    """What is marked at the nodes and parts: of a part that has a pin there, its own marks count as well."""
    for name in sorted(nodes & set(sheet.places)):
        yield name, sheet.places[name].never
    for part in sheet.parts.values():
        if part.name in parts:
            yield part.title, part.never
            yield from ((part.title, acts) for acts in part.kind.never.values())
            continue
        touched = {pin for pin, node in part.pins.items() if node in nodes}
        if touched:
            yield part.title, part.never
            yield from ((_at_pin(part, pin), acts) for pin, acts in part.kind.never.items() if pin in touched)


def _at_pin(part: Part, pin: str) -> str:
    return f"{part.title}, pin {pin}"


def check_acts(sheet: Sheet, acts: Iterable[str], nodes: Iterable[str] = (), parts: Iterable[str] = ()) -> None:
    """Raises ForbiddenError where any of the acts is never done there."""
    says = forbidden(sheet, acts, nodes, parts)
    if says:
        raise ForbiddenError(says)


def check_instrument(sheet: Sheet, instrument: str, nodes: Iterable[str]) -> None:
    """Raises ForbiddenError where an instrument is never put on some nodes."""
    check_acts(sheet, ACTS_OF.get(instrument, ("meter",)), nodes)
