"""Single values of a roster as they are read: whole numbers, bytes, names, hazards, each with its flaw in one sentence."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from typing import Any, TypeVar

from ...base.brief import quoted
from ...circuit.read.reader import Reader, allowed
from ...evidence.hazards import HAZARDS

__all__ = ["LONGEST_S", "each", "hazards_in", "hex_bytes", "names_in", "number_of", "one_of", "optional", "whole"]

T = TypeVar("T")
LONGEST_S = 60.0  # of what a module does by command
_HEX = re.compile(r"(?:[0-9A-Fa-f]{2} ?){0,64}")


def each(reader: Reader, value: Any, path: str, what: str, one: Callable[[Reader, str, Any, str], T], most: int = 200) -> dict[str, T]:
    """Every entry of a mapping, by its name."""
    return {name: one(reader, name, item, f"{path}.{name}") for name, item in reader.named_mapping(value, path, what, most).items()}


def one_of(reader: Reader, value: Any, path: str, choices: list[str]) -> str:
    """One of some words."""
    if value not in choices:
        reader.flaw(path, f"must be one of {', '.join(choices)}, got {quoted(value)}")
        return choices[0]
    return str(value)


def whole(reader: Reader, value: Any, path: str, most: int, least: int = 0) -> int:
    """A whole number."""
    if not isinstance(value, int) or isinstance(value, bool) or not least <= value <= most:
        hexadecimal = most > 0xFF  # identifiers and masks are; counts, sizes and places are not
        such, limit = (f"{min(most, 0x712):#x}", f"{most:#x}") if hexadecimal else (f"{min(most, 2)}", f"{most}")
        reader.flaw(path, f"must be a whole number such as {such}, at most {limit}, got {quoted(value)}")
        return least
    return value


def hex_bytes(reader: Reader, value: Any, path: str) -> bytes:
    """Bytes in hexadecimal digits."""
    text = value if isinstance(value, str) else "" if value is None else f"{value:02d}" if isinstance(value, int) else "?"
    if not _HEX.fullmatch(text):
        reader.flaw(path, f'must be bytes in hexadecimal digits and quotes, such as "01 F4", got {quoted(value)}')
        return b""
    return bytes.fromhex(text)


def optional(reader: Reader, given: Mapping[str, Any], key: str, path: str) -> float | None:
    """A number, or None where it is missing."""
    return None if given.get(key) is None else reader.number(given[key], f"{path}.{key}", "a number", "")


def number_of(reader: Reader, given: Mapping[str, Any], key: str, path: str, usual: float, least: str = "", most: float = 1e12) -> float:
    """A number, or the usual one where it is missing."""
    found = usual if given.get(key) is None else reader.number(given[key], f"{path}.{key}", "a number", least)
    if found is not None and found > most:
        reader.flaw(f"{path}.{key}", f"must be at most {most:g}, got {quoted(given[key])}")
    return usual if found is None else found


def names_in(reader: Reader, value: Any, path: str) -> tuple[str, ...]:
    """A list of names, or one."""
    if value is None:
        return ()
    items = value if isinstance(value, list) else [value]
    if not all(isinstance(item, str) for item in items) or len(items) > 40:
        reader.flaw(path, f"must be a list of names, got {quoted(value)}")
        return ()
    return tuple(items)


def hazards_in(reader: Reader, value: Any, path: str) -> tuple[str, ...]:
    """Names of hazards."""
    names = names_in(reader, value, path)
    for name in names:
        if name not in HAZARDS:
            reader.flaw(path, f"{quoted(name)} is no hazard that is known here; {allowed(HAZARDS)}")
    return tuple(name for name in names if name in HAZARDS)
