"""Cold ohms of whole fuses by type and rating: what makes millivolts across one into amperes through it.

Common practice, no source: typical figures of makers' sheets, from memory, give or take a fifth. A workshop that has measured its own goes
by them. Types after ISO 8820-3: normal blades are its C, small ones its F, high-current blades its E.
"""

from __future__ import annotations

import math
import re
from bisect import bisect_left
from collections.abc import Mapping

from .brief import near, quoted
from .errors import ReadingError
from .judgement import judged
from .quantity import parse_reading

__all__ = ["BY_MILLIVOLTS", "FUSE_TYPES", "cold_ohms", "fuse_called"]

BY_MILLIVOLTS = judged("BY_MILLIVOLTS", 0.2, "share", "how far the current by a fuse's millivolts may be off")
_RATING = re.compile(r"\d+(?:[.,]\d+)?\s*(?:a(?![a-z]))?")
# By type: amperes of its rating, milliohms.
FUSE_TYPES: Mapping[str, tuple[tuple[float, float], ...]] = {
    "blade": (
        (1, 123),
        (2, 52),
        (3, 31),
        (4, 23),
        (5, 17.9),
        (7.5, 10.9),
        (10, 7.7),
        (15, 4.8),
        (20, 3.4),
        (25, 2.5),
        (30, 1.97),
        (40, 1.44),
    ),
    "mini": ((2, 52), (3, 31), (4, 23), (5, 17.5), (7.5, 10.6), (10, 7.4), (15, 4.6), (20, 3.2), (25, 2.4), (30, 1.85)),
    "high-current": ((20, 3.2), (25, 2.4), (30, 1.9), (40, 1.35), (50, 1.0), (60, 0.75), (70, 0.62), (80, 0.52)),
    "strip": ((30, 2.0), (40, 1.4), (50, 1.1), (60, 0.9), (80, 0.65), (100, 0.5)),
    "bolted": ((60, 0.9), (80, 0.65), (100, 0.5), (125, 0.4), (150, 0.33), (200, 0.25), (300, 0.16), (500, 0.09)),
}


def cold_ohms(kind: str, rating: float) -> float:
    """Ω of a whole fuse, interpolated on logarithmic scales between two ratings of its type. Raises ReadingError with one sentence."""
    if kind not in FUSE_TYPES:
        raise ReadingError(f"{quoted(kind)} is no type of fuse{near(kind, FUSE_TYPES)}.")
    table = FUSE_TYPES[kind]
    ratings = [amps for amps, _ in table]
    if not ratings[0] <= rating <= ratings[-1]:
        raise ReadingError(f"There is no {kind} fuse of {rating:g} A in the table: {ratings[0]:g} to {ratings[-1]:g} A are.")
    at = bisect_left(ratings, rating)
    if ratings[at] == rating:
        return table[at][1] / 1e3
    (low, before), (high, after) = table[at - 1], table[at]
    way = math.log(rating / low) / math.log(high / low)
    return float(before * (after / before) ** way) / 1e3


def fuse_called(text: str) -> tuple[str, float]:
    """Type and rating of ``mini:10``, ``mini 10 A`` or ``10A mini``. Raises ReadingError with one sentence.

    >>> fuse_called("mini:10")
    ('mini', 10.0)
    >>> fuse_called("7.5 A blade")
    ('blade', 7.5)
    """
    own = text.strip().lower()
    rating = _RATING.search(own)
    kind = (own[: rating.start()] + own[rating.end() :]).strip(" :") if rating else ""
    if rating is None or not kind:
        raise ReadingError(f"{quoted(text)} is no fuse: its type and its rating are wanted, as in mini:10.")
    amps = parse_reading(rating[0], "A").value
    cold_ohms(kind, amps)
    return kind, amps
