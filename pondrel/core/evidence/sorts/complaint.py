"""What the complaint says of the fault: whether it comes and goes, whether two are looked for."""

from __future__ import annotations

from ...base.judgement import judged
from ...circuit.sheet import Sheet
from ..items import Observation
from ..sort import Hint, WordSort
from ..told import Told

PLACE = 60

ASKED = judged("ASKED", 8.0, "times", "how much likelier two faults, or one that comes and goes, become where the complaint speaks for it")
NOT_SO = judged("NOT_SO", 0.02, "times", "how much likelier a fault that comes and goes is where the complaint is always there")


class When(WordSort):
    """When the complaint is there."""

    name, title, words = "when", "When", "when the complaint is there"
    lasts = True
    verbs = ("when",)
    answers = {"sometimes": ("intermittent", "now and then"), "always": ("permanent", "steady")}
    wants_subject = False

    def from_complaint(self, told: Told) -> tuple[str, ...]:
        """Whether it comes and goes, where that was said."""
        return ("sometimes",) if told.comes_and_goes else ("always",) if told.often == "always" else ()

    def hint(self, sheet: Sheet, item: Observation) -> Hint:
        """For or against a fault that comes and goes."""
        return Hint(sometimes=ASKED if item.outcome == "sometimes" else NOT_SO)


class HowMany(WordSort):
    """How many faults are looked for."""

    name, title, words = "suspect", "How many", "how many faults are looked for"
    lasts = True
    verbs = ("suspect",)
    answers = {"two": ("both", "more"), "one": ("single",)}
    wants_subject = False

    def hint(self, sheet: Sheet, item: Observation) -> Hint:
        """For two at once."""
        return Hint(two=ASKED if item.outcome == "two" else 1.0)


SORTS = (When(), HowMany())
