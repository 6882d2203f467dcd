"""Core geometry to SVG coordinates: the path diagram and the descent."""

from __future__ import annotations

from dataclasses import dataclass

from ..core.circuit.layout import Bar, draw
from ..core.circuit.sheet import Part, Sheet
from ..core.circuit.solve import OperatingPoint
from ..core.isolate.descent import Descent
from ..core.quantity import show

__all__ = ["DescentFigure", "Diagram", "descent_figure", "diagram"]

COLUMN, LEFT, TOP, RIGHT, BOTTOM = 122.0, 26.0, 22.0, 104.0, 22.0
# The diagram fills a screen's height where its rows allow.
HEIGHT, LEAST_ROW, MOST_ROW = 720.0, 48.0, 80.0


@dataclass(frozen=True, slots=True)
class Symbol:
    """A part's symbol at (x, y), its line from top to bottom; ``shape`` names the drawing, ``suspicion`` in [0, 1]."""

    part: Part
    shape: str
    x: float
    y: float
    top: float
    bottom: float
    closed: bool
    live_top: bool
    live_bottom: bool
    suspicion: float
    marked: bool
    label: str


@dataclass(frozen=True, slots=True)
class Dot:
    """A node: its bar from x1 to x2, its target at (x, y); ``place`` when a probe can reach it."""

    node: str
    x: float
    x1: float
    x2: float
    y: float
    place: bool
    joint: bool
    live: bool
    volts: str


@dataclass(frozen=True, slots=True)
class Diagram:
    """A sheet's path diagram in pixels. ``links`` join a relay's coil to its contacts."""

    width: float
    height: float
    symbols: tuple[Symbol, ...]
    dots: tuple[Dot, ...]
    links: tuple[tuple[float, float, float, float], ...]


def diagram(
    sheet: Sheet, point: OperatingPoint, volts: dict[str, float], suspicion: dict[str | None, float], marked: str = ""
) -> Diagram:
    """The diagram at an operating point: contacts as they stand there, ``volts`` by node, ``suspicion`` the probability of each part; a
    ``marked`` part is shaded without one."""
    drawing = draw(sheet)
    live = {node: v > 0.5 * sheet.supply_volts for node, v in volts.items()}

    pitch = min(max(HEIGHT / max(drawing.rows, 1.0), LEAST_ROW), MOST_ROW)

    def y_of(row: float) -> float:
        return TOP + row * pitch

    symbols = []
    named: set[str] = set()
    centres: dict[str, dict[str, tuple[float, float]]] = {}
    for item in drawing.segments:
        part = sheet.parts[item.segment.part]
        x, y = LEFT + item.column * COLUMN, y_of(item.middle)
        centres.setdefault(part.name, {})[item.segment.element] = (x, y)
        label = f"{part.name} coil" if item.segment.element == "coil" else "" if part.name in named else part.name
        symbols.append(
            Symbol(
                part, _shape(part, item.segment.element), x, y, y_of(item.top), y_of(item.bottom),
                (part.name, item.segment.element) in point.closed, live.get(item.segment.top, False), live.get(item.segment.bottom, False),
                suspicion.get(part.name, 0.0), part.name == marked, label,
            )
        )  # fmt: skip
        if label == part.name:
            named.add(label)
    dots = tuple(_dot(sheet, bar, y_of(bar.row), volts, live) for bar in drawing.bars)
    drives = ("coil", "trigger")
    links = tuple((*at[d], *at[other]) for at in centres.values() for d in drives if d in at for other in at if other not in drives)
    return Diagram(LEFT + (drawing.columns - 1) * COLUMN + RIGHT, y_of(drawing.rows) + BOTTOM, tuple(symbols), dots, links)


def _shape(part: Part, element: str) -> str:
    if part.kind.symbol == "relay":
        return "coil" if element in ("coil", "trigger") else "switch"
    return part.kind.symbol


def _dot(sheet: Sheet, bar: Bar, y: float, volts: dict[str, float], live: dict[str, bool]) -> Dot:
    x1, x2 = LEFT + bar.left * COLUMN, LEFT + bar.right * COLUMN
    # The target sits where the node's chain goes on, not over the battery's column.
    x = LEFT + bar.columns[min(1, len(bar.columns) - 1) if bar.node in (sheet.plus, sheet.minus) else 0] * COLUMN
    shown = show(volts[bar.node], "V") if bar.node in volts else ""
    return Dot(bar.node, x, x1, x2, y, bar.node in sheet.places, len(bar.columns) > 2, live.get(bar.node, False), shown)


@dataclass(frozen=True, slots=True)
class DescentFigure:
    """The descent in pixels: polylines as point lists, stops with their labels, readings as dots."""

    width: float
    height: float
    band: str
    expected: str
    suspect: str
    stops: tuple[dict[str, object], ...]
    parts: tuple[dict[str, object], ...]
    readings: tuple[dict[str, object], ...]
    grid: tuple[dict[str, object], ...]


def descent_figure(found: Descent, width: float = 800.0, height: float = 178.0) -> DescentFigure:
    """Voltage down, along the path from battery plus (left) to battery minus (right)."""
    left, right, top, bottom = 34.0, 16.0, 22.0, 44.0
    stops = found.stops
    peak = max([s.high for s in stops] + [v for s in stops for _, v in s.readings] + [1.0])
    ceiling = 2.0 * (int(peak / 2.0) + 1)
    step = (width - left - right) / max(len(stops) - 1, 1)

    def x_of(i: float) -> float:
        return round(left + i * step, 1)

    def y_of(volts: float) -> float:
        share = min(max(volts / ceiling, -0.04), 1.0)
        return round(height - bottom - share * (height - top - bottom), 1)

    def line(values: list[float]) -> str:
        return " ".join(f"{x_of(i)},{y_of(v)}" for i, v in enumerate(values))

    upper = [f"{x_of(i)},{y_of(s.high) - 2}" for i, s in enumerate(stops)]
    lower = [f"{x_of(i)},{y_of(s.low) + 2}" for i, s in enumerate(stops)]
    ticks = range(0, int(ceiling) + 1, 2 if ceiling <= 16 else 4)
    return DescentFigure(
        width, height, " ".join(upper + lower[::-1]), line([s.expected for s in stops]),
        line([s.suspect for s in stops if s.suspect is not None]) if all(s.suspect is not None for s in stops) else "",
        tuple(
            {"node": s.node, "x": x_of(i), "y": y_of(s.expected), "probed": s.probed, "volts": show(s.expected, "V")}
            for i, s in enumerate(stops)
        ),
        tuple({"name": name, "x": x_of(i + 0.5), "raised": i % 2 == 1} for i, name in enumerate(found.path.parts)),
        tuple(
            {"number": n + 1, "x": x_of(i), "y": y_of(v), "volts": show(v, "V"), "anchor": "start" if i == 0 else "middle"}
            for i, s in enumerate(stops)
            for n, v in s.readings
        ),
        tuple({"y": y_of(v), "volts": v} for v in ticks),
    )  # fmt: skip
