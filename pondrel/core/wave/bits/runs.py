"""A data line as stretches of time: when it was dominant and when recessive, and how long a bit lasts."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

__all__ = ["Runs", "bit_times", "refined", "without_glitches"]

GLITCH = 0.4  # of a bit: what is shorter is none
MOST_BITS = 12.5  # of a stretch within a frame, an error flag with its echoes included
FITS = 0.25  # of a bit by which a stretch may lie off whole bits
LEAST_SHARE, CLUSTER, ALIKE = 0.02, 0.18, 0.93
WELL = 0.85  # of all stretches that are whole bits: then the length is one that all have
NEAR_ONE = 0.4  # of a bit by which a single bit may lie off
MOST_GROUPS, MOST_TRIED = 12, 24
ENOUGH = 60_000  # stretches by which a bit's length is refined


@dataclass(frozen=True, slots=True)
class Runs:
    """Stretches of a line: ``at`` (R + 1,) instants in seconds at which they begin, the last one their end; ``dominant`` (R,)."""

    at: NDArray[np.float64]
    dominant: NDArray[np.bool_]

    @property
    def lengths(self) -> NDArray[np.float64]:
        """(R,) seconds."""
        return np.diff(self.at)

    def first(self, count: int) -> Runs:
        """The first so many."""
        return Runs(self.at[: count + 1], self.dominant[:count])


def without_glitches(runs: Runs, bit: float, spared: NDArray[np.bool_]) -> tuple[Runs, NDArray[np.float64]]:
    """Stretches without those shorter than a bit by far, but for those (R,) ``spared``, and the instants of those (G,). Between two real
    stretches of the same state all are dropped; between different ones one change stays."""
    short = (runs.lengths < GLITCH * bit) & ~spared
    # What the capture cuts off at its ends is no glitch.
    if len(short):
        short[0] = short[-1] = False
    if not short.any():
        return runs, np.zeros(0)
    edges = np.diff(np.concatenate([[0], short.astype(np.int8), [0]]))
    first, last = np.flatnonzero(edges > 0), np.flatnonzero(edges < 0)  # stretches first ... last - 1 are short
    keep = np.ones(len(runs.dominant), dtype=bool)
    keep[short] = False
    # The stretch behind goes on with the one before where both are alike.
    alike = runs.dominant[first - 1] == runs.dominant[last]
    keep[last[alike]] = False
    # Where they differ both keep as much of the time between as was theirs.
    dominant = np.concatenate([[0.0], np.cumsum(np.where(runs.dominant, runs.lengths, 0.0))])
    within, begin = dominant[last] - dominant[first], runs.at[first]
    own = np.where(runs.dominant[first - 1], within, runs.at[last] - begin - within)
    starts = runs.at[:-1].copy()
    starts[last[~alike]] = (begin + own)[~alike]
    kept = np.flatnonzero(keep)
    return Runs(np.concatenate([starts[kept], runs.at[-1:]]), runs.dominant[kept]), runs.at[first]


def bit_times(runs: Runs) -> list[float]:
    """What one bit may last in seconds, by the stretches alone: lengths that many of them have and of which the others are multiples, the
    best first."""
    inner = runs.lengths[1:-1]
    if len(inner) < 4:
        return []
    low = np.percentile(inner, 1.0)
    lengths = np.sort(inner[(inner >= 0.5 * low) & (inner < 400.0 * low)])
    borders = np.flatnonzero(np.diff(lengths) > CLUSTER * lengths[:-1]) + 1
    groups = [group for group in np.split(lengths, borders) if len(group) >= max(LEAST_SHARE * len(lengths), 2)]
    found = []
    for group in groups[:MOST_GROUPS]:
        # Dominant stretches last a little longer than recessive ones: their middle is a bit.
        for own in (float(np.median(group)), float(group[0]), float(group[-1])):
            found += [own / part for part in (1, 2, 3, 4, 5)]
    apart: list[tuple[float, float]] = []
    for own in sorted(found, reverse=True):
        if not apart or own < ALIKE * apart[-1][1]:
            apart.append((_fit(runs, own), own))
    # First those that fit all stretches, then those that fit only some, as where some frames have faster bits.
    fitting = [own for fit, own in apart if fit > WELL]
    return fitting + [own for _, own in sorted(apart, reverse=True) if own not in fitting][:MOST_TRIED]


def _fit(runs: Runs, bit: float) -> float:
    """The share of all stretches that are whole bits; 0 where none is a single one."""
    counts = runs.lengths[1:-1] / bit
    inside = counts[counts < MOST_BITS]
    if len(inside) < 4:
        return 0.0
    near = (np.abs(inside - np.round(inside)) < FITS) & (inside > 0.6)
    ones = (inside > 0.6) & (inside < 1.4)
    return float(near.mean()) if ones.mean() > LEAST_SHARE else 0.0


def refined(runs: Runs, bit: float) -> tuple[float, float]:
    """A bit's length by all periods between two changes to dominant, which no skew moves; and by how much longer than whole bits the
    dominant stretches are (both in seconds)."""
    some = runs.first(min(len(runs.dominant), ENOUGH))
    periods = np.diff(some.at[:-1][some.dominant])
    for within in (0.3, 0.15):
        counts = np.round(periods / bit)
        good = (counts >= 2) & (counts <= 2 * MOST_BITS) & (np.abs(periods / bit - counts) < within * np.minimum(counts / 4.0, 1.0) + 0.05)
        if good.sum() < 3:
            return bit, 0.0
        own = counts[good]
        bit = float((periods[good] * own).sum() / (own * own).sum())
    # By single bits of either state: what is long in one is short in the other, and what else lies about there is the same in both.
    middles = []
    for state in (True, False):
        lengths = some.lengths[1:-1][some.dominant[1:-1] == state]
        single = lengths[np.abs(lengths - bit) < NEAR_ONE * bit]
        if len(single) < 3:
            return bit, 0.0
        middles.append(float(np.median(single)))
    return bit, 0.5 * (middles[0] - middles[1])
