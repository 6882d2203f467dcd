"""What cannot be got at here."""

from __future__ import annotations

from ...circuit.sheet import Sheet
from ...meter.instrument import INSTRUMENTS
from ..items import Observation
from ..sort import WordSort

PLACE = 70


class Skip(WordSort):
    """A place, instrument, state or part that cannot be got at here: tests that need it are no longer proposed."""

    name, title, words = "skip", "Not here", "a place, instrument, state or part that cannot be got at here"
    lasts = True
    verbs = ("skip",)
    refusal = "is no place, instrument, state or part of this sheet"
    answers = {"not here": ("no", "cannot", "")}
    weighs = False

    def subjects(self, sheet: Sheet) -> tuple[str, ...]:
        """Whatever a test may need."""
        return tuple(dict.fromkeys([*sheet.places, *INSTRUMENTS, *sheet.states, *sheet.access, *sheet.parts]))

    def leaves_out(self, item: Observation) -> frozenset[str]:
        """Its subject."""
        return frozenset((item.subject,))


SORTS = (Skip(),)
