"""A channel as it is drawn: least and most of each column of pixels, out of blocks that were looked at once."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from .capture import Capture, Channel

__all__ = ["BLOCK", "Drawn", "Pyramid", "drawn", "pyramid_of"]

BLOCK = 64  # samples: what is looked at again where one draws closer
MOST_COLUMNS = 8000


@dataclass(frozen=True, slots=True)
class Pyramid:
    """Least and most of each block of `BLOCK` samples (B,), in the channel's unit; the last block may be shorter."""

    least: NDArray[np.float32]
    most: NDArray[np.float32]


@dataclass(frozen=True, slots=True)
class Drawn:
    """A stretch of a channel for so many columns: ``first`` sample of the first and ``every`` samples a column (whole ones); least and most
    of each. Where ``every`` is 1 both are the samples themselves."""

    first: int
    every: float
    least: NDArray[np.float32]
    most: NDArray[np.float32]


def pyramid_of(capture: Capture, channel: Channel) -> Pyramid:
    """The blocks of a channel."""
    starts = np.arange(0, capture.count, BLOCK)
    low, high = np.minimum.reduceat(channel.samples, starts), np.maximum.reduceat(channel.samples, starts)
    ends = [(own * np.float64(channel.gain) + channel.offset).astype(np.float32) for own in (low, high)]
    return Pyramid(*ends) if channel.gain >= 0.0 else Pyramid(ends[1], ends[0])


def drawn(capture: Capture, channel: Channel, pyramid: Pyramid, first: int, last: int, columns: int) -> Drawn:
    """Samples from ``first`` to before ``last`` in at most so many columns."""
    first, last = max(first, 0), min(max(last, first + 2), capture.count)
    columns = min(max(columns, 1), MOST_COLUMNS)
    count = last - first
    if count <= 2 * columns:
        samples = channel.values(first, last).astype(np.float32)
        return Drawn(first, 1.0, samples, samples)
    if count // columns < 4 * BLOCK:
        cuts = first + np.arange(columns) * count // columns
        values = channel.values(first, last)
        return Drawn(
            first,
            count / columns,
            np.minimum.reduceat(values, cuts - first).astype(np.float32),
            np.maximum.reduceat(values, cuts - first).astype(np.float32),
        )
    begin, end = first // BLOCK, -(-last // BLOCK)
    cuts = np.arange(columns) * (end - begin) // columns
    return Drawn(
        begin * BLOCK,
        (end - begin) * BLOCK / columns,
        np.minimum.reduceat(pyramid.least[begin:end], cuts),
        np.maximum.reduceat(pyramid.most[begin:end], cuts),
    )
