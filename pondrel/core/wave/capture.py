"""A capture: samples of one or several channels at even times.

Samples stay as they were stored; what looks at them does so a block at a time and turns them into volts there, so that ten million of them
take no more memory than they had in the file.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..base.brief import near, quoted
from ..base.errors import CaptureError

__all__ = ["LEAST_SAMPLES", "MOST_VALUES", "Blocks", "Capture", "Channel"]

LEAST_SAMPLES, MOST_VALUES = 16, 60_000_000  # of a channel; numbers of all together

_AT_ONCE = 1 << 18  # samples that are turned into volts together: they stay in the processor's cache


@dataclass(frozen=True, slots=True)
class Channel:
    """One channel: its ``name`` and ``unit`` as they were written (empty where nothing was), its samples as they were stored, and what one
    count is worth. Where ``scaled`` is false nobody said what full scale means, and levels say nothing."""

    name: str
    unit: str
    samples: NDArray[Any]
    gain: float = 1.0
    offset: float = 0.0
    scaled: bool = True

    def values(self, start: int, stop: int) -> NDArray[np.float64]:
        """Samples from ``start`` to before ``stop`` in the channel's unit."""
        return np.asarray(self.samples[start:stop], dtype=np.float64) * self.gain + self.offset


@dataclass(frozen=True, slots=True)
class Blocks:
    """A channel a block at a time: least, most and mean of each, ``every`` samples long."""

    every: int
    least: NDArray[np.float64]
    most: NDArray[np.float64]
    mean: NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Capture:
    """Channels that were sampled together, ``step`` seconds apart, the first one at ``start`` seconds; ``notes`` tell in sentences what was
    put right while it was read."""

    channels: tuple[Channel, ...]
    step: float
    start: float = 0.0
    notes: tuple[str, ...] = ()

    def named(self, name: str) -> Channel:
        """The channel of that name, or of that number from 1. Raises CaptureError naming those there are."""
        for number, channel in enumerate(self.channels, 1):
            if channel.name.lower() == name.strip().lower() or name.strip() == str(number):
                return channel
        names = [channel.name for channel in self.channels]
        raise CaptureError(f"{quoted(name)} is no channel of this capture{near(name, names)}: it has {', '.join(names)}.")

    @property
    def count(self) -> int:
        """Samples of each channel."""
        return len(self.channels[0].samples)

    @property
    def seconds(self) -> float:
        """How long it is."""
        return self.count * self.step

    def at(self, sample: float) -> float:
        """The time of a sample in seconds."""
        return self.start + sample * self.step

    def blocks(self, channel: Channel, count: int) -> Blocks:
        """The channel in about ``count`` blocks of equal length; a rest that fills none is left out."""
        every = max(self.count // count, 1)
        whole = self.count // every
        least, most, mean = (np.empty(whole) for _ in range(3))
        for first, last in _pieces(whole, max(_AT_ONCE // every, 1)):
            raw = np.asarray(channel.samples[first * every : last * every]).reshape(last - first, every)
            least[first:last], most[first:last] = raw.min(axis=1), raw.max(axis=1)
            mean[first:last] = raw.mean(axis=1, dtype=np.float64 if raw.dtype.itemsize > 4 or raw.dtype.kind != "f" else np.float32)
        for values in (least, most, mean):
            values *= channel.gain
            values += channel.offset
        if channel.gain < 0.0:
            least, most = most, least
        return Blocks(every, least, most, mean)


def _pieces(whole: int, size: int) -> Iterator[tuple[int, int]]:
    for first in range(0, whole, size):
        yield first, min(first + size, whole)
