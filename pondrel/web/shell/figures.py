"""Core geometry to SVG coordinates: the path diagram of a whole circuit."""

from __future__ import annotations

from dataclasses import dataclass

from ...core.base.quantity import show
from ...core.circuit.layout import draw
from ...core.circuit.sheet import Part, Sheet
from ...core.circuit.solve import OperatingPoint
from ...core.circuit.unplug import plug_of
from ...core.isolate import percent

__all__ = ["EMPTY_SKETCH", "LIVE_SHARE", "Diagram", "Frame", "diagram", "frame_of", "shape_of", "sketch"]

COLUMN, LEFT, TOP, RIGHT, BOTTOM = 122.0, 26.0, 22.0, 104.0, 22.0
# The diagram fills a screen's height where its rows allow.
HEIGHT, LEAST_ROW, MOST_ROW = 720.0, 48.0, 80.0
HALF = 11.0  # of a symbol's height
LIVE_SHARE = 0.5  # of the supply, from which on a node is drawn as live


@dataclass(frozen=True, slots=True)
class Stretch:
    """A part's stretch in the frame: its symbol's place ``at`` ("x y") and ``label``, its nodes, and the lines of a path from its top to
    the symbol, from that to its bottom, and all the way."""

    part: Part
    element: str
    label: str
    title: str
    at: str
    top: str
    bottom: str
    upper: str
    lower: str
    whole: str


@dataclass(frozen=True, slots=True)
class Joint:
    """A node in the frame: its target ``at`` a point ("x y"), the ``line`` of its bar, empty for a point; ``branches`` where ways part."""

    node: str
    at: str
    line: str
    branches: bool


@dataclass(frozen=True, slots=True)
class Frame:
    """What of a sheet's path diagram is the same whatever the circuit does, in pixels. ``links`` join a relay's coil to its contacts."""

    width: float
    height: float
    stretches: tuple[Stretch, ...]
    joints: tuple[Joint, ...]
    links: tuple[tuple[float, float, float, float], ...]


def frame_of(sheet: Sheet) -> Frame:
    """The frame of a sheet's diagram."""
    drawing = draw(sheet)
    pitch = min(max(HEIGHT / max(drawing.rows, 1.0), LEAST_ROW), MOST_ROW)

    def y_of(row: float) -> float:
        return round(TOP + row * pitch, 1)

    stretches = []
    named: set[str] = set()
    centres: dict[str, dict[str, tuple[float, float]]] = {}
    for item in drawing.segments:
        part, element = sheet.parts[item.segment.part], item.segment.element
        x, y, top, bottom = LEFT + item.column * COLUMN, y_of(item.middle), y_of(item.top), y_of(item.bottom)
        centres.setdefault(part.name, {})[element] = (x, y)
        own = part.kind.shapes.get(element) if element else None
        unnamed = part.name in named or own == "wire"
        label = f"{part.name} {element}" if own not in (None, "wire", "switch") else "" if unnamed else part.name
        if label == part.name:
            named.add(label)
        stretches.append(
            Stretch(
                part, element, label, f"{part.title}: {part.kind.name}", f"{x:g} {y:g}", item.segment.top, item.segment.bottom,
                f"M{x:g} {top:g}V{y - HALF:g}", f"M{x:g} {y + HALF:g}V{bottom:g}", f"M{x:g} {top:g}V{bottom:g}",
            )
        )  # fmt: skip
    joints = []
    for bar in drawing.bars:
        x1, x2, y = LEFT + bar.left * COLUMN, LEFT + bar.right * COLUMN, y_of(bar.row)
        # The target sits where the node's chain goes on, not over the battery's column.
        x = LEFT + bar.columns[min(1, len(bar.columns) - 1) if bar.node in (sheet.plus, sheet.minus) else 0] * COLUMN
        line = f"M{x1:g} {y:g}H{x2:g}" if x1 != x2 else ""
        joints.append(Joint(bar.node, f"{x:g} {y:g}", line, len(bar.columns) > 2))
    drives = ("coil", "trigger")
    links = tuple((*at[d], *at[other]) for at in centres.values() for d in drives if d in at for other in at if other not in drives)
    width, height = LEFT + (drawing.columns - 1) * COLUMN + RIGHT, y_of(drawing.rows) + BOTTOM
    return Frame(width, height, tuple(stretches), tuple(joints), links)


