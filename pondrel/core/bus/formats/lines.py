"""Lines of a text log taken apart by arrays: words between white space, numbers in them, all lines at once.

A line of Python for each line of a log costs some microseconds; ten million lines are a minute. What is regular is read here, what
is not goes back to its format, line by line.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ...base.arrays import Floats
from ..frames import Bytes, Mask

__all__ = ["Lines", "Places"]

Places = NDArray[np.integer[Any]]

_WIDEST = 20
_NO_DIGIT = 255
_DIGITS = np.full(256, _NO_DIGIT, np.uint8)
for _place, _characters in enumerate(("0", "1", "2", "3", "4", "5", "6", "7", "8", "9", "aA", "bB", "cC", "dD", "eE", "fF")):
    for _character in _characters:
        _DIGITS[ord(_character)] = _place
_POWERS = {base: np.array([float(base**power) for power in range(_WIDEST, -1, -1)]) for base in (10, 16)}
_DOT = ord(".")
_MOST_EXACT = 1 << 53  # whole numbers up to here are doubles, and the quotient of two doubles is rounded once


class Lines:
    """Whole lines of text and the words in them.

    ``text``: bytes as an array; ``begins``, ``ends``: of each line (without its end of line); ``first``: the place of each line's
    first word among all words; ``words``: how many each line has; ``word_begins``, ``word_ends``: of all words.
    """

    def __init__(self, text: bytes) -> None:
        self.raw = text
        self.text = np.frombuffer(text, np.uint8)
        ends = np.flatnonzero(self.text == 10)
        if len(text) and (not len(ends) or ends[-1] != len(text) - 1):
            ends = np.append(ends, len(text))
        self.ends = ends
        self.begins = np.concatenate(([0], ends[:-1] + 1)) if len(ends) else ends
        dark = self.text > 32
        edges = np.flatnonzero(dark[1:] != dark[:-1]) + 1
        if len(dark) and dark[0]:
            edges = np.concatenate(([0], edges))
        if len(dark) and dark[-1]:
            edges = np.append(edges, len(dark))
        self.word_begins, self.word_ends = edges[::2], edges[1::2]
        self.first = np.searchsorted(self.word_begins, self.begins)
        self.words = np.diff(np.append(self.first, len(self.word_begins)))

    def __len__(self) -> int:
        return len(self.begins)

    def line(self, place: int) -> str:
        """One line as it stands, without white space around it."""
        return self.raw[int(self.begins[place]) : int(self.ends[place])].decode("utf-8", "replace").strip()

    def word(self, lines: Places, place: int | Places) -> tuple[Places, Places]:
        """Where the word at a place from 0 begins and ends in some lines, each of which has as many."""
        which = self.first[lines] + place
        return self.word_begins[which], self.word_ends[which]

    def is_word(self, begins: Places, ends: Places, *words: bytes) -> Mask:
        """Where one of some words stands, large or small letters alike."""
        found = np.zeros(len(begins), bool)
        for word in words:
            own = (ends - begins) == len(word)
            for place, character in enumerate(word.lower()):
                own[own] = (self.text[begins[own] + place] | (32 if 97 <= character <= 122 else 0)) == character
            found |= own
        return found

    def whole(self, begins: Places, ends: Places, base: int) -> tuple[NDArray[np.uint64], Mask]:
        """Whole numbers of base 10 or 16 (up to 12 digits) and whether each is one."""
        value = np.zeros(len(begins), np.uint64)
        right = np.zeros(len(begins), bool)
        for width, own in _by_width(ends - begins, 12):
            if width <= 3:
                columns = [_DIGITS[self.text[begins[own] + place]] for place in range(width)]
                right[own] = np.maximum.reduce(columns) < base
                for digit in columns:
                    value[own] = value[own] * np.uint64(base) + digit
                continue
            digits = _DIGITS[self.text[begins[own][:, None] + np.arange(width)]]
            right[own] = (digits < base).all(axis=1)
            # Below 2^53 a sum of products is exact in doubles, whatever its order.
            value[own] = (digits @ _POWERS[base][-width:]).astype(np.uint64)
        return value, right

    def decimal(self, begins: Places, ends: Places) -> tuple[Floats, Mask]:
        """Numbers with a point and without a sign, each as the nearest double, and whether each is one that is read here."""
        number = np.zeros(len(begins))
        right = np.zeros(len(begins), bool)
        for width, own in _by_width(ends - begins, _WIDEST):
            if width == 1:
                continue
            characters = self.text[begins[own][:, None] + np.arange(width)]
            points = (characters == _DOT).argmax(axis=1)
            for point in np.unique(points):
                rows = points == point
                which = own[rows]
                digits = _DIGITS[np.delete(characters[rows], point, axis=1)]
                fine = (characters[rows, point] == _DOT) & (digits < 10).all(axis=1)
                whole = digits @ _POWERS[10][1 - width :]
                number[which] = whole / _POWERS[10][point - width]
                right[which] = fine
                for place in which[fine & (whole >= _MOST_EXACT)]:  # more digits than a double holds: rounded once, from the text
                    number[place] = float(self.raw[int(begins[place]) : int(ends[place])])
        return number, right

    def pairs(self, begins: Places, counts: Places) -> tuple[Bytes, Mask]:
        """Bytes written as two hexadecimal digits each without space between, ``counts`` of them from ``begins`` on; all bytes one
        behind the other, and whether those of each line are right."""
        total = int(counts.sum())
        line = np.repeat(np.arange(len(counts)), counts)
        at = np.repeat(begins - 2 * (np.cumsum(counts) - counts), counts) + 2 * np.arange(total)
        high, low = _DIGITS[self.text[at]], _DIGITS[self.text[at + 1]]
        right = np.ones(len(counts), bool)
        right[line[(high > 15) | (low > 15)]] = False
        return np.asarray((high << 4) | low, np.uint8), right


def _by_width(widths: Places, most: int) -> Iterator[tuple[int, Places]]:
    """Each width from 1 up to ``most``, and which have it."""
    if len(widths) and 1 <= widths[0] <= most and (widths == widths[0]).all():
        yield int(widths[0]), np.arange(len(widths))
        return
    for width in np.unique(widths):
        if 1 <= width <= most:
            yield int(width), np.flatnonzero(widths == width)
