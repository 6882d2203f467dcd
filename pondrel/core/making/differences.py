"""Which parts of a circuit are drawn otherwise than in another drawing of it."""

from __future__ import annotations

from ..circuit.sheet import Part, Sheet

__all__ = ["drawn_otherwise"]


def drawn_otherwise(sheet: Sheet, other: Sheet) -> frozenset[str]:
    """Names of the parts of a sheet that another does not have, or has with other pins, values or names."""
    return frozenset(name for name, part in sheet.parts.items() if name not in other.parts or _told(part) != _told(other.parts[name]))


def _told(part: Part) -> tuple[object, ...]:
    return part.kind.name, dict(part.pins), dict(part.params), part.label, part.colour
