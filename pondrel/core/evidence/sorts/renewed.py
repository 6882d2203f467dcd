"""A part that somebody renewed for this very complaint, and what came of it: if nothing, it was hardly that part."""

from __future__ import annotations

import numpy as np

from ...base.arrays import Floats
from ...base.judgement import judged
from ...circuit.sheet import Sheet
from ..asked import Question
from ..families import here
from ..sort import WordSort, World

PLACE = 42

RENEWED_IN_VAIN = judged(
    "RENEWED_IN_VAIN", 0.08, "share", "a part at fault is renewed and the complaint stays: the new one is bad or wrong"
)
CURED_BY_CHANCE = judged("CURED_BY_CHANCE", 0.06, "share", "the complaint goes though a good part was renewed: a plug was moved")


class Renewed(WordSort):
    """A part renewed for the complaint, before the meter came out."""

    name, title, words = "renewed", "Renewed before", "renewed for this complaint, and whether it helped"
    lasts = True
    verbs = ("renewed",)
    refusal = "is no part of this sheet"
    from_ledger = {"no": "no help", "yes": "helped"}
    answers = {"no help": ("in vain", "nothing", "no change", "did not help"), "helped": ("cured", "gone", "fixed")}

    def subjects(self, sheet: Sheet) -> tuple[str, ...]:
        """The parts."""
        return tuple(sheet.parts)

    def chances(self, world: World, question: Question) -> Floats:
        """By whether the fault is in it."""
        share = [1.0 - RENEWED_IN_VAIN if inside else CURED_BY_CHANCE for inside in here(world, question.subject)]
        return world.by_cause(np.array([[1.0 - p, p] for p in share]))


SORTS = (Renewed(),)
