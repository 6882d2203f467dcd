"""What is usually behind a code, in the order in which it is worth looking: harness, part, supply, connection, the module last.

The lists that ship are common practice without a source; a workshop adds its own from a table (CSV or JSON), which go before them.
"""

from __future__ import annotations

import csv
import io
import json
import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from ..base.brief import first_unshowable, quoted
from ..base.judgement import COMMON_PRACTICE
from .fault_code import CodeError, FaultCode

__all__ = ["MOST_LISTS", "SHIPPED", "CauseList", "causes_for", "lists_from_text", "lists_kept", "kept_lists"]

MOST_LISTS, _MOST_CAUSES, _LONGEST = 2000, 12, 160
_PATTERN = re.compile(r"[PCBU*][0-9A-FX*]{0,4}(?:-[0-9A-FX]{2})?|\*(?:-[0-9A-FX]{2})|flash \d{1,2}(?:-\d{1,2})?", re.IGNORECASE)


@dataclass(frozen=True, slots=True)
class CauseList:
    """Usual causes of the codes that a ``pattern`` fits (``P02XX``, ``*-13``), and whose list that is."""

    pattern: str
    causes: tuple[str, ...]
    origin: str = COMMON_PRACTICE

    def fits(self, code: FaultCode) -> bool:
        """Whether it is about a code."""
        wanted, _, failure = self.pattern.upper().partition("-") if not self.pattern.lower().startswith("flash") else (self.pattern, "", "")
        if self.pattern.lower().startswith("flash"):
            return code.code == self.pattern.lower()
        if code.is_flash:
            return False
        own = wanted.replace("*", "").ljust(5, "X")
        return _alike(own, code.code) and (not failure or _alike(failure, code.failure or "--"))

    @property
    def closeness(self) -> int:
        """How many characters it names: the list that names most is closest."""
        return sum(c not in "X*-" for c in self.pattern.upper())


def _alike(pattern: str, text: str) -> bool:
    return len(pattern) == len(text) and all(p in ("X", c) for p, c in zip(pattern, text, strict=True))


_OPEN = ("the wire or plug between module and part, open or drawn back", "the part itself, open", "its supply or ground missing",
         "a bad joint that only shows under load", "the module's output or input, last of all")  # fmt: skip
_TO_GROUND = ("a wire chafed through to metal", "the part itself, shorted inside", "water or crust in the plug",
              "the module's output or input, last of all")  # fmt: skip
_TO_PLUS = ("a wire that touches one with battery voltage", "crust between two pins of the plug", "the part's ground open: it floats up",
            "the module, last of all")  # fmt: skip
SHIPPED: tuple[CauseList, ...] = (
    CauseList("*-11", _TO_GROUND),
    CauseList("*-12", _TO_PLUS),
    CauseList("*-13", _OPEN),
    CauseList("*-14", (*_OPEN[:2], *_TO_GROUND[:1], *_OPEN[2:])),
    CauseList("*-15", (*_OPEN[:2], *_TO_PLUS[:1], *_OPEN[2:])),
    CauseList("*-16", ("supply low: battery, charging, a joint on the way", *_TO_GROUND)),
    CauseList("*-17", ("charging too high", *_TO_PLUS)),
    CauseList("*-1F", ("a joint that opens with movement or heat", "a wire broken inside its insulation", "a plug pin spread open")),
    CauseList("*-31", ("the sensor's supply or ground missing", "its signal wire open", "the sensor and its gap", "the module, last")),
    CauseList("*-64", ("two sensors that disagree: which one is right?", "a bad joint in one of them", "something mechanical", "the part")),
    CauseList("*-71", ("the part is jammed", "its supply is weak", "its linkage")),
    CauseList("*-87", ("the silent module's supply, ground or wake line", "its stub or plug", "the bus as a whole", "that module")),
    CauseList("*-88", ("the two bus lines shorted together or to ground", "a module that disturbs: unplug one at a time", "an end open")),
    CauseList("*-96", ("supply and ground of the part under load", "what destroyed it from outside", "the part")),
    CauseList("P02XX", ("the injector's plug or wire", "the injector, cold and hot", "its common supply", "the module's driver, last")),
    CauseList("P03XX", ("the coil's plug, supply and ground", "the plug and its lead", "the injector of that cylinder", "compression")),
    CauseList("P04XX", ("vapour leaks and hoses before any valve", "the valve: rests shut or open as it should?", "its plug and wire")),
    CauseList("P05XX", ("the wire or plug of the sensor", "its supply and reference", "charging voltage", "the sensor")),
    CauseList("P07XX", ("fluid level and plug: oil in the pins?", "the solenoid beside its twins", "the wire to it", "the module, last")),
    CauseList("P0AXX", ("only the low-voltage side: interlock loop, crash flag, supply of the modules", "the rest: qualified people")),
    CauseList("U00XX", ("the bus lines: ends, shorts, a chafed place", "one module that disturbs the bus", "a junction or splice")),
    CauseList("U01XX", ("supply, ground and wake line of the module that is silent", "its stub and plug", "the bus", "that module, last")),
    CauseList("U04XX", ("look for a code in the module that sends the data", "a part or software of another version")),
    CauseList("CXXXX", ("the sensor's plug and wire, where the wheel moves them", "the sensor and its gap", "supply of the module")),
    CauseList("BXXXX", ("plug and wire where door, seat or lid move them", "supply and ground under load", "the part", "the module, last")),
)  # fmt: skip


