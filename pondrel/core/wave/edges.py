"""Where a signal passes the middle between its two levels, and how long that takes.

A crossing counts where the signal went clearly to the other side before it came back (hysteresis): what noise does about the middle is no
edge. Instants are placed between samples by a straight line (IEEE 181-2011, 5.3).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from .capture import Channel
from .levels import Levels, Scan, in_unit

__all__ = ["Edges", "changes_at", "crossing_times", "edges_of", "without_short"]

CLEARLY, MOST_CLEARLY, OF_NOISE = 0.1, 0.4, 4.0  # of the amplitude; times the noise
LOW, HIGH = 0.1, 0.9  # reference levels of a transition
MOST_DOUBTFUL = 20_000  # stretches whose middle is not clear and that are looked at whole
MOST_TIMED, MOST_LOOKED = 96, 2_000_000  # transitions that are timed, and samples looked at for that


@dataclass(frozen=True, slots=True)
class Edges:
    """Edges of a channel: ``at`` (K,) in samples, ``rising`` (K,) whether upward, ``place`` (K,) the first sample behind each;
    ``extremes`` (K + 1,) the farthest value of each stretch between them, ``begins_high`` what the first stretch is."""

    at: NDArray[np.float64]
    rising: NDArray[np.bool_]
    place: NDArray[np.int64]
    extremes: NDArray[np.float64]
    begins_high: bool

    @property
    def rises(self) -> NDArray[np.float64]:
        """Instants of the upward ones, in samples."""
        return self.at[self.rising]

    @property
    def falls(self) -> NDArray[np.float64]:
        """Instants of the downward ones, in samples."""
        return self.at[~self.rising]

    def widths(self, high: bool) -> NDArray[np.float64]:
        """Lengths in samples of the stretches that are high (or low) and have both ends within the capture."""
        if len(self.at) < 2:
            return np.zeros(0)
        own = np.diff(self.at)
        return np.asarray(own[self.rising[:-1] == high])


def edges_of(channel: Channel, levels: Levels, scan: Scan, extremes: bool = True) -> Edges:
    """Edges of a channel about the middle of its levels. Without ``extremes`` most stretches are looked at in their middle only, which is
    faster where there are many, and their extremes are those middles."""
    samples, sign = channel.samples, 1.0 if channel.gain > 0.0 else -1.0

    def raw(value: float) -> float:
        return (value - channel.offset) / channel.gain

    middle = raw(levels.middle)
    place = _changes(samples, middle)
    starts = np.concatenate([[0], place])
    # They alternate: which the first one is tells all.
    begins_high = bool(samples[0] > middle) == (sign > 0.0)
    high = np.full(len(starts), begins_high)
    high[1::2] = not begins_high
    clear = min(max(CLEARLY * levels.amplitude, OF_NOISE * scan.noise), MOST_CLEARLY * levels.amplitude)

    def counted(farthest: NDArray[np.float64], high: NDArray[np.bool_]) -> NDArray[np.bool_]:
        return np.where(high, farthest - levels.middle, levels.middle - farthest) >= clear

    if extremes:
        farthest = _farthest(channel, starts, high)
        counts = counted(farthest, high)
    else:
        ends = np.concatenate([starts[1:], [len(samples)]])
        farthest = in_unit(channel, samples[(starts + ends) >> 1])
        counts = counted(farthest, high)
        doubtful = np.flatnonzero(~counts & (ends - starts > 1))
        for k in doubtful[:MOST_DOUBTFUL]:
            own = channel.values(int(starts[k]), int(ends[k]))
            farthest[k] = own.max() if high[k] else own.min()
        counts[doubtful] = counted(farthest[doubtful], high[doubtful])
    if not counts.any():
        return Edges(np.zeros(0), np.zeros(0, bool), np.zeros(0, int), farthest[:1], bool(high[0]))
    if counts.all():
        # Each stretch stands: nothing is to be taken together.
        return Edges(_instants(samples, place, middle, extremes), high[1:], place, farthest, bool(high[0]))
    kept = np.flatnonzero(counts)
    turned = np.concatenate([[True], high[kept][1:] != high[kept][:-1]])
    groups = np.flatnonzero(turned)
    # A stretch is all that counts up to the next that is on the other side; its extreme is the farthest of them.
    far = np.where(high[kept][groups], np.maximum.reduceat(farthest[kept], groups), np.minimum.reduceat(farthest[kept], groups))
    first = kept[groups][1:]
    at = starts[first]
    return Edges(_instants(samples, at, middle, extremes), high[first], at, far, bool(high[kept[0]]))


def without_short(edges: Edges, least: float) -> tuple[Edges, int]:
    """Edges without stretches shorter than ``least`` samples, those at the ends of the capture aside, and how many those were: what
    chatters before it stays is one edge, its last."""
    if len(edges.at) < 2:
        return edges, 0
    keep: list[int] = []
    dropped = 0
    for k in range(len(edges.at)):
        if keep and edges.at[k] - edges.at[keep[-1]] < least:
            dropped += 1
            if edges.rising[k] != edges.rising[keep[-1]]:
                keep.pop()
            continue
        if keep and edges.rising[k] == edges.rising[keep[-1]]:
            dropped += 1
            continue
        keep.append(k)
    kept = np.array(keep, dtype=int)
    far = edges.extremes[np.concatenate([[0], kept + 1])]
    return Edges(edges.at[kept], edges.rising[kept], edges.place[kept], far, edges.begins_high), dropped


def _farthest(channel: Channel, starts: NDArray[np.int64], high: NDArray[np.bool_]) -> NDArray[np.float64]:
    """(R,) the highest value of each stretch that is high, the lowest of each other, in the channel's unit."""
    upper, lower = np.maximum.reduceat(channel.samples, starts), np.minimum.reduceat(channel.samples, starts)
    far = np.where(high == (channel.gain > 0.0), upper, lower)
    return np.asarray(far * np.float64(channel.gain) + channel.offset)


