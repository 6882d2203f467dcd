"""Tests of the sheet's outcome tables: what no circuit law predicts."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from ...base.arrays import Floats
from ...base.brief import either
from ...circuit.safety import Caution
from ...circuit.sheet import Sheet
from ..asked import Measurement, Question
from ..sort import WordSort, World

PLACE = 50


class Table(WordSort):
    """A test whose outcomes the sheet says for every fault that makes a difference."""

    name, title, words = "test", "Test", "a test of the sheet's outcome tables"
    verbs = ("test",)
    refusal = "is no test of this sheet"
    from_circuit = True

    def subjects(self, sheet: Sheet) -> tuple[str, ...]:
        """The sheet's tables."""
        return tuple(sheet.tables)

    def outcomes(self, sheet: Sheet, subject: str) -> Mapping[str, tuple[str, ...]]:
        """The table's own words."""
        return dict.fromkeys(sheet.tables[subject].outcomes, ()) if subject in sheet.tables else {}

    def on_offer(self, sheet: Sheet) -> tuple[Question, ...]:
        """Each in its own state."""
        return tuple(Question(self.name, name, table.state) for name, table in sheet.tables.items())

    def chances(self, world: World, question: Question) -> Floats:
        """As the table says."""
        table = world.sheet.tables[question.subject]
        return world.by_cause(np.array([table.under(cause.part, cause.mode) for cause in world.causes]))

    def test(self, sheet: Sheet, verb: str, red: str, black: str, state: str, off: str = "") -> Question:
        """In the table's own state."""
        self.check_subject(sheet, red)
        return Question(self.name, red, sheet.tables[red].state)

    def minutes(self, sheet: Sheet, test: Measurement | Question, leads: frozenset[str]) -> float:
        """As the table says."""
        return sheet.tables[test.red].minutes

    def behind(self, sheet: Sheet, test: Measurement | Question) -> tuple[str, ...]:
        """As the table says."""
        return (sheet.tables[test.red].behind or "",)

    def cautions(self, sheet: Sheet, test: Measurement | Question) -> tuple[Caution, ...]:
        """The table's own."""
        return (Caution(sheet.tables[test.red].caution, sheet.tables[test.red].acknowledge),)

    def asks(self, sheet: Sheet, test: Measurement | Question) -> str:
        """The table's note."""
        return f"{sheet.tables[test.red].note or 'Look and listen'}: {either(self.outcomes(sheet, test.red))}?"


SORTS = (Table(),)
