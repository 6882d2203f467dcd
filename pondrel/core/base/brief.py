"""Quoting what somebody gave in a message: short whatever it is, and never more work than the message is long."""

from __future__ import annotations

import difflib
import re
import reprlib
from collections.abc import Iterable
from itertools import islice

__all__ = ["MOST_QUOTED", "capitalized", "either", "first_unshowable", "listed", "lowered", "near", "quoted"]

MOST_QUOTED = 80  # characters of what somebody gave that a message repeats
_LONG_NUMBER_BITS = 200


class _Brief(reprlib.Repr):
    """Looks only at the beginning of what is large, and only two levels into what is nested."""

    def __init__(self) -> None:
        super().__init__()
        self.maxlevel = 2
        self.maxdict = self.maxlist = self.maxtuple = self.maxset = 4
        self.maxstring = self.maxother = MOST_QUOTED

    def repr_int(self, x: int, level: int) -> str:
        """A number with thousands of digits is not spelled out: Python would refuse to."""
        return repr(x) if x.bit_length() <= _LONG_NUMBER_BITS else f"a number of {int(x.bit_length() * 0.30103) + 1} digits"


def quoted(value: object) -> str:
    """What was given, as Python writes it, in at most ``MOST_QUOTED`` characters.

    >>> quoted("12..4")
    "'12..4'"
    >>> len(quoted(["x" * 1000] * 1000)) <= MOST_QUOTED
    True
    """
    text = _Brief().repr(value)
    return text if len(text) <= MOST_QUOTED else f"{text[: MOST_QUOTED - 1]}…"


# Control characters but line feed and tab, lone halves of surrogate pairs, and what is no character at all.
_UNSHOWABLE = re.compile("[\x00-\x08\x0b-\x1f\x7f-\x9f\ud800-\udfff\ufffe\uffff]")


def first_unshowable(text: str) -> str:
    """The code of the first character that no screen can show and no database takes (``U+0007``); empty where there is none.

    >>> first_unshowable("ring\\x07")
    'U+0007'
    """
    found = _UNSHOWABLE.search(text)
    return f"U+{ord(found[0]):04X}" if found else ""


def capitalized(text: str) -> str:
    """With a capital letter in front, the rest as it is."""
    return text[:1].upper() + text[1:]


def lowered(text: str) -> str:
    """The text as it goes on within a sentence, its first letter small: names such as ``Valve D`` keep the rest, ``ABS pump`` and ``A1``
    all of it."""
    first = text.partition(" ")[0]
    return text if first[1:] != first[1:].lower() or any(sign.isdigit() for sign in first) else text[:1].lower() + text[1:]


def either(words: Iterable[str]) -> str:
    """``dark, dim or normal``."""
    *first, last = words
    return f"{', '.join(first)} or {last}" if first else last


def listed(names: Iterable[str], most: int = 12) -> str:
    """The first few of some names, with ``…`` for the others.

    >>> listed(["on", "off"], 1)
    'on …'
    """
    few = list(islice(names, most + 1))
    return ", ".join(few[:most]) + (" …" if len(few) > most else "")


def near(name: str, names: Iterable[str]) -> str:
    """``; near it: …``, ``; there are …`` or ``; there are none``: the end of a sentence that says that a name is not known."""
    known = list(dict.fromkeys(names))
    if not known:
        return "; there are none"
    close = difflib.get_close_matches(name[:MOST_QUOTED], known, n=3, cutoff=0.5)
    return f"; near it: {', '.join(close)}" if close else f"; there are {listed(known)}"
