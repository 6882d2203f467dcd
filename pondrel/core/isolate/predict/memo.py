"""What has been worked out of one sheet. It belongs to whoever holds it: it can be thrown away at any time and made again."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from typing import Any, Protocol, TypeVar

from cachetools import LRUCache

from ...base.arrays import Floats, bytes_of
from ...evidence.asked import Question, Setup
from .table import Table

__all__ = ["Memo"]

Made = TypeVar("Made")

KEPT_BETWEEN = 24  # set-ups with a meter in the circuit
KEPT_UNPLUGGED = 8  # set-ups with something unplugged
KEPT_BELIEFS, KEPT_BELIEF_BYTES = 40, 120_000_000
KEPT_COLUMN_BYTES = 60_000_000  # of what readings would be under every fault
KEPT_JOINED = 2
KEPT_SCATTER_BYTES = 20_000_000  # of how far each reading scatters by itself under every fault
KEPT_EVERYWHERE_BYTES = 30_000_000  # of what a suspect can make the tests show at any severity


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
        # What readings would be under every fault, shared by all beliefs; of ohms all that a meter may make of them.
        self.columns: LRUCache[Hashable, Any] = LRUCache(KEPT_COLUMN_BYTES, getsizeof=bytes_of)
        self.joined: LRUCache[tuple[int, ...], tuple[Any, Any]] = LRUCache(KEPT_JOINED)  # of the last readings all columns side by side
        self.scatter: LRUCache[Hashable, Floats] = LRUCache(KEPT_SCATTER_BYTES, getsizeof=bytes_of)
        self.everywhere: LRUCache[Hashable, Floats] = LRUCache(KEPT_EVERYWHERE_BYTES, getsizeof=bytes_of)
        self.chances: dict[Question, Floats] = {}  # (M, outcomes)
        self.chances_of_rows: dict[Question, dict[int, Floats]] = {}  # the same by row, where not all rows were asked for
        # The least that a belief counts for keeps them few, the most lets one that is too large in all the same.
        self.beliefs: LRUCache[tuple[object, ...], Any] = LRUCache(KEPT_BELIEF_BYTES, getsizeof=_weight)
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

    def kept(self, cache: LRUCache[Hashable, Any], what: Hashable, make: Callable[[], Made]) -> Made:
        """What ``make`` gives, kept in a cache as long as there is room: what alone is larger than that is made anew each time."""
        if what in cache:
            found: Made = cache[what]
            return found
        made = make()
        if cache.getsizeof(made) <= cache.maxsize:
            cache[what] = made
        return made

    def keep(self, belief: Kept) -> None:
        """Keep a belief for the next item to build on; the one it was built on has grown since it was kept, and is weighed anew."""
        before = self.beliefs.get(belief.items[:-1]) if belief.items else None
        if before is not None:
            self.beliefs[before.items] = before
        self.beliefs[belief.items] = belief


def _weight(belief: Kept) -> float:
    return min(max(belief.own_bytes, KEPT_BELIEF_BYTES // KEPT_BELIEFS), KEPT_BELIEF_BYTES)
