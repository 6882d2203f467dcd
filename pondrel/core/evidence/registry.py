"""The registry: every sort of evidence, found by looking into the package `sorts`."""

from __future__ import annotations

import pkgutil
from collections.abc import Iterable, Mapping
from importlib import import_module

from ..base.brief import quoted
from ..base.errors import ReadingError
from ..circuit.sheet import Sheet
from ..meter.instrument import INSTRUMENTS
from . import sorts
from .asked import Measurement, Question
from .items import Item, Observation, Reading
from .sort import Hint, NumberSort, Sort, WordSort
from .told import Told

__all__ = [
    "SORTS", "VERBS", "WORD_SORTS", "carried", "columns_of", "content_of", "hints", "item_from", "item_of", "left_out", "number_sort",
    "on_offer", "outcomes_of", "sort_of", "sort_of_verb", "test_of", "word_sort",
]  # fmt: skip


def _found() -> Iterable[Sort]:
    modules = [import_module(f"{sorts.__name__}.{module.name}") for module in pkgutil.iter_modules(sorts.__path__)]
    for module in sorted(modules, key=lambda m: (m.PLACE, m.__name__)):
        yield from module.SORTS


SORTS: Mapping[str, Sort] = {sort.name: sort for sort in _found()}
WORD_SORTS: Mapping[str, WordSort] = {name: sort for name, sort in SORTS.items() if isinstance(sort, WordSort)}
VERBS: Mapping[str, Sort] = {verb: sort for sort in SORTS.values() for verb in sort.verbs}
ALSO: Mapping[str, str] = {word: verb for sort in SORTS.values() for word, verb in sort.also.items()}


def sort_of(thing: Item | Measurement | Question) -> Sort:
    """The sort of an item, or of what is asked or measured."""
    return SORTS[thing.kind]


def word_sort(thing: Observation | Question) -> WordSort:
    """The sort of an observation or a question."""
    return WORD_SORTS[thing.kind]


def number_sort(reading: Reading) -> NumberSort:
    """The sort of a reading."""
    sort = SORTS[reading.kind]
    assert isinstance(sort, NumberSort)
    return sort


def sort_of_verb(words: str) -> tuple[Sort, str] | None:
    """The sort that a verb (``volts``, ``good volts``, ``wiggle``) stands for, and the verb with single spaces; None where it is none."""
    verb = " ".join(words.split())
    return (VERBS[verb], verb) if verb in VERBS else None


def item_from(sheet: Sheet, kind: str, content: Mapping[str, str]) -> Item:
    """An item from its kind and content as the record keeps them. Raises ReadingError with one sentence."""
    if kind not in SORTS:
        raise ReadingError(f"{quoted(kind)} is no sort of evidence: {', '.join(SORTS)} are.")
    return SORTS[kind].read(sheet, content)


def content_of(item: Item, typed: str) -> dict[str, str]:
    """An item's content as the record keeps it, its number as it was typed."""
    return sort_of(item).content(item, typed)


def columns_of(item: Item) -> tuple[str, str, str, str]:
    """State, instrument or verb, red or subject, black of an item: `item_of` in reverse, but for its value."""
    return sort_of(item).columns(item)


def item_of(sheet: Sheet, state: str, verb: str, red: str, black: str, value: str, note: str = "", off: str = "") -> Item:
    """An item from the columns of a file: the verb is an instrument, ``good`` with one, or the name of a sort; ``off`` names what is
    unplugged. Raises ReadingError."""
    found = sort_of_verb(verb)
    if found is None:
        word = verb.removeprefix("good ").strip()
        others = f"what is seen, done or known begins with {', '.join(WORD_SORTS)}"
        raise ReadingError(f"{quoted(word)} is no instrument: {', '.join(INSTRUMENTS)} are; {others}.")
    sort, words = found
    if isinstance(sort, WordSort):
        return sort.observe(sheet, red, value, state, note)
    given = {"state": state, "instrument": words, "red": red, "black": black, "value": value, "note": note, "unplugged": off}
    return sort.read(sheet, given)


def test_of(sheet: Sheet, state: str, verb: str, red: str, black: str, off: str) -> Measurement | Question:
    """What is to be measured, with what is unplugged for it in ``off``, or looked for; without an outcome. Raises ReadingError with one
    sentence."""
    found = sort_of_verb(verb)
    if found is None:
        raise ReadingError(f"{quoted(verb)} is no instrument: {', '.join(INSTRUMENTS)} are.")
    sort, words = found
    return sort.test(sheet, words, red, black, state, off)


def outcomes_of(sheet: Sheet, question: Observation | Question) -> Mapping[str, tuple[str, ...]]:
    """The outcomes that a question may have, with other words for each."""
    return word_sort(question).outcomes(sheet, question.subject)


def on_offer(sheet: Sheet) -> tuple[Question, ...]:
    """The questions that may be proposed on a sheet."""
    return tuple(question for sort in WORD_SORTS.values() for question in sort.on_offer(sheet))


def hints(sheet: Sheet, items: Iterable[Observation]) -> tuple[Hint, ...]:
    """What observations say beyond one lasting fault, one hint each."""
    return tuple(word_sort(item).hint(sheet, item) for item in items)


def carried(told: Told) -> tuple[tuple[str, str], ...]:
    """What a circuit takes from what the customer told: pairs of a sort and its outcome."""
    return tuple((name, outcome) for name, sort in WORD_SORTS.items() for outcome in sort.from_complaint(told))


def left_out(items: Iterable[Observation]) -> frozenset[str]:
    """What the observations say cannot be got at here: places, instruments, states, parts, accesses."""
    return frozenset().union(*(word_sort(item).leaves_out(item) for item in items))
