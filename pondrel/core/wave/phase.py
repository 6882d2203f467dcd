"""Phase between channels: by what part of a period one that pulses as fast as another rises after it."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..base.judgement import OWN_RULE, judged
from ..base.quantity import show
from .measure import Measures

__all__ = ["Beat", "Phase", "beat_of", "phases_of"]

SAME_RATE = judged("WAVE_SAME_RATE", 0.02, "share", "by which the periods of two channels differ at the most that have a phase", OWN_RULE)
HELD = judged("WAVE_PHASE_HELD", 0.9, "share", "that the arrows of all periods, added, keep of their length where a phase holds", OWN_RULE)


@dataclass(frozen=True, slots=True)
class Beat:
    """When a channel that pulses evenly rises: ``rises`` (K,) in seconds from its beginning, its usual ``period`` (s), and one standard
    deviation of an instant (s)."""

    name: str
    rises: NDArray[np.float64]
    period: float
    u: float


@dataclass(frozen=True, slots=True)
class Phase:
    """``other`` rises ``seconds`` after ``reference`` (before it where negative; half a period at the most), with one standard deviation
    ``u`` (s), of a ``period`` (s)."""

    reference: str
    other: str
    seconds: float
    u: float
    period: float

    @property
    def degrees(self) -> float:
        """The same as a part of 360."""
        return 360.0 * self.seconds / self.period

    @property
    def degrees_u(self) -> float:
        """One standard deviation of the degrees."""
        return 360.0 * self.u / self.period

    @property
    def sentence(self) -> str:
        """In words."""
        give = f"{self.degrees:.3g} degrees, give or take {2.0 * self.degrees_u:.2g}"
        if abs(self.seconds) <= 2.0 * self.u:
            return f"{self.other} and {self.reference} rise together: {give}."
        way = "after" if self.seconds > 0.0 else "before"
        return f"{self.other} rises {show(abs(self.seconds), 's')} {way} {self.reference}: {give}."


def beat_of(own: Measures) -> Beat | None:
    """What a phase is made of; None for a channel that does not pulse evenly."""
    if own.train is None or len(own.edges.rises) < 3:
        return None
    return Beat(own.channel.name, own.edges.rises * own.step, own.train.period * own.step, own.step / math.sqrt(12.0))


def phases_of(beats: Sequence[Beat | None]) -> tuple[Phase, ...]:
    """Each channel that pulses as fast as the first that pulses at all, against that one."""
    pulsing = [beat for beat in beats if beat is not None]
    found = [_phase(pulsing[0], other) for other in pulsing[1:]]
    return tuple(phase for phase in found if phase is not None)


def _phase(reference: Beat, other: Beat) -> Phase | None:
    period = reference.period
    if abs(other.period - period) > SAME_RATE * period:
        return None
    before = np.searchsorted(reference.rises, other.rises, side="right") - 1
    within = (before >= 0) & (before < len(reference.rises) - 1)
    starts, ends = reference.rises[before[within]], reference.rises[before[within] + 1]
    whole = np.abs(ends - starts - period) < 0.25 * period  # not across a pulse that is missing
    if whole.sum() < 2:
        return None
    # Shares of a period go round: they are averaged as arrows, so that just before and just after a rise do not make half a period.
    arrows = np.exp(2j * np.pi * (other.rises[within] - starts)[whole] / (ends - starts)[whole])
    mean = complex(arrows.mean())
    if abs(mean) < HELD:
        return None
    scatter = math.sqrt(max(-2.0 * math.log(min(abs(mean), 1.0)), 0.0)) / (2.0 * math.pi)
    # Where samples go in step with the pulses, each edge lies at the same part of a sample: that does not average out, scatter does.
    u = math.hypot(scatter * period / math.sqrt(len(arrows)), reference.u, other.u)
    return Phase(reference.name, other.name, float(np.angle(mean)) / (2.0 * math.pi) * period, u, period)
