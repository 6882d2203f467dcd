"""Reads a sheet's mappings, texts and numbers and collects the flaws, so that the errors of a sheet come all at once."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

from ...base.brief import listed, near, quoted

__all__ = ["LONGEST_NAME", "MOST_OF_EACH", "Reader", "allowed"]

LEAST, MOST = 1e-15, 1e12  # sizes of numbers beyond which nothing on a vehicle lies
# What a sheet may hold: far beyond what one complaint needs, and little enough to be checked and drawn at once.
MOST_OF_EACH = 400  # parts, places, limits and other entries under one heading
LONGEST_NAME, LONGEST_TEXT = 60, 1000  # characters
MOST_FLAWS = 60  # told at once; who mends those sees the others


class Reader:
    """Collects flaws while reading, so that a sheet's errors come all at once."""

    def __init__(self) -> None:
        self.flaws: list[tuple[str, str]] = []
        self.untold = 0  # flaws beyond those told
        self.named: frozenset[str] = frozenset()  # parts that the sheet names, good or not: one flaw in a part is not told twice

    def flaw(self, path: str, text: str) -> None:
        if len(self.flaws) < MOST_FLAWS:
            self.flaws.append((path if len(path) <= 2 * LONGEST_NAME else f"{path[: 2 * LONGEST_NAME]}…", text))
        else:
            self.untold += 1

    @property
    def count(self) -> int:
        """How many flaws there are so far."""
        return len(self.flaws) + self.untold

    @property
    def told(self) -> tuple[tuple[str, str], ...]:
        """The flaws; of very many the first, and a last line that counts the others."""
        more = (("", f"has {self.untold} more flaws: mend these first"),) if self.untold else ()
        return (*self.flaws, *more)

    def near(self, name: str, names: Iterable[str]) -> str:
        """As `near`, as long as it will be told."""
        return near(name, names) if len(self.flaws) < MOST_FLAWS else ""

    def mapping(self, value: Any, path: str, what: str, most: int = MOST_OF_EACH) -> dict[str, Any]:
        if value is None:
            return {}
        if not isinstance(value, dict):
            self.flaw(path, f"must be {what}, got {quoted(value)}")
            return {}
        if len(value) > most:
            self.flaw(path, f"holds {len(value)} entries; at most {most} fit on one sheet: split the circuit")
            return {}
        by_name = {str(key): item for key, item in value.items()}
        if len(by_name) < len(value):
            self.flaw(path, "holds one name twice, once as a number and once as a text")
        return by_name

    def named_mapping(self, value: Any, path: str, what: str, most: int = MOST_OF_EACH) -> dict[str, Any]:
        """As `mapping`, of things that the keys name: a name is neither empty nor longer than ``LONGEST_NAME``."""
        by_name = self.mapping(value, path, what, most)
        for name in [n for n in by_name if not n.strip() or len(n) > LONGEST_NAME]:
            self.flaw(f"{path}.{name}", f"a name has 1 to {LONGEST_NAME} characters, got {len(name)}: {quoted(name)}")
            del by_name[name]
        return by_name

    def keys(self, given: Mapping[str, Any], names: Iterable[str], path: str) -> None:
        known = list(names)
        for key in given:
            if key not in known:
                # {at: pin 1, cab side} reads as a key "cab side" with nothing behind it
                comma = " (a text that holds a comma needs quotes)" if given[key] is None and " " in key else ""
                self.flaw(f"{path}.{key}" if path else key, f"unknown key{comma}; {allowed(known)}")

    def text(self, value: Any, path: str, longest: int = LONGEST_TEXT) -> str:
        if value is None:
            return ""
        if isinstance(value, (dict, list, bool)):
            self.flaw(path, f"must be text, got {quoted(value)}")
            return ""
        if isinstance(value, str) and len(value) > longest:
            self.flaw(path, f"is {len(value):,} characters long; at most {longest:,} fit")
            return ""
        return str(value)

    def flag(self, given: Mapping[str, Any], key: str, path: str) -> bool:
        """A key that is true or false, false where it is missing."""
        value = given.get(key, False)
        if not isinstance(value, bool):
            self.flaw(f"{path}.{key}" if path else key, f"must be true or false, got {quoted(value)}")
        return value is True

    def number(self, value: Any, path: str, wanted: str, least: str) -> float | None:
        good = isinstance(value, (int, float)) and not isinstance(value, bool) and (value == 0 or LEAST <= abs(value) <= MOST)
        if not good or (least == "positive" and value <= 0) or (least == "zero" and value < 0):
            self.flaw(path, f"must be {wanted}, got {quoted(value)}")
            return None
        return float(value)


def allowed(names: Iterable[str]) -> str:
    """The end of a sentence that says what may stand there."""
    known = list(names)
    return f"allowed: {listed(known, 30)}" if known else "none is allowed here"
