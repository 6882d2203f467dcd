"""What is known to have happened to a part: renewed, repaired, under water, in a collision."""

from __future__ import annotations

from ..families import likelier
from .look import Look

PLACE = 41

_RATIOS = {"replaced": (0.6, 0.6, 0.35), "repaired": (4.0, 2.5, 1.2), "water": (4.0, 2.0, 2.0), "collision": (3.0, 4.0, 1.5)}


class History(Look):
    """The past of a part or plug."""

    name, title, words = "history", "History", "what is known to have happened"
    lasts = True
    verbs = ("history",)
    looks = False
    answers = {
        "replaced": ("new", "renewed"), "repaired": ("worked on", "spliced", "someone else"), "water": ("flooded", "wet"),
        "collision": ("crash", "accident", "hit"),
    }  # fmt: skip
    ratios = likelier("HISTORY", _RATIOS)


SORTS = (History(),)
