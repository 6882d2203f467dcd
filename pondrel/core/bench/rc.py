"""A capacitor and a resistor: how long until a threshold, and what they are by a curve that was read.

t = −τ·ln(1 − Uth/U) with τ = R·C while it charges from nothing; the closed form of every textbook.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from ..base.errors import ReadingError

__all__ = ["delay_to", "fitted_tau", "tau_for"]


def delay_to(tau: float, share: float) -> float:
    """Seconds from nothing to ``share`` (0 to 1) of the volts that it charges to.

    >>> round(delay_to(1.0, 0.632), 2)
    1.0
    """
    return -tau * math.log1p(-share)


def tau_for(seconds: float, share: float) -> float:
    """The time constant with which it takes ``seconds`` to ``share``."""
    return seconds / -math.log1p(-share)


def fitted_tau(seconds: Sequence[float], volts: Sequence[float], end_volts: float) -> tuple[float, float]:
    """τ (s) and its relative standard deviation by a charging curve that ends at ``end_volts``: the slope of ln(1 − u/U) by least squares.
    Raises ReadingError where it does not rise towards its end."""
    t, u = np.asarray(seconds), np.asarray(volts)
    kept = (u >= 0.0) & (u < 0.98 * end_volts)
    if kept.sum() < 3:
        raise ReadingError("At least three points between nothing and the end of the curve are wanted, the seconds with their volts.")
    x, y = t[kept], np.log(1.0 - u[kept] / end_volts)
    if np.ptp(x) == 0.0:
        raise ReadingError("All points have the same time: seconds that grow are wanted.")
    slope, start = np.polyfit(x, y, 1)
    if slope >= 0.0:
        raise ReadingError("The volts do not rise towards the supply: a charging curve is wanted.")
    off = y - (slope * x + start)
    spread = math.sqrt(float(off @ off) / max(len(x) - 2, 1) / float(((x - x.mean()) ** 2).sum()))
    return float(-1.0 / slope), abs(spread / float(slope))
