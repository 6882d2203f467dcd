"""Where in its text a sheet is wrong: the parser's flaws with their lines, for an editor."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from ruamel.yaml import YAML

from ...base.errors import SheetError, SheetTextError
from .sheet import parse_sheet

__all__ = ["Flaw", "flaws_of", "located"]


@dataclass(frozen=True, slots=True)
class Flaw:
    """A flaw of a sheet's text: ``line`` (from 1), the dotted ``path`` in the file, and the sentence."""

    line: int
    path: str
    says: str


def located(text: str, found: Iterable[tuple[str, str]]) -> tuple[Flaw, ...]:
    """Paths and sentences about a text that can be read, with their lines, in the order of these."""
    positions = YAML(typ="rt").load(text)
    return tuple(sorted((Flaw(_line(positions, path), path, says) for path, says in found), key=lambda flaw: flaw.line))


def flaws_of(text: str) -> tuple[Flaw, ...]:
    """Every flaw of a text that should be a sheet, in the order of their lines; none for a good one."""
    try:
        parse_sheet(text)
    except SheetTextError as error:  # what was refused as it stands is not read a second time
        return tuple(Flaw(_line(None, path), "" if path.startswith("line ") else path, says) for path, says in error.flaws)
    except SheetError as error:
        return located(text, error.flaws)
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
