"""Evidence in one line, as a person would say it: ``lit volts lamp.feed 11.2``, ``wiggle C2 → dropped``, ``swap K1 no change``.

    [STATE] INSTRUMENT RED [BLACK] VALUE          a reading; black is battery minus where it is left out
    [STATE] good INSTRUMENT RED [BLACK] VALUE     the same on the good side or a known-good vehicle
    [STATE] [see] OBSERVATION WORD                what a lamp, motor, relay or module shows
    code CODE set|clear · test TABLE OUTCOME · wiggle|heat|cool|knock|swap|look|history SUBJECT OUTCOME
    when sometimes|always · suspect two|one · skip PLACE|INSTRUMENT|STATE

Names may hold spaces: the longest one that fits is taken. Case does not matter, and an arrow or equals sign between is let go.
"""

from __future__ import annotations

import re
from collections.abc import Iterable

from ..base.brief import near, quoted
from ..base.errors import ReadingError
from ..circuit.sheet import Sheet
from ..circuit.sights import sight_of
from ..meter.instrument import INSTRUMENTS
from .items import KINDS, Item, columns_of, finding_of, not_about, outcomes_of, reading_of, subjects_of

__all__ = ["LONGEST_LINE", "completions", "parse_line", "starts_a_line", "written"]

_ARROW = re.compile(r" ?(?:→|->|=>|=) ?")
_ALSO = {"flex": "wiggle", "tap": "knock", "warm": "heat", "freeze": "cool", "replace": "swap"}
_FILLERS = ("measure", "is")
_VERBS = (*INSTRUMENTS, *KINDS, *_ALSO, *_FILLERS)
_WITHOUT_SUBJECT = ("when", "suspect")
MOST_COMPLETIONS = 10
LONGEST_LINE = 300  # characters; the longest names of a sheet fit in four times


def _head(text: str, names: Iterable[str]) -> tuple[str | None, str]:
    """The longest of ``names`` that the text starts with as whole words, and the rest."""
    lower = text.lower()
    for name in sorted(names, key=len, reverse=True):
        own = name.lower()
        if lower == own or lower.startswith(own + " "):
            return name, text[len(name) :].lstrip()
    return None, text


def _plain(line: str) -> str:
    """The line with single spaces and no arrows. Raises ReadingError where it is too long to be one."""
    words = line.split()
    if len(line) > LONGEST_LINE and (length := sum(map(len, words)) + len(words)) > LONGEST_LINE:
        raise ReadingError(f"This line has {length:,} characters; one of at most {LONGEST_LINE} is read: {quoted(' '.join(words)[:60])}.")
    return " ".join(_ARROW.sub(" ", " ".join(words)).split())


def _verb(text: str) -> tuple[str, bool, str]:
    """The instrument or kind, whether it is a good side's, and the rest; empty where the line starts with neither."""
    good, rest = _head(text, ["good"])
    name, rest = _head(rest, _VERBS)
    while name in _FILLERS:  # "is dim", "measure volts"
        name, rest = _head(rest, _VERBS)
    return _ALSO.get(name or "", name or ""), good is not None, rest


def parse_line(sheet: Sheet, line: str, state: str) -> tuple[Item, str]:
    """A reading or finding from a line, and its number or outcome as it was typed; ``state`` is taken where the line names none. Raises
    ReadingError with one sentence.
    """
    text = _plain(line)
    if not text:
        raise ReadingError("Nothing was typed: write what was measured or seen, such as 'volts lamp.feed 11.2' or 'wiggle C2 dropped'.")
    named, rest = _head(text, sheet.states)
    verb, good, rest = _verb(rest)
    given, where = named is not None, named or state
    if verb in INSTRUMENTS:
        return _reading(sheet, where, verb, good, rest)
    if good:
        raise ReadingError(f"After 'good' stands an instrument: {', '.join(INSTRUMENTS)}.")
    subjects = subjects_of(sheet, verb or "see") or ()
    if verb in _WITHOUT_SUBJECT:
        return finding_of(sheet, verb, "", rest, ""), rest
    if not verb and _head(rest, subjects)[0] is None:
        word = rest.split(" ")[0] if rest else text
        known = [*sheet.states, *INSTRUMENTS, *KINDS, *subjects]
        raise ReadingError(f"{quoted(word)} begins no line: an instrument, a verb or something that can be seen does{near(word, known)}.")
    subject, rest = _head(rest, subjects)
    if subject is None:
        raise not_about(sheet, verb, rest.split(" ")[0])
    # What is seen or read out belongs to a state; what is done or known does not, unless the line says so.
    seen_in = where if (verb or "see") == "see" else sheet.codes[subject].state if verb == "code" else where if given else ""
    return finding_of(sheet, verb or "see", subject, rest, seen_in), rest


def starts_a_line(sheet: Sheet, text: str) -> bool:
    """Whether a text starts with a word of the grammar, and so is no plain number."""
    rest = _head(_plain(text), sheet.states)[1]
    return bool(_verb(rest)[0]) or any(_head(rest, [name])[0] and sight_of(sheet, name) for name in (*sheet.observe, *sheet.parts))


def _reading(sheet: Sheet, state: str, meter: str, good: bool, text: str) -> tuple[Item, str]:
    nodes = [*sheet.places, *sheet.nodes()]
    red, rest = _head(text, nodes)
    if red is None:
        word = text.split(" ")[0]
        if not word:
            raise ReadingError(f"A place is missing: say where red stands, such as '{meter} {next(iter(sheet.places))} 12.4'.")
        raise ReadingError(f"{quoted(word)} is no place on this sheet{near(word, nodes)}.")
    rest = _head(rest, ["to", "and", "against"])[1]
    black, value = _head(rest, nodes)
    if black is not None and not value and _looks_like_a_value(rest):
        black, value = None, rest  # a place whose name is a number
    return reading_of(sheet, state, meter, red, black or "", value, good=good), value


def _looks_like_a_value(text: str) -> bool:
    return bool(re.fullmatch(r"[-+]?\d.*|OL", text, re.IGNORECASE))


def written(item: Item, value: str, minus: str) -> str:
    """An item as its line, ``value`` as it was typed."""
    state, verb, red, black = columns_of(item)
    words = [state, verb, red, black if black != minus else "", value]
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
    named, rest = _head(head, sheet.states)
    verb, good, after = _verb(rest)
    if not rest:
        seen = list(subjects_of(sheet, "see") or ())
        return [*([] if named else sheet.states), "volts", "ohms", *seen[: len(sheet.observe)], *INSTRUMENTS, *KINDS, "good"]
    if good and not verb:
        return list(INSTRUMENTS)
    if verb in INSTRUMENTS:
        red, left = _head(after, sheet.places)
        if red is None:
            return [] if after else [place for place in sheet.places if place != sheet.minus]
        return [] if left else [place for place in sheet.places if place != red]
    if verb in _WITHOUT_SUBJECT:
        return [] if after else list(KINDS[verb].outcomes)
    subjects = subjects_of(sheet, verb or "see") or ()
    subject, left = _head(after if verb else rest, subjects)
    if subject is None:
        return list(subjects) if verb and not after else []
    return [] if left else list(outcomes_of(sheet, verb or "see", subject))
