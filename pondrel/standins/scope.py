"""A stand-in oscilloscope over the simulated vehicle: two channels, each between two places, looked back on from now; twelve bits and
noise."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..core.base.errors import ReadingError
from .timeline import Timeline
from .world import World

__all__ = ["CHANNELS", "Scope"]

CHANNELS = ("CH1", "CH2")
MOST_POINTS, LONGEST_S = 200_000, 60.0
RANGES = (0.1, 0.2, 0.5, 1.0, 2.0, 5.0, 10.0, 20.0, 50.0, 100.0, 200.0)  # V from nought to full scale
BITS = 12
NOISE = 4e-4  # of full scale, one standard deviation


class Scope:
    """The scope's state and what it has acquired."""

    def __init__(self, world: World, timeline: Timeline | None = None, seed: int = 0):
        self.world = world
        self.timeline = timeline or Timeline(world)
        self.rng = np.random.default_rng(seed)
        self.zero = self.timeline.clock()
        self.reset()

    def reset(self) -> None:
        """As it is switched on: a tenth of a second, no lead on anything."""
        self.seconds, self.points = 0.1, 2000
        self.leads: dict[str, tuple[str, str]] = dict.fromkeys(CHANNELS, ("", ""))
        self.started = 0.0
        self.acquired: dict[str, NDArray[np.float64]] = {}

    def put(self, channel: str, red: str, black: str = "") -> None:
        """Put a channel's leads on two places; an empty black one is battery minus, an empty red one takes both off. Raises
        ReadingError."""
        name = channel.upper()
        if name not in CHANNELS:
            raise ReadingError(f"There is no channel {channel[:20]}: there are {' and '.join(CHANNELS)}.")
        sheet = self.world.sheet
        self.leads[name] = (sheet.probe(red), sheet.probe(black) if black else "") if red else ("", "")

    def sweep(self, seconds: float | None = None, points: float | None = None) -> None:
        """How long an acquisition looks back, and in how many points. Raises ReadingError."""
        seconds = self.seconds if seconds is None else seconds
        count = self.points if points is None else round(points)
        if not 1e-6 <= seconds <= LONGEST_S or not 16 <= count <= MOST_POINTS:
            raise ReadingError(f"A sweep lasts a microsecond to {LONGEST_S:g} s in 16 to {MOST_POINTS} points.")
        self.seconds, self.points = seconds, count

    def acquire(self) -> None:
        """Look back from now on both channels."""
        now = self.timeline.clock()
        times = np.asarray(now - self.seconds + np.arange(self.points) * (self.seconds / self.points), dtype=np.float64)
        self.started = float(times[0]) - self.zero
        self.acquired = {name: self._seen(*leads, times) for name, leads in self.leads.items()}

    def _seen(self, red: str, black: str, times: NDArray[np.float64]) -> NDArray[np.float64]:
        true = self.timeline.volts(red, black, times) if red else np.zeros(len(times))
        most = float(np.abs(true).max(initial=0.0))
        end = next((own for own in RANGES if own >= 1.05 * most), RANGES[-1])
        noisy = true + self.rng.normal(0.0, NOISE * end, len(true))
        digit = 2.0 * end / (1 << BITS)
        return np.asarray(np.clip(np.round(noisy / digit) * digit, -end, end))
