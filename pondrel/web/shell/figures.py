"""Core geometry to SVG coordinates: the path diagram of a whole circuit, in strips that fit a hand-held screen."""

from __future__ import annotations

import textwrap
from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from ...core.base.brief import capitalized
from ...core.base.quantity import show
from ...core.circuit.sheet import Part, Sheet
from ...core.circuit.solve import OperatingPoint
from ...core.circuit.unplug import plug_of
from ...core.drawing import Bar, Box, Drawn, Strip, draw
from ...core.isolate import percent

__all__ = ["EMPTY_SKETCH", "LIVE_SHARE", "Diagram", "Frame", "diagram", "frame_of", "shape_of", "sketch"]

COLUMN, FEED, LEFT, TOP, RIGHT, BOTTOM = 134.0, 74.0, 24.0, 24.0, 134.0, 24.0  # the feed's column is narrow
MOST_COLUMNS = 4  # of a strip beside the feed's: what a screen of 800 pixels and half of one of 1280 have room for
LEAST_ROW, LINE, AIR, BOX_ROW = 46.0, 15.0, 30.0, 62.0
ROOMY_ROW = 80.0  # where every part and every point is touched by a thumb
HALF, BOX_HALF, FLAT_HALF = 11.0, 27.0, 5.0  # of a symbol's, a box's and a joint's height
BOX_SIDE, BOX_WIDTH = 22.0, 112.0
LETTERS, FEED_LETTERS, MOST_LINES = 15, 8, 3  # of a name beside its symbol
LIVE_SHARE = 0.5  # of the supply, from which on a node is drawn as live
JOINTS = ("wire", "contact", "splice")  # symbols whose part is told by its code, since its name says no more than where it is

_RELAY_ENDS = {"coil": "coil", "switch": "contact"}  # by symbol: what is told of a relay where its name stands elsewhere already
_Across = Callable[[int], float]  # the x of a column
_Down = Callable[[int], float]  # the y of a row


@dataclass(frozen=True, slots=True)
class Stretch:
    """A part's stretch in the frame: its symbol's place ``at`` ("x y"), its name in ``lines`` and its ``code``, both empty where another
    stretch says them; its nodes, and the lines of a path from its top to the symbol, from that to its bottom, and all the way."""

    part: Part
    element: str
    lines: tuple[str, ...]
    code: str
    title: str
    at: str
    top: str
    bottom: str
    upper: str
    lower: str
    whole: str


@dataclass(frozen=True, slots=True)
class Block:
    """A part of many pins: a box by its corner, width and height, its name in ``lines`` and its ``code``; ``flat`` for a joint. ``pins``
    are the ends of its leads with what they are called: x, y, name, and whether they lead up."""

    part: Part
    x: float
    y: float
    width: float
    height: float
    flat: bool
    lines: tuple[str, ...]
    code: str
    title: str
    pins: tuple[tuple[float, float, str, bool], ...]


@dataclass(frozen=True, slots=True)
class Joint:
    """A node in the frame: its target ``at`` a point ("x y"), the ``line`` of its bar, empty for a point; ``meets`` are the points ("x y")
    beside the target where lines join the bar and do not merely turn, so that they are told from lines that cross it.
    ``goes_on`` are the points where it is cut off, to go on in another strip: x, y, and whether to the right."""

    node: str
    at: str
    line: str
    meets: tuple[str, ...]
    goes_on: tuple[tuple[float, float, bool], ...]


@dataclass(frozen=True, slots=True)
class StripFrame:
    """What of a strip is the same whatever the circuit does, in pixels. ``links`` join a relay's coil to its contacts."""

    width: float
    height: float
    stretches: tuple[Stretch, ...]
    blocks: tuple[Block, ...]
    joints: tuple[Joint, ...]
    links: tuple[tuple[float, float, float, float], ...]


@dataclass(frozen=True, slots=True)
class Frame:
    """What of a sheet's path diagram is the same whatever the circuit does."""

    strips: tuple[StripFrame, ...]


def frame_of(sheet: Sheet, most_columns: int = MOST_COLUMNS, roomy: bool = False) -> Frame:
    """The frame of a sheet's diagram, in strips of at most so many columns, 0 for one strip; ``roomy`` for thumbs."""
    named: set[str] = set()
    strips = draw(sheet, most_columns).strips
    return Frame(
        tuple(_strip_frame(sheet, strip, not number, named, ROOMY_ROW if roomy else LEAST_ROW) for number, strip in enumerate(strips))
    )


