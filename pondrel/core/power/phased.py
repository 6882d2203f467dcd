"""A capture by the phases of a start, small enough to be kept in a job's record and to be laid under what was read with a meter."""

from __future__ import annotations

import json
import math
from collections.abc import Mapping
from dataclasses import dataclass

from ..base.errors import CaptureError
from .capture import Seen

__all__ = ["PHASES", "Laid", "laid_as_text", "laid_from", "laid_in"]

# The phases that a capture can show: before the key, key on, cranking, and the engine running by itself.
PHASES = ("rest", "key on", "crank", "idle")
MOST_POINTS = 60  # of a phase
FIGURES = ("rest", "key on", "crank", "lowest", "idle", "ripple", "rpm")
_LARGEST = 1e4
KEY_ON = "key on"  # as the events of a capture call it


@dataclass(frozen=True, slots=True)
class Laid:
    """A capture laid out by phases: figures (V, ripple peak to peak, r/min) by name, and by phase its line as points of the share of the
    phase that has passed (0 to 1) with the least and the most volts there."""

    figures: Mapping[str, float]
    line: Mapping[str, tuple[tuple[float, float, float], ...]]


def laid_in(seen: Seen, rpm: float | None = None) -> Laid:
    """What was seen in a capture, by phases. Raises CaptureError where it shows no start or its scale is not known."""
    own = seen.cranking
    if own is None:
        raise CaptureError("No cranking is to be seen in it: a capture from before the key until the engine runs is wanted.")
    if not seen.scaled:
        raise CaptureError("The scale of this WAV is not known: say what full scale is, as in 20 V.")
    key = next((event.at for event in seen.events if event.name == KEY_ON), own.begin)
    edges = {"rest": (-math.inf, min(key, own.begin)), "key on": (min(key, own.begin), own.begin), "crank": (own.begin, own.end)}
    if own.started:
        edges["idle"] = (own.end, math.inf)
    line = {}
    for phase, (start, end) in edges.items():
        points = [point for point in seen.line if start <= point[0] < end]
        if len(points) > 1 and points[-1][0] > points[0][0]:
            line[phase] = _thinned(points)
    figures = {"rest": own.rest, "crank": own.mean, "lowest": own.lowest}
    if key < own.begin:
        figures["key on"] = own.before
    if own.started and seen.charge is not None:
        figures["idle"] = seen.charge
    if seen.ripple is not None:
        figures["ripple"] = seen.ripple.peak_to_peak
    if rpm is not None:
        figures["rpm"] = rpm
    return Laid(figures, line)


def _thinned(points: list[tuple[float, float, float]]) -> tuple[tuple[float, float, float], ...]:
    first, whole = points[0][0], points[-1][0] - points[0][0]
    every = -(-len(points) // MOST_POINTS)
    groups = [points[place : place + every] for place in range(0, len(points), every)]
    return tuple((round((own[0][0] - first) / whole, 4), min(p[1] for p in own), max(p[2] for p in own)) for own in groups)


def laid_as_text(laid: Laid) -> str:
    """As it is kept in an entry: volts to the hundredth."""
    line = {phase: [[share, round(low, 2), round(high, 2)] for share, low, high in points] for phase, points in laid.line.items()}
    return json.dumps({"figures": {name: round(value, 3) for name, value in laid.figures.items()}, "line": line}, separators=(",", ":"))


def laid_from(text: str) -> Laid:
    """A capture that was kept. Raises CaptureError where the text is none."""
    try:
        given = json.loads(text)
        figures = {name: _number(given["figures"][name]) for name in FIGURES if name in given["figures"]}
        line = {
            phase: tuple((_number(share), _number(low), _number(high)) for share, low, high in given["line"][phase][: 2 * MOST_POINTS])
            for phase in PHASES
            if phase in given["line"]
        }
    except (ValueError, TypeError, KeyError, AttributeError, RecursionError):
        raise CaptureError("What is kept of a capture cannot be read: take the capture in again.") from None
    if "crank" not in figures:
        raise CaptureError("What is kept of a capture has no cranking: take the capture in again.")
    return Laid(figures, line)


def _number(value: object) -> float:
    if isinstance(value, bool) or not isinstance(value, (int, float)) or not abs(value) < _LARGEST:
        raise ValueError(value)
    return float(value)
