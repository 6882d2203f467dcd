"""Looks that do not go with the complaint: what was complained of and seen to work just now."""

from __future__ import annotations

import re
from dataclasses import dataclass

from ...circuit.sheet import Sheet
from ...circuit.sights import sight_of
from ...evidence.asked import Question
from ...evidence.items import Item, Observation, observations
from ...evidence.registry import WORD_SORTS, hints, outcomes_of, word_sort
from ..predict.workup import Workup

__all__ = ["Touch", "against_the_complaint", "touches"]

_MOST_TOUCHES = 24
_ALIKE = 4  # letters by which two words are one: lamp, lamps
_SAY = "If it comes and goes, enter 'when sometimes' and look again while it is there."


def against_the_complaint(workup: Workup, items: tuple[Item, ...], complaint: str) -> dict[int, str]:
    """By number of the item, counted from 0: a sentence for a look that found working what the complaint names; or, where the complaint
    names nothing on the sheet, for the last look where all that can be seen at work was seen to work."""
    sheet = workup.sheet
    if any(hint.sometimes > 1.0 for hint in hints(sheet, observations(items))):
        return {}
    said_in_words = {i: item for i, item in enumerate(items) if isinstance(item, Observation)}
    looks = {i: item for i, item in said_in_words.items() if item.subject in word_sort(item).seen_at_work(sheet)}
    working = {i: item for i, item in looks.items() if _works(workup, item)}
    named = [subject for subject in _subjects(sheet) if _named(sheet, subject, complaint)]
    said = {}
    for i, item in working.items():
        if item.subject in named:
            said[i] = f"{item.subject} {item.outcome}, as it should be: that does not go with the complaint. {_SAY}"
    if not named and working and len(working) == len(looks) and {item.subject for item in looks.values()} >= set(sheet.observe):
        said[max(working)] = f"All that can be seen here works: that does not go with the complaint. {_SAY}"
    return said


@dataclass(frozen=True, slots=True)
class Touch:
    """What a customer can say of a circuit with one touch: a sort of evidence, its ``subject`` by its name there and as ``called``, the
    ``states`` in which it should work, and the ``outcomes`` that it may have; ``sound`` is the one that it should have."""

    kind: str
    subject: str
    called: str
    states: tuple[str, ...]
    outcomes: tuple[str, ...]
    sound: str


def touches(workup: Workup) -> tuple[Touch, ...]:
    """What can be complained of on a circuit: all that the sheet wants looked at and no module tells, or every part that shows something
    where it names nothing."""
    sheet = workup.sheet
    found: list[Touch] = []
    for sort in (sort for sort in WORD_SORTS.values() if sort.answers_for):
        subjects = [name for name in sort.subjects(sheet) if name in sheet.observe] or list(sort.subjects(sheet))
        for subject in subjects:
            if sort.told_by_module(sheet, Question(sort.name, subject)) or len(found) >= _MOST_TOUCHES:
                continue
            words = tuple(sort.outcomes(sheet, subject))
            sound = {state: workup.answer_if_sound(Question(sort.answers_for, subject, state)) for state in sheet.states}
            states = tuple(state for state, word in sound.items() if word > 0)
            if states:
                part = sheet.parts.get(subject)
                found.append(Touch(sort.name, subject, part.called if part else subject, states, words, words[sound[states[0]]]))
    return tuple(found)


def _subjects(sheet: Sheet) -> tuple[str, ...]:
    return tuple(subject for sort in WORD_SORTS.values() for subject in sort.seen_at_work(sheet))


def _works(workup: Workup, item: Observation) -> bool:
    """Whether what was seen is what a sound circuit shows, and more than rest."""
    words = tuple(outcomes_of(workup.sheet, item))
    sound = workup.answer_if_sound(item.test)
    return words[sound] == item.outcome and sound > 0


def _named(sheet: Sheet, subject: str, complaint: str) -> bool:
    """Whether a complaint names what is seen, by its own name or its part's."""
    found = sight_of(sheet, subject)
    part = sheet.parts[found[0]] if found else None
    own = _words(subject) | (_words(part.label) | {part.name.lower()[:_ALIKE]} if part else set())
    return bool(own & _words(complaint))


def _words(text: str) -> set[str]:
    return {word[:_ALIKE] for word in re.findall(r"[a-z]{4,}", text.lower())} - _COMMON


_COMMON = {word[:_ALIKE] for word in ("left", "right", "front", "rear", "upper", "lower", "under", "load", "does", "with", "from", "that")}