def _strip_frame(sheet: Sheet, strip: Strip, first: bool, named: set[str], least_row: float) -> StripFrame:
    def x_of(column: int) -> float:
        return LEFT + (column * COLUMN if not first else 0.0 if not column else FEED + (column - 1) * COLUMN)

    lettered = []
    for drawn in strip.drawn:
        part, element = sheet.parts[drawn.stretch.part], drawn.stretch.element
        own = part.kind.shapes.get(element) if element else None
        once = part.name not in named and own != "wire" and not drawn.stretch.pin
        again = _RELAY_ENDS.get(own or "", "") if part.name in named and "coil" in part.kind.shapes.values() else ""
        if once:
            named.add(part.name)
        letters = FEED_LETTERS if first and not drawn.column else LETTERS
        lettered.append(
            (drawn, part, _lines(part, letters) if once else (), f"{part.name} {again}" if again else part.name if once else "")
        )
    middles = [_middle_row(strip, drawn) for drawn, *_ in lettered]
    heights = _row_heights(
        strip, least_row, [(row, len(lines) + bool(code)) for row, (_, _, lines, code) in zip(middles, lettered, strict=True)]
    )
    tops = [TOP]
    for height in heights:
        tops.append(tops[-1] + height)

    def y_of(row: int) -> float:
        return tops[row]

    boxed = {f"box:{box.part}": box for box in strip.boxes}
    stretches: list[Stretch] = []
    centres: dict[str, dict[str, tuple[float, float]]] = {}
    leads: dict[str, list[tuple[float, float, str, bool]]] = {}
    for middle, (drawn, part, lines, code) in zip(middles, lettered, strict=True):
        stretch = drawn.stretch
        x, top, bottom = x_of(drawn.column), y_of(drawn.top), y_of(drawn.bottom)
        if stretch.pin:
            box, up = boxed[f"box:{part.name}"], stretch.bottom == f"box:{part.name}"
            edge = y_of(box.row) + (-1 if up else 1) * (FLAT_HALF if box.flat else BOX_HALF)
            leads.setdefault(part.name, []).append((x, edge, stretch.pin, up))
            line = f"M{x:g} {top:g}V{edge:g}" if up else f"M{x:g} {edge:g}V{bottom:g}"
            stretches.append(Stretch(part, "", (), "", "", f"{x:g} {edge:g}", stretch.top, stretch.bottom, "", "", line))
            continue
        y = round((y_of(middle) + y_of(middle + 1)) / 2 + _aside(strip, drawn, middle), 1)
        centres.setdefault(part.name, {})[stretch.element] = (x, y)
        stretches.append(
            Stretch(
                part, stretch.element, lines, code, f"{part.title}: {part.kind.name}", f"{x:g} {y:g}", stretch.top, stretch.bottom,
                f"M{x:g} {top:g}V{y - HALF:g}", f"M{x:g} {y + HALF:g}V{bottom:g}", f"M{x:g} {top:g}V{bottom:g}",
            )
        )  # fmt: skip
    blocks = tuple(_block(sheet.parts[box.part], box, x_of, y_of, leads.get(box.part, [])) for box in strip.boxes)
    width = x_of(strip.columns - 1) + RIGHT
    ends = Counter((vertex, d.column) for d in strip.drawn for vertex in (d.stretch.top, d.stretch.bottom))
    joints = tuple(_joint(sheet, bar, ends, x_of, y_of, width, first) for bar in strip.bars)
    drives = ("coil", "trigger")
    links = tuple((*at[d], *at[other]) for at in centres.values() for d in drives if d in at for other in at if other not in drives)
    return StripFrame(width, y_of(strip.rows) + BOTTOM, tuple(stretches), blocks, joints, links)


def _lines(part: Part, letters: int = LETTERS) -> tuple[str, ...]:
    """A part's name as it stands beside its symbol, in short lines; a joint or wire has its colour and section."""
    if part.kind.symbol in JOINTS and len(part.pins) == 2:
        section = part.params.get("csa_mm2")
        told = " ".join(filter(None, (part.colour, f"{section:g} mm²" if isinstance(section, float) else "")))
        return tuple(textwrap.wrap(told, letters))
    lines = textwrap.wrap(capitalized(part.label or part.called.removesuffix(f" {part.name}")), letters)
    return tuple(lines if len(lines) <= MOST_LINES else [*lines[: MOST_LINES - 1], f"{lines[MOST_LINES - 1][: letters - 1]}…"])


