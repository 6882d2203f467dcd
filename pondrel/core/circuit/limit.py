"""A sheet's limits: what is limited, between which points and in which state."""

from __future__ import annotations

from dataclasses import dataclass

from ..check.limit import Limit
from .fits import Fit

__all__ = ["WHATS", "SheetLimit"]

WHATS = {"volts": "V", "drop": "V", "ohms": "Ω", "amps": "A"}


@dataclass(frozen=True, slots=True)
class SheetLimit:
    """One limit on a sheet. ``what``: volts at a node against battery minus, drop from one node to another, ohms of a part or between two
    nodes, amps through a part; ``state`` where it holds, empty for all;
    ``fits`` the vehicles that it is for, all where empty."""

    what: str
    start: str
    end: str
    of: str
    state: str
    limit: Limit
    note: str = ""
    fits: tuple[Fit, ...] = ()

    @property
    def where(self) -> str:
        """Where it is measured, in words."""
        return self.of or (f"{self.start} to {self.end}" if self.end else self.start)
