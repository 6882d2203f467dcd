"""A capture of starting or charging: what happened when, what it measured, and what that is held against.

First the whole is looked at in blocks of some milliseconds; only cranking and a short piece of charging are looked at sample by sample, so
that its length does not matter.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from ..base.errors import CaptureError
from ..base.judgement import OWN_RULE, judged
from ..wave.capture import Blocks, Capture, Channel
from ..wave.spectrum import Spectrum, folded, humps, spectrum_of, without_drift

__all__ = ["Cranking", "Event", "Ripple", "Seen", "compressions_of", "ripple_of", "seen_in"]

BLOCK_SECONDS, MOST_BLOCKS, LEAST_BLOCKS = 0.004, 1 << 16, 256
FALLS = judged("CRANK_FALLS_V", 0.8, "V", "by which volts fall where cranking begins (of 12 V)", OWN_RULE)
CHARGES_ABOVE = judged("CHARGES_ABOVE_V", 0.3, "V", "above rest from which on a capture shows charging (of 12 V)", OWN_RULE)
INRUSH_SECONDS = 0.25  # after the contacts close: what falls lower there is the motor that comes up to speed
_PULSES_HZ = (2.0, 40.0)  # compressions a second of any engine that is cranked
RIPPLE_SAMPLES = 1 << 15
RIPPLE_LEAST_HZ, RIPPLE_RATE_HZ = 40.0, 2000.0
_GAP_HUMPS = 3  # humps in one period from which on pulses of a bridge are missing in it


@dataclass(frozen=True, slots=True)
class Event:
    """Something that happened: what, at which time (s), and the volts then (None where the scale is not known)."""

    name: str
    at: float
    volts: float | None


@dataclass(frozen=True, slots=True)
class Cranking:
    """Cranking: from when to when (s); volts at ``rest`` before the key went on and just ``before`` it, at the first ``inrush``, ``lowest``
    and ``mean`` afterwards, and when it had ended (None where the capture ends first); whether the engine started; compressions a second
    (None where none are seen) and how deep each one of a turn of the engine was, as a share of the deepest."""

    begin: float
    end: float
    rest: float
    before: float
    inrush: float
    lowest: float
    mean: float
    recovery: float | None
    started: bool
    pulses_hz: float | None = None
    depths: tuple[float, ...] = ()


@dataclass(frozen=True, slots=True)
class Ripple:
    """Ripple: peak to peak, the frequency of its strongest line (Hz), humps in one period of that, whether pulses are missing, and the
    alternator's electrical turns a second."""

    peak_to_peak: float
    hertz: float
    humps: int
    missing: bool
    turns_hz: float


@dataclass(frozen=True, slots=True)
class Seen:
    """All that a capture shows; ``charge`` are the last steady volts with the engine running, ``points`` volts over minutes of a long one,
    ``line`` the whole as seconds with least and most for a drawing, ``amps`` figures of a current channel."""

    events: tuple[Event, ...]
    cranking: Cranking | None
    ripple: Ripple | None
    charge: float | None
    scaled: bool
    points: tuple[tuple[float, float], ...] = ()
    line: tuple[tuple[float, float, float], ...] = ()
    amps: Mapping[str, float] = field(default_factory=dict)


def _is_amps(channel: Channel) -> bool:
    name = channel.name.lower()
    return channel.unit == "A" or (not channel.unit and any(word in name for word in ("amp", "current", "clamp")))


