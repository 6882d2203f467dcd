"""The ladder as rungs with their drawing: each draws its own stretch of the circuit and of the voltage line, so that its height is free.

Across a rung positions are shares of the plot's width in percent, down it of its height: nothing is laid out for one size of screen.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

from ...core.base.quantity import show
from ...core.circuit.sheet import Sheet
from ...core.circuit.solve import OperatingPoint
from ...core.isolate import Ladder, Loss, PartRung, PlaceRung, cleared_stretches, percent
from .figures import LIVE_SHARE, shape_of
from .words import minutes_text

__all__ = ["Fold", "Figure", "LadderFigure", "Rung", "Tick", "ladder_figure"]

LEFT, RIGHT = 5.0, 95.0  # percent of the plot's width: a dot at the edge is whole
LEAST_BAND = 1.6  # percent
FEW_RUNGS, MANY_RUNGS = 10, 20  # up to which they are drawn larger; beyond which what is cleared is folded
SHADED, SAID = 0.05, 0.1  # share from which on a part is shaded, and its share is written
_TICKS = (0.5, 1.0, 2.0, 4.0, 6.0, 12.0, 24.0)


@dataclass(frozen=True, slots=True)
class Tick:
    """A tick of the voltage axis at ``x`` percent."""

    x: float
    text: str


@dataclass(frozen=True, slots=True)
class Figure:
    """A rung's stretch of the voltage line: the band's corners, the lines of what should be there and of what a suspect makes of it (empty
    where none is drawn), and the dot of a reading in percent, None for none; ``beyond`` points to where a reading off the axis lies."""

    band: str
    should: str
    accused: str
    dot: float | None = None
    beyond: str = ""


@dataclass(frozen=True, slots=True)
class Rung:
    """One rung as it is shown. A place has a ``name`` to be chosen by, a part a ``symbol`` (empty for a wire).

    ``code`` is its name on the sheet, empty where it has no other, ``note`` what it takes to get there; ``lead`` is red, black or nothing;
    ``read`` and ``should`` are volts as text; ``share`` and ``shade`` (an opacity) its suspicion; ``above`` and ``below`` whether the
    circuit is live there, None where it does not go on; ``bracket`` is ``first``, ``inside``, ``last`` or ``only`` between two readings,
    ``lost`` what stands beside it, and ``odd`` whether that is more or less than should be lost.
    """

    title: str
    code: str
    figure: Figure
    name: str = ""
    note: str = ""
    lead: str = ""
    read: str = ""
    should: str = ""
    share: str = ""
    shade: str = ""
    symbol: str = ""
    load: bool = False
    above: bool | None = None
    below: bool | None = None
    bracket: str = ""
    lost: tuple[str, str] = ("", "")
    odd: bool = False


@dataclass(frozen=True, slots=True)
class Fold:
    """Rungs of parts that are cleared, folded into one line that says how many parts it holds."""

    parts: int
    rungs: tuple[Rung, ...]


@dataclass(frozen=True)
class LadderFigure:
    """The ladder in a state: the axis, what is on it, and whose line is drawn beside it (empty for nobody's); its ``size`` is ``short``,
    empty, or ``tall``, which scrolls by itself."""

    ticks: tuple[Tick, ...]
    steps: tuple[Rung | Fold, ...]
    suspect: str
    size: str


def ladder_figure(sheet: Sheet, found: Ladder, point: OperatingPoint, red: str, black: str) -> LadderFigure:
    """A ladder's rungs with their drawing; ``point`` is the sound circuit in the ladder's state, ``red`` and ``black`` hold the leads."""
    stops = found.descent.stops
    # The axis is the circuit's: a slip of the pen is drawn at its edge, not to its scale.
    peak = max([s.high for s in stops] + [s.suspect for s in stops if s.suspect is not None] + [1.0])
    step = next((t for t in _TICKS if peak / t <= 2.5), _TICKS[-1])
    ceiling = max(peak, step)

    def x_of(volts: float) -> float:
        return round(LEFT + min(max(volts / ceiling, -0.03), 1.03) * (RIGHT - LEFT), 1)

    live = {node: volts > LIVE_SHARE * sheet.supply_volts for node, volts in point.nodes.items()}
    rungs = [
        _place(sheet, rung, x_of, ceiling, live, red, black) if isinstance(rung, PlaceRung) else _part(sheet, rung, x_of, live, point)
        for rung in found.rungs
    ]
    rungs[0], rungs[-1] = replace(rungs[0], above=None), replace(rungs[-1], below=None)
    for loss in found.losses:
        _bracket(rungs, loss)
    count = int(ceiling / step)
    ticks = tuple(Tick(x_of(n * step), f"{n * step:g}" + (" V" if n == count else "")) for n in range(count + 1))
    suspect = found.descent.suspect
    size = "tall" if len(rungs) > MANY_RUNGS else "short" if len(rungs) <= FEW_RUNGS else ""
    return LadderFigure(ticks, _folded(found, rungs), sheet.parts[suspect].called if suspect else "", size)


def _place(
    sheet: Sheet, rung: PlaceRung, x_of: Callable[[float], float], ceiling: float, live: dict[str, bool], red: str, black: str
) -> Rung:  # fmt: skip
    stop, place = rung.stop, sheet.places[rung.name]
    dot = None if rung.read is None else x_of(rung.read)
    beyond = "" if rung.read is None else "right" if rung.read > 1.02 * ceiling else "left" if rung.read < -0.05 * ceiling else ""
    accused = [] if stop.suspect is None else [x_of(stop.suspect)] * 2
    figure = Figure(
        _corners(x_of(stop.low), x_of(stop.high), x_of(stop.low), x_of(stop.high)),
        _line(x_of(stop.expected), x_of(stop.expected)),
        _line(*accused) if accused else "",
        dot,
        beyond,
    )
    note = "" if rung.name == sheet.minus else ", ".join(filter(None, (minutes_text(rung.minutes), rung.behind.replace("_", " "))))
    return Rung(
        _sentence(place.at) or rung.name,
        rung.name if place.at else "",
        figure,
        name=rung.name,
        note=note,
        lead="red" if rung.name == red else "black" if rung.name == black else "",
        read="" if rung.read is None else _volts(rung.read),
        should="" if rung.name == sheet.minus else _volts(stop.expected),
        above=live.get(rung.name, False),
        below=live.get(rung.name, False),
    )


def _part(sheet: Sheet, rung: PartRung, x_of: Callable[[float], float], live: dict[str, bool], point: OperatingPoint) -> Rung:
    part, above, below = sheet.parts[rung.part], rung.above, rung.below
    accused = "" if above.suspect is None or below.suspect is None else _line(x_of(above.suspect), x_of(below.suspect))
    figure = Figure(
        _corners(x_of(above.low), x_of(above.high), x_of(below.low), x_of(below.high)),
        _line(x_of(above.expected), x_of(below.expected)),
        accused,
    )
    shown = rung.share >= SHADED and not rung.cleared
    return Rung(
        _sentence(part.called),
        rung.part if part.label else "",
        figure,
        share=percent(rung.share) if shown and rung.share >= SAID else "",
        shade=f"{min(0.12 + 0.7 * rung.share, 0.8):.2f}" if shown else "",
        symbol=shape_of(part, rung.element, (rung.part, rung.element) in point.closed),
        load=rung.load,
        above=live.get(above.node, False),
        below=live.get(below.node, False),
    )


def _bracket(rungs: list[Rung], loss: Loss) -> None:
    """Mark the rungs between two readings, and write what is lost beside the one in the middle."""
    inside = range(loss.first + 1, loss.last)
    for i in inside:
        at = "only" if len(inside) == 1 else "first" if i == inside[0] else "last" if i == inside[-1] else "inside"
        rungs[i] = replace(rungs[i], bracket=at)
    middle = inside[len(inside) // 2] if len(inside) > 1 else inside[0]
    said = f"{_volts(abs(loss.volts))} {'lost' if loss.volts >= 0 else 'gained'}"
    note = f"should be {loss.should:.2f}" if not loss.fits else "as it should be"
    rungs[middle] = replace(rungs[middle], lost=(said, note), odd=not loss.fits)


def _folded(found: Ladder, rungs: list[Rung]) -> tuple[Rung | Fold, ...]:
    """The rungs, those that are cleared folded where there are many of them."""
    if len(rungs) <= MANY_RUNGS:
        return tuple(rungs)
    kept = {i for i, rung in enumerate(rungs) if rung.lead or rung.load or rung.lost[0]} | {0, len(rungs) - 1}
    steps: list[Rung | Fold] = []
    at = 0
    for first, last in cleared_stretches(found, kept):
        steps.extend(rungs[at:first])
        steps.append(Fold(sum(not rung.name for rung in rungs[first : last + 1]), tuple(rungs[first : last + 1])))
        at = last + 1
    return (*steps, *rungs[at:])


def _line(top: float, bottom: float) -> str:
    return f"M{top:g} 0L{bottom:g} 100"


def _corners(low: float, high: float, low_below: float, high_below: float) -> str:
    pad = LEAST_BAND / 2.0  # so that a narrow band is seen
    return f"{low - pad:g},0 {high + pad:g},0 {high_below + pad:g},100 {low_below - pad:g},100"


def _volts(volts: float) -> str:
    """Volts as they stand in the ladder's column: ``9.57 V``, and below a tenth of a volt ``68 mV``."""
    return f"{volts:.2f} V" if round(abs(volts), 3) >= 0.1 else show(volts, "V")


def _sentence(text: str) -> str:
    return text[:1].upper() + text[1:]
