"""Core geometry to SVG coordinates: the path diagram and the descent."""

from __future__ import annotations

from dataclasses import dataclass

from ..core.circuit.layout import Bar, Drawing
from ..core.circuit.sheet import Part, Sheet
from ..core.circuit.solve import OperatingPoint
from ..core.isolate.descent import Descent
from ..core.quantity import show

__all__ = ["DescentFigure", "Diagram", "descent_figure", "diagram"]

COLUMN, LEFT, TOP, RIGHT, BOTTOM = 122.0, 26.0, 22.0, 104.0, 22.0
# The diagram fills a screen's height where its rows allow.
HEIGHT, LEAST_ROW, MOST_ROW = 720.0, 48.0, 80.0
HALF = 11.0  # of a symbol's height


@dataclass(frozen=True, slots=True)
class Symbol:
    """A part's symbol at (x, y): ``shape`` names its drawing, empty for a plain wire; ``halo`` is the opacity of the shade behind it, empty
    for none; ``suspicion`` in [0, 1], ``accused`` where that is written beside the ``label``."""

    part: Part
    shape: str
    x: float
    y: float
    halo: str
    suspicion: float
    accused: bool
    label: str


@dataclass(frozen=True, slots=True)
class Dot:
    """A node's target at (x, y); ``place`` when a probe can reach it."""

    node: str
    x: float
    y: float
    place: bool
    joint: bool
    volts: str


@dataclass(frozen=True, slots=True)
class Diagram:
    """A sheet's path diagram in pixels. ``runs`` and ``live_runs`` are the lines between symbols, as one path each; ``links`` join a relay's
    coil to its contacts."""

    width: float
    height: float
    runs: str
    live_runs: str
    symbols: tuple[Symbol, ...]
    dots: tuple[Dot, ...]
    links: tuple[tuple[float, float, float, float], ...]


def diagram(
    sheet: Sheet, drawing: Drawing, point: OperatingPoint, volts: dict[str, float], suspicion: dict[str | None, float], marked: str = ""
) -> Diagram:
    """The diagram at an operating point: contacts as they stand there, ``volts`` by node, ``suspicion`` the probability of each part; a
    ``marked`` part is shaded without one."""
    live = {node: v > 0.5 * sheet.supply_volts for node, v in volts.items()}
    pitch = min(max(HEIGHT / max(drawing.rows, 1.0), LEAST_ROW), MOST_ROW)

    def y_of(row: float) -> float:
        return round(TOP + row * pitch, 1)

    symbols = []
    runs: dict[bool, list[str]] = {False: [], True: []}  # by whether they are live
    named: set[str] = set()
    centres: dict[str, dict[str, tuple[float, float]]] = {}
    for item in drawing.segments:
        part, element = sheet.parts[item.segment.part], item.segment.element
        x, y, top, bottom = LEFT + item.column * COLUMN, y_of(item.middle), y_of(item.top), y_of(item.bottom)
        centres.setdefault(part.name, {})[element] = (x, y)
        label = f"{part.name} coil" if element == "coil" else "" if part.name in named else part.name
        own = label == part.name
        if own:
            named.add(label)
        suspected = suspicion.get(part.name, 0.0)
        shape = _shape(part, element, (part.name, element) in point.closed)
        symbols.append(Symbol(part, shape, x, y, _halo(suspected, part.name == marked), suspected, own and suspected >= 0.1, label))
        above, below = live.get(item.segment.top, False), live.get(item.segment.bottom, False)
        if shape:
            runs[above].append(f"M{x:g} {top:g}V{y - HALF:g}")
            runs[below].append(f"M{x:g} {y + HALF:g}V{bottom:g}")
        else:
            runs[above and below].append(f"M{x:g} {top:g}V{bottom:g}")
    for bar in drawing.bars:
        if bar.left != bar.right:
            line = f"M{LEFT + bar.left * COLUMN:g} {y_of(bar.row):g}H{LEFT + bar.right * COLUMN:g}"
            runs[live.get(bar.node, False)].append(line)
    dots = tuple(_dot(sheet, bar, y_of(bar.row), volts) for bar in drawing.bars)
    drives = ("coil", "trigger")
    links = tuple((*at[d], *at[other]) for at in centres.values() for d in drives if d in at for other in at if other not in drives)
    width, height = LEFT + (drawing.columns - 1) * COLUMN + RIGHT, y_of(drawing.rows) + BOTTOM
    return Diagram(width, height, "".join(runs[False]), "".join(runs[True]), tuple(symbols), dots, links)


def _halo(suspicion: float, marked: bool) -> str:
    if marked:
        return "0.55"
    return f"{min(0.08 + 0.75 * suspicion, 0.85):.2f}" if suspicion >= 0.05 else ""


def _shape(part: Part, element: str, closed: bool) -> str:
    symbol = part.kind.symbol
    if symbol == "wire":
        return ""
    if symbol == "relay":
        symbol = "coil" if element in ("coil", "trigger") else "switch"
    return f"{symbol}-closed" if closed and symbol in ("switch", "breaker", "driver") else symbol


def _dot(sheet: Sheet, bar: Bar, y: float, volts: dict[str, float]) -> Dot:
    # The target sits where the node's chain goes on, not over the battery's column.
    x = LEFT + bar.columns[min(1, len(bar.columns) - 1) if bar.node in (sheet.plus, sheet.minus) else 0] * COLUMN
    shown = show(volts[bar.node], "V") if bar.node in volts else ""
    return Dot(bar.node, x, y, bar.node in sheet.places, len(bar.columns) > 2, shown)


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
