"""Reads a sheet's ``codes`` and the outcome tables of its ``tests``."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Any

from ...base.brief import listed, quoted
from ..sheet import Access, Part, State
from ..tables import OTHERWISE, Code, OutcomeTable
from .reader import Reader

__all__ = ["codes_of", "tables_of"]

MOST_OUTCOMES, LONGEST_OUTCOME = 8, 60
_CODE_KEYS = ("at", "state", "below", "above", "fed", "meaning", "note")
_TABLE_KEYS = ("minutes", "state", "behind", "note", "caution", "acknowledge", "outcomes", "given")


def codes_of(reader: Reader, value: Any, parts: Mapping[str, Part], states: Mapping[str, State]) -> dict[str, Code]:
    """Read a sheet's ``codes``; flaws go to the reader."""
    nodes = {node for part in parts.values() for node in part.pins.values()}
    codes = {}
    for name, item in reader.named_mapping(value, "codes", "a mapping of codes such as P0123: {at: n1.12, state: on, below: 0.2}").items():
        path, flaws = f"codes.{name}", reader.count
        given = reader.mapping(item, path, "a mapping with at, state, and below or above")
        reader.keys(given, _CODE_KEYS, path)
        at, fed, state = (reader.text(given.get(key), f"{path}.{key}") for key in ("at", "fed", "state"))
        for key, node in (("at", at), ("fed", fed)):
            if node not in nodes and len(parts) == len(reader.named) and (node or key == "at"):
                reader.flaw(f"{path}.{key}", f"no part has a pin on this node, got {quoted(node)}")
        if state not in states:
            reader.flaw(f"{path}.state", f"no state of that name, got {quoted(state)}; there are {listed(states) or 'none'}")
        elif states[state].battery == "off":
            reader.flaw(f"{path}.state", f"the battery is off in state {state}: no module sets a code there")
        if "below" not in given and "above" not in given:
            reader.flaw(path, "needs below or above: the volts that set it")
        below, above = (
            reader.number(given[key], f"{path}.{key}", "a number of volts", "any") if key in given else otherwise
            for key, otherwise in (("below", -math.inf), ("above", math.inf))
        )
        if reader.count == flaws and below is not None and above is not None:
            codes[name] = Code(name, at, state, below, above, fed, reader.text(given.get("meaning"), f"{path}.meaning"))
    return codes


def tables_of(
    reader: Reader, value: Any, parts: Mapping[str, Part], states: Mapping[str, State], access: Mapping[str, Access]
) -> dict[str, OutcomeTable]:
    """Read a sheet's ``tests``; flaws go to the reader."""
    tables = {}
    hint = "a mapping of tests such as hold: {outcomes: [holds, leaks], given: {otherwise: [0.98, 0.02], Y3: [0.1, 0.9]}}"
    for name, item in reader.named_mapping(value, "tests", hint).items():
        path, flaws = f"tests.{name}", reader.count
        entry = reader.mapping(item, path, "a mapping with outcomes and given")
        reader.keys(entry, _TABLE_KEYS, path)
        outcomes = entry.get("outcomes")
        words = [str(o).lower() for o in outcomes] if isinstance(outcomes, list) and len(outcomes) <= MOST_OUTCOMES else []
        if len(words) < 2 or len(set(words)) < len(words) or not all(0 < len(word) <= LONGEST_OUTCOME for word in words):
            most = f"(at most {MOST_OUTCOMES}, of {LONGEST_OUTCOME} characters)"
            reader.flaw(f"{path}.outcomes", f"must list two or more different outcomes {most}, got {quoted(outcomes)}")
            continue
        texts = {key: reader.text(entry.get(key), f"{path}.{key}") for key in ("state", "behind", "note", "caution")}
        for key, known in (("state", states), ("behind", access)):
            if texts[key] and texts[key] not in known:
                reader.flaw(f"{path}.{key}", f"no {key if key == 'state' else 'access'} of that name, got {quoted(texts[key])}")
        minutes = reader.number(entry.get("minutes", 1.0), f"{path}.minutes", "zero or a positive number of minutes", "zero")
        given = _given(reader, entry.get("given"), f"{path}.given", len(words), parts)
        if reader.count == flaws and minutes is not None:
            tables[name] = OutcomeTable(name, tuple(words), given, minutes, **texts, acknowledge=reader.flag(entry, "acknowledge", path))
    return tables


def _given(reader: Reader, value: Any, path: str, count: int, parts: Mapping[str, Part]) -> dict[str | tuple[str, str], tuple[float, ...]]:
    shares_of: dict[str | tuple[str, str], tuple[float, ...]] = {}
    rows = reader.mapping(value, path, "a mapping from faults to probabilities")
    if OTHERWISE not in rows:
        reader.flaw(path, "needs 'otherwise': how likely each outcome is when no named fault is there")
    for name, row in rows.items():
        good = isinstance(row, list) and len(row) == count and all(isinstance(p, (int, float)) and 0.0 <= p <= 1.0 for p in row)
        if not good or abs(sum(row) - 1.0) > 0.001:
            reader.flaw(f"{path}.{name}", f"must be {count} probabilities that sum to 1, got {quoted(row)}")
            continue
        # A certain outcome would let one slip of the tongue kill the truth.
        shares = tuple(0.996 * float(p) + 0.004 / count for p in row)
        part, _, mode = name.rpartition(".")
        if name == OTHERWISE or name in parts:
            shares_of[name] = shares
        elif part in parts and any(m.name == mode for m in parts[part].modes):
            shares_of[part, mode] = shares
        elif len(parts) == len(reader.named):
            reader.flaw(f"{path}.{name}", "is neither a part nor PART.MODE of this sheet")
    return shares_of