@dataclass(frozen=True, slots=True)
class Symbol:
    """A part's symbol ``at`` a point ("x y"): ``shape`` names its drawing, empty for a plain wire; ``halo`` is the opacity of the shade
    behind it, ``label`` what is written beside it and ``accused`` its probability, each empty for none; ``plug`` is what is unplugged where
    the symbol is touched."""

    name: str
    title: str
    shape: str
    at: str
    halo: str
    label: str
    accused: str
    plug: str


@dataclass(frozen=True, slots=True)
class Dot:
    """A node's target ``at`` a point ("x y"); ``place`` when a probe can reach it, ``title`` then says what it would show."""

    node: str
    at: str
    place: bool
    joint: bool
    title: str


@dataclass(frozen=True, slots=True)
class Diagram:
    """A sheet's path diagram: ``runs`` and ``live_runs`` are the lines between symbols, as one path each."""

    frame: Frame
    runs: str
    live_runs: str
    symbols: tuple[Symbol, ...]
    dots: tuple[Dot, ...]


def diagram(
    sheet: Sheet, frame: Frame, point: OperatingPoint, volts: dict[str, float], suspicion: dict[str | None, float], marked: str = ""
) -> Diagram:
    """The diagram at an operating point: contacts as they stand there, ``volts`` by node, ``suspicion`` the probability of each part; a
    ``marked`` part is shaded without one."""
    live = {node: v > LIVE_SHARE * sheet.supply_volts for node, v in volts.items()}
    runs: dict[bool, list[str]] = {False: [], True: []}  # by whether they are live
    symbols = []
    for own in frame.stretches:
        name, suspected = own.part.name, suspicion.get(own.part.name, 0.0)
        shape = shape_of(own.part, own.element, (name, own.element) in point.closed)
        accused = percent(suspected) if own.label == name and suspected >= 0.1 else ""
        symbols.append(Symbol(name, own.title, shape, own.at, _halo(suspected, name == marked), own.label, accused, plug_of(sheet, name)))
        above, below = live.get(own.top, False), live.get(own.bottom, False)
        if shape:
            runs[above].append(own.upper)
            runs[below].append(own.lower)
        else:
            runs[above and below].append(own.whole)
    dots = []
    for joint in frame.joints:
        runs[live.get(joint.node, False)].append(joint.line)
        place = joint.node in sheet.places
        title = f"{joint.node}: {show(volts[joint.node], 'V')}{'' if marked else ' when sound'}" if place else ""
        dots.append(Dot(joint.node, joint.at, place, joint.branches, title))
    return Diagram(frame, "".join(runs[False]), "".join(runs[True]), tuple(symbols), tuple(dots))


def _halo(suspicion: float, marked: bool) -> str:
    if marked:
        return "0.55"
    return f"{min(0.08 + 0.75 * suspicion, 0.85):.2f}" if suspicion >= 0.05 else ""


def shape_of(part: Part, element: str, closed: bool) -> str:
    """The drawing of a part's element with its contact as it stands, empty for a plain wire."""
    symbol = part.kind.shapes.get(element, part.kind.symbol)
    if symbol == "wire":
        return ""
    return f"{symbol}-closed" if closed and symbol in ("switch", "breaker", "driver") else symbol


_SKETCH = (
    '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {width:g} {height:g}" fill="none" stroke="#8a8579" stroke-width="{pen:g}">'
    "{drawn}</svg>"
)
EMPTY_SKETCH = _SKETCH.format(width=1, height=1, pen=1, drawn="")


def sketch(frame: Frame) -> str:
    """A frame as a picture for a card, in one grey that stands on paper by day and by night: its lines, and a box for every part that is
    no wire."""
    lines = "".join(joint.line for joint in frame.joints)
    boxes = []
    for own in frame.stretches:
        if shape_of(own.part, own.element, False):
            lines += own.upper + own.lower
            x, _, y = own.at.partition(" ")
            boxes.append(f'<rect x="{float(x) - HALF:g}" y="{float(y) - HALF:g}" width="{2 * HALF:g}" height="{2 * HALF:g}" rx="4"/>')
        else:
            lines += own.whole
    pen = max(frame.width, frame.height) / 90.0
    return _SKETCH.format(width=frame.width, height=frame.height, pen=pen, drawn=f'<path d="{lines}"/>' + "".join(boxes))
