"""What lies beside something that moves in service, as seats, doors, cabs, steering: by the words in which a sheet says where parts are."""

from __future__ import annotations

import re

from ..circuit.sheet import Sheet
from .told import MOVED

__all__ = ["parts_moved"]

_WORD = re.compile(r"[a-z]+")


def parts_moved(sheet: Sheet, what: str) -> tuple[str, ...]:
    """The parts that lie beside what is moved (a key of `told.MOVED`): those that say so, and the joints at places that do or that lie
    behind an access that does."""
    stems = MOVED[what]
    accesses = {name for name, access in sheet.access.items() if _names(f"{name.replace('_', ' ')} {access.note}", stems)}
    places = {name for name, place in sheet.places.items() if _names(place.at, stems) or place.behind in accesses}
    return tuple(
        name
        for name, part in sheet.parts.items()
        if not part.kind.posts and (_names(f"{part.label} {part.note}", stems) or (part.kind.joint and places & set(part.pins.values())))
    )


def _names(text: str, stems: tuple[str, ...]) -> bool:
    return any(word.startswith(stems) for word in _WORD.findall(text.lower()))
