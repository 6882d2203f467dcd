"""Where a pin is found: its connector, cavity, the face that one looks at, and the colour of its wire.

A connector is drawn as rows of cavities, seen on one of its faces. Whoever looks at the other face sees it mirrored, left for right: the
one mistake that puts a probe on the wrong pin.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from .sheet import Sheet

__all__ = ["FACES", "Connector", "Pin", "pin_at"]

# Wire side: where the wires go in and a probe slips in beside one. Mating side: what is seen of a plug that is off.
FACES = ("wire", "mating")


@dataclass(frozen=True, slots=True)
class Connector:
    """A connector's cavities in ``rows``, empty where there is none, as they are seen on ``face``; no rows where nobody drew them."""

    name: str
    label: str = ""
    rows: tuple[tuple[str, ...], ...] = ()
    face: str = "mating"
    note: str = ""

    def seen_on(self, face: str) -> tuple[tuple[str, ...], ...]:
        """Its rows of cavities as they are seen on a face.

        >>> Connector("X1", rows=(("1", "2", "3"),), face="mating").seen_on("wire")
        (('3', '2', '1'),)
        """
        if face == self.face:
            return self.rows
        width = max(map(len, self.rows), default=0)
        return tuple(tuple(reversed((*row, *[""] * (width - len(row))))) for row in self.rows)


@dataclass(frozen=True, slots=True)
class Pin:
    """How a place is found: its connector, the cavity, the face to look at, and the wire's colour; each empty where the sheet is silent."""

    place: str
    connector: str
    cavity: str
    face: str
    colour: str

    @property
    def words(self) -> str:
        """As one tells a colleague: ``X12 cavity 3, wire side, yellow/black``."""
        where = " ".join(filter(None, (self.connector, f"cavity {self.cavity}" if self.cavity else "")))
        return ", ".join(filter(None, (where, f"{self.face} side" if self.connector else "", self.colour)))

    def as_json(self) -> dict[str, str]:
        """The command line's answer."""
        return {"place": self.place, "connector": self.connector, "cavity": self.cavity, "face": self.face, "colour": self.colour}


def pin_at(sheet: Sheet, node: str, off: Sequence[str] = ()) -> Pin | None:
    """How a place of a sheet is found while the connectors ``off`` are unplugged, which show their mating side; None where it is no place,
    or where the sheet says nothing but its name."""
    place = sheet.places.get(node)
    if place is None:
        return None
    colours = [part.colour for part in sheet.parts.values() if part.colour and node in part.pins.values()]
    colour = place.colour or " or ".join(dict.fromkeys(colours))
    if not place.connector and not colour:
        return None
    return Pin(node, place.connector, place.cavity, "mating" if place.connector in off else place.face, colour)
