"""Fasteners that are seized or stripped: an access takes longer here than the sheet says."""

from __future__ import annotations

from collections.abc import Mapping

from ...circuit.sheet import Sheet
from ..items import Observation
from ..sort import WordSort

PLACE = 71

_MINUTES = {"5 min more": 5.0, "10 min more": 10.0, "20 min more": 20.0, "40 min more": 40.0, "an hour more": 60.0}


class Seized(WordSort):
    """Minutes that an access takes more than it should."""

    name, title, words = "seized", "Seized", "an access that takes longer here than it should"
    lasts = is_slow = True
    verbs = ("seized",)
    refusal = "is no access of this sheet"
    answers: Mapping[str, tuple[str, ...]] = {text: (text.removesuffix(" more"),) for text in _MINUTES}
    weighs = False

    def subjects(self, sheet: Sheet) -> tuple[str, ...]:
        """The accesses."""
        return tuple(sheet.access)

    def slows(self, item: Observation) -> float:
        """The minutes that were said."""
        return _MINUTES[item.outcome]


SORTS = (Seized(),)
