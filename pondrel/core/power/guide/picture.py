"""What a guided way's pictures show: the path that the current takes with what each piece loses, and the battery's volts by phases."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from ...base.quantity import parse_reading
from ..families.battery import REST_LEAST, SURFACE_ABOVE
from ..families.charge import SCHOOLS
from ..families.crank import CRANK_LEAST
from ..phased import Laid
from .model import Way
from .sequence import Done, Position

__all__ = ["Path", "PathPiece", "PathSide", "Phase", "path_of", "phases_of", "volts_of"]

KEY_LEAST = 12.0  # volts that a charged battery keeps with the key on. Common practice, no source
CRANK_MOST = 11.4  # volts that a battery hardly keeps more of while a starter turns. Common practice, no source


@dataclass(frozen=True, slots=True)
class PathPiece:
    """A piece of the path: its step, its name, and what was read across it (None where it was not)."""

    step: str
    title: str
    done: Done | None


@dataclass(frozen=True, slots=True)
class PathSide:
    """A side of the path: what it is called, its pieces along the current, and what was read across all of it; ``whole`` where it has one
    piece, itself."""

    title: str
    step: str
    pieces: tuple[PathPiece, ...]
    done: Done | None
    whole: bool


@dataclass(frozen=True, slots=True)
class Path:
    """The path: its title, the source and the load with the volts that were read at them (None where they were not), its two sides, and the
    amperes that flowed, as they were typed."""

    title: str
    source: tuple[str, Done | None]
    load: tuple[str, Done | None]
    sides: tuple[PathSide, ...]
    amps: str


@dataclass(frozen=True, slots=True)
class Phase:
    """A phase of the battery's volts: its name, between which volts it should be, what was read there and what a capture has of it (each
    None for nothing), and the line of that capture (share of the phase that has passed, least and most volts)."""

    name: str
    least: float
    most: float
    volts: float | None
    captured: float | None = None
    line: tuple[tuple[float, float, float], ...] = ()


def volts_of(done: Done | None) -> float | None:
    """The number of an answer."""
    return None if done is None else parse_reading(done.answer.text.partition("@")[0].strip(), "V").value


def path_of(position: Position) -> Path | None:
    """The path of a way that has one."""
    drawn = position.way.path
    if drawn is None:
        return None
    standing = position.standing()
    sides = tuple(_side(position.way, standing, step, title) for step, title in drawn.sides)
    amps = standing.get("amps")
    return Path(
        drawn.title, (drawn.source[0], standing.get(drawn.source[1])), (drawn.load[0], standing.get(drawn.load[1])), sides,
        amps.answer.text.removesuffix("A").strip() if amps else "",
    )  # fmt: skip


def _side(way: Way, standing: Mapping[str, Done], side: str, title: str) -> PathSide:
    own = [step for step in way.steps if step.piece_of == side]
    pieces = tuple(PathPiece(step.name, step.title.removeprefix("Across the "), standing.get(step.name)) for step in own)
    whole = not pieces
    return PathSide(title, side, pieces or (PathPiece(side, title, standing.get(side)),), standing.get(side), whole)


def phases_of(positions: Iterable[Position], settings: Mapping[str, str], laid: Laid | None = None) -> tuple[Phase, ...]:
    """The battery's volts from rest to charging, by what was read on all the ways of a job, the latest last, and by a capture."""
    read: dict[str, Done] = {}
    for position in positions:
        read |= position.standing()
    n = 2.0 if settings.get("system") == "24" else 1.0
    charging = SCHOOLS.get(settings.get("school", ""), SCHOOLS["13.5-14.7"])
    figures, line = (laid.figures, laid.line) if laid else ({}, {})
    found = []
    for name, (least, most), steps in (
        ("rest", (REST_LEAST, SURFACE_ABOVE), ("rest",)), ("key on", (KEY_LEAST, SURFACE_ABOVE), ()),
        ("crank", (CRANK_LEAST, CRANK_MOST), ("battery",)), ("idle", charging, ()), ("raised", charging, ("trend", "raised")),
        ("lamps on", charging, ("loaded",)),
    ):  # fmt: skip
        volts = volts_of(next((read[step] for step in steps if step in read), None))
        found.append(Phase(name, n * least, n * most, volts, figures.get(name), line.get(name, ())))
    return tuple(found)
