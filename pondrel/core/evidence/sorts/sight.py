"""What is seen and heard: a lamp that is dim, a relay that clicks, a module that reports a short."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from ...base.arrays import Floats
from ...base.brief import either
from ...circuit.sheet import Sheet
from ...circuit.sights import ASKED, HEARD_FOR_SURE, SEEN, sight_of, sight_values, word_chances
from ..asked import Measurement, Question
from ..sort import WordSort, World

PLACE = 10

_TOLD_BY_MODULES = ("diagnosis", "code")


class Sight(WordSort):
    """What a lamp, motor, relay, gauge or module shows, in a state."""

    name, title, words = "see", "Look", "what a lamp, motor, relay, gauge or module shows"
    verbs = ("see",)
    refusal = "is nothing that can be seen or heard on this sheet"
    wants_state = from_circuit = looks = True

    def subjects(self, sheet: Sheet) -> tuple[str, ...]:
        """What the sheet wants looked at first, then every part that shows something."""
        if "sights" not in sheet.remembered:
            names = dict.fromkeys([*sheet.observe, *sheet.parts])
            sheet.remembered["sights"] = tuple(name for name in names if sight_of(sheet, name))
        found: tuple[str, ...] = sheet.remembered["sights"]
        return found

    def outcomes(self, sheet: Sheet, subject: str) -> Mapping[str, tuple[str, ...]]:
        """The words for what that part shows."""
        found = sight_of(sheet, subject)
        return SEEN[found[2]] if found else {}

    def on_offer(self, sheet: Sheet) -> tuple[Question, ...]:
        """What the sheet wants looked at, in every state."""
        return tuple(Question(self.name, name, state) for name in sheet.observe if sight_of(sheet, name) for state in sheet.states)

    def chances(self, world: World, question: Question) -> Floats:
        """From what the circuit does to the part."""
        found = sight_of(world.sheet, question.subject)
        assert found is not None
        part, what, seen_as = found
        values = sight_values(world.points(question.state), question.state, part, what)
        quiet = _quiet_state(world.sheet) if what == "hears" else None
        if quiet is not None:  # a bus that is held while nobody should talk carries no message, whatever its volts
            held = sight_values(world.points(quiet), quiet, part, what)
            values = np.where(held > HEARD_FOR_SURE, 0.0, values)
        return word_chances(seen_as, values, float(values[0]))

    def told_by_module(self, sheet: Sheet, question: Question) -> bool:
        """Whether it is read out."""
        return str(sheet.observe.get(question.subject, {}).get("sees")) in _TOLD_BY_MODULES

    def seen_at_work(self, sheet: Sheet) -> tuple[str, ...]:
        """As `WordSort.seen_at_work`."""
        return (*sheet.observe, *(name for name in sheet.parts if sight_of(sheet, name)))

    def implied(self, sheet: Sheet) -> tuple[str, ...]:
        """All of them: ``lamp dim``."""
        return self.subjects(sheet)

    def state_for(self, sheet: Sheet, subject: str, state: str, named: bool) -> str:
        """What is seen is seen in a state."""
        return state

    def asks(self, sheet: Sheet, test: Measurement | Question) -> str:
        """The sheet's own note, or as a colleague would ask for it."""
        found = sight_of(sheet, test.red)
        asked = str(sheet.observe.get(test.red, {}).get("note") or "") or (ASKED[found[2]] if found else "Look and listen")
        return f"{asked}: {either(self.outcomes(sheet, test.red))}?"


def _quiet_state(sheet: Sheet) -> str | None:
    """A state in which all modules of a bus are awake and none talks; None where the sheet has none."""
    talkers = [name for name, part in sheet.parts.items() if "dominant" in part.kind.positions]
    return next((state for state in sheet.states if talkers and all(sheet.position(state, own) == "recessive" for own in talkers)), None)


SORTS = (Sight(),)
