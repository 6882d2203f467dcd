"""A part replaced by a known-good one, or bridged: is the complaint gone?"""

from __future__ import annotations

import numpy as np

from ...base.arrays import Floats
from ...base.judgement import judged
from ...circuit.sheet import Sheet
from ..asked import Measurement, Question
from ..families import here
from ..sort import CHANGED, WordSort, World

PLACE = 30

SWAP_CURES = judged("SWAP_CURES", 0.96, "share", "the complaint is gone when the faulty part is replaced")
SWAP_FAILS = judged("SWAP_FAILS", 0.03, "share", "the complaint is gone when a good part is replaced")


class Swap(WordSort):
    """A part taken out of the question."""

    name, title, words = "swap", "Swap", "replaced by a known-good one, or bridged"
    lasts = True
    verbs = ("swap",)
    also = {"replace": "swap"}
    acts = ("unplug",)
    refusal = "is no part of this sheet"
    answers = {"gone": ("cured", "fixed", "works"), "no change": CHANGED["no change"]}

    def subjects(self, sheet: Sheet) -> tuple[str, ...]:
        """The parts."""
        return tuple(sheet.parts)

    def touches(self, sheet: Sheet, test: Measurement | Question) -> tuple[str, ...]:
        """The part."""
        return (test.red,)

    def chances(self, world: World, question: Question) -> Floats:
        """By whether the fault is in it."""
        share = [SWAP_CURES if inside else SWAP_FAILS for inside in here(world, question.subject)]
        return world.by_cause(np.array([[p, 1.0 - p] for p in share]))


SORTS = (Swap(),)
