"""What the customer says that something does: a lamp that is dim, a pump that does not run. Taken as seen, but by somebody else."""

from __future__ import annotations

from ...base.arrays import Floats
from ...base.judgement import judged
from ...circuit.sheet import Sheet
from ..asked import Measurement, Question
from ..sort import World
from .sight import Sight

PLACE = 12

SAID_WRONG = judged("SAID_WRONG", 0.12, "share", "what a customer says that is not so: another switch, another lamp, from memory")


class Said(Sight):
    """What is complained of, in the words of what can be seen."""

    name, title, words = "said", "Complaint", "what the customer says that it does"
    verbs = ("said",)
    looks = False
    answers_for = Sight.name

    def on_offer(self, sheet: Sheet) -> tuple[Question, ...]:
        """It is told and not tested."""
        return ()

    def implied(self, sheet: Sheet) -> tuple[str, ...]:
        """A line without a verb is what somebody saw."""
        return ()

    def chances(self, world: World, question: Question) -> Floats:
        """As seen, with more that is simply wrong."""
        seen = super().chances(world, question)
        mistaken: Floats = seen * (1.0 - SAID_WRONG) + SAID_WRONG / seen.shape[1]
        return mistaken

    def asks(self, sheet: Sheet, test: Measurement | Question) -> str:
        """To ask."""
        return f"Ask the customer: {' or '.join(self.outcomes(sheet, test.red))}?"


SORTS = (Said(),)