def _row_heights(strip: Strip, least: float, labels: Sequence[tuple[int, int]]) -> list[float]:
    """The height from every row to the next: room for the names that stand between them, and for boxes."""
    heights = [least] * strip.rows
    for row, lines in labels:
        heights[row] = max(heights[row], AIR + LINE * lines)
    for box in strip.boxes:
        for row in (box.row - 1, box.row):
            if not box.flat and 0 <= row < strip.rows:
                heights[row] = max(heights[row], BOX_ROW)
    return heights


def _middle_row(strip: Strip, drawn: Drawn) -> int:
    """The row below which a symbol stands on its line: between two rows, so that names of other columns stand beside it, and clear of the
    boxes that its line passes."""
    passed = {box.row for box in strip.boxes if box.left <= drawn.column <= box.right and drawn.top < box.row < drawn.bottom}
    middle = (drawn.top + drawn.bottom - 1) // 2
    clear = [row for row in range(drawn.top, drawn.bottom) if not {row, row + 1} & passed]
    return min(clear, key=lambda row: abs(row - middle), default=middle)


def _aside(strip: Strip, drawn: Drawn, row: int) -> float:
    """How far a symbol gives way to a box that its line passes above or below it."""
    passed = {
        box.row for box in strip.boxes if not box.flat and box.left <= drawn.column <= box.right and drawn.top < box.row < drawn.bottom
    }
    return BOX_HALF / 2 * ((row in passed) - (row + 1 in passed))


def _block(part: Part, box: Box, x_of: _Across, y_of: _Down, leads: list[tuple[float, float, str, bool]]) -> Block:
    half = FLAT_HALF if box.flat else BOX_HALF
    x1, x2, y = x_of(box.left) - (8.0 if box.flat else BOX_SIDE), x_of(box.right) + (8.0 if box.flat else BOX_SIDE), y_of(box.row)
    width = x2 - x1 if box.flat else max(x2 - x1, BOX_WIDTH)
    letters = max(int((width - 12) / 7.4), 8)
    lines = _lines(part, letters) if not box.flat else ()
    return Block(part, x1, y - half, width, 2 * half, box.flat, lines[:2], part.name, f"{part.title}: {part.kind.name}", tuple(leads))


def _joint(
    sheet: Sheet, bar: Bar, ends: Counter[tuple[str, int]], x_of: _Across, y_of: _Down, width: float, first: bool
) -> Joint:  # fmt: skip
    rail = bar.node in (sheet.plus, sheet.minus)
    x1, x2, y = x_of(bar.left), x_of(bar.right), y_of(bar.row)
    # The target sits where the node's chain goes on, not over the battery's column.
    column = next((c for c in bar.columns if c or not (rail and first)), bar.columns[0])
    goes_on = []
    if bar.before:
        x1 -= 14.0
        goes_on.append((x1, y, False))
    if bar.after:
        x2 = min(x2 + 26.0, width - 8.0)
        goes_on.append((x2, y, True))
    line = f"M{x1:g} {y:g}H{x2:g}" if x1 != x2 else ""
    turns = {c for c in bar.columns if ends[bar.node, c] == 1 and x_of(c) in (x1, x2)}
    meets = tuple(f"{x_of(c):g} {y:g}" for c in bar.columns if line and c not in turns and c != column)
    return Joint(bar.node, f"{x_of(column):g} {y:g}", line, meets, tuple(goes_on))


@dataclass(frozen=True, slots=True)
class Symbol:
    """A part's symbol ``at`` a point ("x y"): ``shape`` names its drawing, empty for a plain wire; ``halo`` is the opacity of the shade
    behind it, ``lines`` and ``code`` what is written beside it and ``accused`` its probability, each empty for none; ``plug`` is what is
    unplugged where the symbol is touched. Where it is a ``block``, it is drawn as that; ``differs`` where this drawing has it otherwise
    than the one that it was made from."""

    name: str
    title: str
    shape: str
    at: str
    halo: str
    lines: tuple[str, ...]
    code: str
    accused: str
    plug: str
    block: Block | None = None
    differs: bool = False


@dataclass(frozen=True, slots=True)
class Dot:
    """A node's target ``at`` a point ("x y"); ``place`` when a probe can reach it, ``title`` then says what it would show; ``joint`` where
    ways part there, ``meets`` where else lines join it."""

    node: str
    at: str
    place: bool
    joint: bool
    meets: tuple[str, ...]
    title: str
    goes_on: tuple[tuple[float, float, bool], ...]


