"""The plan tree as SVG coordinates: tests from left to right, their outcomes below each other."""

from __future__ import annotations

import math
from dataclasses import dataclass

from ...core.isolate import Node, percent
from .words import METER_WORDS, reading_text

__all__ = ["Box", "TreeFigure", "tree_figure"]

WIDTH, BOX, ROW, BOX_HEIGHT = 197.0, 172.0, 60.0, 53.0  # four columns fill the panel


@dataclass(frozen=True, slots=True)
class Box:
    """A test or an end of the plan at (x, y): the outcome that leads there, then what comes next in two lines; ``kind`` is ``test``,
    ``sure`` where one target is as good as named, or ``open``."""

    x: float
    y: float
    outcome: str
    title: str
    note: str
    kind: str


@dataclass(frozen=True, slots=True)
class Twig:
    """A line from a test to what follows an outcome, as thick as the outcome is likely."""

    x1: float
    y1: float
    x2: float
    y2: float
    share: float


@dataclass(frozen=True)
class TreeFigure:
    """The plan in pixels."""

    width: float
    height: float
    boxes: tuple[Box, ...]
    twigs: tuple[Twig, ...]


def tree_figure(root: Node) -> TreeFigure:
    """Lay a plan out: leaves one row each, every test beside the middle of its outcomes."""
    boxes: list[Box] = []
    twigs: list[Twig] = []
    row = 0

    def place(node: Node, depth: int, outcome: str) -> float:
        nonlocal row
        x = depth * WIDTH
        if node.test is None or not node.branches:
            y = row * ROW
            row += 1
            names = ", ".join(f"{name or 'nothing'} {percent(p)}" for name, p in node.targets[:2])
            sure = bool(node.targets) and node.targets[0][1] >= 0.95
            boxes.append(Box(x, y, outcome, names or "open", "then prove it" if sure else "", "sure" if sure else "open"))
            return y
        test, middles = node.test, []
        for branch in node.branches:
            text = branch.word or _range(branch.low, branch.high, test.instrument)
            middles.append((branch, place(branch.then, depth + 1, f"{text} · {percent(branch.share)}")))
        y = (middles[0][1] + middles[-1][1]) / 2.0
        what = f"{test.red} to {test.black}" if test.black else test.red
        note = f"{METER_WORDS.get(test.instrument, test.instrument)}, {test.state} · {node.minutes:.1f} min"
        boxes.append(Box(x, y, outcome, what, note, "test"))
        twigs.extend(Twig(x + BOX, y + BOX_HEIGHT / 2, x + WIDTH, at + BOX_HEIGHT / 2, branch.share) for branch, at in middles)
        return y

    place(root, 0, "now")
    width = max(box.x for box in boxes) + BOX + 8.0
    return TreeFigure(width, max(row * ROW, BOX_HEIGHT), tuple(boxes), tuple(twigs))


def _range(low: float, high: float, meter: str) -> str:
    if math.isinf(low) and low < 0:
        return f"< {reading_text(high, meter)}"
    if math.isinf(high):
        return f"> {reading_text(low, meter)}"
    return f"{reading_text(low, meter).split(' ')[0]} – {reading_text(high, meter)}"
