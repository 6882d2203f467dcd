"""What was read from a file of another format, and what was not."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from ...base.brief import first_unshowable, quoted
from ...base.errors import MakingError, SheetError
from ...circuit.read.sheet import parse_sheet
from ..loads import LOADS, load_params
from ..text import sheet_text

__all__ = ["MINUS", "MOST_LINES", "PLUS", "Brought", "Gathered", "cleaned", "node_name", "not_read"]

PLUS, MINUS = "batt+", "batt-"
MOST_LINES, LONGEST_LINE, MOST_PARTS, MOST_TOLD, MOST_PLACES = 5000, 2000, 400, 100, 60
NOT_READ = "# not read: "
_UNFIT = re.compile(r"[^A-Za-z0-9_.+\-]")


@dataclass(frozen=True, slots=True)
class Brought:
    """A sheet's ``text`` made from a file, and what of the file could not be read: line (from 1) and sentence."""

    text: str
    unread: tuple[tuple[int, str], ...]

    @property
    def annotated(self) -> str:
        """The text with a comment for everything that could not be read, so that it stays with the sheet until somebody has seen to it."""
        told = "".join(f"{NOT_READ}{f'line {line}: ' if line else ''}{says}\n" for line, says in self.unread[:MOST_TOLD])
        more = len(self.unread) - MOST_TOLD
        return f"{told}{f'{NOT_READ}{more} more lines{chr(10)}' if more > 0 else ''}{self.text}"


def not_read(text: str) -> tuple[str, ...]:
    """What a sheet's comments say could not be read of the file that it was made from."""
    return tuple(line.removeprefix(NOT_READ) for line in text.splitlines() if line.startswith(NOT_READ))


def cleaned(text: str) -> list[str]:
    """A text's lines. Raises MakingError for one that is too long or holds what no screen can show."""
    lines = text.replace("\r\n", "\n").replace("\r", "\n").lstrip("\ufeff").split("\n")
    if len(lines) > MOST_LINES or any(len(line) > LONGEST_LINE for line in lines):
        raise MakingError(f"The file is too long: at most {MOST_LINES:,} lines of {LONGEST_LINE:,} characters are read.")
    bad = next(((n, found) for n, line in enumerate(lines, 1) if (found := first_unshowable(line))), None)
    if bad:
        raise MakingError(f"Line {bad[0]} holds a character that no screen can show ({bad[1]}): is this a text file?")
    return lines


def node_name(said: str) -> str:
    """A node's name by what somebody called it: without what a name cannot hold."""
    return _UNFIT.sub("_", said.strip())[:60].strip("_") or "n"


@dataclass
class Gathered:
    """A sheet in the making from a file's entries."""

    title: str
    family: str = ""
    note: str = ""
    volts: float = 12.6
    parts: dict[str, dict[str, Any]] = field(default_factory=dict)
    places: dict[str, dict[str, Any]] = field(default_factory=dict)
    states: dict[str, dict[str, Any]] = field(default_factory=dict)
    seen: dict[str, dict[str, Any]] = field(default_factory=dict)
    unread: list[tuple[int, str]] = field(default_factory=list)

    def name(self, wanted: str) -> str:
        """A name for a part: as wanted, or with a number behind it where that is taken."""
        base = node_name(wanted)[:20]
        taken = {name.lower() for name in self.parts}
        if base.lower() not in taken:
            return base
        stem = base.rstrip("0123456789") if base[:1] == "W" else f"{base}_"
        return next(f"{stem}{n}" for n in range(2, 10_000) if f"{stem}{n}".lower() not in taken)

    def add(self, name: str, kind: str, pins: Mapping[str, str], **more: Any) -> str:
        """Add a part under a free name near the one that is wanted."""
        own = self.name(name)
        self.parts[own] = {"kind": kind, "pins": dict(pins), **{key: value for key, value in more.items() if value not in (None, "")}}
        return own

    def place(self, node: str, at: str, **more: Any) -> None:
        """Make a node one that can be probed."""
        self.places.setdefault(node, {"at": at, "minutes": 1, **{key: value for key, value in more.items() if value}})

    def miss(self, line: int, says: str) -> None:
        """Note what of the file could not be read."""
        self.unread.append((line, says))

    def load(self, name: str, sort: str, pins: Mapping[str, str], label: str) -> None:
        """Add a load of a sort whose size nobody told."""
        kind, params, note = load_params(sort, None, 12.0)
        own = self.add(name, kind, pins, **params, label=label, note=note)
        if LOADS[sort].seen:
            self.seen[label or own] = {"part": own, "sees": LOADS[sort].seen}

    def done(self) -> Brought:
        """The sheet. Raises MakingError where nothing of the file became a part."""
        if not self.parts:
            first = min(self.unread, default=None)
            why = f" Line {first[0]}: {first[1]}" if first else ""
            raise MakingError(f"Nothing in this file could be read as a part of a circuit.{why}")
        if len(self.parts) > MOST_PARTS:
            raise MakingError(f"The file holds {len(self.parts):,} parts; a sheet has at most {MOST_PARTS}: split it.")
        if not any(part["kind"] in ("battery", "bench_supply") for part in self.parts.values()):
            nodes = {node for part in self.parts.values() for node in part["pins"].values()}
            self.parts = {self.name("BAT"): {"kind": "battery", "pins": {"p": PLUS, "n": MINUS}, "label": "battery"}, **self.parts}
            if not {PLUS, MINUS} <= nodes:
                self.miss(0, "Nothing in it says where battery plus and minus are: a battery stands beside it, wire it up on the drawing.")
        for post, at in ((PLUS, "battery plus post"), (MINUS, "battery minus post")):
            self.place(post, at)
        nodes = {node for part in self.parts.values() for node in part["pins"].values()}
        self.places = {node: place for node, place in self.places.items() if node in nodes}
        if not set(self.places) - {PLUS, MINUS}:
            for node in sorted(nodes)[:MOST_PLACES]:
                self.place(node, node)
        if not self.states:
            closed = {name: "closed" for name, part in self.parts.items() if part["kind"] == "switch"}
            self.states = {"all off": {}, "all on": closed} if closed else {"as it is": {}}
        text = sheet_text(
            {
                "format": "pondrel-sheet/1", "title": self.title[:120] or "Brought in", "family": self.family, "note": self.note,
                "supply": {"nominal": self.volts, "unit": "V"}, "places": self.places, "parts": self.parts, "states": self.states,
                "observe": self.seen,
            }
        )  # fmt: skip
        try:
            parse_sheet(text)
        except SheetError as error:
            raise MakingError(f"What was read makes no circuit: {quoted(str(error)[:200])}.") from error
        return Brought(text, tuple(sorted(self.unread)))
