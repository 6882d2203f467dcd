"""What no circuit law predicts: codes with the volts that set them, and tests whose outcomes a table gives.

A table says, for every fault that makes a difference, how likely each outcome is: a valve that should hold vacuum, a fan that should turn
freely, a part swapped for a known-good one.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

__all__ = ["OTHERWISE", "Code", "OutcomeTable"]

OTHERWISE = "otherwise"


@dataclass(frozen=True, slots=True)
class Code:
    """A code that a module sets when the volts at a node against battery minus are ``below`` or ``above`` a threshold in a state, if it is
    alive: ``fed`` is the node of its supply, empty where that is beyond the sheet."""

    name: str
    at: str
    state: str
    below: float
    above: float
    fed: str = ""
    meaning: str = ""


@dataclass(frozen=True, slots=True)
class OutcomeTable:
    """A test with a few outcomes. ``given`` maps ``otherwise``, a part's name or (part, mode) to the probabilities of the ``outcomes``."""

    name: str
    outcomes: tuple[str, ...]
    given: Mapping[str | tuple[str, str], tuple[float, ...]]
    minutes: float = 1.0
    state: str = ""
    behind: str = ""
    note: str = ""
    caution: str = ""
    acknowledge: bool = False

    def under(self, part: str | None, mode: str | None) -> tuple[float, ...]:
        """Probabilities of the outcomes if a fault is there; part None: if nothing is wrong."""
        if part is not None and mode is not None:
            for key in ((part, mode), part):
                if key in self.given:
                    return self.given[key]
        return self.given[OTHERWISE]
