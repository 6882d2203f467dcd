"""Whether a live number has come to rest, so that it may be taken."""

from __future__ import annotations

import math
from collections.abc import Sequence

from ..base.judgement import OWN_RULE, judged

__all__ = ["STEADY_READINGS", "is_steady"]

STEADY_READINGS = int(
    judged("STEADY_READINGS", 4.0, "readings", "of a live meter that must lie together before the number is held", OWN_RULE)
)
STEADY_SHARE = judged("STEADY_SHARE", 0.004, "share", "of the number within which they must lie", OWN_RULE)
STEADY_LEAST = {"V": 0.003, "Ω": 0.05, "A": 0.005}  # SI: near nothing a share says nothing


def is_steady(values: Sequence[float], unit: str) -> bool:
    """Whether the last few of some numbers lie together; those that are all over range do, too.

    >>> is_steady([12.40, 12.41, 12.40, 12.40], "V")
    True
    >>> is_steady([11.0, 11.9, 12.3, 12.4], "V")
    False
    """
    last = list(values)[-STEADY_READINGS:]
    if len(last) < STEADY_READINGS:
        return False
    if any(math.isinf(value) for value in last):
        return all(math.isinf(value) for value in last)
    middle = sum(last) / len(last)
    return max(last) - min(last) <= max(STEADY_SHARE * abs(middle), STEADY_LEAST.get(unit, 0.0))
