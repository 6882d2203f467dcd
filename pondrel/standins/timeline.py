"""The simulated vehicle over time: what its places do from moment to moment, since something was last changed."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..core.base.errors import PondrelError
from ..core.circuit.measure import Leads, measure
from ..core.circuit.waveform import Followed, followed
from .world import World

__all__ = ["Timeline"]


@dataclass(frozen=True)
class _Stage:
    """From when on (clock), and what happens from there: None where only what stands there at rest is known."""

    since: float
    course: Followed | None


class Timeline:
    """Volts between places of a world at any time up to now. Safe to be used from several threads."""

    def __init__(self, world: World, clock: Callable[[], float] = time.monotonic):
        self.world, self.clock = world, clock
        self._lock = threading.RLock()
        self._key: tuple[object, ...] = ()
        self._before: _Stage | None = None
        self._now: _Stage | None = None
        self._state = world.state

    def volts(self, red: str, black: str, times: NDArray[np.float64]) -> NDArray[np.float64]:
        """Volts of ``red`` over ``black`` (empty: battery minus) at times of the clock."""
        with self._lock:
            stage = self._stage()
            out = self._of(stage, red, black, times)
            earlier = times < stage.since
            if self._before is not None and earlier.any():
                out[earlier] = self._of(self._before, red, black, times[earlier])
            return out

    def _stage(self) -> _Stage:
        world = self.world
        key = world.stands
        if self._now is None or key != self._key:
            since, before = self.clock(), self._state if self._now is not None else ""
            self._before = self._now
            self._now = _Stage(since, self._course(before))
            self._key, self._state = key, world.state
        return self._now

    def _course(self, before: str) -> Followed | None:
        world = self.world
        if world.without:
            return None  # the engine follows whole sheets only
        try:
            return followed(world.sheet, world.state, world.here, before)
        except PondrelError:
            return None

    def _of(self, stage: _Stage, red: str, black: str, times: NDArray[np.float64]) -> NDArray[np.float64]:
        sheet = self.world.sheet
        if stage.course is None:
            return np.full(len(times), self._at_rest(red, black))
        found = stage.course.volts(sheet.probe(red), sheet.probe(black), times - stage.since)
        return np.asarray(found, dtype=np.float64)

    def _at_rest(self, red: str, black: str) -> float:
        world = self.world
        try:
            shown = measure(
                world.sheet, world.state, "volts", world.sheet.probe(red), world.sheet.probe(black), world.here, Leads(0.0, True),
                without=world.without,
            )  # fmt: skip
        except PondrelError:
            return 0.0
        return float(shown.exact)
