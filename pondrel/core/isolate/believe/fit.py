"""The items against the rows of a workup: what every reading would be anywhere on a curve, and how well those taken fit there.

Between the grid severities a prediction follows a cubic Hermite through values and exact slopes; where contacts move between two grid
points each side of the place has a cubic of its own, and where a fuse melts each side keeps its straight line up to the middle.
Tolerances are those of the nearer grid row. Beside a place where contacts move or a fuse melts the readings may also be those of its
other side, since nobody knows a threshold so well: there the likelihood is a mixture of a sharp and a vague one.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ...base.arrays import Floats
from ...base.judgement import judged
from ...evidence.items import Item, Reading, observations, readings
from ..predict.chances import log_factor
from ..predict.scale import on_scale
from ..predict.table import Prediction
from ..predict.workup import Workup
from .likelihood import BLUNDER, Precision, blunder_probability, log_likelihood, standard_scores
from .slipped import Slipped

__all__ = ["DRIFT", "STRAY", "Fit", "Spot", "blunder_chance", "either", "insulation_sigma", "interpolate"]

UNSEEN = 0.1  # standard deviations of its own by which a reading may be off and still count as a sound circuit's
DRIFT = judged("DRIFT", 0.07, "share", "how far a supply wanders from reading to reading, of its own tolerance: 50 mV of a battery")
SAG = judged("SAG", 0.35, "share", "how far it sags while one measures, of its own tolerance: a quarter of a volt of a battery")
SAG_READINGS = judged("SAG_READINGS", 12.0, "readings", "after how many it sags no further")
_IMPOSSIBLE = -1e6  # log likelihood; finite, so that sums stay finite
OTHER_SIDE = judged("OTHER_SIDE", 0.2, "share", "readings beside a threshold, within a grid step, that are those of its other side")
STRAY = judged("STRAY", 0.3, "share", "readings on a floating point that show stray volts")
STRAY_LEAST = judged("STRAY_LEAST", 0.04, "V", "what a floating point picks up at the least")
STRAY_VOLTS = judged("STRAY_VOLTS", 6.0, "V", "the range of those")


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


def interpolate(prediction: Prediction, spot: Spot, step: Floats, columns: NDArray[np.intp] | None = None) -> Floats:
    """Predicted values (…, T) at spots (…), or those of some ``columns``; ``step`` (…) is the grid spacing in ln severity of each spot's
    curve, 0 where there is none. Spots of one interval may share their row and step by broadcasting."""
    low, high = spot.row, np.minimum(spot.row + (step > 0), len(prediction.value) - 1)
    t, step = spot.part[..., None], step[..., None]

    def at(numbers: NDArray[Any], row: NDArray[np.intp]) -> NDArray[Any]:
        return numbers[row] if columns is None else numbers[row[..., None], columns]

    v0, v1 = at(prediction.value, low), at(prediction.value, high)
    s0, s1 = at(prediction.slope, low) * step, at(prediction.slope, high) * step
    values = _hermite(t, v0, s0, v1, s1)
    jumps = at(prediction.regime, low) != at(prediction.regime, high)
    if jumps.any():
        values = np.where(jumps, np.where(t <= 0.5, v0 + s0 * t, v1 - s1 * (1 - t)), values)
    tears = prediction.tears
    if len(tears.at):
        index = np.where(step > 0.0, at(tears.index, low), -1)
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


def insulation_sigma(value: Floats, stray: Floats) -> Floats:
    """Standard deviation of a number that hangs on insulation: nobody knows the leak, so what it lets through is as uncertain as large; and
    such a point is never quite at nothing."""
    sigma: Floats = np.maximum(np.abs(value), STRAY_LEAST) * stray
    return sigma


class Fit:
    """The items against the rows of a workup, ready to be evaluated anywhere on its curves.

    Over all rows: ``prediction`` (M, R), ``factor`` (M,) what observations add to the log likelihood, ``seen`` (M,) where any reading
    would not be what it is in a sound circuit. What each reading has to itself and the precision of all of them are worked out for
    the rows that are asked for, and taken over from the evidence ``before`` with one item more.
    """

    def __init__(self, workup: Workup, items: tuple[Item, ...] = (), before: Fit | None = None):
        self.workup, self.items, self.curves = workup, items, workup.curves
        rows = self.curves.rows
        known = len(before.items) if before else 0
        assert before is None or items[:known] == before.items
        fresh = items[known:]
        self.factor: Floats = before.factor if before else np.where(workup.visible, 0.0, _IMPOSSIBLE)
        for item in observations(fresh):
            self.factor = self.factor + log_factor(workup, item)
        new = readings(fresh)
        old = before.readings if before else ()
        self.readings: tuple[Reading, ...] = (*old, *new)
        pairs = np.array([on_scale(r) for r in new]).reshape(len(new), 2)
        self.value, self.meter_sigma = pairs[:, 0], pairs[:, 1]
        slipped = Slipped.of(workup, new)
        self.slipped: Slipped = before.slipped.joined(slipped) if before else slipped
        columns = [_column(workup, r) for r in new]
        if before:
            self.value = np.concatenate([before.value, self.value])
            self.meter_sigma = np.concatenate([before.meter_sigma, self.meter_sigma])
            columns = [before.prediction, *columns] if old else columns
        none = Prediction.none(rows)
        self.prediction: Prediction = Prediction.join(columns, np.arange(len(self.readings))) if columns else none
        self._sharp, self._vague = (_Known(rows, len(self.readings)) for _ in range(2))
        self.beside: NDArray[np.bool_] = np.any(self.prediction.edge > 0.0, axis=1)
        self._before = before
        self.seen: NDArray[np.bool_] = before.seen if before else np.zeros(rows, dtype=bool)
        if new:
            sigma = self.uncertainty(np.zeros(1, dtype=np.intp), len(old))[0]
            added = self.prediction.take(slice(len(old), None))
            off = np.abs(added.value - added.value[0]) > UNSEEN * sigma
            vague = np.abs(added.stray - added.stray[0]) + added.edge > 0.01
            self.seen = self.seen | (off | vague | (added.tears.index >= 0)).any(axis=1)

    @property
    def own_arrays(self) -> tuple[object, ...]:
        """What it holds besides the workup and the evidence before."""
        return self.prediction, self.factor, self.seen, self.beside, self._sharp, self._vague

    def settle(self) -> None:
        """Let go of the evidence before: what it had to give has been taken over."""
        self._before = None

    def spread(self, rows: NDArray[np.intp], first: int = 0) -> Floats:
        """(L, R, K): what the tolerances do to the readings, from ``first`` on, at some rows."""
        spreads = [self._spread_of(number, rows) for number in range(first, len(self.readings))]
        return np.stack(spreads, axis=1) if spreads else np.zeros((len(rows), 0, self.workup.tolerances))

    def _spread_of(self, number: int, rows: NDArray[np.intp]) -> Floats:
        """(L, K) of one reading: the later it was taken, the further the supply may have sagged."""
        return self.sagging(number, _spread(self.workup, self.readings[number], rows))

    def sagging(self, number: int, spread: Floats) -> Floats:
        """The spread (L, K) of a reading, with how far the supply may have sagged when it was taken."""
        spread = spread.copy()
        spread[:, self.workup.sag] = SAG * min(number / SAG_READINGS, 1.0) * spread[:, self.workup.supplies].sum(axis=1)
        return spread

    def uncertainty(self, rows: NDArray[np.intp], first: int = 0, spread: Floats | None = None, insulation: bool = True) -> Floats:
        """(L, R) standard deviations that the readings, from ``first`` on, have to themselves at some rows: meter, drift, the tolerances of
        the good side, and ``insulation`` unless it is left out. ``spread`` is that of `spread` if it is at hand."""
        spread = self.spread(rows, first) if spread is None else spread
        drift = np.abs(spread[:, :, self.workup.supplies]).sum(axis=2) * DRIFT
        hangs = insulation_sigma(self.prediction.value[rows, first:], self.prediction.stray[rows, first:]) if insulation else 0.0
        elsewhere = np.array([_own_circuit(self.workup, r) for r in self.readings[first:]])
        own: Floats = np.sqrt(self.meter_sigma[first:] ** 2 + hangs**2 + drift**2 + elsewhere**2)
        return own

    def precision(self, rows: NDArray[np.intp], vague: bool = False) -> Precision:
        """Inverse covariances of the readings at rows (…); ``vague`` where they may be those of the other side of a threshold."""
        known = self._vague if vague else self._sharp
        return known.at(rows, self._made_vague if vague else self._made_sharp)

    @property
    def scale(self) -> Floats:
        """(R,) one over the density of a blunder at each reading, as far as it hangs on no hypothesis."""
        return self.slipped.widths

    def blunder(self, rows: NDArray[np.intp], widths: Floats | None = None) -> Floats:
        """(…, R) the chance that a reading says nothing; ``widths`` as in `Slipped.widths_where`."""
        return blunder_chance(self.prediction.stray[rows], self.scale if widths is None else widths)

    def expected(self, spot: Spot, step: Floats) -> Floats:
        """(…, R) predicted readings on the instruments' scales."""
        return interpolate(self.prediction, spot, step)

    def log_likelihood(self, spot: Spot, step: Floats) -> Floats:
        """(S,) of all items; next to impossible at severities that nothing can show."""
        return self.factor[spot.near] + self.missed_by(self.value - self.expected(spot, step), spot.near)

    def missed_by(self, residual: Floats, near: NDArray[np.intp]) -> Floats:
        """(S,) log likelihood of the readings, which miss by ``residual`` (S, R) at rows (S,)."""
        widths = self.slipped.widths_where(self.value - residual)
        blunder = self.blunder(near, widths)
        logs = log_likelihood(residual, self.precision(near), widths, blunder)
        own = np.flatnonzero(self.beside[near])
        if own.size:
            vague = log_likelihood(residual[own], self.precision(near[own], vague=True), widths[own], blunder[own])
            logs[own] = either(logs[own], vague)
        return logs

    def scores(self, spot: Spot, step: Floats) -> tuple[Floats, Floats]:
        """(S, R) standard scores of the readings at S spots, and the probability of each being a blunder there; beside a threshold both
        are those of the likelier side."""
        near, residual = spot.near, self.value - self.expected(spot, step)
        scores, odd = np.zeros(residual.shape), np.zeros(residual.shape)
        for s, (row, miss) in enumerate(zip(near, residual, strict=True)):
            at = np.array([row])
            ways = [self.precision(at, vague) for vague in ((False, True) if self.beside[row] else (False,))]
            widths = self.slipped.widths_where(self.value - miss[None])
            blunder = self.blunder(at, widths)
            logs = [log_likelihood(miss[None], way, widths, blunder)[0] for way in ways]
            way = ways[int(np.argmax(logs))]
            odd[s] = blunder_probability(miss[None], way, widths, blunder)[0]
            scores[s] = standard_scores(miss, way.matrix[0], odd[s] > 0.5)
        return scores, odd

    def _made_vague(self, rows: NDArray[np.intp]) -> Precision:
        spread = self.spread(rows)
        return Precision.of(spread, np.hypot(self.uncertainty(rows, 0, spread), self.prediction.edge[rows]))

    def _made_sharp(self, rows: NDArray[np.intp]) -> Precision:
        """The precision at some rows: with one reading more than before where it was known before."""
        known = self._before._sharp.place[rows] >= 0 if self._before else np.zeros(len(rows), dtype=bool)
        if known.all():
            return self._taken_over(rows)
        spread = self.spread(rows[~known])
        fresh = Precision.of(spread, self.uncertainty(rows[~known], 0, spread))
        if not known.any():
            return fresh
        order = np.argsort(np.r_[np.flatnonzero(known), np.flatnonzero(~known)], kind="stable")
        return self._taken_over(rows[known]).joined(fresh).at(order)

    def _taken_over(self, rows: NDArray[np.intp]) -> Precision:
        """The precision before, with the readings since."""
        before = self._before
        assert before is not None
        precision = before._sharp.precision.at(before._sharp.place[rows])
        for number in range(len(before.readings), len(self.readings)):
            several = self.spread(rows, number)
            spread, own = several[:, 0], self.uncertainty(rows, number, several)[:, 0]
            shared = [np.einsum("lk,lk->l", self._spread_of(n, rows), spread) for n in range(number)]
            precision = precision.bordered(np.reshape(shared, (number, len(rows))).T, (spread**2).sum(axis=1) + own**2)
        return precision


