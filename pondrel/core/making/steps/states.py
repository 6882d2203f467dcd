"""The states in which a circuit is measured: what is switched how, and what a person does to get there."""

from __future__ import annotations

from ...base.brief import near, quoted
from ...base.errors import MakingError
from ..asked import Asked, text
from ..document import Document
from .step import Given, Outcome, Step

__all__ = ["STEPS"]

LONGEST_NAME = 40
_OWN = ("name", "note", "key", "engine", "battery", "copy")


def _state(document: Document, name: str, given: Given) -> Outcome:
    """Make a state, or change one: its name, what it is for a person, and the position of every part."""
    new = " ".join(given.get("name", "").split()) or name
    if not new or len(new) > LONGEST_NAME:
        raise MakingError(f"A state has a name of at most {LONGEST_NAME} characters, such as 'lamp on', got {quoted(new)}.")
    key = next((key for key in document.states if str(key) == name), None)
    taken = [str(other) for other in document.states if str(other) == new and str(other) != name]
    if taken or (not name and new in map(str, document.states)):
        raise MakingError(f"There is a state called {quoted(new)} already: give this one another name.")
    if key is None:
        document.states[new] = {}
        key = new
    entry = document.states[key]
    for item, value in given.items():
        said = " ".join(value.split())
        if item in ("name", "copy"):
            continue
        if item not in _OWN and item not in map(str, document.parts):
            raise MakingError(f"No part {quoted(item)} is on this sheet{near(item, map(str, document.parts))}.")
        rest = document.kind(item).rest if item not in _OWN else ""
        document.put(entry, item, _number(said) if said != rest else None)
    if new != name and name:
        document.rename_state(name, new)
    return Outcome(f"state {new}", state=new)


def _number(said: str) -> object:
    try:
        return float(said.replace(",", "."))
    except ValueError:
        return said


def _drop(document: Document, name: str, given: Given) -> Outcome:
    key = next((key for key in document.states if str(key) == name), None)
    if key is None:
        raise MakingError(f"No state {quoted(name)} is on this sheet{near(name, map(str, document.states))}.")
    if len(document.states) == 1:
        raise MakingError("One state stays: readings are taken in one.")
    document.remove_state(name)
    return Outcome(f"state {name} taken off")


def _asks(document: Document, name: str) -> tuple[Asked, ...]:
    entry = document.state(name) or {}
    asked = [text("name", "Name of the state", name), text("note", "What one does to get there", str(entry.get("note", "")))]
    for part in map(str, document.parts):
        kind = document.kind(part)
        if kind.positions:
            now = str(entry.get(part, kind.rest))
            asked.append(text(part, document.called(part), now, offer=kind.positions))
        elif kind.dial:
            now = str(entry.get(part, f"{kind.dial.default:g}"))
            asked.append(text(part, f"{document.called(part)}, {kind.dial.unit}", now))
    return tuple(asked)


def _new(document: Document, name: str, given: Given) -> Outcome:
    """A new state, as the one that is looked at."""
    new = " ".join(given.get("name", "").split())
    known = document.state(name) or {}
    outcome = _state(document, "", {"name": new, **{str(key): str(value) for key, value in known.items()}})
    return Outcome(f"state {new} added, as {name}", state=new) if known else outcome


def _new_asks(document: Document, name: str) -> tuple[Asked, ...]:
    return (text("name", f"Its name; it begins as {name}"),)


STEPS = (
    Step("state", "State", "state", _state, asks=_asks),
    Step("new_state", "A new state", "state", _new, asks=_new_asks),
    Step("drop_state", "Take the state off", "state", _drop),
)
