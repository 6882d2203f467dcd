"""Orders in which numbers count as equal that differ by less than any reckoning is sure of: the last bit of a number is another on every
machine, and must not decide what comes first."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from .arrays import Floats

__all__ = ["first_of_most", "in_order", "ranks"]

Name = TypeVar("Name")

_ALIKE = 1e-6  # share of a number by which others may lie below it and count as equal


def ranks(numbers: Sequence[float] | Floats, alike: float = _ALIKE) -> NDArray[np.intp]:
    """(n,) the place of each number in descending order, 0 for the largest and for those that equal it. What lies below the first of a
    place by no more than ``alike``, a share of that, has the same one."""
    values = np.asarray(numbers, dtype=float)
    found = np.zeros(len(values), dtype=np.intp)
    place, first = -1, np.inf
    for i in np.argsort(-values, kind="stable").tolist():
        if place < 0 or values[i] < first - alike * abs(first):
            place, first = place + 1, values[i]
        found[i] = place
    return found


def in_order(numbers: Mapping[Name, float]) -> dict[Name, float]:
    """The same in descending order, what is equal in the order in which it is given."""
    names, place = list(numbers), ranks(list(numbers.values()))
    return {names[i]: numbers[names[i]] for i in np.argsort(place, kind="stable")}


def first_of_most(numbers: Sequence[float] | Floats) -> int:
    """The first of the numbers that equal the largest."""
    values = np.asarray(numbers, dtype=float)
    most = values.max()
    return int(np.flatnonzero(values >= most - _ALIKE * abs(most))[0])
