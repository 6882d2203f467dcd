"""How long a blade fuse carries too much, and how hot a bad joint runs.

Time–current limits after ISO 8820-3, from memory of the published table: at 110 % at least 100 h, 135 % 0.75 to 600 s, 200 % 0.15 to
5 s, 350 % 0.04 to 0.5 s, 600 % 0.02 to 0.1 s.
"""

from __future__ import annotations

import math
from bisect import bisect_right

from .judgement import judged

__all__ = ["FIRE_WATTS", "melting_seconds", "melting_words"]

# share of rating: least and most seconds
_BANDS = ((1.35, 0.75, 600.0), (2.0, 0.15, 5.0), (3.5, 0.04, 0.5), (6.0, 0.02, 0.1))
FIRE_WATTS = judged("FIRE_WATTS", 5.0, "W", "heat in one plug pin or terminal that scorches its plastic")


def melting_seconds(rating: float, amps: float) -> tuple[float, float]:
    """Least and most seconds that a blade fuse of ``rating`` lasts at ``amps``; infinite up to 110 %, where it holds at least 100 h.

    Between the table's points it is interpolated on logarithmic scales; beyond 600 % the product i²·t of the last point stays.
    """
    share = abs(amps) / rating
    if share <= 1.10:
        return math.inf, math.inf
    if share < _BANDS[0][0]:  # between "for ever" and the first band nobody promises anything
        return _BANDS[0][1], math.inf
    if share >= _BANDS[-1][0]:
        factor = (_BANDS[-1][0] / share) ** 2
        return _BANDS[-1][1] * factor, _BANDS[-1][2] * factor
    at = bisect_right([band[0] for band in _BANDS], share)
    (low, low_least, low_most), (high, high_least, high_most) = _BANDS[at - 1], _BANDS[at]
    way = math.log(share / low) / math.log(high / low)
    return low_least * (high_least / low_least) ** way, low_most * (high_most / low_most) ** way


def melting_words(rating: float, amps: float) -> str:
    """``0.15 to 5 s`` for a fuse that melts at ``amps``."""
    least, most = melting_seconds(rating, amps)
    return f"{least:.2g} s to hours" if math.isinf(most) else f"{least:.2g} to {most:.2g} s"
