"""The items against the rows of a workup: what every reading would be anywhere on a curve, and how well those taken fit there.

Tolerances are those of the nearer grid row. Beside a place where contacts move or a fuse melts the readings may also be those of its
other side, since nobody knows a threshold so well: there the likelihood is a mixture of a sharp and a vague one.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Hashable, Iterator
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ...base.arrays import Floats
from ...base.judgement import judged
from ...base.patience import breathe
from ...evidence.items import Item, Reading, observations, readings
from ..predict.chances import log_factor
from ..predict.prediction import Prediction, Spot, interpolate
from ..predict.scale import on_scale
from ..predict.workup import Column, Workup
from .likelihood import BLUNDER, Precision, blunder_probability, log_likelihood, standard_scores
from .slipped import Slipped
from .spreads import Spreads

__all__ = ["DRIFT", "STRAY", "Fit", "blunder_chance", "either", "insulation_sigma"]

UNSEEN = 0.1  # standard deviations of its own by which a reading may be off and still count as a sound circuit's
DRIFT = judged("DRIFT", 0.07, "share", "how far a supply wanders from reading to reading, of its own tolerance: 50 mV of a battery")
SAG = judged("SAG", 0.35, "share", "how far it sags while one measures, of its own tolerance: a quarter of a volt of a battery")
SAG_READINGS = judged("SAG_READINGS", 12.0, "readings", "after how many it sags no further")
_IMPOSSIBLE = -1e6  # log likelihood; finite, so that sums stay finite
OTHER_SIDE = judged("OTHER_SIDE", 0.2, "share", "readings beside a threshold, within a grid step, that are those of its other side")
STRAY = judged("STRAY", 0.3, "share", "readings on a floating point that show stray volts")
STRAY_LEAST = judged("STRAY_LEAST", 0.04, "V", "what a floating point picks up at the least")
STRAY_VOLTS = judged("STRAY_VOLTS", 6.0, "V", "the range of those")


def insulation_sigma(value: Floats, stray: Floats) -> Floats:
    """Standard deviation of a number that hangs on insulation: nobody knows the leak, so what it lets through is as uncertain as large; and
    such a point is never quite at nothing."""
    sigma: Floats = np.maximum(np.abs(value), STRAY_LEAST) * stray
    return sigma


_BORDERED = 3  # readings that are added to a known inverse one by one; more are taken in at once
_SPREADS_AT_ONCE, _TOGETHER = 2_000_000, 400_000  # numbers
_MOST_KNOWN_BYTES = 30_000_000  # of the precisions of one set of readings


class Fit:
    """The items against the rows of a workup, ready to be evaluated anywhere on its curves.

    Over all rows: ``factor`` (M,) what observations add to the log likelihood, ``seen`` (M,) where any reading would not be what it is in a
    sound circuit, ``beside`` (M,) where one lies beside a threshold. What each reading would be is kept by the workup; what each has to
    itself and the precision of all of them are worked out for the rows that are asked for, and taken over from the evidence ``before``.
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
        if before:
            self.value = np.concatenate([before.value, self.value])
            self.meter_sigma = np.concatenate([before.meter_sigma, self.meter_sigma])
        self.elsewhere: NDArray[np.bool_] = np.array([r.elsewhere for r in self.readings], dtype=bool)
        workup.prepare(tuple(r.test for r in new))
        columns = tuple(_column(workup, r) for r in new)
        self.columns: tuple[Column, ...] = (*before.columns, *columns) if before else columns
        self._sharp, self._vague = (_Known(rows) for _ in range(2))
        self._before = before
        self.beside: NDArray[np.bool_] = before.beside if before else np.zeros(rows, dtype=bool)
        self.seen: NDArray[np.bool_] = before.seen if before else np.zeros(rows, dtype=bool)
        if new:
            sigma = self.uncertainty(np.zeros(1, dtype=np.intp), np.arange(len(old), len(self.readings)))[0]
            for column, own in zip(columns, sigma, strict=True):
                told = column.prediction
                off = np.abs(told.value - told.value[0]) > UNSEEN * own
                vague = np.abs(told.stray - told.stray[0]) + column.edge[:, None] > 0.01
                self.seen = self.seen | (off | vague | (told.tears.index >= 0))[:, 0]
                self.beside = self.beside | (column.edge > 0.0)

    @property
    def prediction(self) -> Prediction:
        """What the readings would be at all rows; of the last few sets of readings asked for it is kept."""
        joined = self.workup.memo.joined
        key = tuple(map(id, self.columns))
        if key not in joined:
            known = joined.get(key[:-1]) if len(key) > 1 else None
            parts = [known[1], self.columns[-1].prediction] if known else [column.prediction for column in self.columns]
            # The columns are held with it, so that no other ones take their place in memory.
            joined[key] = (self.columns, Prediction.join(parts) if parts else Prediction.none(None, self.curves.rows))
        found: Prediction = joined[key][1]
        return found

    def edge(self, rows: NDArray[np.intp]) -> Floats:
        """(L, R) how vague the readings are beside a threshold."""
        return np.stack([column.edge[rows] for column in self.columns], axis=1) if self.columns else np.zeros((len(rows), 0))

    def stray(self, rows: NDArray[np.intp], which: NDArray[np.intp]) -> Floats:
        """(L, R) how far some of the readings hang on insulation alone."""
        told = [self.columns[i].prediction.stray[rows, 0] for i in which]
        return np.stack(told, axis=1) if told else np.zeros((len(rows), 0))

    @property
    def own_arrays(self) -> tuple[object, ...]:
        """What it holds besides the workup, what that keeps of readings, and the evidence before."""
        return self.factor, self.seen, self.beside, self._sharp, self._vague

    def settle(self) -> None:
        """Let go of the evidence before: what it had to give has been taken over."""
        self._before = None

    def spread(self, rows: NDArray[np.intp], which: NDArray[np.intp] | None = None, keep: bool = True) -> Floats:
        """(L, R, K): what the tolerances do to the readings, or to some of them, at some rows; the later one was taken, the further the
        supply may have sagged. Of what was read on the good side only the supply counts, which both sides share. It is kept for others
        to find unless that is not asked for."""
        workup, own = self.workup, self._chosen(which)
        if not own.size or not len(rows):
            return np.zeros((len(rows), own.size, workup.tolerances))
        kept: Spreads = workup.memo.once("spreads", lambda: Spreads(self.curves.rows))
        columns = [self.columns[i] for i in own]
        spread = kept.of(columns, rows, workup.tolerances, lambda some, missing: self._made_spread(missing, own[some]), keep)
        return self.sagging(spread, own)

    def _made_spread(self, rows: NDArray[np.intp], which: NDArray[np.intp]) -> Floats:
        """The spread of some readings worked out anew, without how far the supply sags."""
        tests, shown = tuple(self.readings[i].test for i in which), tuple(self.value[which].tolist())
        spread = self.workup.reading_spreads(tests, shown, rows)
        away = np.flatnonzero(self.elsewhere[which])
        if away.size:
            only = np.zeros(1, dtype=np.intp)
            sound = self.workup.reading_spreads(tuple(tests[i] for i in away), tuple(shown[i] for i in away), only)
            spread[:, away] = np.where(self.workup.supplies, sound, 0.0)
        return spread

    def _chosen(self, which: NDArray[np.intp] | None) -> NDArray[np.intp]:
        return np.arange(len(self.readings)) if which is None else which

    def sagging(self, spread: Floats, which: NDArray[np.intp] | None = None) -> Floats:
        """The spread (L, R, K) of all readings, or of some, with how far the supply may have sagged when each was taken (in place)."""
        spread[:, :, self.workup.sag] = self.sag(which) * spread[:, :, self.workup.supplies].sum(axis=2)
        return spread

    def sag(self, which: NDArray[np.intp] | None = None) -> Floats:
        """(R,) how far the supply may have sagged when each reading, or some of them, was taken, as a share of its own tolerance."""
        sag: Floats = SAG * np.minimum(self._chosen(which) / SAG_READINGS, 1.0)
        return sag

    def keys(self, which: NDArray[np.intp] | None = None) -> list[tuple[Reading, float]]:
        """By what the readings, or some of them, are known for what each is by itself: with how far the supply may have sagged."""
        return [(self.readings[i], sag) for i, sag in zip(self._chosen(which).tolist(), self.sag(which).tolist(), strict=True)]

    def scatter(self, rows: NDArray[np.intp], which: NDArray[np.intp] | None = None) -> Floats:
        """(L, R) variances of the readings, or of some of them, each by itself: of what tolerances do to it and what it has to itself."""
        own, keys, kept = self._chosen(which), self.keys(which), self.workup.memo.scatter
        known: dict[Hashable, Floats] = {key: kept[key] for key in keys if key in kept}
        missing = list({key: k for k, key in enumerate(keys) if key not in known}.values())
        if missing:
            made = [np.empty(self.curves.rows) for _ in missing]
            for block, spread, alone in self._in_blocks(own[missing]):
                for column, part in zip(made, ((spread**2).sum(axis=2) + alone**2).T, strict=True):
                    column[block] = part
            known.update((keys[k], column) for k, column in zip(missing, made, strict=True))
            kept.update((keys[k], known[keys[k]]) for k in missing)
        return np.stack([known[key][rows] for key in keys], axis=1) if keys else np.zeros((len(rows), 0))

    def _in_blocks(self, which: NDArray[np.intp]) -> Iterator[tuple[NDArray[np.intp], Floats, Floats]]:
        """Of all rows so many at once as have their spreads side by side in memory: which rows (B,), what tolerances do to some of the
        readings there (B, R, K), and what each reading has to itself (B, R)."""
        most = max(1, _SPREADS_AT_ONCE // max(1, len(which) * self.workup.tolerances))
        for start in range(0, self.curves.rows, most):
            breathe()
            rows = np.arange(start, min(start + most, self.curves.rows))
            spread = self.spread(rows, which, keep=False)
            yield rows, spread, self.uncertainty(rows, which, spread)

    @cached_property
    def _own_circuits(self) -> Floats:
        """(R,) what a reading's own circuit's tolerances do to it where that is another one."""
        away, own = np.flatnonzero(self.elsewhere), np.zeros(len(self.readings))
        if away.size:
            tests, shown = tuple(self.readings[i].test for i in away), tuple(self.value[away].tolist())
            sound = self.workup.reading_spreads(tests, shown, np.zeros(1, dtype=np.intp))[0]
            own[away] = np.sqrt((sound[:, ~self.workup.supplies] ** 2).sum(axis=1))
        return own

    def uncertainty(
        self, rows: NDArray[np.intp], which: NDArray[np.intp] | None = None, spread: Floats | None = None, insulation: bool = True
    ) -> Floats:
        """(L, R) standard deviations that the readings, or some of them, have to themselves at some rows: meter, drift, the tolerances of
        the good side, and ``insulation`` unless it is left out. ``spread`` is that of `spread` if it is at hand."""
        own = self._chosen(which)
        spread = self.spread(rows, which) if spread is None else spread
        drift = np.abs(spread[:, :, self.workup.supplies]).sum(axis=2) * DRIFT
        hangs: Floats | float = 0.0
        if insulation and own.size:
            told = [self.columns[i].prediction for i in own]
            hangs = insulation_sigma(*(np.stack([getattr(p, name)[rows, 0] for p in told], axis=1) for name in ("value", "stray")))
        alone: Floats = np.sqrt(self.meter_sigma[own] ** 2 + hangs**2 + drift**2 + self._own_circuits[own] ** 2)
        return alone

    def precision(self, rows: NDArray[np.intp], vague: bool = False) -> Precision:
        """Inverse covariances of the readings at rows (…); ``vague`` where they may be those of the other side of a threshold."""
        known = self._vague if vague else self._sharp
        return known.at(rows, self._made_vague if vague else self._made_sharp)

    def prepare(self, rows: NDArray[np.intp]) -> None:
        """Work out the precisions of some rows together, for others to find; unless they are too many to be kept."""
        count = len(self.readings)
        if len(rows) * count * min(count, self.workup.tolerances) * 8 <= _MOST_KNOWN_BYTES:
            self.precision(rows)

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
        return Precision.of(spread, np.hypot(self.uncertainty(rows, None, spread), self.edge(rows)))

    def _made_sharp(self, rows: NDArray[np.intp]) -> Precision:
        """The precision at some rows: with a reading or two more than before where it was known before."""
        before, count = self._before, len(self.readings)
        place = before._sharp.place[rows] if before else np.full(len(rows), -1)
        known, whole = place >= 0, Precision.is_whole(count, self.workup.tolerances)
        if before is None or not known.any() or not whole or count > len(before.readings) + _BORDERED:
            return self._anew(rows)
        assert before._sharp.precision is not None
        precision, own = before._sharp.precision.at(place[known]), rows[known]
        for number in range(len(before.readings), count):
            spread = self.spread(own, np.array([number]))
            alone = self.uncertainty(own, np.array([number]), spread)[:, 0]
            new = spread[:, 0]
            precision = precision.bordered(self._shared_with(own, new, number), (new**2).sum(axis=1) + alone**2)
        if known.all():
            return precision
        order = np.argsort(np.r_[np.flatnonzero(known), np.flatnonzero(~known)], kind="stable")
        return precision.joined(self._anew(rows[~known])).at(order)

    def _anew(self, rows: NDArray[np.intp]) -> Precision:
        spread = self.spread(rows)
        return Precision.of(spread, self.uncertainty(rows, None, spread))

    def _shared_with(self, rows: NDArray[np.intp], new: Floats, count: int) -> Floats:
        """(L, count) covariances of the first readings with one whose spread is ``new`` (L, K)."""
        shared = np.empty((len(rows), count))
        most = max(1, _TOGETHER // max(1, new.size))
        for start in range(0, count, most):
            which = np.arange(start, min(start + most, count))
            shared[:, which] = np.matmul(self.spread(rows, which), new[:, :, None])[:, :, 0]
        return shared


class _Known:
    """Precisions by row, worked out for those that are asked for: ``place`` (M,) of a row among them, −1 for none. When they grow too many
    what is known is forgotten."""

    def __init__(self, rows: int):
        self.place = np.full(rows, -1, dtype=np.int32)
        self.precision: Precision | None = None

    def at(self, rows: NDArray[np.intp], make: Callable[[NDArray[np.intp]], Precision]) -> Precision:
        """Those of rows (…), the missing ones made."""
        missing = np.unique(rows[self.place[rows] < 0])
        if missing.size or self.precision is None:
            made, known = make(missing), self.precision
            if known is not None and (len(known.log_det) + len(missing)) * made.bytes_each > _MOST_KNOWN_BYTES:
                asked = np.unique(rows)
                missing, made, known = asked, make(asked), None
                self.place[:] = -1
            self.place[missing] = (len(known.log_det) if known is not None else 0) + np.arange(len(missing))
            self.precision = known.joined(made) if known is not None else made
        return self.precision.at(self.place[rows])


def either(sharp: Floats, vague: Floats) -> Floats:
    """Log likelihood beside a threshold, from that of its own side and a vague one that may be of the other."""
    logs: Floats = np.logaddexp(sharp + math.log1p(-OTHER_SIDE), vague + math.log(OTHER_SIDE))
    return logs


def _column(workup: Workup, reading: Reading) -> Column:
    """What one reading would be, for every row; on the good side what the sound circuit gives."""
    column = workup.reading(reading.test, on_scale(reading)[0])
    if not reading.elsewhere:
        return column
    return workup.memo.kept(
        workup.memo.columns,
        ("elsewhere", reading.test, on_scale(reading)[0]),
        lambda: Column(column.prediction.of_row(0), np.zeros_like(column.edge), column.way),
    )


def blunder_chance(stray: Floats, scale: Floats) -> Floats:
    """(…, R) the chance that readings say nothing: as blunders, or as stray volts. One density serves both, that of blunders over their
    ``scale`` (R,); stray volts lie closer together, so their chance is raised by as much."""
    odds = BLUNDER / (1.0 - BLUNDER) + STRAY * stray * scale / STRAY_VOLTS
    return odds / (1.0 + odds)
