"""What is measured of a channel: levels, time, shape, and where it is gone, each with what rate and rounding leave open.

Terms and definitions follow IEEE 181-2011 (state levels, reference levels of 10, 50 and 90 %, transition duration, overshoot, period, duty
factor); `QUANTITIES` names the term beside each. All times are seconds, all levels in the channel's unit, shares between 0 and 1.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from itertools import pairwise
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..base.quantity import show
from .capture import Capture, Channel
from .edges import Edges, crossing_times, edges_of
from .gaps import NO_GAPS, Gaps, Train, gaps_in_level, gaps_in_train, train_of
from .levels import AT_ONCE, Levels, Scan, levels_of, scan_of

__all__ = ["QUANTITIES", "Measured", "Measures", "Quantity", "averages_of", "measures_json", "measures_of", "numbers_of"]

STEADY_PARTS, MOST_AVERAGES = 20, 240


@dataclass(frozen=True, slots=True)
class Measured:
    """A number and one standard deviation of it, as far as rate and rounding go."""

    value: float
    u: float


@dataclass(frozen=True, slots=True)
class Measures:
    """All that was measured of one channel; what does not apply is None."""

    channel: Channel
    step: float
    start: float
    scan: Scan
    levels: Levels | None
    edges: Edges
    train: Train | None
    gaps: Gaps
    rises_s: NDArray[np.float64]
    falls_s: NDArray[np.float64]
    parts: NDArray[np.float64]

    @property
    def minimum(self) -> Measured:
        """The least sample."""
        return Measured(self.scan.least, self.scan.level_u)

    @property
    def maximum(self) -> Measured:
        """The greatest sample."""
        return Measured(self.scan.most, self.scan.level_u)

    @property
    def mean(self) -> Measured:
        """Of all samples."""
        return Measured(self.scan.mean, self._of_all())

    @property
    def rms(self) -> Measured:
        """The effective value of all samples."""
        return Measured(self.scan.rms, self._of_all())

    def _of_all(self) -> float:
        # Rounding of a steady level is the same in each sample: it does not average out, noise does.
        return float(np.hypot(self.scan.noise / np.sqrt(self.scan.count), self.scan.resolution / np.sqrt(12.0)))

    @property
    def top(self) -> Measured | None:
        """The upper state level."""
        return None if self.levels is None else Measured(self.levels.top, self.scan.level_u)

    @property
    def base(self) -> Measured | None:
        """The lower state level."""
        return None if self.levels is None else Measured(self.levels.base, self.scan.level_u)

    @property
    def amplitude(self) -> Measured | None:
        """From base to top."""
        return None if self.levels is None else Measured(self.levels.amplitude, 1.414 * self.scan.level_u)

    @property
    def peak_to_peak(self) -> Measured:
        """From least to most."""
        return Measured(self.scan.span, 1.414 * self.scan.level_u)

    @property
    def ripple(self) -> Measured | None:
        """Peak to peak, but for one sample in 250 at either end, of what goes on about one level; None for pulses between two."""
        if self.train is not None and self.is_two_levels:
            return None
        return Measured(self.scan.share_below(0.996) - self.scan.share_below(0.004), 1.414 * self.scan.level_u + self.scan.span / 1024.0)

    @property
    def is_two_levels(self) -> bool:
        """Whether it spends most of its time near one of its two levels, as pulses do and a sine does not."""
        if self.levels is None:
            return False
        near = 0.1 * self.levels.amplitude
        apart = np.minimum(np.abs(self.scan.pieces - self.levels.top), np.abs(self.scan.pieces - self.levels.base))
        return bool((apart < near).mean() > 0.6)

    @property
    def period(self) -> Measured | None:
        """Between two upward middle crossings: the mean of all even ones."""
        if self.train is None:
            return None
        # Each instant is known to a part of a sample; those of neighbouring periods cancel.
        edge = self._instant_u()
        return Measured(
            self.train.period * self.step, edge * np.sqrt(2.0) / self.train.even + self.train.scatter * self.step / self.train.even
        )

    def _instant_u(self) -> float:
        """One standard deviation of an instant, in seconds: a straight line between two samples is no better than a part of a step."""
        return self.step / math.sqrt(12.0)

    @property
    def frequency(self) -> Measured | None:
        """The reciprocal of the period."""
        own = self.period
        return None if own is None else Measured(1.0 / own.value, own.u / own.value**2)

    @property
    def duty(self) -> Measured | None:
        """Duty factor: the share of whole even periods in which the signal is high."""
        if self.train is None:
            return None
        ends, kind = self.edges.at, self.edges.rising
        up = np.flatnonzero(kind[:-2] & ~kind[1:-1] & kind[2:])
        if not len(up):
            return None
        periods, high = ends[up + 2] - ends[up], ends[up + 1] - ends[up]
        even = np.abs(periods - self.train.period) <= 0.25 * self.train.period
        if not even.any():
            return None
        total = float(periods[even].sum())
        return Measured(float(high[even].sum()) / total, 1.414 * self._instant_u() / self.step / np.sqrt(even.sum()) / self.train.period)

    @property
    def cycle_mean(self) -> Measured | None:
        """The mean over whole periods only, from the first upward edge to the last one."""
        if self.train is None:
            return None
        rises = self.edges.rises
        return Measured(self._mean_between(float(rises[0]), float(rises[-1])), self._of_all())

    @property
    def cycle_rms(self) -> Measured | None:
        """The effective value over whole periods only."""
        if self.train is None:
            return None
        begin, end = round(float(self.edges.rises[0])), round(float(self.edges.rises[-1]))
        total = sum(
            float(own @ own) for own in (self.channel.values(k, min(k + AT_ONCE, end)) for k in range(begin, max(end, begin + 1), AT_ONCE))
        )
        return Measured(math.sqrt(total / max(end - begin, 1)), self._of_all())

    def _mean_between(self, first: float, last: float) -> float:
        begin, end = round(first), max(round(last), round(first) + 1)
        raw = float(self.channel.samples[begin:end].mean(dtype=np.float64))
        return raw * self.channel.gain + self.channel.offset

    @property
    def rise(self) -> Measured | None:
        """Transition duration of upward edges, 10 to 90 %: the middle one of those looked at."""
        return self._transition(self.rises_s)

    @property
    def fall(self) -> Measured | None:
        """Transition duration of downward edges."""
        return self._transition(self.falls_s)

    def _transition(self, found: NDArray[np.float64]) -> Measured | None:
        if not len(found):
            return None
        # An edge that lies within a sample is at most that long.
        return Measured(
            float(np.median(found)),
            0.5 * self.step if len(found) < 2 else float(np.hypot(found.std() / np.sqrt(len(found)), 0.2 * self.step)),
        )

    @property
    def overshoot(self) -> Measured | None:
        """How far upward edges go past the top, as a share of the amplitude: the middle of all; 0 where noise may have done it."""
        if self.levels is None or not len(self.edges.at):
            return None
        high = self.edges.extremes[1:][self.edges.rising]
        if not len(high):
            return None
        beyond = float(np.median(high)) - self.levels.top
        by_chance = self.scan.noise * np.sqrt(2.0 * np.log(max(self.scan.count / len(self.edges.at), 2.0))) + self.scan.resolution
        share = beyond / self.levels.amplitude if beyond > by_chance + 0.005 * self.levels.amplitude else 0.0
        return Measured(share, 1.414 * self.scan.level_u / self.levels.amplitude)

    @property
    def pulses(self) -> int | None:
        """Upward pulses with both ends within the capture; None where there are no two levels."""
        return None if self.levels is None else len(self.edges.widths(high=True))

    @property
    def pulse_width(self) -> Measured | None:
        """How long a pulse is high: the middle one of all."""
        own = self.edges.widths(high=True)
        return None if not len(own) else Measured(float(np.median(own)) * self.step, 1.414 * self._instant_u())

    @property
    def shortest_pulse(self) -> Measured | None:
        """The shortest pulse."""
        own = self.edges.widths(high=True)
        return None if not len(own) else Measured(float(own.min()) * self.step, 1.414 * self._instant_u())

    @property
    def dropouts(self) -> tuple[tuple[float, float], ...]:
        """From when to when something is missing, in seconds."""
        return tuple((self.start + begin * self.step, self.start + end * self.step) for begin, end in self.gaps.spans.tolist())

    @property
    def noise(self) -> Measured:
        """One standard deviation from sample to sample about any smooth course."""
        return Measured(self.scan.noise, self.scan.resolution / np.sqrt(12.0))

    @property
    def steadiness(self) -> Measured | None:
        """How far the means of twentieths of the capture lie apart, as a share of the whole mean; None where that is nought."""
        if len(self.parts) < 2 or abs(self.scan.mean) < 10.0 * self._of_all() + 1e-12:
            return None
        return Measured(
            float(np.ptp(self.parts)) / abs(self.scan.mean), self._of_all() * np.sqrt(2.0 * len(self.parts)) / abs(self.scan.mean)
        )


def measures_of(capture: Capture, channel: Channel) -> Measures:
    """All measurements of a channel."""
    own = channel
    if not channel.samples.flags.c_contiguous:
        own = Channel(channel.name, channel.unit, np.ascontiguousarray(channel.samples), channel.gain, channel.offset, channel.scaled)
    scan = scan_of(own)
    levels = levels_of(scan)
    edges = edges_of(own, levels, scan) if levels is not None else _no_edges()
    train = train_of(edges, levels, capture.count)
    if train is not None:
        gaps = gaps_in_train(edges, train, capture.count)
    elif len(edges.at) > 50:
        gaps = NO_GAPS  # it changes all the time: nothing of it is usual
    else:
        gaps = gaps_in_level(capture, own, scan)
    rises, falls = (
        (crossing_times(own, levels, edges, rising) * capture.step if levels is not None else np.zeros(0)) for rising in (True, False)
    )
    return Measures(own, capture.step, capture.start, scan, levels, edges, train, gaps, rises, falls, _parts(own, edges, train))


def _no_edges() -> Edges:
    return Edges(np.zeros(0), np.zeros(0, bool), np.zeros(0, np.int64), np.zeros(0), False)


def _parts(channel: Channel, edges: Edges, train: Train | None) -> NDArray[np.float64]:
    """Means of the signal by parts: of whole periods where it has some, else of equal lengths."""
    count = len(channel.samples)
    bounds = np.linspace(0, count, STEADY_PARTS + 1).astype(int)
    if train is not None:
        rises = edges.rises
        some = rises[np.linspace(0, len(rises) - 1, min(STEADY_PARTS + 1, len(rises))).astype(int)]
        bounds = np.unique(np.round(some).astype(int))
    if len(bounds) < 2 or (np.diff(bounds) <= 0).any():
        return np.zeros(0)
    sums = np.array([_sum(channel.samples[a:b]) for a, b in pairwise(bounds)])
    return np.asarray(sums / np.diff(bounds) * channel.gain + channel.offset)


def _sum(samples: NDArray[Any]) -> float:
    return float(samples.sum(dtype=np.float64 if samples.dtype.kind == "f" else np.int64))


@dataclass(frozen=True, slots=True)
class Quantity:
    """A quantity that can be asked of a channel: its words on a screen, its term in IEEE 181-2011 (empty where it has none there), its unit
    (``level`` for the channel's own), and where it stands in `Measures`."""

    says: str
    term: str
    unit: str
    of: Callable[[Measures], Measured | None]

    def shown(self, value: float, unit: str) -> str:
        """A value of it in words, for a channel in that unit."""
        if self.unit == "share":
            return f"{100.0 * value:.3g} %"
        return show(value, unit if self.unit == "level" else self.unit)


QUANTITIES: Mapping[str, Quantity] = {
    "mean": Quantity("average", "waveform average", "level", lambda own: own.mean),
    "cycle_mean": Quantity("average over whole pulses", "cycle average", "level", lambda own: own.cycle_mean),
    "rms": Quantity("effective value", "waveform root-mean-square", "level", lambda own: own.rms),
    "cycle_rms": Quantity("effective value over whole pulses", "cycle root-mean-square", "level", lambda own: own.cycle_rms),
    "minimum": Quantity("lowest", "minimum level", "level", lambda own: own.minimum),
    "maximum": Quantity("highest", "maximum level", "level", lambda own: own.maximum),
    "peak_to_peak": Quantity("lowest to highest", "peak-to-peak", "level", lambda own: own.peak_to_peak),
    "top": Quantity("upper level", "high state level", "level", lambda own: own.top),
    "base": Quantity("lower level", "low state level", "level", lambda own: own.base),
    "amplitude": Quantity("from lower to upper level", "waveform amplitude", "level", lambda own: own.amplitude),
    "ripple": Quantity("ripple, peak to peak", "", "level", lambda own: own.ripple),
    "noise": Quantity("noise", "", "level", lambda own: own.noise),
    "frequency": Quantity("pulses a second", "waveform frequency", "Hz", lambda own: own.frequency),
    "period": Quantity("one pulse every", "waveform period", "s", lambda own: own.period),
    "duty": Quantity("share of time on", "duty factor", "share", lambda own: own.duty),
    "pulse_width": Quantity("one pulse lasts", "pulse duration", "s", lambda own: own.pulse_width),
    "shortest_pulse": Quantity("shortest pulse", "pulse duration", "s", lambda own: own.shortest_pulse),
    "rise": Quantity("rises within", "transition duration, positive-going", "s", lambda own: own.rise),
    "fall": Quantity("falls within", "transition duration, negative-going", "s", lambda own: own.fall),
    "overshoot": Quantity("shoots over by", "overshoot", "share", lambda own: own.overshoot),
    "steadiness": Quantity("its average moves by", "", "share", lambda own: own.steadiness),
}


def averages_of(own: Measures) -> NDArray[np.float64]:
    """(P, 2): the middle of each whole pulse (s) and its average, of some pulses together where there are many; nothing where it does not
    pulse between two levels."""
    rises = np.round(own.edges.rises).astype(int)
    if len(rises) < 3 or not own.is_two_levels:
        return np.zeros((0, 2))
    cuts = rises[np.unique(np.linspace(0, len(rises) - 1, min(MOST_AVERAGES + 1, len(rises))).astype(int))]
    means = [_sum(own.channel.samples[a:b]) / (b - a) * own.channel.gain + own.channel.offset for a, b in pairwise(cuts.tolist())]
    return np.stack([own.start + 0.5 * (cuts[:-1] + cuts[1:]) * own.step, np.array(means)], axis=1)


def numbers_of(own: Measures) -> dict[str, tuple[float, float]]:
    """By name in `QUANTITIES`: value and standard deviation of what applies."""
    found = {name: quantity.of(own) for name, quantity in QUANTITIES.items()}
    return {name: (number.value, number.u) for name, number in found.items() if number is not None and math.isfinite(number.value)}


def measures_json(capture: Capture, own: Measures) -> Mapping[str, object]:
    """One channel as the command line writes it."""

    def number(found: Measured | None) -> float | None:
        return None if found is None else found.value

    return {
        "name": own.channel.name, "unit": own.channel.unit or None, "samples": capture.count, "rate_hz": 1.0 / capture.step,
        "minimum": own.scan.least, "maximum": own.scan.most, "mean": own.scan.mean, "rms": own.scan.rms,
        "top": number(own.top), "base": number(own.base), "frequency_hz": number(own.frequency), "period_s": number(own.period),
        "duty": number(own.duty), "rise_s": number(own.rise), "fall_s": number(own.fall), "overshoot": number(own.overshoot),
        "pulses": own.pulses, "dropouts": [list(span) for span in own.dropouts],
    }  # fmt: skip