class _Known:
    """Precisions by row, worked out for those that are asked for: ``place`` (M,) of a row among them, −1 for none."""

    def __init__(self, rows: int, readings: int):
        self.place = np.full(rows, -1)
        self.precision = Precision(np.zeros((0, readings, readings)), np.zeros(0))

    def at(self, rows: NDArray[np.intp], make: Callable[[NDArray[np.intp]], Precision]) -> Precision:
        """Those of rows (…), the missing ones made."""
        missing = np.unique(rows[self.place[rows] < 0])
        if missing.size:
            self.place[missing] = len(self.precision.log_det) + np.arange(len(missing))
            self.precision = self.precision.joined(make(missing))
        return self.precision.at(self.place[rows])


def either(sharp: Floats, vague: Floats) -> Floats:
    """Log likelihood beside a threshold, from that of its own side and a vague one that may be of the other."""
    logs: Floats = np.logaddexp(sharp + math.log1p(-OTHER_SIDE), vague + math.log(OTHER_SIDE))
    return logs


def _column(workup: Workup, reading: Reading) -> Prediction:
    """What one reading would be, for every row; on the good side what the sound circuit gives."""
    prediction = workup.predict_reading(reading.test, on_scale(reading)[0])
    return prediction.of_row(0) if reading.elsewhere else prediction


