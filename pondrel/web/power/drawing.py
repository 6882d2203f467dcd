"""The path as a loop with a slot for each drop, and the battery's volts by phases: what the core says, as coordinates."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ...core.check import Verdict
from ...core.power.guide import Position
from ...core.power.guide.picture import Path, PathSide, Phase, path_of, volts_of
from ...core.power.guide.sequence import Done

__all__ = ["Drawn", "Loop", "Slot", "drawn_volts", "loop_of"]

LEFT, RIGHT, TOP, BOTTOM = 46.0, 506.0, 62.0, 212.0
LONGEST_LINE = 11  # letters of a name in one line
ABOVE, BELOW = 0.8, 1.4  # volts, of 12, that the scale goes beyond the bands
_KINDS = {Verdict.WITHIN: "ok", Verdict.OUTSIDE: "out", Verdict.TOO_CLOSE: "close", Verdict.NOT_COMPARABLE: "not"}


@dataclass(frozen=True, slots=True)
class Slot:
    """A piece of the loop: its middle, its name in up to two lines, the number in it, and how it stands: ``ok``, ``out``, ``close``,
    ``not``, ``now`` or ``none``."""

    x: float
    y: float
    names: tuple[str, ...]
    text: str
    kind: str


@dataclass(frozen=True, slots=True)
class Side:
    """What a side loses as a whole, in words, and how that stands."""

    y: float
    text: str
    kind: str


@dataclass(frozen=True, slots=True)
class Loop:
    """The path: the source's and the load's name and volts, the slots, and what each side loses."""

    title: str
    source: tuple[str, str]
    load: tuple[str, str]
    slots: tuple[Slot, ...]
    sides: tuple[Side, ...]


@dataclass(frozen=True, slots=True)
class Stretch:
    """A phase across the drawing: its name, start and end (percent), its band (percent from the top, height), its dot (percent across and
    from the top, None for none), what is written below, and a capture's line as the corners of its shape (percent of the phase across,
    percent from the top); ``known`` where there is a number."""

    name: str
    start: float
    end: float
    band: tuple[float, float]
    dot: tuple[float, float] | None
    text: str
    capture: str = ""
    known: bool = False


@dataclass(frozen=True, slots=True)
class Drawn:
    """The battery's volts by phases, with the ticks of the scale (percent from the top, text) and the line through what was read as
    stretches (percent across and from the top, both ends); phases between which one was not read are not joined."""

    phases: tuple[Stretch, ...]
    ticks: tuple[tuple[float, str], ...]
    line: tuple[tuple[float, float, float, float], ...]


def _shown(done: Done | None) -> str:
    value = volts_of(done)
    return "" if value is None else f"{abs(value):.2f}"


def _kind(position: Position, step: str, done: Done | None) -> str:
    if done is not None and done.finding is not None:
        return _KINDS[done.finding.verdict]
    return "now" if position.next is not None and position.next.step.name == step else "none"


def loop_of(position: Position) -> Loop | None:
    """The loop of a way that has a path."""
    path = path_of(position)
    if path is None:
        return None
    slots = [slot for side, y in zip(path.sides, (TOP, BOTTOM), strict=True) for slot in _slots(position, side, y)]
    sides = [_side(position, side, y) for side, y in zip(path.sides, (TOP, BOTTOM), strict=True) if not side.whole]
    return Loop(_title(path), (path.source[0], _shown(path.source[1])), (path.load[0], _shown(path.load[1])), tuple(slots), tuple(sides))


def _title(path: Path) -> str:
    return f"{path.title} at {path.amps} A" if path.amps else path.title


def _slots(position: Position, side: PathSide, y: float) -> list[Slot]:
    pieces = side.pieces if y == TOP else side.pieces[::-1]  # the current comes back from the right
    gap = (RIGHT - LEFT) / len(pieces)
    return [
        Slot(LEFT + gap * (place + 0.5), y, _in_lines(piece.title), _shown(piece.done) or "?", _kind(position, piece.step, piece.done))
        for place, piece in enumerate(pieces)
    ]


def _in_lines(words: str) -> tuple[str, ...]:
    first, _, rest = words.partition(" ")
    return (words,) if len(words) <= LONGEST_LINE or not rest else (first, rest)


def _side(position: Position, side: PathSide, y: float) -> Side:
    if side.done is None:
        return Side(y, f"{side.title} not read yet", _kind(position, side.step, None))
    limit = side.done.finding.limit if side.done.finding else None
    most = f", {limit.most:g} V at most" if limit else ""
    return Side(y, f"{side.title} loses {_shown(side.done)} V{most}", _kind(position, side.step, side.done))


def drawn_volts(phases: Sequence[Phase], twice: float) -> Drawn:
    """The phases across the drawing; ``twice`` is 2 at 24 V."""
    low = min(phase.least for phase in phases) - BELOW * twice
    high = max(phase.most for phase in phases) + ABOVE * twice

    def down(volts: float) -> float:
        return max(min(100.0 * (high - volts) / (high - low), 100.0), 0.0)

    wide = 100.0 / len(phases)
    stretches, line = [], []
    before: tuple[float, float] | None = None  # the end of the line in the phase before
    for number, phase in enumerate(phases):
        start, end = number * wide, (number + 1) * wide
        dot = None if phase.volts is None else (start + wide / 2.0, down(phase.volts))
        own = None if dot is None else (start + 0.12 * wide, dot[1], end - 0.12 * wide, dot[1])
        if own is not None:
            line += [(*before, *own[:2]), own] if before else [own]
        before = None if own is None else own[2:]
        known = phase.captured if phase.volts is None else phase.volts
        text = f"{phase.least:g}–{phase.most:g}" if known is None else f"{known:.2f} V"
        band = (down(phase.most), down(phase.least) - down(phase.most))
        above = [f"{100.0 * share:.1f},{down(most):.1f}" for share, _, most in phase.line]
        below = [f"{100.0 * share:.1f},{down(least):.1f}" for share, least, _ in reversed(phase.line)]
        stretches.append(Stretch(phase.name, start, end, band, dot, text, " ".join((*above, *below)), known is not None))
    ticks = tuple((down(volts * twice), f"{volts * twice:g}") for volts in (8, 10, 12, 14) if low <= volts * twice <= high)
    return Drawn(tuple(stretches), ticks, tuple(line))
