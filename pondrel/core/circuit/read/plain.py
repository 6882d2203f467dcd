"""A sheet's YAML text as plain mappings, lists and scalars, read within a budget.

The text is looked over once before anything is made of it: a short text can unfold to billions of entries by aliases inside aliases, nest
beyond what can be walked, or ask for types that no sheet has. What is let through is no larger, unfolded, than ``MOST_ENTRIES``.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Any, NoReturn

from ruamel.yaml import YAML
from ruamel.yaml.error import MarkedYAMLError, YAMLError
from ruamel.yaml.events import AliasEvent, CollectionEndEvent, CollectionStartEvent, MappingStartEvent, ScalarEvent

from ...base.brief import first_unshowable, quoted
from ...base.errors import SheetTextError

__all__ = ["LONGEST_SHEET", "MOST_ALIASES", "MOST_ANCHORS", "MOST_DEEP", "MOST_ENTRIES", "load_plain"]

LONGEST_SHEET = 200_000  # characters; four hundred parts with their places need a third of it
MOST_ENTRIES = 30_000  # keys and values, aliases unfolded
MOST_DEEP = 20
MOST_ANCHORS, MOST_ALIASES = 20, 200
_DIGITS = re.compile(r"[-+]?[0-9a-zA-Z_.]{80,}")


def load_plain(text: str) -> Any:
    """What the text holds. Raises SheetTextError for a text that is no YAML or beyond the budget; its flaw's path is the line."""
    if len(text) > LONGEST_SHEET:
        _refuse("", f"is {len(text):,} characters long; a sheet has at most {LONGEST_SHEET:,}")
    text = text.replace("\r\n", "\n").replace("\r", "\n")  # as any system ends its lines
    try:
        _look_over(text)
        return YAML(typ="safe", pure=True).load(text)
    except MarkedYAMLError as error:
        mark = error.problem_mark or error.context_mark
        problem = re.sub(r"\s+", " ", str(error.problem or error.context or "cannot be read"))
        _refuse(f"line {mark.line + 1}" if mark else "", f"is not YAML: {_cut(problem)}")
    except (YAMLError, ValueError, RecursionError, OverflowError) as error:
        first = next(iter(str(error).splitlines()), "") or "cannot be read"
        _refuse("", f"is not YAML: {_cut(first)}")


def _cut(text: str) -> str:
    return text if len(text) <= 200 else f"{text[:199]}…"


def _refuse(path: str, says: str) -> NoReturn:
    raise SheetTextError(((path, says),))


@dataclass
class _Open:
    """A mapping or list being read: its ``anchor``, whether it is a mapping, how many entries it has had, and how many those unfold to."""

    anchor: str | None
    mapping: bool
    count: int = 0
    unfolded: int = 1

    @property
    def wants_key(self) -> bool:
        return self.mapping and self.count % 2 == 0


def _look_over(text: str) -> None:
    """Refuse what is beyond the budget, by the parser's events."""
    bare = first_unshowable(text)
    if bare:
        number = next(n for n, each in enumerate(text.split("\n"), 1) if first_unshowable(each))
        _refuse(f"line {number}", f"holds a character that no screen can show ({bare}): delete it")
    stack = [_Open(None, False)]
    sizes: dict[str, int] = {}  # of what each anchor names, unfolded
    anchors = aliases = 0
    for event in YAML(typ="safe", pure=True).parse(text):
        line = f"line {event.start_mark.line + 1}" if event.start_mark else ""
        if isinstance(event, AliasEvent):
            aliases += 1
            if aliases > MOST_ALIASES:
                _refuse(line, f"a sheet has at most {MOST_ALIASES} aliases (*name): write the rest out")
            if event.anchor not in sizes:
                _refuse(line, f"the alias *{_cut(str(event.anchor))} names nothing that is complete before it")
            _add(stack[-1], sizes[event.anchor], line)
            continue
        if isinstance(event, (ScalarEvent, CollectionStartEvent)):
            _check_plain(event, stack[-1], line)
            if event.anchor:
                anchors += 1
                if anchors > MOST_ANCHORS:
                    _refuse(line, f"a sheet has at most {MOST_ANCHORS} anchors (&name): write the rest out")
        if isinstance(event, ScalarEvent):
            if event.anchor:
                sizes[event.anchor] = 1
            _add(stack[-1], 1, line)
        elif isinstance(event, CollectionStartEvent):
            stack.append(_Open(event.anchor, isinstance(event, MappingStartEvent)))
            if len(stack) > MOST_DEEP + 1:
                _refuse(line, f"is nested more than {MOST_DEEP} deep; a sheet needs four levels")
        elif isinstance(event, CollectionEndEvent):
            done = stack.pop()
            if done.anchor:
                sizes[done.anchor] = done.unfolded
            _add(stack[-1], done.unfolded, line)


def _add(parent: _Open, unfolded: int, line: str) -> None:
    parent.count += 1
    parent.unfolded += unfolded
    if parent.unfolded > MOST_ENTRIES:
        _refuse(line, f"a sheet holds at most {MOST_ENTRIES:,} entries, with its aliases (*name) written out")


def _check_plain(event: ScalarEvent | CollectionStartEvent, parent: _Open, line: str) -> None:
    """Refuse a value with a tag, a key that is no scalar, and scalars that cannot be shown or are numbers without end."""
    if event.tag is not None:
        _refuse(line, f"a tag such as {quoted('!!' + str(event.tag).rpartition(':')[2])} has no place in a sheet: write the bare value")
    if not isinstance(event, ScalarEvent):
        if parent.wants_key:
            _refuse(line, "a key must be a plain name, not a list or a mapping")
        return
    bad = first_unshowable(event.value)
    if bad:
        _refuse(line, f"holds a character that no screen can show ({bad}): delete it")
    if not event.style and _DIGITS.fullmatch(event.value):
        _refuse(line, f"holds a word or number of {len(event.value):,} characters, got {quoted(event.value[:20] + '…')}")
