"""A vehicle that goes flat while it stands: what it draws awake and asleep, what its battery holds, whether driving fills it."""

from __future__ import annotations

import random
from dataclasses import dataclass

from .person import NOTHING, read, slips

__all__ = ["STAND_FAULTS", "Standing"]

STAND_FAULTS = ("draws", "battery_weak", "not_charged", NOTHING)
_READ_AT = (10.0, 35.0, 70.0, 90.0)  # minutes since locking at which the person reads the draw


@dataclass
class Standing:
    """A vehicle with one reason to go flat, or none."""

    fault: str
    rng: random.Random
    readings: int = 0

    def __post_init__(self) -> None:
        rng = self.rng
        self.asleep = rng.uniform(0.008, 0.042)
        self.sleeps_after = rng.uniform(3.0, 50.0)  # minutes
        self.awake = rng.uniform(0.5, 5.0)
        if self.fault == "draws":
            self.asleep += rng.choice((rng.uniform(0.06, 0.3), rng.uniform(0.3, 3.0)))
        self.something_open = self.fault == NOTHING and rng.random() < 0.4
        self.hours = rng.uniform(20.0, 80.0)
        self.held = rng.uniform(0.15, 0.4) if self.fault == "battery_weak" else rng.uniform(0.8, 1.0)  # of its rating
        filled = rng.uniform(0.3, 0.6) if self.fault == "not_charged" else rng.uniform(0.85, 1.0)
        standing = self.asleep * self.hours / (70.0 * self.held)
        lost = standing + (rng.uniform(0.2, 0.5) if self.fault == "battery_weak" else rng.uniform(0.0, 0.15))
        self.charge = min(max(filled - lost, 0.03), 1.0)
        self.inner = 5e-3 * (rng.uniform(2.5, 6.0) if self.fault == "battery_weak" else rng.uniform(0.9, 1.6))

    @property
    def complained(self) -> bool:
        """Whether its driver would complain."""
        return True

    def answer(self, step: str) -> str:
        """What the person finds."""
        rng = self.rng
        if step == "open":
            return "something open" if self.something_open or slips(rng) else "all shut, key away"
        if step == "rest":
            return read(rng, 11.85 + 0.8 * self.charge)
        if step == "tester":  # it was charged before
            if self.fault == "battery_weak":
                return "replace" if rng.random() < 0.8 else "good, recharge"
            return "good" if rng.random() < 0.9 else "good, recharge"
        if step == "load":  # charged, half its cold-cranking amperes
            return f"{12.65 - 0.5 - 290.0 * self.inner:.2f} @20C"
        if step == "overnight":
            left = self.rng.uniform(0.1, 0.75) if self.fault == "battery_weak" else self.rng.uniform(0.9, 1.0)
            return read(rng, 11.85 + 0.8 * left)
        if step == "raised":
            return read(rng, rng.uniform(12.2, 13.1) if self.fault == "not_charged" else rng.uniform(13.8, 14.6))
        if step == "draw":
            minutes = _READ_AT[min(self.readings, len(_READ_AT) - 1)]
            self.readings += 1
            amps = self.asleep if minutes > self.sleeps_after else self.awake
            return f"{amps * rng.gauss(1.0, 0.02):.3f} @{minutes:.0f}min"
        raise KeyError(step)

    def deed(self, name: str) -> None:
        """Charge it."""
        self.charge = self.rng.uniform(0.9, 1.0)

    @property
    def right(self) -> frozenset[str]:
        """What may be named."""
        return frozenset({{NOTHING: "none"}.get(self.fault, self.fault)})