def _spread(workup: Workup, reading: Reading, rows: NDArray[np.intp]) -> Floats:
    """(L, K) what each tolerance does to a reading: on the good side only the supply's, which both sides share."""
    if not reading.elsewhere:
        return workup.reading_spread(reading.test, on_scale(reading)[0], rows)
    sound = workup.reading_spread(reading.test, on_scale(reading)[0], np.zeros(1, dtype=np.intp))[0]
    return np.broadcast_to(np.where(workup.supplies, sound, 0.0), (len(rows), len(sound)))


def _own_circuit(workup: Workup, reading: Reading) -> float:
    """What a reading's own circuit's tolerances do to it if that is another one."""
    if not reading.elsewhere:
        return 0.0
    sound = workup.reading_spread(reading.test, on_scale(reading)[0], np.zeros(1, dtype=np.intp))[0]
    return math.sqrt(float((sound[~workup.supplies] ** 2).sum()))


def blunder_chance(stray: Floats, scale: Floats) -> Floats:
    """(…, R) the chance that readings say nothing: as blunders, or as stray volts. One density serves both, that of blunders over their
    ``scale`` (R,); stray volts lie closer together, so their chance is raised by as much."""
    odds = BLUNDER / (1.0 - BLUNDER) + STRAY * stray * scale / STRAY_VOLTS
    return odds / (1.0 + odds)
