"""A data line out of one or two channels: which of its states is the dominant one, and when it was in which.

Two channels are looked at by their difference. Where both move together, since one of them is open, the one that moves more speaks for
both; a single channel may be high, low, their difference, or a logic signal: low is dominant there.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ...base.errors import CaptureError
from ..capture import Capture, Channel
from ..edges import Edges, edges_of
from ..levels import Levels, levels_of, pieces_of, quick_scan, scan_of
from .runs import Runs

__all__ = ["Line", "line_of", "pair_in"]

REST = 2.5  # volts of either wire at rest
MOST_RANKED = 60_000  # stretches by which it shows how a line rests
LEAST_DIFFERENCE = 0.5  # volts by which a difference moves at the least, else it tells nothing
_HIGH, _LOW = ("can_h", "canh", "can h", "can-h", "can high", "high", "h"), ("can_l", "canl", "can l", "can-l", "can low", "low", "l")


@dataclass(frozen=True, slots=True)
class Line:
    """A line in time. ``seen`` is the channel by which it was read, ``levels`` its two levels, ``dominant_high`` whether dominant is the
    upper one, ``edges`` in samples, ``by`` how it was read: by difference, high, low or a single channel."""

    capture: Capture
    seen: Channel
    levels: Levels
    edges: Edges
    dominant_high: bool
    by: str

    @property
    def runs(self) -> Runs:
        """Its stretches."""
        at = self.capture.start + np.concatenate([[0.0], self.edges.at, [float(self.capture.count)]]) * self.capture.step
        high = np.concatenate([[self.edges.begins_high], self.edges.rising])
        return Runs(at, high == self.dominant_high)


def pair_in(capture: Capture) -> tuple[Channel | None, Channel | None]:
    """High and low of a data line by the channels' names, or by their levels; with one channel it is the high one here."""
    by_name = [next((c for c in capture.channels if c.name.lower().strip() in names), None) for names in (_HIGH, _LOW)]
    if by_name[0] is not None or by_name[1] is not None:
        return by_name[0], by_name[1]
    if len(capture.channels) == 1:
        return capture.channels[0], None
    volts = [c for c in capture.channels if c.unit in ("V", "") and c.scaled][:2]
    if len(volts) < 2:
        return capture.channels[0], None
    # High lies above low wherever they differ.
    means = [float(pieces_of(channel).mean()) for channel in volts]
    return (volts[0], volts[1]) if means[0] >= means[1] else (volts[1], volts[0])


def line_of(capture: Capture, high: Channel | None, low: Channel | None) -> Line | None:
    """The line that one or two channels show; None where nothing moves on it. Raises CaptureError without a channel."""
    if high is None and low is None:
        raise CaptureError("A data line has a high and a low line: name the channel of one or both.")
    if high is not None and low is not None:
        both = _difference(capture, high, low)
        found = _seen(capture, both, "difference")
        if found is not None and found.levels.amplitude >= LEAST_DIFFERENCE:
            return found
        singles = [_seen(capture, high, "high"), _seen(capture, low, "low")]
        moving = [one for one in singles if one is not None and one.levels.amplitude >= LEAST_DIFFERENCE]
        return max(moving, key=lambda one: one.levels.amplitude, default=None)
    own = high if high is not None else low
    assert own is not None
    return _seen(capture, own, "single")


def _difference(capture: Capture, high: Channel, low: Channel) -> Channel:
    if high.samples.dtype == low.samples.dtype == np.float32:
        made: NDArray[np.generic] = high.samples * np.float32(high.gain) - low.samples * np.float32(low.gain)
        return Channel("difference", "V", made, 1.0, high.offset - low.offset)
    if high.gain == low.gain == 1.0 and high.samples.dtype.kind == low.samples.dtype.kind == "f":
        return Channel("difference", "V", high.samples - low.samples, 1.0, high.offset - low.offset)
    return Channel("difference", "V", high.values(0, capture.count) - low.values(0, capture.count))


def _seen(capture: Capture, channel: Channel, by: str) -> Line | None:
    if not channel.samples.flags.c_contiguous:
        channel = Channel(channel.name, channel.unit, np.ascontiguousarray(channel.samples), channel.gain, channel.offset, channel.scaled)
    scan = quick_scan(channel)
    levels = levels_of(scan)
    if levels is None:
        scan = scan_of(channel)  # on a line that is quiet most of the time the pieces may hold nothing
        levels = levels_of(scan)
    if levels is None:
        return None
    edges = edges_of(channel, levels, scan, extremes=False)
    # A difference is dominant where it is high; what else it may be shows by where it rests.
    high = Line(capture, channel, levels, edges, True, by)
    if by == "difference":
        return high
    if by in ("high", "low"):
        # One that follows the other since it is open may be long in coming back: it rests at half of 5 V.
        rests_low = abs(levels.base - REST) < abs(levels.top - REST)
    else:
        rests_low = _rests_low(high)
    return high if rests_low else Line(capture, channel, levels, edges, False, by)


def _rests_low(line: Line) -> bool:
    """Whether its upper state is the dominant one: a line rests recessive, and its longest stretches are those at rest."""
    runs = line.runs.first(MOST_RANKED)
    lengths, high = runs.lengths, runs.dominant
    tops = [np.sort(lengths[high == state])[-max(len(lengths) // 400, 2) :] for state in (True, False)]
    longest = [float(np.median(own)) if len(own) else 0.0 for own in tops]
    return longest[1] > longest[0]
