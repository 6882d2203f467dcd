"""Connectors of a sheet, and what its places say about their pins."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from ...base.brief import quoted
from ..connector import FACES, Connector
from .reader import LONGEST_NAME, Reader, allowed

__all__ = ["PIN_KEYS", "connectors_of", "pin_of"]

PIN_KEYS = ("connector", "cavity", "face", "colour")
MOST_ROWS, MOST_IN_A_ROW = 12, 60


def connectors_of(reader: Reader, value: Any) -> dict[str, Connector]:
    """The connectors that a sheet draws."""
    connectors = {}
    for name, item in reader.named_mapping(value, "connectors", "a mapping of connectors to {cavities, face}").items():
        path = f"connectors.{name}"
        given = reader.mapping(item, path, "a mapping such as {cavities: [[1, 2], [3, 4]], face: mating}")
        reader.keys(given, ("label", "cavities", "face", "note"), path)
        label, note = (reader.text(given.get(key), f"{path}.{key}") for key in ("label", "note"))
        rows = _rows(reader, given.get("cavities"), f"{path}.cavities")
        connectors[name] = Connector(name, label, rows, _face(reader, given, path, "mating"), note)
    return connectors


def _rows(reader: Reader, value: Any, path: str) -> tuple[tuple[str, ...], ...]:
    """Rows of cavities; a null is a gap."""
    if value is None:
        return ()
    if not isinstance(value, list) or not all(isinstance(row, list) for row in value):
        reader.flaw(path, f"must be a list of rows such as [[1, 2, 3], [4, 5, 6]], got {quoted(value)}")
        return ()
    if len(value) > MOST_ROWS or any(len(row) > MOST_IN_A_ROW for row in value):
        reader.flaw(path, f"has at most {MOST_ROWS} rows of {MOST_IN_A_ROW} cavities")
        return ()
    rows = []
    for row in value:
        if any(isinstance(cavity, (dict, list, bool)) or len(str(cavity)) > LONGEST_NAME for cavity in row):
            reader.flaw(path, f"must hold numbers or names of cavities, null for a gap, got {quoted(row)}")
            return ()
        rows.append(tuple("" if cavity is None else str(cavity) for cavity in row))
    named = [cavity for row in rows for cavity in row if cavity]
    twice = next((cavity for cavity in named if named.count(cavity) > 1), None)
    if twice is not None:
        reader.flaw(path, f"names the cavity {quoted(twice)} twice")
    return tuple(rows)


def _face(reader: Reader, given: Mapping[str, Any], path: str, otherwise: str) -> str:
    face = given.get("face", otherwise)
    if face not in FACES:
        reader.flaw(f"{path}.face", f"must be {' or '.join(FACES)}, got {quoted(face)}")
        return otherwise
    return str(face)


def pin_of(reader: Reader, given: Mapping[str, Any], path: str, connectors: Mapping[str, Connector]) -> tuple[str, str, str, str]:
    """What a place says of its pin: connector, cavity, face and colour."""
    connector, cavity, colour = (reader.text(given.get(key), f"{path}.{key}", LONGEST_NAME) for key in ("connector", "cavity", "colour"))
    for key in ("cavity", "face"):
        if given.get(key) is not None and not connector:
            reader.flaw(f"{path}.{key}", "says nothing without its connector: name that too")
    drawn = connectors.get(connector)
    known = [each for row in drawn.rows for each in row if each] if drawn else []
    if cavity and known and cavity not in known:
        reader.flaw(f"{path}.cavity", f"connector {connector} has no cavity {quoted(cavity)}; {allowed(known)}")
    return connector, cavity, _face(reader, given, path, FACES[0]), colour
