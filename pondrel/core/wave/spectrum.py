"""A steady piece of a signal by its frequencies: the strongest line, and the shape of one period laid over all others."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

__all__ = ["Spectrum", "folded", "humps", "spectrum_of", "without_drift"]


@dataclass(frozen=True, slots=True)
class Spectrum:
    """Amplitudes (in the signal's unit) by frequency, ``bin_hz`` apart, behind a Hann window."""

    bin_hz: float
    amplitude: NDArray[np.float64]

    def strongest(self, low: float, high: float) -> float | None:
        """The frequency (Hz) of the strongest line between two frequencies, placed between bins by a parabola; None where there is none."""
        first, last = max(int(np.ceil(low / self.bin_hz)), 1), min(int(high / self.bin_hz), len(self.amplitude) - 2)
        if last <= first:
            return None
        at = first + int(np.argmax(self.amplitude[first : last + 1]))
        left, top, right = (float(np.log(max(self.amplitude[at + k], 1e-30))) for k in (-1, 0, 1))
        bend = left - 2.0 * top + right
        return (at + (0.5 * (left - right) / bend if bend < 0.0 else 0.0)) * self.bin_hz

    def at(self, hertz: float) -> float:
        """The amplitude of the line at a frequency, 0 beyond the end."""
        place = round(hertz / self.bin_hz)
        return float(self.amplitude[max(place - 2, 0) : place + 3].max(initial=0.0))

    def floor(self) -> float:
        """What noise has: the median over all lines."""
        return float(np.median(self.amplitude[1:])) if len(self.amplitude) > 1 else 0.0


def without_drift(values: NDArray[np.float64]) -> NDArray[np.float64]:
    """Values less a straight line through them."""
    x = np.linspace(-1.0, 1.0, len(values))
    slope = float((x * values).sum() / (x * x).sum())
    return np.asarray(values - values.mean() - slope * x)


def spectrum_of(values: NDArray[np.float64], step: float) -> Spectrum:
    """The spectrum of values ``step`` seconds apart."""
    own = without_drift(values)
    window = np.hanning(len(own))
    padded = 1 << (2 * len(own) - 1).bit_length()
    lines = np.abs(np.fft.rfft(own * window, padded)) * 2.0 / window.sum()
    return Spectrum(1.0 / (padded * step), lines)


def folded(values: NDArray[np.float64], step: float, hertz: float, places: int = 48) -> NDArray[np.float64]:
    """One period at a frequency as the mean over all periods, in so many places."""
    own = without_drift(values)
    at = ((np.arange(len(own)) * step * hertz) % 1.0 * places).astype(int) % places
    counts = np.bincount(at, minlength=places)
    sums = np.bincount(at, own, minlength=places)
    mean = np.where(counts > 0, sums / np.maximum(counts, 1), np.nan)
    gaps = np.isnan(mean)
    if gaps.all():
        return np.zeros(places)
    mean[gaps] = np.interp(np.flatnonzero(gaps), np.flatnonzero(~gaps), mean[~gaps])
    return np.asarray(mean)


def humps(period: NDArray[np.float64], share: float = 0.1) -> int:
    """How many humps a period has that stand out by a share of its height."""
    height = float(np.ptp(period))
    if height <= 0.0:
        return 0
    # From its lowest place round once: a hump ends when it fell by enough, a valley when it rose by enough.
    around = np.roll(period, -int(np.argmin(period)))
    count, top, bottom, rising = 0, float(around[0]), float(around[0]), True
    for value in (*around, around[0]):
        top, bottom = max(top, float(value)), min(bottom, float(value))
        if rising and top - value > share * height:
            count, rising, bottom = count + 1, False, float(value)
        elif not rising and value - bottom > share * height:
            rising, top = True, float(value)
    return count
