"""A wire list as CSV: from, to, colour, section, length, in any order and delimiter, columns found by their headings.

Ends are written as people write them: ``X1:3``, ``K2/86``, ``F14``. What stands at an end is told by the first letters of its code, as
wiring diagrams use them; what nobody can tell is taken for a plain load and listed.
"""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Sequence
from dataclasses import dataclass

from ...base.brief import listed, quoted
from ...base.errors import MakingError
from ..maker import BOTH_UNKNOWN, LENGTH_UNKNOWN, SECTION_UNKNOWN
from ..sizes import length_of, section_of
from .brought import MINUS, PLUS, Brought, Gathered, cleaned, node_name

__all__ = ["FORMAT", "bring", "fits"]

FORMAT = "a wire list (CSV)"
_HEADINGS = {
    "from": ("from", "from pin", "start", "source", "end 1", "a", "von", "wire from"),
    "to": ("to", "to pin", "end", "destination", "target", "end 2", "b", "nach", "wire to"),
    "colour": ("colour", "color", "col", "wire colour", "wire color"),
    "section": ("section", "csa", "mm2", "mm²", "gauge", "awg", "size", "cross section", "cross-section"),
    "length": ("length", "len", "length m", "length (m)", "length [m]", "m", "length mm", "length (mm)", "length [mm]"),
    "name": ("wire", "name", "id", "signal", "no", "wire name", "wire no", "label"),
}
_END = re.compile(r"(?P<code>[A-Za-z]+[0-9]*[A-Za-z]?)(?:\s*(?:[:./\-]|\s+pin\s+|\s+)\s*(?P<pin>[A-Za-z0-9+\-]+))?", re.IGNORECASE)
_PLUS_WORDS = frozenset(
    {"bat+", "batt+", "b+", "battery+", "battery plus", "plus", "kl30", "terminal 30", "+12v", "12v", "+"}
)  # fmt: skip
_MINUS_WORDS = frozenset(
    {"bat-", "batt-", "b-", "battery-", "battery minus", "minus", "gnd", "ground", "body", "earth", "chassis", "kl31", "terminal 31", "-"}
)  # fmt: skip
# What a code's letters stand for on wiring diagrams, longest first. Common practice, no source.
_LETTERS: tuple[tuple[str, str], ...] = (
    ("LA", "lamp"), ("HL", "lamp"), ("LED", "LED lamp"), ("FU", "fuse"), ("SP", "splice"), ("GN", "ground"), ("F", "fuse"),
    ("S", "switch"), ("K", "relay"), ("Y", "valve"), ("M", "motor"), ("H", "lamp"), ("E", "lamp"), ("L", "lamp"), ("R", "resistor"),
    ("X", "plug"), ("C", "plug"), ("J", "plug"), ("P", "plug"), ("G", "ground"), ("B", "horn"),
)  # fmt: skip
USUAL_METRES, USUAL_SECTION, MOST_PIN = 3.0, 1.0, 199


@dataclass(frozen=True, slots=True)
class _End:
    """One end of a wire: a node, or a pin of a ``code``."""

    code: str
    pin: str
    node: str


def fits(name: str, text: str) -> bool:
    """Whether a file is a wire list: its first line has headings for both ends."""
    head = text.lstrip("\ufeff").split("\n", 1)[0]
    return name.lower().endswith((".csv", ".tsv")) or {"from", "to"} <= set(_columns(_row(head, _delimiter(head))))


def bring(name: str, text: str) -> Brought:
    """Read a wire list. Raises MakingError where it has no columns for the two ends of a wire."""
    lines = cleaned(text)
    mark = _delimiter(text)
    start = next((n for n, line in enumerate(lines) if line.strip()), 0)
    columns = _columns(_row(lines[start], mark))
    if not {"from", "to"} <= set(columns):
        raise MakingError(f"No columns are headed 'from' and 'to': the first line says {quoted(lines[start][:60])}.")
    gathered = Gathered(name.rpartition(".")[0].replace("_", " ") or "Wire list", "brought in", "Made from a wire list.")
    ends: dict[str, list[_End]] = {}
    rows = []
    for number, line in enumerate(lines[start + 1 :], start + 2):
        if not line.strip():
            continue
        row = _row(line, mark)
        cell = {key: row[at].strip() if at < len(row) else "" for key, at in columns.items()}
        try:
            one, other = _end(cell["from"]), _end(cell["to"])
            if one == other:
                raise MakingError(f"both ends are {quoted(cell['from'])}")
            wire = _wire(cell, "mm" in _heading(lines[start], mark, columns.get("length")))
        except MakingError as error:
            gathered.miss(number, f"{str(error).rstrip('.')}.")
            continue
        for end in (one, other):
            if end.code:
                ends.setdefault(end.code, []).append(end)
        rows.append((one, other, wire, cell))
    sides: dict[tuple[str, str], int] = {}
    for one, other, wire, cell in rows:
        nodes = [_side(end, sides) for end in (one, other)]
        gathered.add(cell.get("name") or "W1", "wire", {"a": nodes[0], "b": nodes[1]}, **wire)
    for code, own in ends.items():
        _component(gathered, code, own, sides)
    return gathered.done()


def _delimiter(text: str) -> str:
    head = text.split("\n", 1)[0]
    return max(",;\t|", key=head.count)


def _row(line: str, mark: str) -> list[str]:
    return next(csv.reader(io.StringIO(line), delimiter=mark), [])


def _columns(headings: Sequence[str]) -> dict[str, int]:
    found: dict[str, int] = {}
    for at, heading in enumerate(headings):
        said = " ".join(heading.lower().replace("_", " ").split())
        key = next((key for key, words in _HEADINGS.items() if said in words), "")
        if key and key not in found:
            found[key] = at
    return found