def seen_in(capture: Capture, batteries: float = 1.0, cylinders: int = 4) -> Seen:
    """What a capture of starting or charging shows, for a system of so many batteries of 12 V in a row. Raises CaptureError."""
    volts = next((channel for channel in capture.channels if not _is_amps(channel)), None)
    amps = next((channel for channel in capture.channels if _is_amps(channel)), None)
    if volts is None:
        raise CaptureError("There is no channel of volts: one across the battery's posts is wanted.")
    count = int(min(max(capture.seconds / BLOCK_SECONDS, LEAST_BLOCKS), MOST_BLOCKS, capture.count))
    blocks = capture.blocks(volts, count)
    unit = batteries if volts.scaled else _own_unit(blocks)
    step = blocks.every * capture.step
    window = _crank_window(blocks, step, unit)
    cranking = None
    if window is not None:
        cranking = _cranking(capture, amps or volts, blocks, step, window, unit, cylinders)
    charge = _charge(blocks, window, cranking, unit, volts.scaled)
    running_from = window[1] * blocks.every if window else 0
    ripple = ripple_of(capture, volts, running_from) if window is None or (cranking and cranking.started) else None
    every = max(len(blocks.mean) // 600, 1)
    line = tuple(
        (
            capture.at(place * blocks.every),
            float(blocks.least[place : place + every].min()),
            float(blocks.most[place : place + every].max()),
        )
        for place in range(0, len(blocks.mean), every)
    )
    return Seen(
        tuple(_events(capture, blocks, step, window, cranking, unit, volts.scaled)), cranking, ripple, charge, volts.scaled,
        _points(capture, blocks) if window is None and capture.seconds >= 60.0 else (), line, _amps(capture, amps, blocks, window),
    )  # fmt: skip


def _own_unit(blocks: Blocks) -> float:
    """Where the scale is not known, the deepest fall is taken for one of three volts."""
    return max(float(np.median(blocks.mean) - blocks.mean.min()) / 3.0, 1e-12)


def _crank_window(blocks: Blocks, step: float, unit: float) -> tuple[int, int] | None:
    """The blocks from which to which it is cranked; None where it is not."""
    before = max(len(blocks.mean) // 50, 3)
    rest = float(np.median(blocks.mean[:before]))
    falls = np.flatnonzero(blocks.least < rest - FALLS * unit)
    # A spike is no cranking: the fall lasts.
    lasting = max(round(0.15 / step), 2)
    low = np.cumsum(np.concatenate(([0.0], blocks.mean < rest - 0.3 * FALLS * unit)))
    last = np.minimum(falls + 1 + lasting, len(blocks.mean))
    stays = low[last] - low[np.minimum(falls + 1, last)] > 0.8 * np.maximum(last - falls - 1, 1)
    begin = int(falls[np.argmax(stays)]) if stays.any() else None
    if begin is None or begin + 2 >= len(blocks.mean):
        return None
    rest = float(np.median(blocks.mean[max(begin - max(round(0.2 / step), 3), 0) : begin])) if begin > 3 else rest
    settled = blocks.mean[begin + 1 : begin + 1 + max(round(0.6 / step), 3)]
    level = float(np.median(settled))
    back = blocks.mean > level + 0.6 * (rest - level)
    hold = max(round(0.12 / step), 2)
    run = np.convolve(back[begin + 1 :].astype(float), np.ones(hold), "valid") if len(back) - begin - 1 >= hold else np.zeros(0)
    ends = np.flatnonzero(run >= hold - 0.5)
    return begin, begin + 1 + int(ends[0]) if len(ends) else len(blocks.mean)


def _cranking(
    capture: Capture, pulsing: Channel, blocks: Blocks, step: float, window: tuple[int, int], unit: float, cylinders: int
) -> Cranking:
    begin, end = window
    near = max(round(0.2 / step), 3)
    before = float(np.median(blocks.mean[max(begin - near, 0) : begin])) if begin else float(blocks.mean[0])
    rest = float(np.median(blocks.mean[: max(begin // 10, 1)]))
    first = min(begin + max(round(INRUSH_SECONDS / step), 1), end - 1)
    steady = blocks.mean[first:end]
    smooth = _smoothed(steady, max(round(0.02 / step), 1))
    after = blocks.mean[end : end + max(round(1.0 / step), 1)]
    started = len(after) > 2 and float(np.median(blocks.mean[end:][len(blocks.mean[end:]) // 2 :])) > before + CHARGES_ABOVE * unit
    pulses, depths = compressions_of(capture, pulsing, first * blocks.every, end * blocks.every, cylinders)
    recovery = float(np.median(after[len(after) // 2 :])) if len(after) > 2 and not started else None
    return Cranking(
        capture.at(begin * blocks.every),
        capture.at(end * blocks.every),
        rest,
        before,
        float(blocks.least[begin : first + 1].min()),
        float(smooth.min()),
        float(steady.mean()),
        recovery,
        started,
        pulses,
        depths,
    )


def _smoothed(values: NDArray[np.float64], width: int) -> NDArray[np.float64]:
    return np.asarray(np.convolve(values, np.ones(width) / width, "valid")) if len(values) > width > 1 else values


def compressions_of(capture: Capture, channel: Channel, start: int, stop: int, cylinders: int) -> tuple[float | None, tuple[float, ...]]:
    """Compressions a second while it is cranked, and the depth of each in its turn, by the channel in which they are seen."""
    every = max(int(0.002 / capture.step), 1)
    whole = (stop - start) // every
    if whole * every * capture.step < 0.4 or whole < 64:
        return None, ()
    values = _means(channel, start, every, whole)
    step = every * capture.step
    slow = np.convolve(np.pad(values, 1, "edge"), np.ones(3) / 3.0, "valid")
    trend = np.polynomial.polynomial.Polynomial.fit(np.arange(len(slow)), slow, 3)
    own = slow - trend(np.arange(len(slow)))
    spectrum = spectrum_of(own, step)
    hertz = spectrum.strongest(*_PULSES_HZ)
    if hertz is None or spectrum.at(hertz) < 4.0 * spectrum.floor():
        return None, ()
    # One weak cylinder makes a line at a whole part of the pulses' frequency; the pulses are the strongest of its multiples.
    period = 1.0 / hertz
    return hertz, _depths(own, step, period, cylinders)


def _means(channel: Channel, start: int, every: int, whole: int) -> NDArray[np.float64]:
    raw = channel.samples[start : start + whole * every].reshape(whole, every)
    return np.asarray(raw.mean(axis=1, dtype=np.float64) * channel.gain + channel.offset)


def _depths(own: NDArray[np.float64], step: float, period: float, cylinders: int) -> tuple[float, ...]:
    """How far each compression of two turns of the engine goes, as a share of the deepest, averaged over as many as there are."""
    each = int(len(own) * step / period)
    if each < cylinders:
        return ()
    shape = folded(own, step, 1.0 / period)
    found = []
    # A compression lies between two valleys of amperes, or two crests of volts: cut there, none borrows from its neighbour.
    for place in (int(np.argmin(shape)), int(np.argmax(shape))):
        begin = place / len(shape) * period / step
        whole = int((len(own) - begin) * step / period)
        cuts = [int(begin + k * period / step) for k in range(whole + 1)]
        height = np.array([float(np.ptp(own[a:b])) for a, b in pairwise(cuts)])
        if whole < cylinders:
            continue
        means = np.array([float(np.median(height[k::cylinders])) for k in range(cylinders)])
        if means.max() > 0.0:
            found.append(tuple(float(share) for share in means / means.max()))
    return min(found, key=min, default=())


def _charge(blocks: Blocks, window: tuple[int, int] | None, cranking: Cranking | None, unit: float, scaled: bool) -> float | None:
    if not scaled:
        return None
    if window is None:
        level = float(np.median(blocks.mean[-max(len(blocks.mean) // 10, 1) :]))
        return level if level > 6.0 * unit else None  # a capture of the ripple alone has no level
    if cranking is None or not cranking.started:
        return None
    return float(np.median(blocks.mean[-max((len(blocks.mean) - window[1]) // 4, 1) :]))


def _points(capture: Capture, blocks: Blocks) -> tuple[tuple[float, float], ...]:
    """Volts over minutes of a long capture: thirty points, each the median of its stretch."""
    every = max(len(blocks.mean) // 30, 1)
    return tuple(
        (capture.at((place + every / 2) * blocks.every) / 60.0, float(np.median(blocks.mean[place : place + every])))
        for place in range(0, len(blocks.mean) - every + 1, every)
    )


def ripple_of(capture: Capture, channel: Channel, first: int = 0) -> Ripple | None:
    """The ripple of an alternator near the end, where the engine runs steadily, of what lies behind the ``first`` sample; None for none."""
    if 1.0 / capture.step < RIPPLE_RATE_HZ:
        return None
    start = max(first + (capture.count - first) // 2, capture.count - RIPPLE_SAMPLES)
    values = channel.values(start, capture.count)
    if len(values) < 256:
        return None
    own = without_drift(values)
    spectrum = spectrum_of(values, capture.step)
    hertz = spectrum.strongest(RIPPLE_LEAST_HZ, 0.45 / capture.step)
    if hertz is None or spectrum.at(hertz) < 8.0 * spectrum.floor():
        return None
    # The strongest line may be a multiple of the turn where pulses are missing: a strong line at a half or a third of it is asked.
    base = next((hertz / part for part in (6, 5, 4, 3, 2) if _is_strong(spectrum, hertz, hertz / part)), hertz)
    count = humps(folded(own, capture.step, base))
    missing = base < hertz * 0.99 or count >= _GAP_HUMPS
    low, high = np.percentile(own, (0.2, 99.8))
    return Ripple(float(high - low), hertz, count, missing, base if missing else hertz / 6.0)


def _is_strong(spectrum: Spectrum, line: float, other: float) -> bool:
    return other >= RIPPLE_LEAST_HZ and spectrum.at(other) > 0.3 * spectrum.at(line)


def _amps(capture: Capture, channel: Channel | None, blocks: Blocks, window: tuple[int, int] | None) -> dict[str, float]:
    if channel is None:
        return {}
    own = capture.blocks(channel, len(blocks.mean))
    if window is None:
        return {"amps": float(np.median(own.mean))}
    begin, end = window
    first = min(begin + max(round(INRUSH_SECONDS / (own.every * capture.step)), 1), end - 1)
    return {"inrush_a": float(np.abs(own.most[begin : first + 1]).max()), "crank_a": float(np.abs(own.mean[first:end]).mean())}


def _events(
    capture: Capture, blocks: Blocks, step: float, window: tuple[int, int] | None, cranking: Cranking | None, unit: float, scaled: bool
) -> Sequence[Event]:
    def event(name: str, place: int, volts: float) -> Event:
        return Event(name, round(capture.at(place * blocks.every), 6), volts if scaled else None)

    if window is None or cranking is None:
        return ()
    begin, end = window
    found = []
    key = _key_on(blocks, begin, step, unit)
    if key is not None:
        found.append(event("key on", key, float(np.median(blocks.mean[key:begin]))))
    found.append(event("inrush", begin, cranking.inrush))
    lowest = begin + int(np.argmin(blocks.least[begin:end]))
    if end < len(blocks.mean):
        found.append(event("engine starts" if cranking.started else "key released", end, float(blocks.mean[end])))
    if cranking.started:
        above = np.flatnonzero(_smoothed(blocks.mean[end:], max(round(0.1 / step), 1)) > cranking.before + CHARGES_ABOVE * unit)
        if len(above):
            found.append(event("charging", end + int(above[0]), float(blocks.mean[min(end + int(above[0]), len(blocks.mean) - 1)])))
    if lowest != begin:
        found.append(event("lowest", lowest, float(blocks.least[lowest])))
    return sorted(found, key=lambda one: one.at)


def _key_on(blocks: Blocks, begin: int, step: float, unit: float) -> int | None:
    """The block in which the key went on: a small fall before the cranking that lasts; None where there is none."""
    if begin < 12:
        return None
    before = float(np.median(blocks.mean[: max(begin // 10, 3)]))
    late = float(np.median(blocks.mean[begin - max(min(round(0.1 / step), begin // 4), 2) : begin - 1]))
    noise = float(np.std(np.diff(blocks.mean[: begin - 1]))) / np.sqrt(2.0)
    if before - late < max(0.05 * unit, 4.0 * noise):
        return None
    middle = (before + late) / 2.0
    above = np.flatnonzero(blocks.mean[: begin - 1] > middle)
    return int(above[-1]) + 1 if len(above) else None
