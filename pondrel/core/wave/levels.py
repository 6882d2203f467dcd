"""One pass over a channel: least, most, mean, effective value, and the histogram by which its two levels are found.

IEEE 181-2011, 5.2: where a histogram has two modes, the level of each is found within its half. The border between the halves is put where
it parts the samples best (Otsu 1979, with less weight on how far apart they are), so that a rare spike far outside does not move it; a
half without a mode of its own, as a sine or a ramp has, gives its end.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from .capture import Channel

__all__ = ["Levels", "Scan", "in_unit", "levels_of", "pieces_of", "quick_scan", "scan_of"]

AT_ONCE = 1 << 16  # samples looked at together: they stay in the processor's cache
BINS = 1024
APART_POWER = 1.3  # of the distance between both halves; with Otsu's 2 a coil's spike of one sample in seventy would be a level
PIECES, PIECE = 32, 4096  # what is looked at where the whole need not be
MODE_WITHIN, MODE_SHARE = 0.015, 0.3  # of the span to each side of a mode, and of its half that lies there at the least
END_SHARE = 0.001  # of its half that lies beyond an end
MODES_APART, ENDS_APART = 6.0, 10.0  # times the noise: what noise alone has from end to end is no two levels
COUNTED = 3_000_000  # samples from which on only some are counted in the histogram
FEW_VALUES, SMALL_STEP = 4, 0.01  # so few values tell a rounding only where they lie so close, as a share of the greatest


@dataclass(frozen=True, slots=True)
class Scan:
    """What one pass tells of a channel, in its unit: ``counts`` (BINS,) from ``least`` to ``most``; ``noise`` is one standard deviation of
    what differs from sample to sample and follows no smooth course, ``resolution`` the smallest step between two values, 0 where none is
    seen; ``pieces`` (pieces, samples) of it."""

    count: int
    least: float
    most: float
    mean: float
    rms: float
    counts: NDArray[np.int64]
    noise: float
    resolution: float
    pieces: NDArray[np.float64]

    @property
    def span(self) -> float:
        """From least to most."""
        return self.most - self.least

    @property
    def level_u(self) -> float:
        """One standard deviation of a single sample: noise and rounding together."""
        return float(np.hypot(self.noise, self.resolution / np.sqrt(12.0)))

    def share_below(self, share: float) -> float:
        """The value below which that share of all samples lies."""
        reached = np.cumsum(self.counts)
        place = int(np.searchsorted(reached, share * reached[-1]))
        return self.least + (min(place, BINS - 1) + 0.5) * self.span / BINS


@dataclass(frozen=True, slots=True)
class Levels:
    """The two levels of a signal, what lies midway, and the share of samples above that."""

    base: float
    top: float
    border: float
    high_share: float

    @property
    def amplitude(self) -> float:
        """From base to top."""
        return self.top - self.base

    @property
    def middle(self) -> float:
        """Midway between both."""
        return 0.5 * (self.top + self.base)

    def at(self, share: float) -> float:
        """The level at a share of the amplitude above the base."""
        return self.base + share * self.amplitude


def scan_of(channel: Channel) -> Scan:
    """One pass over a channel, in its unit."""
    samples = channel.samples
    count = len(samples)
    starts = range(0, count, AT_ONCE)
    ends = [(samples[i : i + AT_ONCE].min(), samples[i : i + AT_ONCE].max()) for i in starts]
    edges = (float(min(low for low, _ in ends)), float(max(high for _, high in ends)))
    least, most = sorted(edge * channel.gain + channel.offset for edge in edges)
    scale = BINS / (most - least) if most > least else 0.0
    counts = np.zeros(BINS + 1, dtype=np.int64)
    total = squares = 0.0
    every = 1 + 2 * (count // (2 * COUNTED))  # odd, so that a signal sampled evenly a few times a period is met at each place
    for number, i in enumerate(starts):
        own = in_unit(channel, samples[i : i + AT_ONCE])
        total += float(own.sum())
        squares += float(own @ own)
        some = own[number % every :: every] - least
        some *= scale
        counts += np.bincount(some.astype(np.int64), minlength=BINS + 1)[: BINS + 1]
    counts[BINS - 1] += counts[BINS]
    pieces = pieces_of(channel)
    resolution = _resolution(channel, pieces, most - least)
    return Scan(count, least, most, total / count, float(np.sqrt(squares / count)), counts[:BINS], _noise(pieces), resolution, pieces)


def quick_scan(channel: Channel) -> Scan:
    """As `scan_of`, from pieces all over the channel alone: enough for the levels of a line that changes all the time."""
    pieces = pieces_of(channel)
    own = pieces.ravel()
    least, most = float(own.min()), float(own.max())
    counts = np.histogram(own, BINS, (least, most if most > least else least + 1.0))[0]
    return Scan(
        len(own), least, most, float(own.mean()), float(np.sqrt((own * own).mean())), counts, _noise(pieces),
        _resolution(channel, pieces, most - least), pieces,
    )  # fmt: skip


def in_unit(channel: Channel, raw: NDArray[Any]) -> NDArray[np.float64]:
    """Samples as they are stored in the channel's unit; as they are where they are that already."""
    if channel.gain == 1.0 and channel.offset == 0.0 and raw.dtype == np.float64:
        return raw
    return np.asarray(raw * np.float64(channel.gain) + channel.offset)