def _heading(line: str, mark: str, at: int | None) -> str:
    return _row(line, mark)[at].lower() if at is not None else ""


def _end(said: str) -> _End:
    words = " ".join(said.lower().split())
    if words in _PLUS_WORDS:
        return _End("", "", PLUS)
    if words in _MINUS_WORDS:
        return _End("", "", MINUS)
    if not words:
        raise MakingError("one end of the wire is missing: write it as X1:3, or as F14")
    match = _END.fullmatch(" ".join(said.split()))
    if match is None:
        raise MakingError(f"{quoted(said)} is no end of a wire: write it as X1:3, or as F14")
    code, pin = match["code"].upper(), match["pin"] or ""
    if code in ("BAT", "BATT", "G0") and pin in ("+", "-"):
        return _End("", "", PLUS if pin == "+" else MINUS)
    return _End(code, pin, "")


def _wire(cell: dict[str, str], millimetres: bool) -> dict[str, object]:
    said = cell.get("length", "")
    metres = length_of(f"{said} mm" if millimetres and said.replace(".", "").replace(",", "").isdecimal() else said)
    section = section_of(cell.get("section", ""))
    note, tolerance = "", None
    if metres is None or section is None:
        unknown = "length and section" if metres is None and section is None else "length" if metres is None else "section"
        tolerance = {"length": LENGTH_UNKNOWN, "section": SECTION_UNKNOWN}.get(unknown, BOTH_UNKNOWN)
        note = f"{unknown} not known, what is usual taken"
    size: dict[str, object] = {"awg": section} if isinstance(section, str) else {"csa_mm2": section or USUAL_SECTION}
    return {"length_m": metres or USUAL_METRES, **size, "tolerance": tolerance, "colour": cell.get("colour", "")[:40], "note": note}


def _letters(code: str) -> str:
    letters = re.match(r"[A-Z]+", code)
    return next((sort for prefix, sort in _LETTERS if letters and letters[0].startswith(prefix)), "")


def _side(end: _End, sides: dict[tuple[str, str], int]) -> str:
    """The node of an end. A plug's pin has two sides, which its first two wires take; a third hangs on the second."""
    if end.node:
        return end.node
    node = node_name(f"{end.code.lower()}.{end.pin}" if end.pin else end.code.lower())
    if _letters(end.code) not in ("plug", "fuse", "switch") or (not end.pin and _letters(end.code) == "plug"):
        return node
    if end.pin and _letters(end.code) != "plug":
        return node
    count = sides.get((end.code, end.pin), 0) + 1
    sides[end.code, end.pin] = count
    return node if count == 1 else f"{node}m"


def _component(gathered: Gathered, code: str, ends: list[_End], sides: dict[tuple[str, str], int]) -> None:
    """What stands at the ends that share a code."""
    sort, own = _letters(code), code.lower()
    pins = list(dict.fromkeys(end.pin for end in ends))
    nodes = [node_name(f"{own}.{pin}" if pin else own) for pin in pins]
    for pin, node in zip(pins, nodes, strict=True):
        gathered.place(node, f"{code} pin {pin}" if pin else code, connector=code if pin else "", cavity=pin)
    if sort == "plug":
        passed = [(pin, node) for pin, node in zip(pins, nodes, strict=True) if sides.get((code, pin), 0) > 1]
        own_numbers = all(pin.isdecimal() and 1 <= int(pin[:6]) <= MOST_PIN for pin, _ in passed)
        numbered: dict[str, str] = {}
        for n, (pin, node) in enumerate(passed, 1):
            number = str(int(pin)) if own_numbers else str(n)
            numbered |= {f"{number}a": node, f"{number}b": f"{node}m"}
            gathered.place(f"{node}m", f"{code} pin {pin}, far side", connector=code, cavity=pin)
        if numbered:
            gathered.add(code, "plug", numbered, label=f"plug {code}")
        return
    if sort == "splice" or (sort == "" and len(pins) == 1 and len(ends) > 1):
        return  # wires that meet in one node
    if sort == "ground":
        gathered.add(code, "ground", {"a": nodes[0], "b": MINUS}, label=f"ground {code}")
        return
    if sort in ("fuse", "switch"):
        pair = nodes if len(nodes) >= 2 else [nodes[0], f"{nodes[0]}m"]
        more = {"rating": 15} if sort == "fuse" else {}
        note = "rating not known, 15 A taken" if sort == "fuse" else ""
        gathered.add(code, sort, {"a": pair[0], "b": pair[1]}, **more, label=f"{sort} {code}", note=note)
        return
    if sort == "relay" and {"30", "87", "85", "86"} <= set(pins):
        terminals = {pin: node for pin, node in zip(pins, nodes, strict=True) if pin in ("30", "87", "85", "86", "87a")}
        gathered.add(code, "relay", terminals, label=f"relay {code}")
        gathered.seen[f"relay {code}"] = {"part": code, "sees": "clicks"}
        return
    if len(nodes) == 2 and sort not in ("", "relay"):
        gathered.load(code, sort, {"a": nodes[0], "b": nodes[1]}, f"{sort} {code}")
        return
    if len(nodes) == 1 and sort not in ("", "relay"):
        gathered.load(code, sort, {"a": nodes[0], "b": MINUS}, f"{sort} {code}")
        gathered.miss(0, f"{code} has one wire only: its other end is taken to be on its case.")
        return
    there = listed(pin or "one end" for pin in pins)
    gathered.miss(0, f"Nobody can tell what {code} is, with {there}: its pins are places, put it in on the drawing.")
