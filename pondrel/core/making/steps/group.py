"""Put several together: pins into one plug, fuses into one box, so that one way leads to all of them."""

from __future__ import annotations

import re

from ...base.brief import listed, quoted
from ...base.errors import MakingError
from ..asked import Asked, text
from ..document import Document
from ..reach import REACHES, reached
from .common import behind, is_line
from .put_in import STEPS as PUT_IN
from .step import Given, Outcome, Step

__all__ = ["STEPS"]


def _names(document: Document, said: str) -> list[str]:
    found = [name for name in re.split(r"[\s,;]+", said) if name]
    for name in found:
        document.part(name)
    if len(found) < 2:
        raise MakingError("Two or more are wanted: name them with commas between, such as F1, F2.")
    return list(dict.fromkeys(found))


def _plug(document: Document, _: str, given: Given) -> Outcome:
    """One plug through several wires, a pin each."""
    wires, name = _names(document, given.get("parts", "")), document.new_name(given.get("name", ""), "C")
    others = [wire for wire in wires if not is_line(document, wire)]
    if others:
        raise MakingError(f"{listed(others)} {'is' if len(others) == 1 else 'are'} no wire: a plug's pins go into wires.")
    for wire in wires:
        PUT_IN[0].do(document, wire, {"what": "plug pin", "name": name, "reach": given.get("reach", "")})
    return Outcome(f"plug {name} put into {', '.join(wires)}", part=name)


def _box(document: Document, _: str, given: Given) -> Outcome:
    """Fuses and relays in one box: one lid leads to all of them."""
    parts, label = _names(document, given.get("parts", "")), " ".join(given.get("name", "").split()) or "fuse box"
    way = behind(document, label, given.get("reach", "") or "cover")
    for name in parts:
        if document.kind(name).symbol not in ("fuse", "relay", "breaker"):
            raise MakingError(f"{quoted(name)} is no fuse and no relay: a box holds those.")
        for node in document.pins(name).values():
            entry = document.place_at(node)
            if entry is not None and node not in (document.before.plus, document.before.minus):
                document.put(entry, "behind", way)
    document.tidy()
    return Outcome(f"{', '.join(parts)} are in the {label}")


def _asks(document: Document, _: str) -> tuple[Asked, ...]:
    return (
        text("parts", "Which, with commas between"),
        text("name", "Its name, empty for the next free one"),
        text("reach", "How it is reached", "", check=reached, offer=tuple(REACHES)),
    )


STEPS = (
    Step("plug", "A plug through several wires", "sheet", _plug, asks=_asks),
    Step("box", "Fuses and relays in one box", "sheet", _box, asks=_asks),
)
