"""Something is moved, warmed, cooled or knocked on while one watches: does anything change?"""

from __future__ import annotations

import numpy as np

from ...base.arrays import Floats
from ...base.judgement import judged
from ...circuit.sheet import Sheet
from ..asked import Measurement, Question
from ..families import families, here
from ..items import Observation
from ..sort import CHANGED, Hint, WordSort, World, parts_at

PLACE = 20

CURES_ITSELF = judged("CURES_ITSELF", 0.03, "share", "faults that go for a while when something near them is moved")


class Action(WordSort):
    """One way of stirring a fault; ``joint`` and ``inside`` are the chances that it changes what is seen, if the fault is at a joint there,
    or inside a part there."""

    answers = CHANGED
    acts = ("flex",)

    def __init__(
        self,
        name: str,
        joint: float,
        inside: float,
        also: tuple[str, ...],
        verb: str,
        how: str,
        under: tuple[str, ...],
        joints: bool = False,
    ):
        self.name, self.title, self.verbs = name, name.capitalize(), (name,)
        self.how, self.stirs_under, self.stirs_joints = how, under, joints
        self.words, self.refusal = f"{verb} while watching", f"is nothing on this sheet that can be {verb.removesuffix(' or flexed')}"
        self.also = dict.fromkeys(also, name)
        self.joint = judged(f"{name.upper()}_STIRS_A_JOINT", joint, "share", f"a fault at a joint shows itself when it is {verb}")
        self.inside = judged(f"{name.upper()}_STIRS_INSIDE", inside, "share", f"a fault inside a part shows itself when it is {verb}")

    def chances(self, world: World, question: Question) -> Floats:
        """By where the fault sits."""
        at = zip(here(world, question.subject), families(world), strict=True)
        share = [(self.joint if family == 0 else self.inside) if inside else CURES_ITSELF for inside, family in at]
        return world.by_cause(np.array([[p, 1.0 - p] for p in share]))

    def touches(self, sheet: Sheet, test: Measurement | Question) -> tuple[str, ...]:
        """All that it is about."""
        return parts_at(sheet, test.red)

    def hint(self, sheet: Sheet, item: Observation) -> Hint:
        """What changes when it is moved comes and goes."""
        return Hint(stirred=parts_at(sheet, item.subject)) if item.outcome == "changed" else Hint()


SORTS = (
    Action(
        "wiggle",
        0.45,
        0.12,
        ("flex",),
        "wiggled or flexed",
        "move it, pull gently, twist",
        ("bumps", "load", "speed", "wet", "standing"),
        True,
    ),
    Action("heat", 0.25, 0.4, ("warm",), "heated", "warm it, not hotter than a hand can bear", ("hot", "start")),
    Action("cool", 0.25, 0.4, ("freeze",), "cooled", "cool it", ("cold",), True),
    Action("knock", 0.3, 0.3, ("tap",), "knocked", "knock on it with a screwdriver's handle", ("bumps",)),
)
