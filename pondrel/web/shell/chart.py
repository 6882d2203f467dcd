"""A chart of the core as what a template draws: shares of the plot, so that it is laid out for its real width and never scaled."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from ...core.base.quantity import show
from ...core.bench import Chart

__all__ = ["Drawn", "drawn"]

PLOT_PIXELS = 300.0  # the plot's height on the screen: names beside it keep their distance by it
APART_PIXELS = 22.0
WIDE = 1000.0  # the plot's own measure along and upright
MARGIN = 0.06
MOST_POINTS = 400


@dataclass(frozen=True, slots=True)
class Tick:
    """A number at ``at`` percent of the plot, and what is written there."""

    at: float
    text: str


@dataclass(frozen=True, slots=True)
class Named:
    """What is written beside the plot at ``at`` percent of its height, and its role."""

    at: float
    text: str
    role: str


@dataclass(frozen=True, slots=True)
class Drawn:
    """Paths in a square of a thousand, bands and dots in percent, ticks, names, the gap with what is written at it, and what lies along."""

    title: str
    along: str
    paths: tuple[tuple[str, str], ...]
    bands: tuple[tuple[float, float], ...]
    dots: tuple[tuple[float, float, bool], ...]
    ticks_along: tuple[Tick, ...]
    ticks_upright: tuple[Tick, ...]
    names: tuple[Named, ...]
    gap: tuple[float, float, float, str] | None
    says: str


def _steps(low: float, high: float, about: int = 6) -> list[float]:
    """Round numbers from low to high."""
    raw = (high - low) / about
    size = 10.0 ** math.floor(math.log10(raw))
    step = next(own * size for own in (1.0, 2.0, 5.0, 10.0) if own * size >= raw * 0.999)
    first = math.ceil(low / step - 1e-9)
    return [round(k * step, 10) for k in range(first, math.floor(high / step + 1e-9) + 1)]


def _span(values: Iterable[float]) -> tuple[float, float]:
    finite = [value for value in values if math.isfinite(value)]
    if not finite:
        return 0.0, 1.0
    low, high = min(finite), max(finite)
    return (low, high) if high > low else (low - abs(low or 1.0) * 0.1, high + abs(high or 1.0) * 0.1)


def drawn(chart: Chart) -> Drawn:
    """How a chart is drawn."""
    points = [point for line in chart.lines for point in line.points]
    left, right = _span([x for x, _ in points] + [dot.x for dot in chart.dots])
    bands = [edge for band in chart.bands for edge in (band.low, band.high)]
    heights = [y for _, y in points] + [dot.y for dot in chart.dots] + bands + (list(chart.gap[1:3]) if chart.gap else [])
    low, high = _span(heights)
    low, high = low - MARGIN * (high - low), high + MARGIN * (high - low)

    def x_of(value: float) -> float:
        return round(100.0 * (value - left) / (right - left), 2)

    def y_of(value: float) -> float:
        return round(100.0 * (high - value) / (high - low), 2)

    paths = tuple((line.role, _path([(10.0 * x_of(x), 10.0 * y_of(y)) for x, y in _few(line.points)])) for line in chart.lines)
    names = [Named(y_of(line.points[-1][1]), line.name, line.role) for line in chart.lines if line.points]
    names += [Named(y_of((band.low + band.high) / 2.0), band.name, "band") for band in chart.bands]
    gap = (x_of(chart.gap[0]), y_of(chart.gap[1]), y_of(chart.gap[2]), chart.gap[3]) if chart.gap else None
    return Drawn(
        chart.title, " ".join(filter(None, (f"{chart.along[0]},", chart.along[1]))).rstrip(","), paths,
        tuple((y_of(band.high), round(y_of(band.low) - y_of(band.high), 2)) for band in chart.bands),
        tuple((x_of(dot.x), y_of(dot.y), dot.off) for dot in chart.dots if math.isfinite(dot.y)),
        tuple(Tick(x_of(value), f"{value:g}") for value in _steps(left, right)),
        _with_unit([Tick(y_of(value), _height(value, chart)) for value in _upright(low, high, chart)], chart),
        _spread(names), gap, f"{chart.title}: {', '.join(line.name for line in chart.lines)}",
    )  # fmt: skip


def _with_unit(ticks: list[Tick], chart: Chart) -> tuple[Tick, ...]:
    """The highest number carries the unit."""
    if not ticks or chart.decades or not chart.upright[1]:
        return tuple(ticks)
    top = min(ticks, key=lambda tick: tick.at)
    return tuple(Tick(tick.at, f"{tick.text} {chart.upright[1]}" if tick is top else tick.text) for tick in ticks)


def _upright(low: float, high: float, chart: Chart) -> list[float]:
    return [float(k) for k in range(math.ceil(low), math.floor(high) + 1)] if chart.decades else _steps(low, high, 5)


def _height(value: float, chart: Chart) -> str:
    return show(10.0**value, chart.upright[1]).replace(".00 ", " ").replace(".0 ", " ") if chart.decades else f"{value:g}"


def _few(points: Sequence[tuple[float, float]]) -> Sequence[tuple[float, float]]:
    return points[:: max(len(points) // MOST_POINTS, 1)]


def _path(points: Sequence[tuple[float, float]]) -> str:
    return "M" + "L".join(f"{x:.1f} {y:.1f}" for x, y in points if math.isfinite(x) and math.isfinite(y))


def _spread(names: Sequence[Named]) -> tuple[Named, ...]:
    """Names apart from each other, and within the plot."""
    apart = 100.0 * APART_PIXELS / PLOT_PIXELS
    ordered = sorted(names, key=lambda one: one.at)
    placed: list[Named] = []
    for one in ordered:
        at = max(one.at, placed[-1].at + apart) if placed else max(one.at, apart / 2.0)
        placed.append(Named(at, one.text, one.role))
    beyond = (placed[-1].at - (100.0 - apart / 4.0)) if placed else 0.0
    if beyond <= 0.0:
        return tuple(placed)
    kept: list[Named] = []
    limit = 100.0 - apart / 4.0
    for one in reversed(placed):
        at = min(one.at, limit)
        kept.append(Named(at, one.text, one.role))
        limit = at - apart
    return tuple(reversed(kept))
