"""Reads a sheet's ``limits``."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from ...base.brief import listed, quoted
from ...base.conditions import Conditions, parse_conditions
from ...base.errors import ReadingError
from ...check.limit import KINDS, Limit, around, kind_of_source
from ..limit import WHATS, SheetLimit
from ..sheet import Part, State
from .fits import fits_of
from .reader import Reader

__all__ = ["limits_of"]

MOST_LIMITS = 400
_ENDS = ("at", "from", "to", "of")
_TEXTS = (*_ENDS, "state", "source", "note", "conditions")
_KEYS = ("what", *_TEXTS, "least", "most", "nominal", "percent", "temperature", "whose", "fits")


def limits_of(reader: Reader, value: Any, parts: Mapping[str, Part], states: Mapping[str, State]) -> tuple[SheetLimit, ...]:
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
    found = []
    for number, item in enumerate(value):
        path = f"limits.{number + 1}"
        flaws = reader.count
        given = reader.mapping(item, path, "a mapping with what, source, and least or most")
        reader.keys(given, _KEYS, path)
        what = given.get("what")
        if not isinstance(what, str) or what not in WHATS:
            reader.flaw(f"{path}.what", f"must be one of {', '.join(WHATS)}, got {quoted(what)}")
            continue
        texts = {key: reader.text(given.get(key), f"{path}.{key}") for key in _TEXTS}
        _check_place(reader, path, str(what), texts, nodes, parts)
        if texts["state"] and texts["state"] not in states:
            reader.flaw(f"{path}.state", f"no state of that name, got {quoted(texts['state'])}; there are {listed(states) or 'none'}")
        elif not texts["state"] and what != "ohms":
            reader.flaw(f"{path}.state", "is missing: volts and amperes depend on the state")
        if not texts["source"]:
            reader.flaw(f"{path}.source", "is missing: a limit says who gives it, 'common practice' if nobody does")
        fits = fits_of(reader, given.get("fits"), f"{path}.fits")
        limit = _limit(reader, path, given, WHATS[what], texts["source"], _conditions(reader, path, given, texts["conditions"]))
        if reader.count == flaws and limit is not None:
            start, end = (texts["at"], "") if what == "volts" else (texts["from"], texts["to"])
            found.append(SheetLimit(what, start, end, texts["of"], texts["state"], limit, texts["note"], fits))
    return tuple(found)


def _limit(reader: Reader, path: str, given: Mapping[str, Any], unit: str, source: str, conditions: Conditions) -> Limit | None:
    """The edges, whether they are given as least and most or as a nominal value with a percentage; None where they are not right."""
    whose = given.get("whose", kind_of_source(source))
    if whose not in KINDS:
        reader.flaw(f"{path}.whose", f"must be one of {', '.join(KINDS)}, got {quoted(whose)}")
        return None
    number = {
        key: reader.number(given[key], f"{path}.{key}", f"a number of {'per cent' if key == 'percent' else unit}", "any")
        for key in ("least", "most", "nominal", "percent")
        if key in given
    }
    if None in number.values():
        return None
    edges = {key: float(value) for key, value in number.items() if value is not None}
    if "nominal" in edges or "percent" in edges:
        if set(edges) != {"nominal", "percent"} or edges["percent"] < 0.0:
            reader.flaw(path, "a nominal value stands with percent, zero or more, and without least and most")
            return None
        return around(edges["nominal"], edges["percent"], unit, source, str(whose), conditions)
    if not edges:
        reader.flaw(path, "needs least or most, or nominal with percent")
        return None
    least, most = edges.get("least", -math.inf), edges.get("most", math.inf)
    if least > most:
        reader.flaw(path, f"least ({least:g}) is above most ({most:g})")
        return None
    return Limit(unit, least, most, source, str(whose), conditions)


def _conditions(reader: Reader, path: str, given: Mapping[str, Any], text: str) -> Conditions:
    """The conditions that a limit holds under: those written ``@20C @idle``, and the older ``temperature``."""
    found = Conditions()
    try:
        found = parse_conditions(text)
    except ReadingError as error:
        reader.flaw(f"{path}.conditions", str(error))
    if "temperature" in given:
        warm = reader.number(given["temperature"], f"{path}.temperature", "a number of degrees Celsius", "any")
        if warm is not None and found.celsius is not None:
            reader.flaw(f"{path}.temperature", "says once more what conditions say: leave one of the two out")
        found = replace(found, celsius=warm)
    return found


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
