"""When the complaint is there: in the wet, over bumps, as a door is moved. It speaks for faults that such a thing stirs."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from ...base.arrays import Floats
from ...base.judgement import judged
from ..asked import Question
from ..families import families, likelier
from ..moving import parts_moved
from ..sort import WordSort, World
from ..told import CIRCUMSTANCES, MOVED, Told

PLACE = 61

# A fault in a joint, in a chafed path, in anything else.
_RATIOS = {
    "cold": (1.6, 1.0, 1.3), "hot": (1.4, 1.0, 1.9), "wet": (3.0, 2.5, 0.8), "bumps": (3.5, 2.5, 0.7), "load": (2.2, 0.8, 1.0),
    "speed": (1.6, 1.4, 0.9), "standing": (1.2, 1.2, 1.1), "start": (1.3, 1.0, 1.6),
}  # fmt: skip
STIRRED_THERE = judged(
    "STIRRED_THERE", 4.0, "times", "a fault in a joint or path beside what is moved, where the complaint comes with that"
)
STIRRED_ELSEWHERE = judged("STIRRED_ELSEWHERE", 0.8, "times", "a fault that lies nowhere near what is moved")


class During(WordSort):
    """A circumstance in which the complaint is there."""

    name, title, words = "during", "There it is", "in which circumstances the complaint is there"
    lasts = True
    verbs = ("during",)
    answers: Mapping[str, tuple[str, ...]] = dict.fromkeys(CIRCUMSTANCES, ())
    wants_subject = False
    ratios = likelier("DURING", _RATIOS)

    def from_complaint(self, told: Told) -> tuple[str, ...]:
        """Every circumstance that was told."""
        return told.under

    def chances(self, world: World, question: Question) -> Floats:
        """How much likelier each circumstance is than without a fault."""
        beside = {name: set(parts_moved(world.sheet, name)) for name in MOVED}
        found = []
        for cause, family in zip(world.causes, families(world), strict=True):
            if cause.part is None:
                found.append([1.0] * len(self.answers))
                continue
            found.append([self._ratio(name, cause.part, family, beside) for name in self.answers])
        return world.by_cause(np.array(found))

    def _ratio(self, name: str, part: str, family: int, beside: dict[str, set[str]]) -> float:
        if name not in MOVED:
            return self.ratios[name][family]
        if not beside[name]:
            return 1.0  # nothing on the sheet is said to be near it
        return STIRRED_THERE if part in beside[name] and family < 2 else 1.0 if part in beside[name] else STIRRED_ELSEWHERE


SORTS = (During(),)
