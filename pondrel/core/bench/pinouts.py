"""Sockets between vehicle and trailer: which pin has which function, by the standards, and what must move where a plug is wired otherwise.

ISO 1724 (7 pins, 12 V), ISO 11446 (13 pins, 12 V), SAE J560 (7 pins): functions from memory of the published tables.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

__all__ = ["SOCKETS", "Pin", "moves"]


@dataclass(frozen=True, slots=True)
class Pin:
    """A pin: its number, its function, whether it is a ground, and where it sits seen from the mating side of the socket (x, y from −1 to
    1); from the wire side left and right are swapped."""

    number: str
    function: str
    ground: bool
    x: float
    y: float


def _round(*functions: str) -> tuple[Pin, ...]:
    """Six pins around and the last one in the middle."""
    places = ((-0.5, 0.75), (0.5, 0.75), (0.9, 0.0), (0.5, -0.75), (-0.5, -0.75), (-0.9, 0.0), (0.0, 0.0))
    return tuple(Pin(str(k + 1), what, what.startswith("ground"), *places[k]) for k, what in enumerate(functions))


def _thirteen(*functions: str) -> tuple[Pin, ...]:
    """Eight around, four in a half ring, one in the middle: drawn so that numbers are found, not to scale."""
    outer = ((-0.38, 0.92), (0.38, 0.92), (0.92, 0.38), (0.92, -0.38), (0.38, -0.92), (-0.38, -0.92), (-0.92, -0.38), (-0.92, 0.38))
    inner = ((-0.45, 0.3), (0.45, 0.3), (0.45, -0.35), (-0.45, -0.35), (0.0, 0.0))
    return tuple(Pin(str(k + 1), what, what.startswith("ground"), *(*outer, *inner)[k]) for k, what in enumerate(functions))


SOCKETS: Mapping[str, tuple[Pin, ...]] = {
    "ISO 1724": _round("left indicator", "rear fog lamp", "ground", "right indicator", "right tail lamp", "stop lamps", "left tail lamp"),
    "ISO 11446": _thirteen(
        "left indicator", "rear fog lamp", "ground of pins 1 to 8", "right indicator", "right tail lamp", "stop lamps", "left tail lamp",
        "reversing lamp", "lasting supply", "supply with the key", "ground of pin 10", "trailer coding", "ground of pin 9",
    ),
    "SAE J560": _round(
        "ground", "side marker lamps", "left turn", "stop lamps", "right turn", "tail and plate lamps", "auxiliary, anti-lock",
    ),
}  # fmt: skip


def moves(socket: str, found: Mapping[str, str]) -> tuple[tuple[str, str, str], ...]:
    """What must move: by function, the pin where it was found and the pin where it belongs; what sits right is left out.

    >>> moves("ISO 1724", {"1": "right indicator", "4": "left indicator", "6": "stop lamps"})
    (('right indicator', '1', '4'), ('left indicator', '4', '1'))
    """
    home = {pin.function: pin.number for pin in SOCKETS[socket]}
    return tuple((what, pin, home[what]) for pin, what in found.items() if what in home and home[what] != pin)
