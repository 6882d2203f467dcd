"""Reads a sheet's ``limits``."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Any

from ...base.brief import listed, quoted
from ..limit import WHATS, Limit
from ..sheet import Part, State
from .reader import Reader

__all__ = ["limits_of"]

MOST_LIMITS = 400
_KEYS = ("what", "at", "from", "to", "of", "state", "least", "most", "temperature", "source", "note")


def limits_of(reader: Reader, value: Any, parts: Mapping[str, Part], states: Mapping[str, State]) -> tuple[Limit, ...]:
    """Read a sheet's ``limits``; flaws go to the reader."""
    if value is None or value == {}:
        return ()
    if not isinstance(value, list):
        hint = "a list of limits such as {what: volts, at: lamp.feed, least: 11.5, source: ...}"
        reader.flaw("limits", f"must be {hint}, got {quoted(value)}")
        return ()
    if len(value) > MOST_LIMITS:
        reader.flaw("limits", f"holds {len(value)} limits; at most {MOST_LIMITS} fit on one sheet")
        return ()
    nodes = {node for part in parts.values() for node in part.pins.values()}
    made = []
    for number, item in enumerate(value):
        path = f"limits.{number + 1}"
        flaws = reader.count
        given = reader.mapping(item, path, "a mapping with what, source, and least or most")
        reader.keys(given, _KEYS, path)
        what = given.get("what")
        if not isinstance(what, str) or what not in WHATS:
            reader.flaw(f"{path}.what", f"must be one of {', '.join(WHATS)}, got {quoted(what)}")
            continue
        ends = {key: reader.text(given.get(key), f"{path}.{key}") for key in ("at", "from", "to", "of", "state", "source", "note")}
        _check_place(reader, path, str(what), ends, nodes, parts)
        if ends["state"] and ends["state"] not in states:
            reader.flaw(f"{path}.state", f"no state of that name, got {quoted(ends['state'])}; there are {listed(states) or 'none'}")
        elif not ends["state"] and what != "ohms":
            reader.flaw(f"{path}.state", "is missing: volts and amperes depend on the state")
        if not ends["source"]:
            reader.flaw(f"{path}.source", "is missing: a limit says who gives it, 'common practice' if nobody does")
        least, most = (
            reader.number(given[key], f"{path}.{key}", f"a number of {WHATS[str(what)]}", "any") if key in given else otherwise
            for key, otherwise in (("least", -math.inf), ("most", math.inf))
        )
        if "least" not in given and "most" not in given:
            reader.flaw(path, "needs least or most")
        elif least is not None and most is not None and least > most:
            reader.flaw(path, f"least ({least:g}) is above most ({most:g})")
        warm = None
        if "temperature" in given:
            warm = reader.number(given["temperature"], f"{path}.temperature", "a number of degrees Celsius", "any")
        if reader.count == flaws and least is not None and most is not None:
            start, end = (ends["at"], "") if what == "volts" else (ends["from"], ends["to"])
            made.append(Limit(str(what), start, end, ends["of"], ends["state"], least, most, ends["source"], warm, ends["note"]))
    return tuple(made)


def _check_place(reader: Reader, path: str, what: str, ends: Mapping[str, str], nodes: set[str], parts: Mapping[str, Part]) -> None:
    wanted = {"volts": ("at",), "drop": ("from", "to"), "amps": ("of",), "ohms": ("of",) if ends["of"] else ("from", "to")}[what]
    for key in wanted:
        if not ends[key]:
            reader.flaw(f"{path}.{key}", f"is missing: {what} {'is' if what == 'drop' else 'are'} limited {' and '.join(wanted)} something")
        elif key == "of" and ends[key] not in reader.named:
            reader.flaw(f"{path}.of", f"no part of that name, got {quoted(ends[key])}")
        elif key != "of" and ends[key] not in nodes and len(parts) == len(reader.named):
            reader.flaw(f"{path}.{key}", f"no part has a pin on this node, got {quoted(ends[key])}")
    for key in ("at", "from", "to", "of"):
        if ends[key] and key not in wanted:
            reader.flaw(f"{path}.{key}", f"has no place in a limit of {what}; give {' and '.join(wanted)}")
