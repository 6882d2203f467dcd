"""Prepared sheets and judged readings, kept in memory by their content: the core is pure, so a key that fits is an answer that fits."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Hashable
from threading import Lock
from typing import TypeVar

from flask import current_app

from ..core.circuit.sheet import parse_sheet
from ..core.isolate.belief import Belief, update
from ..core.isolate.evidence import Reading
from ..core.isolate.report import Isolation, isolate
from ..core.isolate.responses import Workup
from ..store.sheets import StoredSheet

__all__ = ["Workups", "workups"]

Made = TypeVar("Made")

KEPT_SHEETS, KEPT_ANSWERS = 16, 256


class Workups:
    """A small store of workups and isolations; the least recently used goes first. One sheet is prepared by one thread at a time."""

    def __init__(self) -> None:
        self._lock = Lock()
        self._sheets: OrderedDict[Hashable, tuple[Workup, Lock]] = OrderedDict()
        self._answers: OrderedDict[Hashable, Isolation] = OrderedDict()
        self._beliefs: OrderedDict[Hashable, Belief] = OrderedDict()

    def workup(self, stored: StoredSheet) -> Workup:
        """The sheet, prepared."""
        return self._entry(stored)[0]

    def isolation(self, stored: StoredSheet, readings: tuple[Reading, ...]) -> Isolation:
        """What follows from the readings."""
        workup, busy = self._entry(stored)
        return self._recall(self._answers, (stored.digest, readings), busy, lambda: isolate(workup, readings))

    def belief(self, stored: StoredSheet, readings: tuple[Reading, ...]) -> Belief:
        """The probabilities alone, for a replay."""
        workup, busy = self._entry(stored)
        return self._recall(self._beliefs, (stored.digest, readings), busy, lambda: update(workup, readings))

    def _entry(self, stored: StoredSheet) -> tuple[Workup, Lock]:
        with self._lock:
            if stored.digest not in self._sheets:
                self._sheets[stored.digest] = (Workup(parse_sheet(stored.text)), Lock())
            self._sheets.move_to_end(stored.digest)
            while len(self._sheets) > KEPT_SHEETS:
                self._sheets.popitem(last=False)
            return self._sheets[stored.digest]

    def _recall(self, kept: OrderedDict[Hashable, Made], key: Hashable, busy: Lock, make: Callable[[], Made]) -> Made:
        with busy:
            found = kept.get(key)
            if found is None:
                found = make()
            with self._lock:
                kept[key] = found
                kept.move_to_end(key)
                while len(kept) > KEPT_ANSWERS:
                    kept.popitem(last=False)
            return found


def workups() -> Workups:
    """The application's store."""
    return current_app.extensions["workups"]
