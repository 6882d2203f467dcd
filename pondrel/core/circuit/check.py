"""Where in its text a sheet is wrong: the parser's flaws with their lines, for an editor."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from ruamel.yaml import YAML

from ..errors import SheetError, SheetTextError
from .sheet import parse_sheet

__all__ = ["Flaw", "flaws_of"]


@dataclass(frozen=True, slots=True)
class Flaw:
    """A flaw of a sheet's text: ``line`` (from 1), the dotted ``path`` in the file, and the sentence."""

    line: int
    path: str
    says: str


def flaws_of(text: str) -> tuple[Flaw, ...]:
    """Every flaw of a text that should be a sheet, in the order of their lines; none for a good one."""
    try:
        parse_sheet(text)
    except SheetError as error:
        # A text that was refused as it stands is not read a second time.
        positions = None if isinstance(error, SheetTextError) else YAML(typ="rt").load(text)
        found = (Flaw(_line(positions, path), "" if path.startswith("line ") else path, says) for path, says in error.flaws)
        return tuple(sorted(found, key=lambda flaw: flaw.line))
    return ()


def _line(node: Any, path: str) -> int:
    """The line of the deepest key of a path that the text has. Names of parts may hold dots: the longest key that fits is taken."""
    said = re.fullmatch(r"line (\d+)", path)
    if said:
        return int(said[1])
    line, rest = 1, path
    while rest:
        step = _step(node, rest)
        if step is None:
            break
        line, node, rest = step
    return line


def _step(node: Any, path: str) -> tuple[int, Any, str] | None:
    if isinstance(node, Mapping) and hasattr(node, "lc"):
        fits = [key for key in node if path == str(key) or path.startswith(f"{key}.")]
        if fits:
            key = max(fits, key=lambda name: len(str(name)))
            return node.lc.key(key)[0] + 1, node[key], path[len(str(key)) + 1 :]
    elif isinstance(node, Sequence) and not isinstance(node, str) and hasattr(node, "lc"):
        head, _, tail = path.partition(".")
        if head.isdecimal() and 1 <= int(head) <= len(node):
            return node.lc.item(int(head) - 1)[0] + 1, node[int(head) - 1], tail
    return None
