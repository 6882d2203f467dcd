"""Where a signal is gone for a while: pulses that are missing from a train, or a level that breaks away and comes back.

A gap that comes back after the same number of pulses each time is a mark of the wheel that makes them, no drop-out.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import median_filter

from ..base.judgement import OWN_RULE, judged
from .capture import Capture, Channel
from .edges import Edges
from .levels import Levels, Scan

__all__ = ["NO_GAPS", "Gaps", "Train", "gaps_in_level", "gaps_in_train", "train_of"]

GAP = judged("WAVE_GAP", 1.5, "periods", "from which on a train's pulse is missing", OWN_RULE)
EVEN_WITHIN = judged("WAVE_EVEN", 0.25, "share", "of the usual period within which a train's period is an even one", OWN_RULE)
EVEN_SHARE = judged("WAVE_EVEN_SHARE", 0.6, "share", "of a train's periods that are even at the least, else it is no train", OWN_RULE)
FAR = judged("WAVE_BREAKS_AWAY", 0.2, "share", "of the whole span by which a level that breaks away falls at the least", OWN_RULE)
LONGEST = judged("WAVE_LONGEST_GAP", 0.1, "share", "of a capture that a drop-out of a level lasts at the longest", OWN_RULE)
STEADY_SHARE = judged("WAVE_STEADY", 0.9, "share", "of the time at one level from which on a few changes make no train", OWN_RULE)
COARSE = 2048  # blocks in which breaks of a level are looked for
MOST_GAPS = 1000


@dataclass(frozen=True, slots=True)
class Train:
    """Pulses that follow each other evenly: the usual ``period`` in samples (the mean of all even ones), its scatter, and how many of the
    periods are even; ``odd`` (M,) numbers of those that are not."""

    period: float
    scatter: float
    even: int
    odd: NDArray[np.int64]


@dataclass(frozen=True, slots=True)
class Gaps:
    """``spans`` (G, 2) in samples from where something is missing to where it is there again; ``missing`` pulses in all; ``every`` pulses
    there is a gap that belongs there, with so many pulses ``left_out``; 0 for none."""

    spans: NDArray[np.float64]
    missing: int = 0
    every: int = 0
    left_out: int = 0


NO_GAPS = Gaps(np.zeros((0, 2)))


def _alike(edges: Edges, samples: int) -> bool:
    """Whether the few stretches that a signal has go with each other: those at the ends of the capture may be cut off, but are not
    longer."""
    bounds = np.concatenate([[0.0], edges.at, [float(samples)]])
    high = np.concatenate([[edges.begins_high], edges.rising])
    lengths = np.diff(bounds)
    for state in (True, False):
        whole = lengths[1:-1][high[1:-1] == state]
        if len(whole) and float(np.ptp(whole)) > EVEN_WITHIN * float(whole.mean()):
            return False
        for end in (0, -1):
            if high[end] == state and len(whole) and lengths[end] > (1.0 + EVEN_WITHIN) * float(whole.max()):
                return False
    return True


def train_of(edges: Edges, levels: Levels | None, samples: int) -> Train | None:
    """The train that a signal's upward edges make; None where they are too few or too uneven."""
    rises = edges.rises
    if len(rises) < 2 or levels is None:
        return None
    periods = np.diff(rises)
    share = max(levels.high_share, 1.0 - levels.high_share)
    if len(periods) < 3 and (share > STEADY_SHARE or not _alike(edges, samples)):
        return None
    usual = float(np.median(periods))
    even = np.abs(periods - usual) <= EVEN_WITHIN * usual
    if even.mean() < EVEN_SHARE:
        return None
    own = periods[even]
    return Train(float(own.mean()), float(own.std()), int(even.sum()), np.flatnonzero(~even))


def gaps_in_train(edges: Edges, train: Train, samples: int) -> Gaps:
    """Where pulses of a train are missing."""
    rises = edges.rises
    periods = np.diff(rises)
    long = np.flatnonzero(periods > GAP * train.period)
    counts = np.maximum(np.round(periods[long] / train.period).astype(int) - 1, 1)
    between = np.diff(long)
    if len(long) >= 2 and len(between) and (between == between[0]).all() and (counts == counts[0]).all() and between[0] > 1:
        return Gaps(np.zeros((0, 2)), 0, int(between[0]), int(counts[0]))
    spans = [(rises[k] + train.period, rises[k + 1]) for k in long]
    missing = int(counts.sum())
    # It may also begin late or end early.
    for begin, end in ((0.0, float(rises[0])), (float(rises[-1]), float(samples))):
        if end - begin > (GAP + 1.0) * train.period:
            spans.append((begin, end) if not begin else (begin + train.period, end))
            missing += max(int((end - begin) / train.period) - 1, 1)
    spans.sort()
    return Gaps(np.array(spans[:MOST_GAPS], dtype=float).reshape(-1, 2), missing)


def gaps_in_level(capture: Capture, channel: Channel, scan: Scan) -> Gaps:
    """Where a level, or a slow course, breaks away towards nought and comes back."""
    if scan.span <= 0.0 or scan.span < 8.0 * scan.level_u:
        return NO_GAPS
    blocks = capture.blocks(channel, min(COARSE, max(capture.count // 4, 1)))
    course = np.asarray(blocks.mean)
    window = max(int(2.0 * LONGEST * len(course)) | 1, 3)
    usual = median_filter(course, size=window, mode="nearest")
    sign = np.where(usual >= 0.0, 1.0, -1.0)
    depth = np.maximum(sign * usual - np.minimum(sign * blocks.least, sign * blocks.most), 0.0)
    need = max(FAR * scan.span, 8.0 * scan.level_u)
    low = depth > need
    if not low.any() or low.mean() > 0.5:
        return NO_GAPS
    bounds = np.flatnonzero(np.diff(np.concatenate([[0], low.astype(np.int8), [0]])))
    spans = []
    for first, last in bounds.reshape(-1, 2)[:MOST_GAPS]:
        if not first or last - first > LONGEST * len(course):  # what was not there yet has not broken away
            continue
        begin, end = max((first - 1) * blocks.every, 0), min((last + 1) * blocks.every, capture.count)
        values = channel.values(begin, end)
        level = float(usual[(first + last) // 2])
        side = 1.0 if level >= 0.0 else -1.0
        below = np.flatnonzero(side * values < side * level - 0.5 * float(depth[first:last].max()))
        # It has to have been there before, and to come back: a step is no drop-out.
        if len(below) and below[0] > 0 and below[-1] < len(values) - 1:
            spans.append((begin + below[0], begin + below[-1] + 1))
    return Gaps(np.array(spans, dtype=float).reshape(-1, 2))
