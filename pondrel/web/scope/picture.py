"""A capture as a picture that needs no script: for paper, and for a page whose scripts do not run."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
from markupsafe import Markup
from numpy.typing import NDArray

from ...core.base.quantity import show
from ...core.wave.pyramid import drawn
from ...store.prepared import Prepared

__all__ = ["picture_of"]

WIDTH, HEIGHT = 720.0, 210.0
LEFT, RIGHT, TOP, BOTTOM = 64.0, 8.0, 24.0, 24.0
COLUMNS = 600
CLEAR = 0.12  # of the height between two labels
_INK, _FAINT, _COPPER = "#1f2a33", "#59656d", "#a8531c"
_SANS = "Atkinson Next, DejaVu Sans, sans-serif"


def picture_of(own: Prepared, place: int, marks: Sequence[tuple[float, str]]) -> Markup:
    """One channel whole as SVG, with its lowest and highest level, its beginning and end, and its marks (s, letter)."""
    capture, channel = own.capture, own.capture.channels[place]
    course = drawn(capture, channel, own.pyramids[place], 0, capture.count, COLUMNS)
    low, high = float(course.least.min()), float(course.most.max())
    room = (high - low) or max(abs(high), 1.0)

    def x(time: float) -> float:
        return LEFT + (time - capture.start) / capture.seconds * (WIDTH - LEFT - RIGHT)

    def y(level: float) -> float:
        return TOP + (high - level) / room * (HEIGHT - TOP - BOTTOM)

    places = course.first + (np.arange(len(course.least)) + 0.5) * course.every
    across = (LEFT + places / capture.count * (WIDTH - LEFT - RIGHT)).tolist()

    def points(levels: NDArray[np.floating[Any]]) -> list[str]:
        down = (TOP + (high - levels) / room * (HEIGHT - TOP - BOTTOM)).tolist()
        return [f"{right:.1f} {low:.1f}" for right, low in zip(across, down, strict=True)]

    upper, lower = points(course.most), [] if course.every == 1.0 else points(course.least)
    path = f"M{' L'.join([*upper, *reversed(lower)])}" + ("Z" if lower else "")
    said = Markup('<text x="{}" y="{}" text-anchor="{}" font-size="13" font-family="{}" fill="{}">{}</text>')
    level = Markup('<path d="M{} {}H{}" stroke="{}" stroke-width="0.8"/>')
    parts = [Markup('<path d="{}" fill="{}" stroke="{}" stroke-width="1.2" stroke-linejoin="round"/>').format(
        path, _INK if lower else "none", _INK
    )]  # fmt: skip
    crosses = low + CLEAR * room < 0.0 < high - CLEAR * room  # else its label would lie on another one
    for value in dict.fromkeys((low, 0.0, high) if crosses else (low, high)):
        parts.append(level.format(LEFT, f"{y(value):.1f}", WIDTH - RIGHT, _FAINT))
        parts.append(said.format(LEFT - 6.0, f"{y(value) + 4.5:.1f}", "end", _SANS, _FAINT, show(value, channel.unit)))
    end = capture.start + capture.seconds
    parts.append(said.format(LEFT, HEIGHT - 6.0, "start", _SANS, _FAINT, show(capture.start, "s") if capture.start else "0"))
    parts.append(said.format(WIDTH - RIGHT, HEIGHT - 6.0, "end", _SANS, _FAINT, show(end, "s")))
    for time, letter in marks:
        at = f"{x(time):.1f}"
        parts.append(
            Markup('<path d="M{} {}V{}" stroke="{}" stroke-width="1.4" stroke-dasharray="4 3"/>').format(at, TOP, HEIGHT - BOTTOM, _COPPER)
        )
        parts.append(said.format(at, TOP - 8.0, "middle", _SANS, _COPPER, letter))
    head = Markup(
        '<svg xmlns="http://www.w3.org/2000/svg" class="scope-picture" viewBox="0 0 {} {}" width="{}" height="{}" role="img" '
        'aria-label="{}">'
    ).format(WIDTH, HEIGHT, WIDTH, HEIGHT, f"{channel.name}, {show(low, channel.unit)} to {show(high, channel.unit)}")
    return head + Markup("").join(parts) + Markup("</svg>")