def changes_at(channel: Channel, level: float) -> NDArray[np.int64]:
    """The first sample behind each crossing of a level (in the channel's unit), whatever noise makes of it."""
    return _changes(channel.samples, (level - channel.offset) / channel.gain)


def _changes(samples: NDArray[np.generic], middle: float) -> NDArray[np.int64]:
    """The first sample of each stretch that lies on the other side of a level, but for the very first."""
    found: list[NDArray[np.int64]] = []
    size, before = 1 << 16, None
    for start in range(0, len(samples), size):
        above = samples[start : start + size] > middle  # type: ignore[operator]
        changes = np.flatnonzero(above[1:] != above[:-1]) + (start + 1)
        if before is not None and bool(above[0]) != before:
            changes = np.concatenate([[start], changes])
        before = bool(above[-1])
        found.append(changes)
    return np.concatenate(found).astype(np.int64) if found else np.zeros(0, dtype=np.int64)


def _instants(samples: NDArray[np.generic], place: NDArray[np.int64], level: float, placed: bool) -> NDArray[np.float64]:
    """Instants of edges in samples: ``placed`` between them, or, for a line with many edges, by whole ones."""
    return _between(samples, place, level) if placed else np.asarray(place - 0.5, dtype=np.float64)


def _between(samples: NDArray[np.generic], place: NDArray[np.int64], level: float) -> NDArray[np.float64]:
    """Instants at which a level is passed right before each place, in samples."""
    before, after = samples[place - 1].astype(np.float64), samples[place].astype(np.float64)
    return np.asarray(place - (after - level) / np.where(after == before, 1.0, after - before))


def crossing_times(channel: Channel, levels: Levels, edges: Edges, rising: bool) -> NDArray[np.float64]:
    """How long some upward (or downward) transitions take from 10 % to 90 % of the amplitude, in samples; those that the capture or the
    next transition cuts off are left out."""
    own = np.flatnonzero(edges.rising == rising)
    if len(own) > MOST_TIMED:
        own = own[np.linspace(0, len(own) - 1, MOST_TIMED).astype(int)]
    begin, finish = (levels.at(LOW), levels.at(HIGH)) if rising else (levels.at(HIGH), levels.at(LOW))
    found: list[float] = []
    looked = 0
    for k in own:
        here = int(edges.place[k])
        before = int(edges.place[k - 1]) if k else 0
        after = int(edges.place[k + 1]) if k + 1 < len(edges.place) else len(channel.samples)
        looked += after - before
        if looked > MOST_LOOKED and found:
            break
        ahead, behind = channel.values(before, here), channel.values(here - 1, after)
        # Upwards in both cases, so that one rule serves.
        if not rising:
            ahead, behind = -ahead, -behind
        low, high = (begin, finish) if rising else (-begin, -finish)
        below, above = np.flatnonzero(ahead <= low), np.flatnonzero(behind >= high)
        if not len(below) or not len(above):
            continue
        first, last = before + int(below[-1]), here - 1 + int(above[0])
        ends = channel.values(first, last + 1) * (1.0 if rising else -1.0)
        start = first + _share(ends[0], ends[1], low)
        end = last - 1 + _share(ends[-2], ends[-1], high)
        found.append(end - start)
    return np.array(found)


def _share(before: float, after: float, level: float) -> float:
    return min(max(float((level - before) / (after - before)), 0.0), 1.0) if after != before else 0.0
