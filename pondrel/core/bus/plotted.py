"""A signal as it is drawn: what a bus says holds until it says something else, so that a column of pixels has the least and the most of
what held in it."""

from __future__ import annotations

import numpy as np

from ..base.arrays import Floats

__all__ = ["held_between"]


def held_between(times: Floats, values: Floats, begin: float, end: float, columns: int) -> tuple[Floats, Floats]:
    """Least and most of a signal in equal columns of time from ``begin`` to ``end`` (s), each of shape (columns,), NaN before its first
    frame; ``times`` (s, ascending) and ``values`` of shape (n,)."""
    edges = np.linspace(begin, end, columns + 1)
    first = np.searchsorted(times, edges[:-1], side="right") - 1  # what holds when the column begins
    last = np.searchsorted(times, edges[1:], side="left")
    least, most = np.full(columns, np.nan), np.full(columns, np.nan)
    known = last > np.maximum(first, 0)
    from_, to = np.maximum(first, 0)[known], last[known]
    if len(from_):
        pairs = np.column_stack([from_, to]).reshape(-1)
        padded = np.append(values, values[-1])  # a stretch may end behind the last value
        least[known] = np.minimum.reduceat(padded, pairs)[::2]
        most[known] = np.maximum.reduceat(padded, pairs)[::2]
    return least, most
