"""A circuit from what people have: one module a format, each told by its ending or by what stands in it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from ...base.brief import listed
from ...base.errors import MakingError
from ...circuit.read.sheet import parse_sheet
from . import harness, netlist, wire_list
from .brought import Brought, not_read

__all__ = ["FORMATS", "Brought", "Format", "brought", "not_read"]

MOST_LETTERS = 1_000_000


@dataclass(frozen=True, slots=True)
class Format:
    """A format: what it is called, whether a file is one by its name and text, and how it is read."""

    name: str
    fits: Callable[[str, str], bool]
    bring: Callable[[str, str], Brought]


FORMATS = tuple(Format(module.FORMAT, module.fits, module.bring) for module in (harness, wire_list, netlist))


def brought(name: str, text: str) -> Brought:
    """Make a sheet of a file's text. Raises MakingError with one sentence for a file of no format that is known, or of which nothing can be
    read; SheetError for a sheet that has flaws."""
    if len(text) > MOST_LETTERS:
        raise MakingError(f"The file has {len(text):,} characters; at most {MOST_LETTERS:,} are read.")
    if not text.strip():
        raise MakingError("The file is empty.")
    if "pondrel-sheet/" in text[:2000]:
        parse_sheet(text)
        return Brought(text, ())
    for known in FORMATS:
        if known.fits(name, text):
            return known.bring(name, text)
    raise MakingError(f"Nobody can tell what this file is: a Pondrel sheet, {listed(known.name for known in FORMATS)} are read.")
