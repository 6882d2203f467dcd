"""The formats of logs that are read as text, and those that are written; binary ones are read by packages (`pondrel.logs`)."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass

from ..frames import Frames
from .asc import AscReader, asc_lines
from .candump import CandumpReader, candump_lines
from .table import TABLE_COLUMNS, TableReader, is_heading, table_lines
from .text import Reader

__all__ = ["TEXT_FORMATS", "TextFormat", "format_of_text"]


def _candump_like(head: str) -> bool:
    return re.search(r"^\s*\(\s*\d+(\.\d*)?\)\s+\S+", head, re.MULTILINE) is not None


def _asc_like(head: str) -> bool:
    heading = re.search(r"^\s*(date\s|base\s+(hex|dec)|begin\s+trigger)", head, re.MULTILINE | re.IGNORECASE)
    event = re.search(r"^\s*\d+\.\d+\s+(CANFD\s+)?(\d+|L\w+)\s+\S+\s+\S+", head, re.MULTILINE | re.IGNORECASE)
    return heading is not None or event is not None


def _asc_head(start: float) -> str:
    return f"// times count from {start:.6f} s\nbase hex  timestamps absolute\nno internal events logged\n"


@dataclass(frozen=True, slots=True)
class TextFormat:
    """A format of lines: its name, suffixes, whether a file's first lines are of it, a new reader, and how it is written: a heading
    for the time of the first frame (s), and lines for frames and the names of their channels."""

    name: str
    suffixes: tuple[str, ...]
    fits: Callable[[str], bool]
    reader: Callable[[], Reader]
    heading: Callable[[float], str]
    lines: Callable[[Frames, tuple[str, ...], float], Iterator[str]]


def _table_like(head: str) -> bool:
    return any(map(is_heading, head.splitlines()[:50]))


def _table_head(start: float) -> str:
    return ",".join(TABLE_COLUMNS) + "\n"


TEXT_FORMATS: Mapping[str, TextFormat] = {
    own.name: own
    for own in (
        TextFormat("candump", (".log",), _candump_like, CandumpReader, lambda _: "", lambda frames, names, _: candump_lines(frames, names)),
        TextFormat("csv", (".csv",), _table_like, TableReader, _table_head, lambda frames, names, _: table_lines(frames, names)),
        TextFormat("asc", (".asc",), _asc_like, AscReader, _asc_head, asc_lines),
    )
}


def format_of_text(head: str) -> TextFormat | None:
    """The format of a text by its first lines; None where they are of none."""
    return next((own for own in TEXT_FORMATS.values() if own.fits(head)), None)
