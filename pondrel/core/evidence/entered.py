"""What a form with a test's fields or a whole line says, checked against the sheet."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

from ..base.errors import PondrelError, ReadingError
from ..base.quantity import parse_reading
from ..circuit.sheet import Sheet
from .items import Item, Observation
from .line import parse_line, starts_a_line
from .registry import WORD_SORTS, item_of
from .safety import check_allowed
from .sort import WordSort
from .sorts.reading import split_unplugged

__all__ = ["Entered", "item_entered"]


@dataclass(frozen=True, slots=True)
class Entered:
    """The fields of the form: a state, an instrument or verb, places or a subject, and the value: a number, a word or a whole line."""

    state: str
    instrument: str
    red: str
    black: str
    value: str = ""
    note: str = ""
    unplugged: str = ""


def item_entered(sheet: Sheet, entered: Entered, stands_in: str) -> tuple[Item, str]:
    """The item, and what is written down as its value, if it may be done there at all. A number, or an outcome's word, goes to the test
    that is chosen; anything else is a line of its own. ``stands_in`` is the state in which the vehicle was left.

    Raises ReadingError with one sentence, ForbiddenError for what is never done there.
    """
    item, typed = _read(sheet, entered, stands_in)
    check_allowed(sheet, item)
    return item, typed


def _read(sheet: Sheet, entered: Entered, stands_in: str) -> tuple[Item, str]:
    text = " ".join(entered.value.split())
    sort = WORD_SORTS.get(entered.instrument)
    if sort is None and not starts_a_line(sheet, text):
        fields = (entered.state, entered.instrument, entered.red, entered.black, entered.value, entered.note)
        return item_of(sheet, *fields, entered.unplugged), split_unplugged(entered.value)[0]
    if sort is not None and (text.lower() in _words(sort, sheet, entered.red) or (sort.numbers and text[:1].isdigit())):
        item = sort.observe(sheet, entered.red, text, entered.state, entered.note)
        return item, item.outcome
    if sort is not None and text[:1].isdigit():
        raise _a_number_for(sort, sheet, entered.red, text)
    found, typed = parse_line(sheet, text, entered.state or stands_in)
    found = replace(found, note="; ".join(filter(None, (found.note, entered.note))))
    return found, found.outcome if isinstance(found, Observation) else typed


def _can_be_about(sort: WordSort, sheet: Sheet, subject: str) -> bool:
    return not sort.wants_subject or subject in sort.subjects(sheet)


def _words(sort: WordSort, sheet: Sheet, subject: str) -> set[str]:
    outcomes: Mapping[str, tuple[str, ...]] = sort.outcomes(sheet, subject) if _can_be_about(sort, sheet, subject) else {}
    return {word for name, others in outcomes.items() for word in (name, *others)}


def _a_number_for(sort: WordSort, sheet: Sheet, subject: str, text: str) -> PondrelError:
    """What is said to a number where a word was asked for."""
    parse_reading(text, next((unit for unit in "ΩA" if text.endswith(unit)), "V"))  # what is no number says so first
    if not _can_be_about(sort, sheet, subject):
        return sort.not_about(sheet, subject)
    line = f"volts {next(p for p in sheet.places if p != sheet.minus)} {text}"
    question = f"{subject or sort.name}: {' or '.join(sort.outcomes(sheet, subject))}?"
    return ReadingError(f"{text} is a number, but the question is {question} A number needs its instrument and place: {line}.")
