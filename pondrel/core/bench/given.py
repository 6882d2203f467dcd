"""What was given for a check, as it was typed: how it is kept, and how it becomes a case again."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from ..meter.handheld import Handheld
from .case import Case
from .family import Family
from .written import case_from

__all__ = ["Given", "given_from"]


@dataclass(frozen=True, slots=True)
class Given:
    """Settings and readings as pairs of a name and what was typed, limits line by line, a pasted table, and the meter's name."""

    settings: tuple[tuple[str, str], ...] = ()
    reads: tuple[tuple[str, str], ...] = ()
    limits: tuple[str, ...] = ()
    points: str = ""
    meter: str = ""

    def case(self, family: Family, meter: Handheld) -> Case:
        """The case that it is. Raises ReadingError with one sentence."""
        return case_from(family, self.settings, self.reads, self.limits, self.points, meter)

    def as_json(self) -> dict[str, object]:
        """As it is kept."""
        return {
            "settings": [list(pair) for pair in self.settings], "reads": [list(pair) for pair in self.reads], "limits": list(self.limits),
            "points": self.points, "meter": self.meter,
        }  # fmt: skip

    def __bool__(self) -> bool:
        """Whether anything was read or pasted, or set."""
        return bool(self.reads or self.points.strip() or self.settings)


def given_from(kept: Mapping[str, object]) -> Given:
    """What was kept, read again; whatever is missing or of another kind is left out."""

    def pairs(name: str) -> tuple[tuple[str, str], ...]:
        value = kept.get(name)
        rows = value if isinstance(value, list) else []
        return tuple((str(row[0]), str(row[1])) for row in rows if isinstance(row, list) and len(row) == 2)

    limits = kept.get("limits")
    return Given(
        pairs("settings"), pairs("reads"), tuple(str(line) for line in limits) if isinstance(limits, list) else (),
        str(kept.get("points") or ""), str(kept.get("meter") or ""),
    )  # fmt: skip
