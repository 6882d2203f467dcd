"""Marks on a photo: points with words, each by its place in shares of width and height."""

from __future__ import annotations

import json
from collections.abc import Iterable
from dataclasses import dataclass

from ..base.brief import first_unshowable, quoted
from ..base.written import EntryError, EntryField, EntryKind, Value
from .entry import Entry, standing

__all__ = ["MARKS", "Mark", "marks_of"]

MOST_MARKS, LONGEST_WORDS = 12, 60


@dataclass(frozen=True, slots=True)
class Mark:
    """A point on a photo: from the left and from the top (0 to 1), and what is there."""

    x: float
    y: float
    words: str


def _read(text: str) -> tuple[Mark, ...]:
    try:
        rows = json.loads(text)
        found = tuple(Mark(float(x), float(y), " ".join(str(words).split())) for x, y, words in rows)
    except (ValueError, TypeError, RecursionError) as error:
        raise EntryError("The marks cannot be read: touch the photo where something is, and write what.") from error
    for mark in found:
        if not (0.0 <= mark.x <= 1.0 and 0.0 <= mark.y <= 1.0):
            raise EntryError("A mark lies beside the photo: touch the photo itself.")
        if not mark.words:
            raise EntryError("A mark has no words: write in a few what is there.")
        if len(mark.words) > LONGEST_WORDS or first_unshowable(mark.words):
            raise EntryError(f"{quoted(mark.words)} is too long for a mark: at most {LONGEST_WORDS} characters.")
    if len(found) > MOST_MARKS:
        raise EntryError(f"{len(found)} marks are too many for one photo: at most {MOST_MARKS}.")
    return found


def _checked(content: dict[str, Value]) -> dict[str, Value]:
    found = _read(str(content["marks"]))
    return content | {"marks": json.dumps([[round(m.x, 4), round(m.y, 4), m.words] for m in found], ensure_ascii=False)}


MARKS = EntryKind(
    "marks",
    "Marked",
    (EntryField("file", "The photo", longest=64), EntryField("marks", "The marks", longest=4000)),
    lambda content: "; ".join(f"{n}: {mark.words}" for n, mark in enumerate(_read(str(content["marks"])), 1)) or "all marks taken off",
    _checked,
)


def marks_of(entries: Iterable[Entry], digest: str) -> tuple[Mark, ...]:
    """The marks on a photo, as they were drawn last."""
    last = next((e for e in reversed(standing(entries, MARKS.name)) if e.text("file") == digest), None)
    return _read(last.text("marks")) if last else ()
