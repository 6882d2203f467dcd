"""A part that was tried by itself: whether it does what it should, whatever its ohms."""

from __future__ import annotations

import numpy as np

from ...base.arrays import Floats
from ...base.judgement import judged
from ...circuit.sheet import Sheet
from ..asked import Measurement, Question
from ..families import here
from ..sort import WordSort, World

PLACE = 32

TRIED_FINDS = judged("TRIED_FINDS", 0.85, "share", "a part at fault fails when it is tried by itself")
TRIED_ERRS = judged("TRIED_ERRS", 0.03, "share", "a good part is said to fail when it is tried by itself")


class Tried(WordSort):
    """A part off the circuit, tried on the bench."""

    name, title, words = "tried", "Tried by itself", "tried by itself, off the circuit"
    lasts = True
    verbs = ("tried",)
    acts = ("unplug",)
    refusal = "is no part of this sheet"
    answers = {"fails": ("bad", "dead", "out"), "works": ("good", "fine", "passes", "within")}

    def subjects(self, sheet: Sheet) -> tuple[str, ...]:
        """The parts."""
        return tuple(sheet.parts)

    def touches(self, sheet: Sheet, test: Measurement | Question) -> tuple[str, ...]:
        """The part."""
        return (test.red,)

    def chances(self, world: World, question: Question) -> Floats:
        """By whether the fault is in it."""
        share = [TRIED_FINDS if inside else TRIED_ERRS for inside in here(world, question.subject)]
        return world.by_cause(np.array([[p, 1.0 - p] for p in share]))


SORTS = (Tried(),)
