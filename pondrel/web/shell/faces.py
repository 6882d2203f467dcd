"""Connector faces as figures: the cavities as they are seen, those of a test's leads marked."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ...core.circuit.connector import Pin
from ...core.circuit.sheet import Sheet

__all__ = ["Face", "faces"]

CELL, EDGE = 30.0, 10.0  # of a cavity and of the housing around them


@dataclass(frozen=True, slots=True)
class Cavity:
    """A cavity's label and middle; ``lead`` is what stands there: red, black or nothing."""

    label: str
    x: float
    y: float
    lead: str


@dataclass(frozen=True, slots=True)
class Face:
    """A connector as it is seen on one face: what is written over it, its size, and its cavities."""

    title: str
    words: str
    width: float
    height: float
    cavities: tuple[Cavity, ...]


def faces(sheet: Sheet, pins: Sequence[Pin], red: str) -> tuple[Face, ...]:
    """One face for each connector, and side of it, that the pins are on, where the sheet draws it; ``red`` is the red lead's place."""
    drawn: dict[tuple[str, str], dict[str, str]] = {}
    for pin in pins:
        if pin.connector in sheet.connectors and sheet.connectors[pin.connector].rows and pin.cavity:
            drawn.setdefault((pin.connector, pin.face), {})[pin.cavity] = "red" if pin.place == red else "black"
    return tuple(_face(sheet, *key, leads) for key, leads in drawn.items())


def _face(sheet: Sheet, name: str, face: str, leads: dict[str, str]) -> Face:
    connector = sheet.connectors[name]
    rows = connector.seen_on(face)
    cavities = tuple(
        Cavity(label, EDGE + CELL * (column + 0.5), EDGE + CELL * (row + 0.5), leads.get(label, ""))
        for row, labels in enumerate(rows)
        for column, label in enumerate(labels)
        if label
    )
    looked_at = "where the wires go in" if face == "wire" else "of the unplugged plug, looking at its pins"
    title = f"{name} {connector.label}".strip()
    words = f"Seen on the {face} side, {looked_at}" + (f"; {connector.note}" if connector.note else "")
    return Face(title, words, 2 * EDGE + CELL * max(map(len, rows)), 2 * EDGE + CELL * len(rows), cavities)
