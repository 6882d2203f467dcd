"""What the eye finds: green pins, water, chafed insulation."""

from __future__ import annotations

import numpy as np

from ...base.arrays import Floats
from ..asked import Question
from ..families import families, here, likelier
from ..sort import WordSort, World

PLACE = 40

# Where the fault sits in a joint there, in a chafed path there, in anything else there.
_RATIOS = {
    "fine": (0.45, 0.5, 0.9), "corroded": (7.0, 1.0, 1.5), "wet": (4.0, 3.0, 1.5), "loose": (8.0, 1.0, 1.0), "chafed": (3.0, 14.0, 1.0),
    "burnt": (9.0, 6.0, 5.0), "broken": (10.0, 4.0, 5.0),
}  # fmt: skip


class Look(WordSort):
    """What is seen of a part or plug itself, whatever the circuit does."""

    name, title, words = "look", "Inspection", "what the eye finds"
    verbs = ("look",)
    looks = lasts = True
    answers = {
        "fine": ("clean", "good", "dry", "nothing"),
        "corroded": ("green", "rust", "rusty", "white"),
        "wet": ("water", "damp"),
        "loose": ("backed out", "pulled out"),
        "chafed": ("pinched", "bare", "rubbed"),
        "burnt": ("melted", "hot", "brown", "smells"),
        "broken": ("cracked", "cut", "torn"),
    }
    ratios = likelier("LOOK", _RATIOS)

    def chances(self, world: World, question: Question) -> Floats:
        """How much likelier each finding is than where no fault sits there."""
        at = zip(here(world, question.subject), families(world), strict=True)
        return world.by_cause(np.array([[r[family] if inside else 1.0 for r in self.ratios.values()] for inside, family in at]))


SORTS = (Look(),)
