"""What all the vehicles share: the person, who reads within 0.5 % and two digits and slips now and then, and how a battery fills."""

from __future__ import annotations

import math
import random

__all__ = ["NOTHING", "SLIP", "SURFACE", "charging_emf", "lognormal", "read", "slips"]

NOTHING = "nothing"  # the fault of a vehicle that has none
SLIP = 0.03  # of the answers are wrong in some way
SURFACE = 0.15  # volts that stay on a battery's plates for a while after it was charged
_SHARE, _DIGITS = 0.005, 0.02


def lognormal(rng: random.Random, middle: float, spread: float) -> float:
    """A number around ``middle``, spread by factors."""
    return middle * math.exp(rng.gauss(0.0, spread))


def slips(rng: random.Random) -> bool:
    """Whether this answer is wrong."""
    return rng.random() < SLIP


def read(rng: random.Random, volts: float) -> str:
    """What the meter shows, as it is typed; the leads are put so that it is positive."""
    return f"{max(volts * rng.uniform(1.0 - _SHARE, 1.0 + _SHARE) + rng.uniform(-_DIGITS, _DIGITS), 0.0):.2f}"


def charging_emf(rested: float, regulated: float, minutes: float, slow: float) -> float:
    """What a battery sets against the current while it is charged: from its rested volts it goes up to near what the regulator holds,
    within ``slow`` minutes."""
    return rested + max(regulated - 0.25 - rested, 0.0) * min(minutes / slow, 1.0)
