"""What a place of a sheet draws on a scope in a state: the sheet followed in time until it has settled or pulses evenly, and then as long
as one looks. Beyond what was followed the last whole pulses are gone through again; what has settled stays as it is."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..base.arrays import Floats
from .fault import Fault
from .network import Network
from .sheet import Sheet
from .transient import Trace, transient

__all__ = ["Followed", "followed"]

SETTLES_S = 1.0  # what is followed where nothing pulses
CYCLES, LONGEST_S = 30.0, 60.0
WARM_TIMES = (2.0, 12.0)  # of a strip's own time: where it has pulsed evenly by the first, it is followed no longer
ENOUGH = 6  # contacts that moved in what has become even
FINEST = 2e-5  # of what is followed: no step is finer
SWITCHED_S = 1e-3  # after its beginning the state before is left, so that what it begins with is at rest
SETTLED_SHARE = 0.4  # of what was followed, after which its pulses are even
LEAST_MOVE = 0.05  # volts


@dataclass(frozen=True, eq=False)
class Followed:
    """A sheet in time from when a state was entered."""

    trace: Trace

    def volts(self, red: str, black: str, times: NDArray[np.float64]) -> Floats:
        """Volts of the node at ``red`` over that at ``black`` at times (s) since the state was entered."""
        series = np.asarray(self.trace.volts[red] - self.trace.volts[black], dtype=np.float64)
        own = np.maximum(times, 0.0)
        rises = self.rises(red, black)
        if len(rises) > 2:
            own = np.where(own > rises[-1], rises[0] + (own - rises[0]) % (rises[-1] - rises[0]), own)
        return np.asarray(np.interp(own, self.trace.times, series))

    def rises(self, red: str, black: str) -> Floats:
        """Times (s) at which it comes up through its middle, of what has become even; none where it hardly moves."""
        series = np.asarray(self.trace.volts[red] - self.trace.volts[black], dtype=np.float64)
        low, high = float(series.min()), float(series.max())
        if high - low < LEAST_MOVE:
            return np.zeros(0)
        above = series > 0.5 * (low + high)
        places = np.flatnonzero(above[1:] & ~above[:-1]) + 1
        found = np.asarray(self.trace.times, dtype=np.float64)[places]
        return np.asarray(found[found > SETTLED_SHARE * float(self.trace.times[-1])])


def followed(sheet: Sheet, state: str, faults: tuple[Fault, ...] = (), before: str = "") -> Followed:
    """Follow a sheet from when ``state`` is entered, out of the state ``before`` (empty: it was in it already). Raises SheetError where a
    generator turns, ReadingError for a state that is none."""
    network = Network.of(sheet, state)
    hertz = [
        element.contact.hertz
        for element, key in zip(network.elements, network.keys, strict=True)
        if element.contact is not None and element.contact.hertz > 0.0 and sheet.position(state, key[0]) == "pulsed"
    ]
    warm = [control.data.seconds for control in network.controls if control.data.seconds > 0.0]
    steps = ((0.0, before), (SWITCHED_S, state)) if before and before != state else ((0.0, state),)
    if hertz or not warm:
        span = CYCLES / min(hertz) if hertz else SETTLES_S
        return Followed(transient(sheet, steps, span, faults, finest=FINEST * span))
    for times in WARM_TIMES:
        span = min(times * max(warm), LONGEST_S)
        trace = transient(sheet, steps, span, faults, finest=FINEST * span)
        if sum(time > SETTLED_SHARE * span for time, _ in trace.events) >= ENOUGH:
            break
    return Followed(trace)