@dataclass(frozen=True, slots=True)
class StripDiagram:
    """A strip as it stands: ``runs`` and ``live_runs`` are the lines between symbols, as one path each."""

    frame: StripFrame
    runs: str
    live_runs: str
    symbols: tuple[Symbol, ...]
    dots: tuple[Dot, ...]


@dataclass(frozen=True, slots=True)
class Diagram:
    """A sheet's path diagram."""

    strips: tuple[StripDiagram, ...]


def diagram(
    sheet: Sheet, frame: Frame, point: OperatingPoint, volts: dict[str, float], suspicion: dict[str | None, float], marked: str = "",
    differs: frozenset[str] = frozenset(),
) -> Diagram:  # fmt: skip
    """The diagram at an operating point: contacts as they stand there, ``volts`` by node, ``suspicion`` the probability of each part; a
    ``marked`` part is shaded without one, those that are drawn otherwise than elsewhere are told by ``differs``."""
    live = {node: v > LIVE_SHARE * sheet.supply_volts for node, v in volts.items()}
    return Diagram(tuple(_strip_diagram(sheet, strip, point, volts, live, suspicion, marked, differs) for strip in frame.strips))


def _strip_diagram(
    sheet: Sheet,
    strip: StripFrame,
    point: OperatingPoint,
    volts: dict[str, float],
    live: dict[str, bool],
    suspicion: dict[str | None, float],
    marked: str,
    differs: frozenset[str],
) -> StripDiagram:
    runs: dict[bool, list[str]] = {False: [], True: []}  # by whether they are live

    def symbol_of(part: Part, shape: str, at: str, lines: tuple[str, ...], code: str, title: str, block: Block | None) -> Symbol:
        suspected = suspicion.get(part.name, 0.0)
        accused = percent(suspected) if code == part.name and suspected >= 0.1 else ""
        halo = _halo(suspected, part.name == marked)
        changed = part.name in differs and code == part.name
        return Symbol(part.name, title, shape, at, halo, lines, code, accused, plug_of(sheet, part.name), block, changed)

    symbols = []
    for own in strip.stretches:
        above, below = live.get(own.top, False), live.get(own.bottom, False)
        if not own.upper:  # a lead to a box is as live as its node
            runs[above or below].append(own.whole)
            continue
        shape = shape_of(own.part, own.element, (own.part.name, own.element) in point.closed)
        symbols.append(symbol_of(own.part, shape, own.at, own.lines, own.code, own.title, None))
        if shape:
            runs[above].append(own.upper)
            runs[below].append(own.lower)
        else:
            runs[above and below].append(own.whole)
    for block in strip.blocks:
        at = f"{block.x:g} {block.y:g}"
        symbols.append(symbol_of(block.part, "", at, block.lines, block.code, block.title, block))
    dots = []
    for joint in strip.joints:
        runs[live.get(joint.node, False)].append(joint.line)
        place = joint.node in sheet.places
        title = f"{joint.node}: {show(volts[joint.node], 'V')}{'' if marked else ' when sound'}" if place else ""
        dots.append(Dot(joint.node, joint.at, place, bool(joint.line), joint.meets, title, joint.goes_on))
    return StripDiagram(strip, "".join(runs[False]), "".join(runs[True]), tuple(symbols), tuple(dots))


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
    """A frame of one strip as a picture for a card, in one grey that stands on paper by day and by night: its lines, and a box for
    every part that is no wire."""
    strip = frame.strips[0]
    lines = "".join(joint.line for joint in strip.joints)
    boxes = [f'<rect x="{b.x:g}" y="{b.y:g}" width="{b.width:g}" height="{b.height:g}" rx="4"/>' for b in strip.blocks]
    for own in strip.stretches:
        if own.upper and shape_of(own.part, own.element, False):
            lines += own.upper + own.lower
            x, _, y = own.at.partition(" ")
            boxes.append(f'<rect x="{float(x) - HALF:g}" y="{float(y) - HALF:g}" width="{2 * HALF:g}" height="{2 * HALF:g}" rx="4"/>')
        else:
            lines += own.whole
    pen = max(strip.width, strip.height) / 90.0
    return _SKETCH.format(width=strip.width, height=strip.height, pen=pen, drawn=f'<path d="{lines}"/>' + "".join(boxes))