def pieces_of(channel: Channel) -> NDArray[np.float64]:
    """Some of a channel in its unit: (pieces, samples), from all over it; the whole where it is short."""
    count = len(channel.samples)
    if count <= PIECES * PIECE:
        return channel.values(0, count).reshape(1, -1)
    starts = np.linspace(0, count - PIECE, PIECES).astype(int)
    return np.array([channel.values(start, start + PIECE) for start in starts])


def _noise(pieces: NDArray[np.float64]) -> float:
    """What is left of third differences, in which no smooth course is left: by its median, which edges do not move."""
    if pieces.shape[1] < 8:
        return 0.0
    third = np.abs(np.diff(pieces, 3, axis=1))
    return float(np.median(third) / 0.6745 / np.sqrt(20.0))


def _resolution(channel: Channel, pieces: NDArray[np.float64], span: float) -> float:
    if channel.samples.dtype.kind in "iub":
        logic = channel.samples.dtype == np.uint8 and channel.gain == 1.0 and span <= 1.0
        return 0.0 if logic else abs(channel.gain)
    some = np.unique(pieces[:: max(len(pieces) // 8, 1), :PIECE])
    steps = np.diff(some)
    steps = steps[steps > 1e-9 * max(span, 1e-30)]
    if not len(steps) or len(some) > 0.5 * min(pieces.shape[0], 8) * min(pieces.shape[1], PIECE):
        return 0.0
    smallest = float(steps.min())
    if len(steps) + 1 < FEW_VALUES and smallest > SMALL_STEP * float(np.abs(some).max()):
        return 0.0  # two levels that are computed, or that a logic input gives
    return smallest


def levels_of(scan: Scan) -> Levels | None:
    """The two levels of a signal; None where it has one only, as a steady one has."""
    if scan.span <= 0.0:
        return None
    border = _border(scan.counts)
    lower, upper = _level(scan, 0, border + 1, 0), _level(scan, border + 1, BINS, 1)
    if lower is None or upper is None:
        return None
    (low, low_is_mode), (high, high_is_mode) = lower, upper
    apart = MODES_APART if low_is_mode and high_is_mode else ENDS_APART
    if high - low <= apart * max(scan.noise, scan.resolution / 2.0):
        return None
    above = int(np.clip(round((0.5 * (low + high) - scan.least) / scan.span * BINS), 0, BINS))
    return Levels(low, high, scan.least + (border + 1) * scan.span / BINS, float(scan.counts[above:].sum() / scan.counts.sum()))


def _border(counts: NDArray[np.int64]) -> int:
    """The last bin of the lower half: where the spread between both halves is largest."""
    places = np.arange(BINS)
    weight = np.cumsum(counts) / counts.sum()
    moment = np.cumsum(counts * places) / counts.sum()
    with np.errstate(divide="ignore", invalid="ignore"):
        apart = np.abs(moment[-1] * weight - moment) / (weight * (1.0 - weight))
        between = weight * (1.0 - weight) * apart**APART_POWER
    between[~np.isfinite(between)] = -1.0
    best = np.flatnonzero(between >= between.max() * (1.0 - 1e-9))
    return int(best[len(best) // 2])


def _level(scan: Scan, first: int, last: int, end: int) -> tuple[float, bool] | None:
    """The level of one half, and whether it is a mode: else it is the half's outer end (0 lower, 1 upper)."""
    own = scan.counts[first:last]
    total = int(own.sum())
    if not total:
        return None
    width = scan.span / BINS
    around = max(round(MODE_WITHIN * BINS), 1)
    near = np.convolve(own, np.ones(2 * around + 1), mode="same")
    place = int(np.argmax(near))
    if near[place] < MODE_SHARE * total:
        reached = np.cumsum(own)
        at = int(np.searchsorted(reached, END_SHARE * total if end == 0 else (1.0 - END_SHARE) * total))
        return scan.least + (first + min(at, len(own) - 1) + end) * width, False
    middle = scan.least + (first + place + 0.5) * width
    inside = scan.pieces[np.abs(scan.pieces - middle) <= (around + 0.5) * width]
    if len(inside):
        # Once more about what was found: the mode lies where most of it lies, not where its window began.
        middle = float(np.median(inside))
        inside = scan.pieces[np.abs(scan.pieces - middle) <= (around + 0.5) * width]
    if len(inside):
        return float(inside.mean()), True
    window = slice(max(place - around, 0), place + around + 1)
    return scan.least + (first + float(np.average(np.arange(len(own))[window], weights=own[window])) + 0.5) * width, True
