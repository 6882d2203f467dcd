"""What tests show at some rows of a workup, and between them.

Between the grid severities a prediction follows a cubic Hermite through values and exact slopes; where contacts move between two grid
points each side of the place has a cubic of its own, and where a fuse melts each side keeps its straight line up to the middle.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ...base.arrays import Floats

__all__ = ["Prediction", "Spot", "Tears", "interpolate", "touched"]


@dataclass(frozen=True, eq=False)
class Spot:
    """Positions on curves: ``row`` (…) the grid row below and ``part`` (…) in [0, 1] towards the next; 0 on curves of one row."""

    row: NDArray[np.intp]
    part: Floats

    @property
    def near(self) -> NDArray[np.intp]:
        """The nearer grid row."""
        return self.row + (self.part > 0.5)

    def at(self, index: NDArray[Any]) -> Spot:
        """Some of the spots."""
        return Spot(self.row[index], self.part[index])


def touched(spot: Spot, step: Floats) -> NDArray[np.intp]:
    """The rows, ascending, between which spots lie; ``step`` is the grid spacing of each spot's curve, 0 where there is none."""
    return np.unique(np.concatenate([spot.row.ravel(), (spot.row + (step > 0.0)).ravel()]))


@dataclass(frozen=True, eq=False)
class Tears:
    """Where numbers jump between two rows of a curve because contacts move there: ``index`` (m, T) names the tear above a row in a test, −1
    for none; ``at`` (n,) is its place between the rows, in (0, 1), then the number and its slope on either side, (n,) each."""

    index: NDArray[np.int32]
    at: Floats
    below: Floats
    below_slope: Floats
    above: Floats
    above_slope: Floats

    @property
    def sides(self) -> tuple[Floats, Floats, Floats, Floats, Floats]:
        """Of each tear its place, and the number and its slope on either side."""
        return self.at, self.below, self.below_slope, self.above, self.above_slope

    @classmethod
    def none(cls, rows: int, tests: int) -> Tears:
        """No tear anywhere."""
        return cls(np.full((rows, tests), -1, dtype=np.int32), *(np.zeros(0) for _ in range(5)))

    @classmethod
    def join(cls, parts: list[Tears]) -> Tears:
        """Tears of tests side by side."""
        starts = np.cumsum([0, *(len(part.at) for part in parts)])
        index = [np.where(part.index >= 0, part.index + start, -1) for part, start in zip(parts, starts, strict=False)]
        joined = (np.concatenate(side) for side in zip(*(part.sides for part in parts), strict=True))
        return cls(np.concatenate(index, axis=1).astype(np.int32), *joined)


