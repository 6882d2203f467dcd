"""Where in its text a sheet is wrong or may not mean what it says: flaws and remarks with their lines, for an editor."""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass

from ...base.errors import SheetError, SheetTextError
from .plain import Plain, load_plain
from .remarks import remarks
from .sheet import read_sheet

__all__ = ["Flaw", "Review", "flaws_of", "review"]


@dataclass(frozen=True, slots=True)
class Flaw:
    """A flaw of a sheet's text: ``line`` (from 1), the dotted ``path`` in the file, and the sentence."""

    line: int
    path: str
    says: str


@dataclass(frozen=True, slots=True)
class Review:
    """What a look through a text found, by line: its ``flaws``, or for one without any the ``remarks`` on what it may not mean."""

    flaws: tuple[Flaw, ...] = ()
    remarks: tuple[Flaw, ...] = ()


def review(text: str) -> Review:
    """What is wrong with a text that should be a sheet, and what a good one may not mean as it says it."""
    try:
        plain = load_plain(text)
    except SheetTextError as error:
        return Review(flaws=tuple(_of_the_text(path, says) for path, says in error.flaws))
    try:
        sheet = read_sheet(plain)
    except SheetError as error:
        return Review(flaws=_placed(plain, error.flaws))
    return Review(remarks=_placed(plain, remarks(sheet)))


def flaws_of(text: str) -> tuple[Flaw, ...]:
    """Every flaw of a text that should be a sheet, in the order of their lines; none for a good one."""
    return review(text).flaws


def _of_the_text(path: str, says: str) -> Flaw:
    """A flaw of a text that cannot be read as it stands: its path is at most a line."""
    said = re.fullmatch(r"line (\d+)", path)
    return Flaw(int(said[1]), "", says) if said else Flaw(1, path, says)


def _placed(plain: Plain, found: Iterable[tuple[str, str]]) -> tuple[Flaw, ...]:
    return tuple(sorted((Flaw(plain.line(path), path, says) for path, says in found), key=lambda flaw: flaw.line))
