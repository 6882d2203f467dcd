"""The rows of a workup, as curves over severity."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ...base.arrays import Floats
from ...circuit.network import Cases

__all__ = ["Curves"]


@dataclass(frozen=True, eq=False)
class Curves:
    """Curve c belongs to ``hypothesis[c]`` with share ``share[c]`` of it and occupies rows ``start[c] … start[c] + length[c] − 1``; its
    grid is ``grid[c]`` (ln ohms). ``blown`` are the rows as cases in which nothing but the fuses that have melted is open."""

    hypothesis: NDArray[np.intp]
    share: Floats
    start: NDArray[np.intp]
    length: NDArray[np.intp]
    grid: tuple[Floats, ...]
    blown: Cases

    @classmethod
    def apart(cls, rows: int) -> Curves:
        """So many rows that have nothing to do with each other."""
        every, nothing = np.arange(rows), np.zeros(rows, dtype=np.intp)
        return cls(nothing, np.ones(rows), every, nothing + 1, (np.zeros(1),) * rows, Cases.healthy(rows))

    @property
    def rows(self) -> int:
        """Number of rows M."""
        return self.blown.count

    @cached_property
    def of_row(self) -> NDArray[np.intp]:
        """(M,) the curve of each row."""
        return np.repeat(np.arange(len(self.length)), self.length)

    @cached_property
    def fuses(self) -> NDArray[np.intp]:
        """(M,) a number for what has melted in a row, the same for the same fuses, 0 for none."""
        found: dict[tuple[int, ...], int] = {(): 0}
        numbers = np.zeros(self.rows, dtype=np.intp)
        for row in np.unique(self.blown.case).tolist():
            low, high = np.searchsorted(self.blown.case, [row, row + 1])
            numbers[row] = found.setdefault(tuple(self.blown.element[low:high].tolist()), len(found))
        return numbers

    def of(self, curves: NDArray[np.intp]) -> NDArray[np.intp]:
        """The rows of some curves."""
        return np.concatenate([np.arange(self.start[c], self.start[c] + self.length[c]) for c in curves])

    def gradient(self, values: Floats) -> Floats:
        """(M,) slopes per unit of ln severity of numbers (M,) of which only the values are known."""
        slopes = np.zeros_like(values)
        for start, length, grid in zip(self.start, self.length, self.grid, strict=True):
            if length > 1:
                slopes[start : start + length] = np.gradient(values[start : start + length], grid)
        return slopes