@dataclass(frozen=True, eq=False)
class Prediction:
    """T tests at ``rows`` (m,), ascending, or at all (M,) where those are None; each array (m, T): ``value`` on the instrument's scale
    (ohms compressed), ``slope`` per unit of ln severity, ``regime`` numbering the discrete state (relays, fuses), and ``stray`` in [0, 1],
    how far the number hangs on insulation alone, where any few volts may show; ``tears`` where contacts move between two rows."""

    rows: NDArray[np.intp] | None
    value: Floats
    slope: Floats
    regime: NDArray[np.int32]
    stray: Floats
    tears: Tears

    @classmethod
    def join(cls, parts: list[Prediction]) -> Prediction:
        """Predictions of the same rows side by side."""
        if len(parts) == 1:
            return parts[0]
        value, slope, regime, stray = (
            np.concatenate([getattr(p, n) for p in parts], axis=1) for n in ("value", "slope", "regime", "stray")
        )
        return cls(parts[0].rows, value, slope, regime, stray, Tears.join([p.tears for p in parts]))

    @classmethod
    def none(cls, rows: NDArray[np.intp] | None, count: int) -> Prediction:
        """No test at all."""
        empty = np.zeros((count, 0))
        return cls(rows, empty, empty, empty.astype(np.int32), empty, Tears.none(count, 0))

    def place(self, row: NDArray[np.intp]) -> NDArray[np.intp]:
        """Where rows (…) stand among those that are predicted."""
        return row if self.rows is None else np.searchsorted(self.rows, row)

    def take(self, columns: NDArray[np.intp] | list[int]) -> Prediction:
        """Some of the tests."""
        tears = replace(self.tears, index=self.tears.index[:, columns])
        value, slope, stray = (a[:, columns] for a in (self.value, self.slope, self.stray))
        return Prediction(self.rows, value, slope, self.regime[:, columns], stray, tears)

    def alone(self) -> Prediction:
        """The same, holding nothing of what it was taken from."""
        index = np.unique(self.tears.index[self.tears.index >= 0])
        place = np.full(int(index.max(initial=-1)) + 2, -1, dtype=np.int32)
        place[index] = np.arange(len(index))
        tears = Tears(place[self.tears.index], *(side[index] for side in self.tears.sides))
        value, slope, regime, stray = self.value.copy(), self.slope.copy(), self.regime.copy(), self.stray.copy()
        return Prediction(self.rows, value, slope, regime, stray, tears)

    def where(self, chosen: NDArray[np.bool_], other: Prediction) -> Prediction:
        """These numbers where ``chosen`` (m, T), those of another elsewhere; tears are kept only where all of a column is."""
        value, slope, stray = (np.where(chosen, getattr(self, name), getattr(other, name)) for name in ("value", "slope", "stray"))
        regime = np.where(chosen, self.regime, other.regime)
        index = np.where(chosen.all(axis=0), self.tears.index, -1).astype(np.int32)
        return Prediction(self.rows, value, slope, regime, stray, replace(self.tears, index=index))

    def of_row(self, row: int) -> Prediction:
        """The same numbers whatever is at fault: those of one row."""
        count, at = len(self.value), self.place(np.array([row]))
        value, stray = (np.repeat(a[at], count, axis=0) for a in (self.value, self.stray))
        regime = np.repeat(self.regime[at], count, axis=0)
        return Prediction(self.rows, value, np.zeros_like(value), regime, stray, Tears.none(count, value.shape[1]))


def interpolate(prediction: Prediction, spot: Spot, step: Floats) -> Floats:
    """Predicted values (…, T) at spots (…); ``step`` (…) is the grid spacing in ln severity of each spot's curve, 0 where there is none.
    Spots of one interval may share their row and step by broadcasting."""
    low, high = prediction.place(spot.row), prediction.place(spot.row + (step > 0.0))
    t, step = spot.part[..., None], step[..., None]
    v0, v1 = prediction.value[low], prediction.value[high]
    s0, s1 = prediction.slope[low] * step, prediction.slope[high] * step
    values = _hermite(t, v0, s0, v1, s1)
    jumps = prediction.regime[low] != prediction.regime[high]
    if jumps.any():
        values = np.where(jumps, np.where(t <= 0.5, v0 + s0 * t, v1 - s1 * (1 - t)), values)
    tears = prediction.tears
    if len(tears.at):
        index = np.where(step > 0.0, tears.index[low], -1)
        if (index >= 0).any():  # on either side of a tear its own cubic
            place, below, above = tears.at[index], tears.below[index], tears.above[index]
            left = _hermite(t / place, v0, s0 * place, below, tears.below_slope[index] * step * place)
            rest = 1.0 - place
            right = _hermite((t - place) / rest, above, tears.above_slope[index] * step * rest, v1, s1 * rest)
            values = np.where(index >= 0, np.where(t <= place, left, right), values)
    return values


def _hermite(t: Floats, v0: Floats, s0: Floats, v1: Floats, s1: Floats) -> Floats:
    """The cubic through values ``v0`` at 0 and ``v1`` at 1 with slopes ``s0`` and ``s1`` there."""
    u = 1.0 - t
    cubic: Floats = (u * u) * (v0 * (1.0 + 2.0 * t) + s0 * t) + (t * t) * (v1 * (1.0 + 2.0 * u) - s1 * u)
    return cubic
