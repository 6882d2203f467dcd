"""What earlier jobs on a vehicle say: faults that came back."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

__all__ = ["CameBack", "Concluded", "came_back"]


@dataclass(frozen=True, slots=True)
class Concluded:
    """A conclusion of one of the vehicle's jobs: the ``part`` named on a circuit, by both their names, and when."""

    job_id: int
    circuit: str
    part: str
    says: str
    at: str


@dataclass(frozen=True, slots=True)
class CameBack:
    """A part that was found at fault in more than one job, the ``finds`` in the order in which they were made."""

    finds: tuple[Concluded, ...]

    @property
    def says(self) -> str:
        """What it is, by the last find's words."""
        return self.finds[-1].says


def came_back(found: Iterable[Concluded]) -> tuple[CameBack, ...]:
    """The parts that were found at fault more than once, the latest first."""
    by_part: dict[tuple[str, str], dict[int, Concluded]] = {}
    for one in sorted(found, key=lambda c: c.at):
        by_part.setdefault((one.circuit, one.part), {})[one.job_id] = one
    again = [CameBack(tuple(finds.values())) for finds in by_part.values() if len(finds) > 1]
    return tuple(sorted(again, key=lambda c: c.finds[-1].at, reverse=True))
