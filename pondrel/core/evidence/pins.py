"""The pins that a test's leads go to."""

from __future__ import annotations

from ..circuit.connector import Pin, pin_at
from ..circuit.sheet import Sheet
from .asked import Measurement, Question

__all__ = ["pins_of"]


def pins_of(sheet: Sheet, test: Measurement | Question) -> tuple[Pin, ...]:
    """How the places of a measurement are found, red first; nothing of places that the sheet says no more about than what they are."""
    if isinstance(test, Question):
        return ()
    return tuple(pin for pin in (pin_at(sheet, node, test.without) for node in (test.red, test.black)) if pin is not None)
