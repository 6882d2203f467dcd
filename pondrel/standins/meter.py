"""A bench meter over the simulated vehicle: ranges, over-range, accuracy, noise, and a display that settles after the probes were moved."""

from __future__ import annotations

import math
import random
import time
from collections.abc import Callable, Mapping
from dataclasses import dataclass

from .world import World

__all__ = ["FUNCTIONS", "OVER", "Function", "Meter"]

OVER = 9.9e37  # what SCPI says for over range (SCPI 1999, 7.2.1.4)
SETTLES_S = 0.12  # time constant with which a display follows
LATER_S = 60.0
COUNTS = 200_000  # of the display on each range


@dataclass(frozen=True, slots=True)
class Function:
    """A function: its word in SCPI, what it measures of the world, its unit, its ranges (SI), accuracy (share of reading, share of range)
    and noise (a share of the range, a standard deviation)."""

    word: str
    of: str
    unit: str
    ranges: tuple[float, ...]
    of_reading: float
    of_range: float
    noise: float


_ALL = (
    Function("VOLT", "volts", "V", (0.1, 1.0, 10.0, 100.0, 1000.0), 5e-4, 1e-4, 2e-6),
    Function("VOLT:AC", "ac", "V", (0.1, 1.0, 10.0, 100.0, 750.0), 2e-3, 1e-3, 1e-4),
    Function("RES", "ohms", "Ω", (100.0, 1e3, 1e4, 1e5, 1e6, 1e7, 1e8), 1e-3, 1e-4, 5e-6),
    Function("FRES", "ohms", "Ω", (100.0, 1e3, 1e4, 1e5, 1e6, 1e7, 1e8), 5e-4, 5e-5, 5e-6),
    Function("CURR", "amps", "A", (0.01, 0.1, 1.0, 3.0, 10.0), 2e-3, 2e-4, 1e-5),
    Function("CONT", "ohms", "Ω", (1e3,), 1e-3, 2e-4, 5e-6),
)
FUNCTIONS: Mapping[str, Function] = {one.word: one for one in _ALL}
LEAD_OHMS = 0.12  # of the pair, unless they were zeroed; four wires have none


class Meter:
    """The meter's state and what it reads. ``clock`` gives seconds."""

    def __init__(self, world: World, seed: int = 0, clock: Callable[[], float] = time.monotonic):
        self.world, self.clock = world, clock
        self.rng = random.Random(f"meter {seed}")
        self.stands = self.rng.uniform(-0.6, 0.6)  # where within its accuracy this one stands
        self.reset()
        self._shown, self._from, self._at = 0.0, 0.0, clock() - LATER_S
        world.watchers.append(self._unsettled)

    def reset(self) -> None:
        """As it is switched on: volts, ranges by itself, leads not zeroed."""
        self.function = FUNCTIONS["VOLT"]
        self.ranges: dict[str, float | None] = dict.fromkeys(FUNCTIONS)
        self.zero_ohms = 0.0

    def choose(self, word: str, wanted: float | None = None) -> bool:
        """Choose a function, and the range that holds ``wanted`` (None: by itself). False where no range does."""
        function = FUNCTIONS[word]
        end = None
        if wanted is not None:
            end = next((top for top in function.ranges if top >= abs(wanted) * (1 - 1e-9)), None)
            if end is None:
                return False
        if function is not self.function:
            self._unsettled()  # another function settles anew
        self.function = function
        self.ranges[word] = end
        return True

    def range_of(self, value: float) -> float:
        """The range on which a value is read: the chosen one, else the lowest that holds it, else the highest."""
        chosen = self.ranges[self.function.word]
        if chosen is not None:
            return chosen
        return next((end for end in self.function.ranges if end * 1.2 >= abs(value)), self.function.ranges[-1])

    def zero(self) -> None:
        """Take what the leads have, held together, off from now on."""
        self.zero_ohms = LEAD_OHMS

    def read(self) -> float:
        """One reading: `OVER` over range and where nothing can be read."""
        value = self.world.truly(self.function.of)
        if self.function.unit == "Ω" and self.function.word != "FRES":
            value = max(value + LEAD_OHMS - self.zero_ohms, 0.0)
        value = self._settled(value)
        if not math.isfinite(value):
            return OVER
        end = self.range_of(value)
        if abs(value) > 1.2 * end:
            return OVER
        noise = self.rng.gauss(0.0, self.function.noise * end)
        off = value + self.stands * (self.function.of_reading * abs(value) + self.function.of_range * end) + noise
        digit = end / COUNTS
        return round(off / digit) * digit

    def _unsettled(self) -> None:
        self._from, self._at = self._shown if math.isfinite(self._shown) else 0.0, self.clock()

    def _settled(self, value: float) -> float:
        """What the display has come to: after the probes were moved it runs from where it was to what is there."""
        passed = self.clock() - self._at
        if not math.isfinite(value):
            settled = value
        else:
            settled = value + (self._from - value) * math.exp(-passed / SETTLES_S) if passed < 20 * SETTLES_S else value
        self._shown = settled
        return settled
