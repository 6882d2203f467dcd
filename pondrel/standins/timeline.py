"""The simulated vehicle over time: what its places do from moment to moment, by the transient engine, since something was last changed.

What pulses goes on pulsing: beyond what was computed its last whole pulses are gone through again. What has settled stays as it is.
"""

from __future__ import annotations

import threading
import time
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..core.base.errors import PondrelError
from ..core.circuit.measure import Leads, measure
from ..core.circuit.network import Network
from ..core.circuit.transient import Trace, transient
from .world import World

__all__ = ["Timeline"]

SETTLES_S = 1.0  # what is followed where nothing pulses
CYCLES, WARM_TIMES, LONGEST_S = 30.0, 12.0, 60.0
FINEST = 2e-5  # of what is followed: no step is finer
SWITCHED_S = 1e-3  # after its beginning a stage is switched, so that what it begins with is at rest
GROUND = "batt-"


@dataclass(frozen=True)
class _Stage:
    """From when on (clock), and what happens from there: None where only what stands there at rest is known."""

    since: float
    trace: Trace | None
    span: float


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
        key = (world.state, world.without, world.faults)
        if self._now is None or key != self._key:
            since = self.clock()
            self._before = self._now
            trace, span = self._followed()
            self._now = _Stage(since, trace, span)
            self._key, self._state = key, world.state
        return self._now

    def _followed(self) -> tuple[Trace | None, float]:
        world = self.world
        if world.without:
            return None, 0.0  # the engine follows whole sheets only
        network = Network.of(world.sheet, world.state)
        hertz = [
            element.contact.hertz
            for element, key in zip(network.elements, network.keys, strict=True)
            if element.contact is not None and element.contact.hertz > 0.0 and world.sheet.position(world.state, key[0]) == "pulsed"
        ]
        warm = [control.data.seconds for control in network.controls if control.data.seconds > 0.0]
        span = CYCLES / min(hertz) if hertz else min(WARM_TIMES * max(warm), LONGEST_S) if warm else SETTLES_S
        first = self._state if self._now is not None else world.state
        steps = ((0.0, first), (SWITCHED_S, world.state)) if first != world.state else ((0.0, world.state),)
        try:
            return transient(world.sheet, steps, span, world.faults, finest=FINEST * span), span
        except PondrelError:
            return None, 0.0

    def _of(self, stage: _Stage, red: str, black: str, times: NDArray[np.float64]) -> NDArray[np.float64]:
        if stage.trace is None:
            return np.full(len(times), self._at_rest(red, black))
        trace = stage.trace
        series = np.asarray(trace.volts[red] - trace.volts[black] if black else trace.volts[red], dtype=np.float64)
        own = np.maximum(times - stage.since, 0.0)
        end = float(trace.times[-1])
        rises = _rises(np.asarray(trace.times, dtype=np.float64), series, 0.4 * end)
        if len(rises) > 2:
            length = rises[-1] - rises[0]
            own = np.where(own > rises[-1], rises[0] + (own - rises[0]) % length, own)
        return np.interp(own, trace.times, series)

    def _at_rest(self, red: str, black: str) -> float:
        world = self.world
        try:
            shown = measure(
                world.sheet, world.state, "volts", world.sheet.probe(red), world.sheet.probe(black), world.faults, Leads(0.0, True),
                without=world.without,
            )  # fmt: skip
        except PondrelError:
            return 0.0
        return float(shown.exact)


def _rises(times: NDArray[np.float64], series: NDArray[np.float64], after: float) -> NDArray[np.float64]:
    """Times behind ``after`` at which a series comes up through its middle; none where it hardly moves."""
    low, high = float(series.min()), float(series.max())
    if high - low < 0.05:
        return np.zeros(0)
    above = series > 0.5 * (low + high)
    places = np.flatnonzero(above[1:] & ~above[:-1]) + 1
    return np.asarray(times[places][times[places] > after])
