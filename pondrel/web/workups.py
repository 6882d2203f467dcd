"""Prepared sheets and judged readings, kept in memory by their content: the core is pure, so a key that fits is an answer that fits."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Hashable, Iterable
from dataclasses import dataclass
from threading import Lock, RLock
from typing import TypeVar

from flask import current_app

from ..core.circuit.layout import Path
from ..core.circuit.sheet import parse_sheet
from ..core.circuit.solve import OperatingPoint, solve
from ..core.isolate.belief import Belief, update
from ..core.isolate.descent import Descent, descent
from ..core.isolate.evidence import Item, item_of
from ..core.isolate.orders import Alternative, alternatives
from ..core.isolate.plan import World
from ..core.isolate.report import Isolation, isolate
from ..core.isolate.responses import Workup
from ..store.readings import StoredReading
from ..store.sheets import StoredSheet
from .figures import Frame, frame_of
from .tree import TreeFigure, tree_figure

__all__ = ["Workups", "workups"]

Made = TypeVar("Made")

KEPT_SHEETS, KEPT_ANSWERS, KEPT_ITEMS = 16, 256, 4096
PLAN_DEPTH = 3


@dataclass(frozen=True)
class Plan:
    """The tree as it is drawn, and the orders of attack side by side."""

    tree: TreeFigure
    orders: tuple[Alternative, ...]


class Workups:
    """A small store of workups and isolations; the least recently used goes first. One sheet is prepared by one thread at a time."""

    def __init__(self) -> None:
        self._lock = Lock()
        self._sheets: OrderedDict[Hashable, tuple[Workup, RLock]] = OrderedDict()
        self._items: OrderedDict[Hashable, Item] = OrderedDict()
        self._answers: OrderedDict[Hashable, Isolation] = OrderedDict()
        self._points: OrderedDict[Hashable, OperatingPoint] = OrderedDict()
        self._descents: OrderedDict[Hashable, Descent] = OrderedDict()
        self._frames: OrderedDict[Hashable, Frame] = OrderedDict()
        self._plans: OrderedDict[Hashable, Plan] = OrderedDict()
        self._beliefs: OrderedDict[Hashable, Belief] = OrderedDict()

    def workup(self, stored: StoredSheet) -> Workup:
        """The sheet, prepared."""
        return self._entry(stored)[0]

    def alone(self, stored: StoredSheet) -> RLock:
        """To be held by whoever asks a sheet's workup or beliefs for more than is kept here: they work out what they lack when asked."""
        return self._entry(stored)[1]

    def items(self, stored: StoredSheet, log: Iterable[StoredReading]) -> tuple[Item, ...]:
        """The readings that are not struck out, as evidence."""
        workup, busy = self._entry(stored)

        def item(r: StoredReading) -> Item:
            columns = (r.state, r.instrument, r.red, r.black, r.typed, r.note)
            return self._recall(self._items, (stored.digest, columns), busy, lambda: item_of(workup.sheet, *columns), KEPT_ITEMS)

        return tuple(item(r) for r in log if r.struck is None)

    def isolation(self, stored: StoredSheet, items: tuple[Item, ...]) -> Isolation:
        """What follows from the evidence."""
        workup, busy = self._entry(stored)
        return self._recall(self._answers, (stored.digest, items), busy, lambda: isolate(workup, items))

    def belief(self, stored: StoredSheet, items: tuple[Item, ...]) -> Belief:
        """The probabilities alone, for a replay."""
        workup, busy = self._entry(stored)
        return self._recall(self._beliefs, (stored.digest, items), busy, lambda: update(workup, items))

    def plan(self, stored: StoredSheet, items: tuple[Item, ...]) -> Plan:
        """The tree of the next few tests, and the orders of attack."""
        found = self.isolation(stored, items)
        _, busy = self._entry(stored)

        def make() -> Plan:
            tree = World.of(found.belief, found.groups).tree(PLAN_DEPTH, found.next[0].test if found.next else None)
            return Plan(tree_figure(tree), alternatives(found.belief, found.groups, found.next))

        return self._recall(self._plans, (stored.digest, items), busy, make)

    def sound(self, stored: StoredSheet, state: str) -> OperatingPoint:
        """The sound circuit in a state."""
        workup, busy = self._entry(stored)
        return self._recall(self._points, (stored.digest, state), busy, lambda: solve(workup.sheet, state))

    def descent(self, stored: StoredSheet, items: tuple[Item, ...], path: Path, state: str) -> Descent:
        """The volts along a path."""
        belief, key = self.belief(stored, items), (stored.digest, items, path.load, state)
        return self._recall(self._descents, key, self.alone(stored), lambda: descent(belief, path, state))

    def frame(self, stored: StoredSheet) -> Frame:
        """What of the sheet's diagram is always the same."""
        workup, busy = self._entry(stored)
        return self._recall(self._frames, stored.digest, busy, lambda: frame_of(workup.sheet))

    def _entry(self, stored: StoredSheet) -> tuple[Workup, RLock]:
        with self._lock:
            if stored.digest not in self._sheets:
                self._sheets[stored.digest] = (Workup(parse_sheet(stored.text)), RLock())
            self._sheets.move_to_end(stored.digest)
            while len(self._sheets) > KEPT_SHEETS:
                self._sheets.popitem(last=False)
            return self._sheets[stored.digest]

    def _recall(
        self, kept: OrderedDict[Hashable, Made], key: Hashable, busy: RLock, make: Callable[[], Made], most: int = KEPT_ANSWERS
    ) -> Made:
        with busy:
            found = kept.get(key)
            if found is None:
                found = make()
            with self._lock:
                kept[key] = found
                kept.move_to_end(key)
                while len(kept) > most:
                    kept.popitem(last=False)
            return found


def workups() -> Workups:
    """The application's store."""
    return current_app.extensions["workups"]
