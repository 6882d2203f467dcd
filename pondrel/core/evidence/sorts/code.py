"""Codes that a module has stored or not."""

from __future__ import annotations

import numpy as np

from ...base.arrays import Floats
from ...base.judgement import judged
from ...base.special import ndtr
from ...circuit.sheet import Sheet
from ..asked import Measurement, Question
from ..sort import WordSort, World

PLACE = 11

READ_CODE_MINUTES = judged("READ_CODE_MINUTES", 1.0, "min", "to read out a code")
OLD_CODE = judged("OLD_CODE", 0.08, "share", "a code that is left over from earlier work")
MISSED_CODE = judged("MISSED_CODE", 0.06, "share", "a code that is not stored yet though its volts are there")
CODE_BLUR_VOLTS = judged("CODE_BLUR_VOLTS", 0.1, "V", "how sharply a module decides, as a standard deviation")
ALIVE_VOLTS = judged("ALIVE_VOLTS", 6.5, "V", "below this a module sets no code")
ALIVE_BLUR_VOLTS = judged("ALIVE_BLUR_VOLTS", 0.4, "V", "how sharply that is known, as a standard deviation")
FROM_THE_DEAD = judged("FROM_THE_DEAD", 0.01, "share", "a code read out of a module that is dead: a mix-up")


class Code(WordSort):
    """A code of the sheet, with the volts that set it."""

    name, title, words = "code", "Code", "a code of the sheet"
    verbs = ("code",)
    refusal = "is no code of this sheet"
    answers = {"set": ("stored", "yes", "there"), "clear": ("not set", "no", "none", "absent")}
    wants_state = from_circuit = True

    def subjects(self, sheet: Sheet) -> tuple[str, ...]:
        """The sheet's codes."""
        return tuple(sheet.codes)

    def on_offer(self, sheet: Sheet) -> tuple[Question, ...]:
        """Each in its own state."""
        return tuple(Question(self.name, name, code.state) for name, code in sheet.codes.items())

    def chances(self, world: World, question: Question) -> Floats:
        """From the volts at the pin that sets it, and at the module's supply."""
        code = world.sheet.codes[question.subject]
        points = world.points(code.state)
        nodes = np.array([points.network.node(place) for place in (code.at, code.fed or code.at)])
        volts, supply = points.between(nodes, np.full_like(nodes, -1)).T
        meets = np.maximum(ndtr((code.below - volts) / CODE_BLUR_VOLTS), ndtr((volts - code.above) / CODE_BLUR_VOLTS))
        alive = ndtr((supply - ALIVE_VOLTS) / ALIVE_BLUR_VOLTS) if code.fed else 1.0
        is_set = alive * (OLD_CODE + (1.0 - OLD_CODE - MISSED_CODE) * meets) + (1.0 - alive) * FROM_THE_DEAD
        return np.stack([is_set, 1.0 - is_set], axis=1)

    def told_by_module(self, sheet: Sheet, question: Question) -> bool:
        """Always."""
        return True

    def state_for(self, sheet: Sheet, subject: str, state: str, named: bool) -> str:
        """A code has its own state."""
        return sheet.codes[subject].state

    def minutes(self, sheet: Sheet, test: Measurement | Question, leads: frozenset[str]) -> float:
        """To read it out."""
        return READ_CODE_MINUTES

    def asks(self, sheet: Sheet, test: Measurement | Question) -> str:
        """To read it out."""
        return f"Read out: {' or '.join(self.answers)}?"


SORTS = (Code(),)
