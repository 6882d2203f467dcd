"""A sheet's YAML text as plain mappings, lists and scalars, read within a budget.

A short text can unfold to billions of entries by aliases inside aliases, nest beyond what can be walked, or ask for types that no sheet
has. So each of the parser's events is looked at before anything is made of it; what is let through is no larger, unfolded, than
``MOST_ENTRIES``. The text is parsed once: the lines of its keys are kept beside what it holds.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Any, NoReturn

from ruamel.yaml import YAML
from ruamel.yaml.error import MarkedYAMLError, YAMLError
from ruamel.yaml.events import AliasEvent, CollectionEndEvent, CollectionStartEvent, Event, MappingStartEvent, ScalarEvent
from ruamel.yaml.nodes import MappingNode, Node, SequenceNode
from ruamel.yaml.parser import Parser

from ...base.brief import first_unshowable, quoted
from ...base.errors import SheetTextError

__all__ = ["LONGEST_SHEET", "MOST_ALIASES", "MOST_ANCHORS", "MOST_DEEP", "MOST_ENTRIES", "Plain", "load_plain"]

LONGEST_SHEET = 200_000  # characters; four hundred parts with their places need a third of it
MOST_ENTRIES = 30_000  # keys and values, aliases unfolded
MOST_DEEP = 20
MOST_ANCHORS, MOST_ALIASES = 20, 200
_DIGITS = re.compile(r"[-+]?[0-9a-zA-Z_.]{80,}")


@dataclass(frozen=True)
class Plain:
    """What a text holds, and where: ``value`` of mappings, lists and scalars, and the parser's tree with the lines."""

    value: Any
    _root: Node | None

    def line(self, path: str) -> int:
        """The line, from 1, of the deepest key of a dotted path that the text has. Keys may hold dots: the longest that fits is taken."""
        line, node, rest = 1, self._root, path
        while rest:
            step = _step(node, rest)
            if step is None:
                break
            line, node, rest = step
        return line


def _step(node: Node | None, path: str) -> tuple[int, Node, str] | None:
    """The line of a path's first key in a node, what stands under it, and the rest of the path."""
    if isinstance(node, MappingNode):
        fits = [(key, under) for key, under in node.value if path == key.value or path.startswith(f"{key.value}.")]
        if fits:
            key, under = max(fits, key=lambda pair: len(pair[0].value))
            return key.start_mark.line + 1, under, path[len(key.value) + 1 :]
    elif isinstance(node, SequenceNode):
        head, _, tail = path.partition(".")
        if head.isdecimal() and 1 <= int(head) <= len(node.value):
            under = node.value[int(head) - 1]
            return under.start_mark.line + 1, under, tail
    return None


def load_plain(text: str) -> Plain:
    """What the text holds. Raises SheetTextError for a text that is no YAML or beyond the budget; its flaw's path is the line."""
    if len(text) > LONGEST_SHEET:
        _refuse("", f"is {len(text):,} characters long; a sheet has at most {LONGEST_SHEET:,}")
    text = text.replace("\r\n", "\n").replace("\r", "\n")  # as any system ends its lines
    bare = first_unshowable(text)
    if bare:
        number = next(n for n, each in enumerate(text.split("\n"), 1) if first_unshowable(each))
        _refuse(f"line {number}", f"holds a character that no screen can show ({bare}): delete it")
    yaml = YAML(typ="safe", pure=True)
    yaml.Parser = _WatchedParser
    try:
        root = yaml.compose(text)
        return Plain(None if root is None else yaml.constructor.construct_document(root), root)
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


class _Budget:
    """What the events so far have used of what a sheet may hold."""

    def __init__(self) -> None:
        self._stack = [_Open(None, False)]
        self._sizes: dict[str, int] = {}  # of what each anchor names, unfolded
        self._anchors = self._aliases = 0

    def take(self, event: Event) -> None:
        """Count one event. Raises SheetTextError where it is beyond the budget."""
        line = f"line {event.start_mark.line + 1}" if event.start_mark else ""
        if isinstance(event, AliasEvent):
            self._take_alias(str(event.anchor), line)
            return
        if isinstance(event, (ScalarEvent, CollectionStartEvent)):
            _check_plain(event, self._stack[-1], line)
            if event.anchor:
                self._anchors += 1
                if self._anchors > MOST_ANCHORS:
                    _refuse(line, f"a sheet has at most {MOST_ANCHORS} anchors (&name): write the rest out")
        if isinstance(event, ScalarEvent):
            if event.anchor:
                self._sizes[event.anchor] = 1
            _add(self._stack[-1], 1, line)
        elif isinstance(event, CollectionStartEvent):
            self._stack.append(_Open(event.anchor, isinstance(event, MappingStartEvent)))
            if len(self._stack) > MOST_DEEP + 1:
                _refuse(line, f"is nested more than {MOST_DEEP} deep; a sheet needs four levels")
        elif isinstance(event, CollectionEndEvent):
            done = self._stack.pop()
            if done.anchor:
                self._sizes[done.anchor] = done.unfolded
            _add(self._stack[-1], done.unfolded, line)

    def _take_alias(self, anchor: str, line: str) -> None:
        self._aliases += 1
        if self._aliases > MOST_ALIASES:
            _refuse(line, f"a sheet has at most {MOST_ALIASES} aliases (*name): write the rest out")
        if anchor not in self._sizes:
            _refuse(line, f"the alias *{_cut(anchor)} names nothing that is complete before it")
        _add(self._stack[-1], self._sizes[anchor], line)


class _WatchedParser(Parser):
    """A parser that hands on no event that is beyond the budget, so that nothing is composed of it."""

    def reset_parser(self) -> None:
        super().reset_parser()
        self._budget = _Budget()

    def get_event(self) -> Any:
        event = super().get_event()
        self._budget.take(event)
        return event


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