def causes_for(code: FaultCode, own: Iterable[CauseList] = ()) -> tuple[CauseList, ...]:
    """The lists for a code: a workshop's own first, of each the closest first; at most three."""
    theirs = sorted((one for one in own if one.fits(code)), key=lambda one: -one.closeness)
    shipped = sorted((one for one in SHIPPED if one.fits(code)), key=lambda one: (not one.pattern.startswith("*-"), -one.closeness))
    return (*theirs, *shipped)[:3]


def lists_from_text(text: str, origin: str) -> tuple[CauseList, ...]:
    """A workshop's cause lists from CSV (``pattern,cause,cause,…`` a line, or ``code`` and ``cause`` under headings, one cause a line) or
    JSON (``{"P02XX": ["…"]}``). Raises CodeError naming the line."""
    bad = first_unshowable(text.replace("\r", ""))
    if bad:
        raise CodeError(f"The table holds a character that no screen can show ({bad}): is it a file of another kind?")
    stripped = text.strip()
    if not stripped:
        raise CodeError("The table is empty: a line has a code or pattern such as P02XX, and then its causes.")
    pairs = _from_json(stripped) if stripped[0] in "{[" else _from_csv(stripped)
    by_pattern: dict[str, list[str]] = {}
    for where, pattern, causes in pairs:
        name = pattern.strip()
        name = name.lower() if name.lower().startswith("flash") else name.upper()
        if not _PATTERN.fullmatch(name):
            raise CodeError(f"{where}: {quoted(pattern)} is no code and no pattern of one, such as P0201, P02XX or *-13.")
        known = by_pattern.setdefault(name, [])
        known += [cause for cause in causes if cause and cause not in known]
        if any(len(cause) > _LONGEST for cause in known):
            raise CodeError(f"{where}: a cause is longer than {_LONGEST} characters; say it shorter.")
        if len(known) > _MOST_CAUSES:
            raise CodeError(f"{where}: {pattern} has more than {_MOST_CAUSES} causes; name those that are worth looking for.")
    empty = next((name for name, causes in by_pattern.items() if not causes), "")
    if empty:
        raise CodeError(f"{empty} has no cause: write them behind it, a comma between.")
    if len(by_pattern) > MOST_LISTS:
        raise CodeError(f"{len(by_pattern):,} patterns are too many: at most {MOST_LISTS:,} are kept.")
    return tuple(CauseList(name, tuple(causes), origin) for name, causes in by_pattern.items())


def _from_json(text: str) -> list[tuple[str, str, list[str]]]:
    try:
        found = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise CodeError(f"The table is no JSON: {str(error)[:80]}.") from error
    if not isinstance(found, Mapping) or not all(isinstance(v, list) and all(isinstance(c, str) for c in v) for v in found.values()):
        raise CodeError('The table must be like {"P02XX": ["first cause", "second cause"]}.')
    return [(f"Entry {n}", str(pattern), [c.strip() for c in causes]) for n, (pattern, causes) in enumerate(found.items(), 1)]


def _from_csv(text: str) -> list[tuple[str, str, list[str]]]:
    delimiter = ";" if text.splitlines()[0].count(";") > text.splitlines()[0].count(",") else ","
    rows = [(n, [cell.strip() for cell in row]) for n, row in enumerate(csv.reader(io.StringIO(text), delimiter=delimiter), 1) if any(row)]
    heads = [cell.lower() for cell in rows[0][1]]
    return [(f"Line {n}", row[0], row[1:]) for n, row in rows if not (n == rows[0][0] and heads[0] in ("code", "pattern"))]


def lists_kept(lists: Iterable[CauseList]) -> str:
    """Lists as they are kept, one origin for all of them."""
    return json.dumps({one.pattern: list(one.causes) for one in lists}, ensure_ascii=False)


def kept_lists(text: str, origin: str) -> tuple[CauseList, ...]:
    """The lists that were kept."""
    return tuple(CauseList(pattern, tuple(causes), origin) for pattern, causes in json.loads(text).items())
