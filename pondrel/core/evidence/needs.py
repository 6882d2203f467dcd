"""What a test needs that may not be had here: its places, its instrument, its state."""

from __future__ import annotations

from ..circuit.sheet import Sheet
from .asked import Measurement, Question

__all__ = ["needs_of"]


def needs_of(sheet: Sheet, test: Measurement | Question) -> tuple[tuple[str, str], ...]:
    """Pairs of what a test needs and what sort of thing that is (``place``, ``instrument``, ``state``), each of which can be skipped."""
    state = ((test.state, "state"),) if test.state else ()
    if isinstance(test, Question):
        return state
    places = tuple((place, "place") for place in (test.red, test.black) if place in sheet.places and place != sheet.minus)
    return (*places, (test.instrument, "instrument"), *state)
