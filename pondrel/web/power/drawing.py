"""The heavy path as a loop with a slot for each drop, and the battery's volts from rest to charging: core's findings as coordinates."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ...core.base.quantity import parse_reading
from ...core.check import Verdict
from ...core.power.guide import Position
from ...core.power.guide.sequence import Done
from ...core.power.heavy import pieces_of

__all__ = ["Loop", "Phase", "Slot", "Volts", "loop_of", "volts_of"]

LEFT, RIGHT, TOP, BOTTOM = 46.0, 506.0, 62.0, 212.0
_KINDS = {Verdict.WITHIN: "ok", Verdict.OUTSIDE: "out", Verdict.TOO_CLOSE: "close", Verdict.NOT_COMPARABLE: "not"}


@dataclass(frozen=True, slots=True)
class Slot:
    """A piece of the loop: its step, middle, name in up to two lines, the number in it, and how it stands: ``ok``, ``out``, ``close``,
    ``not``, ``now`` or ``none``."""

    step: str
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
    limit: str
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
class Phase:
    """A phase of the volts' line: its name, where it begins and ends (percent), its band (percent from the top, height), the dots in it
    (percent across and from the top), and what is written below."""

    name: str
    start: float
    end: float
    band: tuple[float, float]
    dots: tuple[tuple[float, float], ...]
    text: str
    read: bool

    @property
    def middle(self) -> float:
        """Its middle, in percent."""
        return (self.start + self.end) / 2.0


@dataclass(frozen=True, slots=True)
class Volts:
    """The battery's volts by phases, with the ticks of the scale (percent from the top, text) and the line through what was read."""

    phases: tuple[Phase, ...]
    ticks: tuple[tuple[float, str], ...]
    line: tuple[tuple[float, float], ...]


_LOOPS = {
    "start": ("The heavy path, while cranking", "Battery", "Starter", ("supply_drop", "ground_drop"), "battery", "at_starter"),
    "charge": ("The charging path, engine running", "Battery", "Alternator", ("cable_drop", "ground_drop"), "raised", ""),
}
_SIDES = {"supply_drop": "plus side", "ground_drop": "ground side", "cable_drop": "output cable"}
_SINGLE = {"cable_drop": "output cable", "ground_drop": "bracket and strap"}


def _volts(done: Done | None) -> float | None:
    if done is None:
        return None
    return parse_reading(done.answer.text.partition("@")[0].strip(), "V").value


def _shown(done: Done | None) -> str:
    value = _volts(done)
    return "" if value is None else f"{abs(value):.2f}"


def _kind(position: Position, step: str, done: Done | None) -> str:
    if done is not None and done.finding is not None:
        return _KINDS[done.finding.verdict]
    if position.next is not None and position.next.step.name == step:
        return "now"
    return "none"


def loop_of(position: Position) -> Loop | None:
    """The loop of a way that has one."""
    own = _LOOPS.get(position.way.name)
    if own is None:
        return None
    title, source, load, sides, at_source, at_load = own
    standing = position.standing()
    slots: list[Slot] = []
    for side, y in zip(sides, (TOP, BOTTOM), strict=True):
        pieces = [(piece.name, piece.title) for piece in pieces_of(side)] if position.way.step("strap") else [(side, _SINGLE[side])]
        if y == BOTTOM:
            pieces.reverse()  # the current comes back from the right
        gap = (RIGHT - LEFT) / len(pieces)
        for place, (name, words) in enumerate(pieces):
            done = standing.get(name)
            kind = _kind(position, name, done)
            slots.append(Slot(name, LEFT + gap * (place + 0.5), y, _in_lines(words), _shown(done) or "?", kind))
    told = tuple(
        _side(position, side, y, standing.get(side)) for side, y in zip(sides, (TOP, BOTTOM), strict=True) if position.way.step("strap")
    )
    arrives = _shown(standing.get(at_load)) if at_load else ""
    return Loop(title + _amps(standing), (source, _shown(standing.get(at_source))), (load, arrives), tuple(slots), told)


def _amps(standing: dict[str, Done]) -> str:
    done = standing.get("amps")
    return f" at {done.answer.text.removesuffix('A').strip()} A" if done is not None else ""


def _in_lines(words: str) -> tuple[str, ...]:
    parts = words.split()
    return (words,) if len(words) <= 11 or len(parts) < 2 else (parts[0], " ".join(parts[1:]))


def _side(position: Position, side: str, y: float, done: Done | None) -> Side:
    words = _SIDES[side]
    limit = done.finding.limit if done and done.finding else None
    most = f"{limit.most:g} V at most" if limit else ""
    if done is None:
        return Side(y, f"{words} not read yet", "", _kind(position, side, None))
    return Side(y, f"{words} loses {_shown(done)} V", most, _kind(position, side, done))


_PHASES = (
    ("rest", "rest", "rest", (12.4, 12.9)),
    ("crank", "battery", "crank", (9.6, 11.4)),
    ("raised", "raised", "2000 r/min", (13.5, 14.7)),
    ("loaded", "loaded", "lamps on", (13.5, 14.7)),
)
_LOW, _HIGH = 8.0, 15.5


def volts_of(positions: Sequence[Position], twice: float) -> Volts:
    """The battery's volts from rest to charging, by what was read on all the ways of a job; ``twice`` is 2 at 24 V."""

    def up(volts: float) -> float:
        return max(min(100.0 * (_HIGH - volts / twice) / (_HIGH - _LOW), 100.0), 0.0)

    phases, line = [], []
    wide = 100.0 / len(_PHASES)
    for number, (_, step, name, (low, high)) in enumerate(_PHASES):
        read = next((done for position in reversed(positions) if (done := position.standing().get(step)) is not None), None)
        volts = _volts(read)
        trend = next((done for position in reversed(positions) if (done := position.standing().get("trend")) is not None), None)
        if step == "raised" and trend is not None:
            volts = _volts(trend)
        start, end = number * wide, (number + 1) * wide
        dots = ((start + wide / 2.0, up(volts)),) if volts is not None else ()
        line += [(start + 0.12 * wide, up(volts)), (end - 0.12 * wide, up(volts))] if volts is not None else []
        text = f"{volts:.2f} V" if volts is not None else f"{low * twice:g} to {high * twice:g} V"
        phases.append(Phase(name, start, end, (up(high * twice), up(low * twice) - up(high * twice)), dots, text, volts is not None))
    ticks = tuple((up(volts * twice), f"{volts * twice:g}") for volts in (8, 10, 12, 14))
    return Volts(tuple(phases), ticks, tuple(line))
