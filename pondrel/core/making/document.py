"""A sheet's text that is changed in place: comments, order and what nobody touched stay as they are."""

from __future__ import annotations

import io
import re
from collections.abc import Iterator, Mapping
from functools import cached_property
from typing import Any

from ruamel.yaml.comments import CommentedMap

from ..base.brief import near, quoted
from ..base.errors import MakingError, SheetError
from ..circuit.kinds import KINDS
from ..circuit.part import Kind
from ..circuit.read.sheet import parse_sheet
from ..circuit.sheet import Sheet
from .text import flowed, writer

__all__ = ["NAME", "Document"]

NAME = re.compile(r"[A-Za-z0-9][A-Za-z0-9+\-_.]{0,23}")
# Where a sheet names a part or a node beside `parts` and `places`: the keys of an entry.
_PART_KEYS, _NODE_KEYS = ("of", "part"), ("at", "from", "to", "fed")


class Document:
    """A sheet's text, to be changed. What is changed is read again as a whole: `text` raises MakingError where it is no sheet any more."""

    def __init__(self, text: str):
        self.before = parse_sheet(text)  # raises SheetError for a text that is none; within the budget of a sheet
        self._root: CommentedMap = writer().load(text)

    @property
    def parts(self) -> dict[str, Any]:
        """The parts' entries by name."""
        return self._section("parts")

    @property
    def places(self) -> dict[str, Any]:
        """The places' entries by node."""
        return self._section("places")

    @property
    def access(self) -> dict[str, Any]:
        """The ways to get at places."""
        return self._section("access")

    @property
    def states(self) -> dict[str, Any]:
        """The states' entries by name."""
        return self._section("states")

    @property
    def observe(self) -> dict[str, Any]:
        """What can be seen."""
        return self._section("observe")

    def _section(self, name: str) -> dict[str, Any]:
        if not isinstance(self._root.get(name), Mapping):
            self._root[name] = CommentedMap()
        found: dict[str, Any] = self._root[name]
        return found

    @cached_property
    def minus(self) -> str:
        """The node of battery minus."""
        return self.before.minus

    # Reading

    def part(self, name: str) -> Any:
        """A part's entry. Raises MakingError naming near ones."""
        key = self._key(self.parts, name)
        if key is None:
            raise MakingError(f"No part {quoted(name)} is on this sheet{near(name, map(str, self.parts))}.")
        return self.parts[key]

    @staticmethod
    def _key(section: Mapping[Any, Any], name: str) -> Any:
        return next((key for key in section if str(key) == name), None)

    def place_at(self, node: str) -> dict[str, Any] | None:
        """The entry of a place, None where the node is none."""
        key = self._key(self.places, node)
        found: dict[str, Any] | None = None if key is None else self.places[key]
        return found

    def state(self, name: str) -> dict[str, Any] | None:
        """The entry of a state, None where there is none of that name."""
        key = self._key(self.states, name)
        found: dict[str, Any] | None = None if key is None else self.states[key]
        return found

    def kind(self, name: str) -> Kind:
        """The kind of a part."""
        return KINDS[str(self.part(name)["kind"])]

    def pins(self, name: str) -> dict[str, str]:
        """The nodes of a part by its pins."""
        return {str(pin): str(node) for pin, node in self.part(name)["pins"].items()}

    def nodes(self) -> set[str]:
        """Every node that a pin names."""
        return {str(node) for part in self.parts.values() for node in part["pins"].values()}

    def at(self, node: str) -> list[tuple[str, str]]:
        """The parts with a pin on a node, each with the pin."""
        return [(str(name), str(pin)) for name, part in self.parts.items() for pin, on in part["pins"].items() if str(on) == node]

    def called(self, name: str) -> str:
        """What a person calls a part."""
        return str(self.part(name).get("label") or name)

    # Naming

    def free(self, letter: str) -> str:
        """The first name of a letter and a number that is free."""
        taken = {str(name).partition(".")[0].lower() for name in self.parts} | {node.partition(".")[0].lower() for node in self.nodes()}
        return next(name for n in range(1, 10_000) if (name := f"{letter}{n}").lower() not in taken)

    def new_name(self, said: str, letter: str) -> str:
        """The name that was said for a new part, or the next free one of a letter."""
        name = said.strip()
        if not name:
            return self.free(letter)
        if not NAME.fullmatch(name):
            raise MakingError(f"{quoted(name)} is no name for a part: letters and digits such as F14, at most 24.")
        if self._key(self.parts, name) is not None:
            raise MakingError(f"There is a part called {quoted(name)} already: give this one another name.")
        return name

    def new_node(self, wanted: str) -> str:
        """A node of that name, or with a number behind it where there is one already."""
        taken = self.nodes()
        return wanted if wanted not in taken else next(f"{wanted}_{n}" for n in range(2, 10_000) if f"{wanted}_{n}" not in taken)

    # Changing

    def add(self, name: str, kind: str, pins: Mapping[str, str], **more: Any) -> None:
        """Put a part on the sheet; what is None or empty is left out."""
        entry = {"kind": kind, "pins": dict(pins), **{key: value for key, value in more.items() if value not in (None, "")}}
        self.parts[name] = flowed(entry)

    def put(self, entry: Any, key: str, value: Any) -> None:
        """Give an entry a value, or take it away where it is None or empty."""
        if value in (None, ""):
            entry.pop(key, None)
        else:
            entry[key] = flowed(value)

    def place(self, node: str, at: str, behind: str | None = None, **more: Any) -> None:
        """Make a node one that a probe can reach, where it is not yet."""
        if self._key(self.places, node) is None:
            kept = {key: value for key, value in {"behind": behind, **more}.items() if value}
            self.places[node] = flowed({"at": at, "minutes": 1, **kept})

    def rename_node(self, old: str, new: str) -> None:
        """Put everything that was on a node on another; a place that both were is kept as the new one's."""
        for part in self.parts.values():
            for pin, node in part["pins"].items():
                if str(node) == old:
                    part["pins"][pin] = new
        key = self._key(self.places, old)
        if key is not None and self._key(self.places, new) is None:
            self._renamed(self.places, old, new)
        elif key is not None:
            del self.places[key]
        for entry in self._mentions():
            for name in _NODE_KEYS:
                if str(entry.get(name, "")) == old:
                    entry[name] = new

    def rename_part(self, old: str, new: str) -> None:
        """Give a part another name wherever the sheet names it, its own nodes with it."""
        self._renamed(self.parts, old, new)
        for state in self.states.values():
            self._renamed(state, old, new)
        for entry in self._mentions():
            for name in _PART_KEYS:
                if str(entry.get(name, "")) == old:
                    entry[name] = new
        for table in self._section_of("tests").values():
            rows = table.get("given") or {}
            for row in [str(row) for row in rows]:
                if row == old or row.startswith(f"{old}."):
                    self._renamed(rows, row, new + row[len(old) :])
        for node in sorted(self.nodes()):
            if node.startswith(f"{old.lower()}.") or node == old.lower():
                self.rename_node(node, self.new_node(new.lower() + node[len(old) :]))
        told = re.compile(rf"(?<![\w.]){re.escape(old)}(?![\w.])")
        for entry, key in ((self.part(new), "label"), *((place, "at") for place in self.places.values())):
            if told.search(str(entry.get(key) or "")):
                entry[key] = told.sub(new, str(entry[key]))
        for place in self.places.values():
            if str(place.get("connector", "")) == old:
                place["connector"] = new

    def remove_part(self, name: str) -> None:
        """Take a part off the sheet, with all that the sheet says of it."""
        del self.parts[self._key(self.parts, name)]
        for state in self.states.values():
            key = self._key(state, name)
            if key is not None:
                del state[key]
        for section in ("observe",):
            for key in [key for key, entry in self._section_of(section).items() if str(entry.get("part")) == name]:
                del self._section_of(section)[key]
        limits = self._root.get("limits") or []
        limits[:] = [entry for entry in limits if str(entry.get("of", "")) != name]
        for key, table in list(self._section_of("tests").items()):
            rows = table.get("given") or {}
            for row in [row for row in rows if str(row) == name or str(row).startswith(f"{name}.")]:
                del rows[row]
            if set(map(str, rows)) <= {"otherwise"}:
                del self._section_of("tests")[key]
        self.tidy()

    def rename_state(self, old: str, new: str) -> None:
        """Give a state another name wherever the sheet names it."""
        self._renamed(self.states, old, new)
        for entry in (*self._mentions(), *self._section_of("tests").values()):
            if str(entry.get("state", "")) == old:
                entry["state"] = new

    def remove_state(self, name: str) -> None:
        """Take a state off, with the limits, codes and tests that hold in it."""
        del self.states[self._key(self.states, name)]
        limits = self._root.get("limits") or []
        limits[:] = [entry for entry in limits if str(entry.get("state", "")) != name]
        for section in (self._section_of("codes"), self._section_of("tests")):
            for key in [key for key, entry in section.items() if str(entry.get("state", "")) == name]:
                del section[key]
        self.tidy()

    def tidy(self) -> None:
        """Take off what nothing is left of: places on no node, ways to nowhere, limits and codes at nodes that are gone."""
        there = self.nodes()
        for node in [node for node in self.places if str(node) not in there]:
            del self.places[node]
        behind = {str(entry.get("behind")) for entry in self.places.values()}
        tests = {str(table.get("behind")) for table in self._section_of("tests").values()}
        for name in [name for name in self._section_of("access") if str(name) not in behind | tests]:
            del self._section_of("access")[name]
        limits = self._root.get("limits") or []
        limits[:] = [entry for entry in limits if all(str(entry[key]) in there for key in ("at", "from", "to") if key in entry)]
        codes = self._section_of("codes")
        for name in [name for name, entry in codes.items() if any(str(entry[key]) not in there for key in ("at", "fed") if key in entry)]:
            del codes[name]
        for name in ("limits", "codes", "observe", "tests", "access"):
            if name in self._root and not self._root[name]:
                del self._root[name]

    def _section_of(self, name: str) -> dict[str, Any]:
        """A section to look at, empty where the sheet has none."""
        found: dict[str, Any] = self._root.get(name) or {}
        return found

    def _mentions(self) -> Iterator[Any]:
        """Entries beside places and parts that name parts or nodes."""
        yield from self._root.get("limits") or []
        yield from self._section_of("observe").values()
        yield from self._section_of("codes").values()

    def _renamed(self, section: Any, old: str, new: str) -> None:
        """Give a key of a mapping another name at its place."""
        key = self._key(section, old)
        if key is None:
            return
        at, value = list(section).index(key), section[key]
        del section[key]
        section.insert(at, new, value)

    def sheet_and_text(self) -> tuple[Sheet, str]:
        """What the document has become. Raises MakingError with one sentence where that is no sheet."""
        out = io.StringIO()
        writer().dump(self._root, out)
        text = out.getvalue()
        try:
            return parse_sheet(text), text
        except SheetError as error:
            path, says = error.flaws[0]
            raise MakingError(f"That would leave no good sheet: {path}: {says}.") from error
