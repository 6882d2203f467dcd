"""Why: each reading beside what every suspect would have made of it, what ruled a suspect out, and a severity in plain words."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from ...base.quantity import show
from ...evidence.items import Item, Reading
from ..believe.belief import Belief
from ..isolation import Isolation, Suspect
from ..predict.chances import log_factor

__all__ = ["Cell", "Matrix", "Row", "matrix", "plain_severity"]

AGAINST, DOUBTS = 4.0, 2.5  # standard deviations


@dataclass(frozen=True, slots=True)
class Cell:
    """What a suspect makes of an item: ``expected`` (SI; nan for a finding), the misfit in ``sigma`` (of a finding: the square root of
    twice the log of how much likelier another suspect makes it), and ``verdict``: ``fits``, ``doubts``, ``against``."""

    expected: float
    sigma: float

    @property
    def verdict(self) -> str:
        """In a word."""
        return "against" if abs(self.sigma) >= AGAINST else "doubts" if abs(self.sigma) >= DOUBTS else "fits"


@dataclass(frozen=True, slots=True)
class Row:
    """An item of evidence with a cell per suspect; ``number`` counts from 1."""

    number: int
    item: Item
    cells: tuple[Cell, ...]


@dataclass(frozen=True)
class Matrix:
    """Items × suspects. ``ruled_out`` names, for each suspect, the items that speak most against it."""

    suspects: tuple[Suspect, ...]
    rows: tuple[Row, ...]

    def ruled_out(self, column: int) -> tuple[int, ...]:
        """Numbers of the items that speak against a suspect, the strongest first."""
        against = [(abs(row.cells[column].sigma), row.number) for row in self.rows if row.cells[column].verdict == "against"]
        return tuple(number for _, number in sorted(against, reverse=True))


def matrix(isolation: Isolation, suspects: tuple[Suspect, ...]) -> Matrix:
    """The evidence against some single suspects, each at its likeliest severity."""
    belief = isolation.belief
    numbers = np.array([s.number for s in suspects], dtype=np.intp)
    expected, scores, _ = belief.explain(numbers)
    at = belief.best[numbers]
    near = np.where(belief.atoms.spot.part[at] > 0.5, belief.atoms.spot.row[at] + 1, belief.atoms.spot.row[at])
    rows, reading = [], 0
    for number, item in enumerate(belief.items, 1):
        if isinstance(item, Reading):
            cells = tuple(Cell(float(e), float(z)) for e, z in zip(expected[:, reading], scores[:, reading], strict=True))
            reading += 1
        else:
            factor = log_factor(belief.workup, item)[near]
            cells = tuple(Cell(math.nan, math.sqrt(2.0 * max(float(factor.max() - f), 0.0))) for f in factor)
        rows.append(Row(number, item, cells))
    return Matrix(suspects, tuple(rows))


def plain_severity(belief: Belief, suspect: Suspect) -> tuple[str, str]:
    """A severity in plain words, whole and in brief: ``about 0.60 Ω: loses 4.0 V at working current, 11 W of heat`` and ``loses 4.0 V``;
    both empty where there is none."""
    if suspect.severity is None or suspect.part is None or suspect.mode is None:
        return "", ""
    sheet, ohms = belief.workup.sheet, suspect.severity[0]
    part = sheet.parts[suspect.part]
    network = belief.workup.network
    mode = next(m for m in part.modes if m.name == suspect.mode)
    element = next((p, name) for name, _ in mode.effects for p in [suspect.part] if (p, name) in network.keys)
    points = belief.workup.points(belief.workup.working_state(*element))
    at = belief.best[suspect.number]
    row, part_way = int(belief.atoms.spot.row[at]), float(belief.atoms.spot.part[at])
    both = np.array([row, min(row + 1, points.count - 1)])
    below, above = np.abs(points.of(both).amps_through(np.array([network.keys.index(element)]))[:, 0]).tolist()
    amps = (1.0 - part_way) * below + part_way * above
    volts = amps * ohms
    text = brief = f"about {show(ohms, 'Ω')}"
    if mode.severity is not None and mode.severity.span.value == "series" and amps > 1e-4:
        brief = f"loses {show(volts, 'V')}"
        text += f": {brief} at working current"
        if volts * amps >= 0.5:
            text += f", {volts * amps:.2g} W of heat" if volts * amps < 100 else f", {volts * amps:.0f} W of heat"
    elif mode.severity is not None and mode.severity.span.value == "shunt" and amps > 1e-3:
        brief = f"lets {show(amps, 'A')} past"
        text += f": {brief}"
    return text, brief
