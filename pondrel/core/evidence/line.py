"""Evidence in one line, as a person would say it: ``lit volts lamp.feed 11.2``, ``wiggle C2 → dropped``, ``swap K1 no change``.

    [STATE] INSTRUMENT RED [BLACK] VALUE [@CONDITIONS] [without PARTS]   a reading; black is battery minus where it is left out
    [STATE] VERB SUBJECT OUTCOME                         what was seen, done or is known
    [STATE] OBSERVATION WORD                             what can be seen needs no verb

Each sort of evidence reads what follows its verb. Names may hold spaces: the longest one that fits is taken. Case does not matter, and an
arrow or equals sign between is let go.
"""

from __future__ import annotations

import re

from ..base.brief import near, quoted
from ..base.errors import ReadingError
from ..circuit.sheet import Sheet
from ..circuit.unplug import in_words
from ..meter.instrument import INSTRUMENTS
from .items import Item, Reading
from .registry import ALSO, SORTS, VERBS, WORD_SORTS, columns_of
from .sort import Sort, WordSort, head_of

__all__ = ["LONGEST_LINE", "completions", "parse_line", "starts_a_line", "written"]

_ARROW = re.compile(r" ?(?:→|->|=>|=) ?")
_FILLERS = ("measure", "is")
MOST_COMPLETIONS = 10
LONGEST_LINE = 300  # characters; the longest names of a sheet fit in four times


def _plain(line: str) -> str:
    """The line with single spaces and no arrows. Raises ReadingError where it is too long to be one."""
    words = line.split()
    if len(line) > LONGEST_LINE and (length := sum(map(len, words)) + len(words)) > LONGEST_LINE:
        raise ReadingError(f"This line has {length:,} characters; one of at most {LONGEST_LINE} is read: {quoted(' '.join(words)[:60])}.")
    return " ".join(_ARROW.sub(" ", " ".join(words)).split())


def _verb(text: str) -> tuple[Sort | None, str, str]:
    """The sort whose verb the text starts with, that verb, and the rest; None and empty where it starts with none."""
    names = (*VERBS, *ALSO, *_FILLERS)
    name, rest = head_of(text, names)
    while name in _FILLERS:  # "is dim", "measure volts"
        name, rest = head_of(rest, names)
    verb = ALSO.get(name or "", name or "")
    return VERBS.get(verb), verb, rest


def _implied(sheet: Sheet, text: str) -> WordSort | None:
    """The sort that a text without a verb belongs to, by the subject that it begins with."""
    return next((sort for sort in WORD_SORTS.values() if head_of(text, sort.implied(sheet))[0] is not None), None)


def parse_line(sheet: Sheet, line: str, state: str) -> tuple[Item, str]:
    """An item from a line, and its number or outcome as it was typed; ``state`` is taken where the line names none. Raises ReadingError
    with one sentence.
    """
    text = _plain(line)
    if not text:
        raise ReadingError("Nothing was typed: write what was measured or seen, such as 'volts lamp.feed 11.2' or 'wiggle C2 dropped'.")
    named, rest = head_of(text, sheet.states)
    sort, verb, left = _verb(rest)
    sort = sort or _implied(sheet, left)
    if sort is None:
        word = left.split(" ")[0] if left else text
        known = [*sheet.states, *VERBS, *(name for own in WORD_SORTS.values() for name in own.implied(sheet))]
        raise ReadingError(f"{quoted(word)} begins no line: an instrument, a verb or something that can be seen does{near(word, known)}.")
    return sort.parse(sheet, verb, left, named or state, named is not None)


def starts_a_line(sheet: Sheet, text: str) -> bool:
    """Whether a text starts with a word of the grammar, and so is no plain number."""
    rest = head_of(_plain(text), sheet.states)[1]
    sort, _, _ = _verb(rest)
    return sort is not None or _implied(sheet, rest) is not None


def written(item: Item, value: str, minus: str) -> str:
    """An item as its line, ``value`` as it was typed."""
    state, verb, red, black = columns_of(item)
    off = in_words(", ".join(item.without)) if isinstance(item, Reading) else ""
    words = [state, verb, red, black if black != minus else "", value, off]
    return " ".join(word for word in words if word)


def completions(sheet: Sheet, line: str, state: str) -> tuple[str, ...]:
    """Lines that the typed one may become, word by word; the last word may be unfinished."""
    if len(line) > LONGEST_LINE:
        return ()
    typed = _ARROW.sub(" ", line)
    done = " ".join(typed.split())
    if typed and not typed.endswith(" "):
        done, _, part = done.rpartition(" ")
    else:
        part = ""
    # A name with spaces may be half typed: what stands before it is found by trying shorter heads.
    words = done.split(" ") if done else []
    for cut in range(len(words), -1, -1):
        head, tail = " ".join(words[:cut]), " ".join([*words[cut:], part]).strip()
        found = [name for name in _expected(sheet, head) if name.lower().startswith(tail.lower()) and name.lower() != tail.lower()]
        if found:
            return tuple(dict.fromkeys(f"{head} {name}".strip() for name in found))[:MOST_COMPLETIONS]
    return ()


def _expected(sheet: Sheet, head: str) -> list[str]:
    """What may stand after a head of whole words."""
    named, rest = head_of(head, sheet.states)
    sort, _, left = _verb(rest)
    if not rest:
        watched = [name for own in WORD_SORTS.values() for name in own.implied(sheet)[: len(sheet.observe)]]
        verbs = [own.verbs[0] for own in (*WORD_SORTS.values(), *SORTS.values()) if own.verbs and own.verbs[0] not in INSTRUMENTS]
        return [*([] if named else sheet.states), "volts", "ohms", *watched, *INSTRUMENTS, *verbs]
    sort = sort or _implied(sheet, left)
    return list(sort.expected(sheet, left)) if sort else []
