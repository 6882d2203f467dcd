"""What has been worked out of one sheet. It belongs to whoever holds it: it can be thrown away at any time and made again."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from typing import Any, Protocol, TypeVar

import numpy as np
from cachetools import LRUCache
from numpy.typing import NDArray

from ...base.arrays import Floats
from ...evidence.asked import Measurement, Question, Setup
from .table import Prediction, Table

__all__ = ["Memo"]

Made = TypeVar("Made")

KEPT_OWN = 200  # tests that are not on offer
KEPT_BETWEEN = 24  # set-ups with a meter in the circuit
KEPT_UNPLUGGED = 8  # set-ups with something unplugged
KEPT_BELIEFS, KEPT_BELIEF_BYTES = 40, 120_000_000
KEPT_SPREADS, LEAST_SPREADS = 24_000_000, 72  # numbers; tests


class Kept(Protocol):
    """A belief as the memo keeps it: by its items, weighed by its bytes."""

    @property
    def items(self) -> tuple[Any, ...]: ...

    @property
    def own_bytes(self) -> int: ...


class Memo:
    """Caches of one workup. What is asked for all the time stays; of what a person puts together the last few are kept."""

    def __init__(self) -> None:
        self.tables: dict[Setup, Table] = {}
        self.between: LRUCache[Setup, Table] = LRUCache(KEPT_BETWEEN)
        self.unplugged: LRUCache[Setup, Table] = LRUCache(KEPT_UNPLUGGED)
        self.reduced: dict[tuple[Setup, bool], Table] = {}
        self.offered: dict[Measurement, Prediction] = {}
        self.own: LRUCache[Measurement, Prediction] = LRUCache(KEPT_OWN)
        self.exact: LRUCache[Measurement, tuple[Prediction, ...]] = LRUCache(KEPT_OWN)  # of ohms, all that a meter may make of them
        self.chances: dict[Question, Floats] = {}  # (M, outcomes)
        # The least that a belief counts for keeps them few, the most lets one that is too large in all the same.
        self.beliefs: LRUCache[tuple[object, ...], Any] = LRUCache(KEPT_BELIEF_BYTES, getsizeof=_weight)
        self._spreads: LRUCache[tuple[Measurement, Setup], tuple[NDArray[np.bool_], Floats]] | None = None
        self._once: dict[Hashable, Any] = {}

    def beside(self) -> Memo:
        """One that shares what the circuit does, and keeps beliefs of its own. Both are to be used by one thread at a time."""
        other = Memo()
        for name, kept in vars(self).items():
            if name != "beliefs":
                setattr(other, name, kept)
        return other

    def once(self, what: Hashable, make: Callable[[], Made]) -> Made:
        """What ``make`` gives, made when it is first asked for."""
        if what not in self._once:
            self._once[what] = make()
        found: Made = self._once[what]
        return found

    def tables_for(self, setup: Setup) -> dict[Setup, Table] | LRUCache[Setup, Table]:
        """Where a set-up's table is kept: every pair of places has one of its own where the meter stands in the circuit."""
        return self.unplugged if setup.without else self.between if setup.between else self.tables

    def spread(self, test: Measurement, setup: Setup, rows: int, tolerances: int) -> tuple[NDArray[np.bool_], Floats]:
        """Which rows of a test's spread are worked out (M,), and those (M, K), to be filled in."""
        if self._spreads is None:
            most = max(KEPT_SPREADS, LEAST_SPREADS * rows * tolerances)
            self._spreads = LRUCache(most, getsizeof=lambda kept: kept[1].size)
        key = (test, setup)
        if key not in self._spreads:
            self._spreads[key] = (np.zeros(rows, dtype=bool), np.zeros((rows, tolerances)))
        return self._spreads[key]

    def keep(self, belief: Kept) -> None:
        """Keep a belief for the next item to build on; the one it was built on has grown since it was kept, and is weighed anew."""
        before = self.beliefs.get(belief.items[:-1]) if belief.items else None
        if before is not None:
            self.beliefs[before.items] = before
        self.beliefs[belief.items] = belief


def _weight(belief: Kept) -> float:
    return min(max(belief.own_bytes, KEPT_BELIEF_BYTES // KEPT_BELIEFS), KEPT_BELIEF_BYTES)
