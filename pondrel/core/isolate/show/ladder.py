"""The ladder: the circuit along one path and the voltage along it on the same rungs, places and parts in turn.

A place is one potential, so the line stands upright there; whatever is lost is lost across a part. A joint that no probe reaches has no
rung of its own: the parts on both sides of it follow each other. Between two readings stands what is lost from the one to the other, and
what it should be.
"""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass, replace

from ...circuit.sheet import Sheet
from ...evidence.asked import Measurement
from ..advise.effort import Situation, minutes_for
from ..isolation import Isolation
from .descent import Descent, Loss, Stop

__all__ = ["Ladder", "PartRung", "PlaceRung", "cleared_stretches", "ladder"]

CLEARED = 0.01  # chance below which a part is cleared, once anything was read
SHORTEST_FOLD = 3  # rungs that are worth folding into one


@dataclass(frozen=True, slots=True)
class PlaceRung:
    """A place that a probe reaches: its ``stop`` of the descent, the ``minutes`` that volts there to battery minus take here and now, and
    the access that must be opened for it, empty where the way is open."""

    stop: Stop
    minutes: float
    behind: str

    @property
    def name(self) -> str:
        """The place's name on the sheet."""
        return self.stop.node

    @property
    def read(self) -> float | None:
        """The volts that were read there last, None where none were."""
        return self.stop.readings[-1][1] if self.stop.readings else None


@dataclass(frozen=True, slots=True)
class PartRung:
    """A part, or one element of it, between the nodes ``above`` and ``below``; ``share`` is its probability to be at fault, ``load``
    whether the path is there for it, ``cleared`` whether the readings leave it no chance worth a look."""

    part: str
    element: str
    above: Stop
    below: Stop
    share: float
    load: bool
    cleared: bool


@dataclass(frozen=True)
class Ladder:
    """Rungs from the path's upper end to its lower one, and the losses between readings that follow each other, by rungs."""

    descent: Descent
    rungs: tuple[PlaceRung | PartRung, ...]
    losses: tuple[Loss, ...]


def ladder(sheet: Sheet, isolation: Isolation, found: Descent) -> Ladder:
    """The ladder of a descent, with the suspicions of an isolation."""
    here = Situation.of(sheet, isolation.belief.items)
    shares, told = isolation.parts, bool(isolation.belief.items)
    path, stops = found.path, found.stops
    rungs: list[PlaceRung | PartRung] = []
    rung_of: dict[int, int] = {}  # by stop
    for i, stop in enumerate(stops):
        if stop.probed:
            rung_of[i] = len(rungs)
            rungs.append(_place(sheet, stop, found.state, here))
        if i < len(path.segments):
            segment = path.segments[i]
            share = shares.get(segment.part, 0.0)
            own = segment.part == path.subject
            rungs.append(PartRung(segment.part, segment.element, stop, stops[i + 1], share, own, told and share < CLEARED))
    losses = tuple(replace(loss, first=rung_of[loss.first], last=rung_of[loss.last]) for loss in found.losses)
    return Ladder(found, tuple(rungs), losses)


def _place(sheet: Sheet, stop: Stop, state: str, here: Situation) -> PlaceRung:
    behind = sheet.places[stop.node].behind
    shut = behind if behind and behind not in here.gained else ""
    if stop.node == sheet.minus:
        return PlaceRung(stop, 0.0, shut)
    return PlaceRung(stop, minutes_for(sheet, Measurement(state, "volts", stop.node, sheet.minus), here), shut)


def cleared_stretches(found: Ladder, kept: Collection[int]) -> tuple[tuple[int, int], ...]:
    """Stretches of rungs (first, last) of which nothing more is to be learnt: parts that are cleared, and the places between them that
    nobody has read; those that are ``kept`` stay in sight, and so do short stretches."""
    stretches, start = [], None
    for i, rung in enumerate((*found.rungs, None)):
        done = rung is not None and i not in kept and (rung.cleared if isinstance(rung, PartRung) else rung.read is None)
        if done and start is None:
            start = i
        elif not done and start is not None:
            if i - start >= SHORTEST_FOLD:
                stretches.append((start, i - 1))
            start = None
    return tuple(stretches)
