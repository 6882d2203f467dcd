"""Jobs that are like one another: by the words of their complaints, without small words and endings that differ by person."""

from __future__ import annotations

import re
from collections.abc import Iterable

__all__ = ["ALIKE", "likeness", "words_in"]

_WORD = re.compile(r"[^\W\d_]{3,}")
_SMALL = frozenset(
    [
        "the",
        "and",
        "with",
        "when",
        "then",
        "than",
        "from",
        "that",
        "this",
        "its",
        "not",
        "are",
        "was",
        "were",
        "has",
        "have",
        "had",
        "for",
        "all",
        "any",
        "but",
        "out",
        "off",
        "into",
        "only",
        "after",
        "before",
        "while",
        "does",
        "doesn",
        "did",
        "didn",
        "goes",
        "come",
        "comes",
        "again",
        "still",
        "very",
        "some",
        "sometimes",
        "always",
        "since",
        "too",
        "now",
        "one",
        "two",
        "every",
        "about",
        "over",
        "under",
        "left",
        "right",
        "front",
        "rear",
    ]
)
_ENDINGS = ("ingly", "edly", "ing", "ies", "es", "ed", "ly", "s")
ALIKE = 0.3  # share of words in common from which on two complaints are told to be alike


def words_in(text: str) -> frozenset[str]:
    """The words that a complaint is known by again.

    >>> sorted(words_in("All three door lamps dim")) == sorted(words_in("three DIM lamps at the doors"))
    True
    """
    return frozenset(_stem(word) for word in _WORD.findall(text.lower()) if word not in _SMALL)


def _stem(word: str) -> str:
    return next((word.removesuffix(end) for end in _ENDINGS if word.endswith(end) and len(word) - len(end) >= 3), word)


def likeness(one: Iterable[str], other: Iterable[str]) -> float:
    """The share of words that two complaints have in common, of those that the shorter one has; two words at the least."""
    first, second = frozenset(one), frozenset(other)
    common = len(first & second)
    return common / min(len(first), len(second)) if common >= 2 else 0.0
