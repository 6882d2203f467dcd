"""What a roster says to a simulated vehicle, read with every flaw named by its place."""

from __future__ import annotations

import re
from itertools import pairwise
from typing import Any

from ...base.brief import quoted
from ...circuit.read.reader import Reader
from .simulated import Freezes, Rehearsed, Simulated, Stepped
from .values import LONGEST_S, each, number_of

__all__ = ["FREEZES_KEYS", "REHEARSED_KEYS", "STAND_IN_KEYS", "STEPPED_KEYS", "simulated_in"]

STAND_IN_KEYS = ("vin", "facts", "texts", "renewed", "values", "routines", "drives", "hangs", "signals")
STEPPED_KEYS = ("start", "part", "output", "per_s", "leaks", "least", "most")
REHEARSED_KEYS = ("seconds", "wants")
FREEZES_KEYS = ("off_s", "wakes_s")
_MOST_CORNERS = 200


def simulated_in(reader: Reader, value: Any, path: str) -> Simulated:
    """What stands under ``stand_in``."""
    given = reader.mapping(value, path, "a mapping with facts and values")
    reader.keys(given, STAND_IN_KEYS, path)
    facts = reader.named_mapping(given.get("facts"), f"{path}.facts", "a mapping of names to numbers")
    return Simulated(
        reader.text(given.get("vin"), f"{path}.vin", 17),
        {name: reader.number(own, f"{path}.facts.{name}", "a number", "") or 0.0 for name, own in facts.items()},
        _texts(reader, given.get("texts"), f"{path}.texts"), _texts(reader, given.get("renewed"), f"{path}.renewed"),
        each(reader, given.get("values"), f"{path}.values", "a mapping of names to values", _stepped),
        each(reader, given.get("routines"), f"{path}.routines", "a mapping of MODULE.ROUTINE to how it goes", _rehearsed),
        each(reader, given.get("drives"), f"{path}.drives", "a mapping of names to what facts do", _drive),
        each(reader, given.get("hangs"), f"{path}.hangs", "a mapping of modules to how they are woken", _freezes),
        each(reader, given.get("signals"), f"{path}.signals", "a mapping of signals to what they say", _signal, 400),
    )  # fmt: skip


def _texts(reader: Reader, value: Any, path: str) -> dict[str, str]:
    return {name: reader.text(own, f"{path}.{name}", 64) for name, own in reader.named_mapping(value, path, "a mapping to texts").items()}


def _drive(reader: Reader, name: str, item: Any, path: str) -> dict[str, tuple[tuple[float, float], ...]]:
    facts = reader.named_mapping(item, path, "a mapping of facts to pairs of seconds and number")
    return {fact: _corners(reader, own, f"{path}.{fact}") for fact, own in facts.items()}


def _corners(reader: Reader, value: Any, path: str) -> tuple[tuple[float, float], ...]:
    found = [pair for pair in value if _is_pair(pair)] if isinstance(value, list) and len(value) <= _MOST_CORNERS else []
    if not found or len(found) != len(value) or any(later[0] <= pair[0] for pair, later in pairwise(found)):
        reader.flaw(path, f"must be pairs of seconds and number in their order, such as [[0, 0], [4, 10]], got {quoted(value)}")
        return ((0.0, 0.0),)
    return tuple((float(at), float(own)) for at, own in found)


def _is_pair(value: Any) -> bool:
    return (
        isinstance(value, list) and len(value) == 2
        and all(isinstance(own, (int, float)) and not isinstance(own, bool) and abs(own) <= 1e9 for own in value)
    )  # fmt: skip


def _stepped(reader: Reader, name: str, item: Any, path: str) -> Stepped:
    given = reader.mapping(item, path, "a mapping such as {start: 60, part: Y1, per_s: -5}")
    reader.keys(given, STEPPED_KEYS, path)
    return Stepped(
        number_of(reader, given, "start", path, 0.0), reader.text(given.get("part"), f"{path}.part", 60),
        reader.text(given.get("output"), f"{path}.output", 130),
        number_of(reader, given, "per_s", path, 0.0), number_of(reader, given, "leaks", path, 0.0),
        number_of(reader, given, "least", path, -1e9), number_of(reader, given, "most", path, 1e9),
    )  # fmt: skip


def _rehearsed(reader: Reader, name: str, item: Any, path: str) -> Rehearsed:
    given = reader.mapping(item, path, "a mapping such as {seconds: 3, wants: {speed: [0, 0]}}")
    reader.keys(given, REHEARSED_KEYS, path)
    wants: dict[str, tuple[float, float]] = {}
    for fact, pair in reader.mapping(given.get("wants"), f"{path}.wants", "a mapping of facts to [least, most]").items():
        if _is_pair(pair):
            wants[fact] = float(pair[0]), float(pair[1])
        else:
            reader.flaw(f"{path}.wants.{fact}", f"must be [least, most], got {quoted(pair)}")
    return Rehearsed(number_of(reader, given, "seconds", path, 1.0, "zero", LONGEST_S), wants)


_SIGNAL = re.compile(r"count|(?:code )?[^.]{1,60}\.[^.]{1,60}")


def _signal(reader: Reader, name: str, item: Any, path: str) -> float | str:
    if isinstance(item, str) and _SIGNAL.fullmatch(item):
        return item
    if isinstance(item, (int, float)) and not isinstance(item, bool) and abs(item) <= 1e12:
        return float(item)
    reader.flaw(path, f"must be a number, count, MODULE.DATUM or 'code MODULE.CODE', got {quoted(item)}")
    return 0.0


def _freezes(reader: Reader, name: str, item: Any, path: str) -> Freezes:
    given = reader.mapping(item, path, "a mapping such as {off_s: 12, wakes_s: 3}")
    reader.keys(given, FREEZES_KEYS, path)
    return Freezes(
        number_of(reader, given, "off_s", path, 15.0, "zero", 3600.0), number_of(reader, given, "wakes_s", path, 2.0, "zero", 600.0)
    )  # fmt: skip
