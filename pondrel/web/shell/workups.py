"""Prepared sheets and judged readings, kept in memory by their content: the core is pure, so a key that fits is an answer that fits.

Every sheet has a place of its own here, with its own lock and its own answers, so that neither waiting nor forgetting passes from one sheet
to another. All work has a budget of time, sheets together one of bytes, and a few of the server's threads are never given to it.
"""

from __future__ import annotations

import time
from collections import OrderedDict
from collections.abc import Callable, Hashable, Iterable, Iterator
from contextlib import contextmanager
from functools import partial
from threading import BoundedSemaphore, Lock, local
from typing import Any, TypeVar

from flask import current_app

from ...core.base.arrays import bytes_of
from ...core.base.errors import PondrelError, ReadingError
from ...core.base.patience import interrupted_by
from ...core.circuit.paths import Path
from ...core.circuit.read.sheet import parse_sheet
from ...core.circuit.sheet import Sheet
from ...core.circuit.solve import OperatingPoint, solve
from ...core.evidence.items import Item
from ...core.evidence.registry import item_from
from ...core.isolate import (
    Alternative,
    Belief,
    Descent,
    Isolation,
    Node,
    Touch,
    Visit,
    Workup,
    World,
    against_the_complaint,
    alternatives,
    check_items,
    check_sheet,
    descent,
    isolate,
    touches,
    update,
    visit_from,
)
from ...core.job.entry import Entry
from ...core.learn import NO_WEIGHTS, Weights
from ...store.sheets import StoredSheet
from .figures import Frame, frame_of, sketch

__all__ = ["TooLongError", "Workups", "workups"]

Answer = TypeVar("Answer")

KEPT_PARSED = 64  # sheets read but not prepared
KEPT_ITEMS, KEPT_ANSWERS = 512, 48  # of one sheet
MOST_BYTES = 1_500_000_000  # of all prepared sheets with their answers, beyond the one in use
WEIGH_SECONDS = 20.0  # between two looks at how many bytes a sheet takes: that takes a quarter of a second where there are many
BUDGET_SECONDS, WAIT_SECONDS, SLOT_SECONDS = 45.0, 15.0, 3.0
WORKING_THREADS = 5  # of the server's eight
PLAN_DEPTH = 3


class TooLongError(PondrelError):
    """Work that was stopped because it took too long, or that others did not leave room for."""


class _Prepared:
    """A sheet with all that has been worked out of it. ``busy`` is held by whoever works something out."""

    def __init__(self, sheet: Sheet, workup: Workup | None = None, busy: Lock | None = None):
        self.sheet = sheet
        self.workup = workup or Workup(sheet)
        self.busy = busy or Lock()
        self.parsing = Lock()  # of single readings, which nobody should wait for
        self.bytes, self.weighed_at = 0, -WEIGH_SECONDS
        self._kept: dict[str, OrderedDict[Hashable, Any]] = {}

    def recall(self, what: str, key: Hashable, make: Callable[[], Answer], most: int = KEPT_ANSWERS) -> Answer:
        """An answer of a sort, made if it is not kept; of each sort those not asked for longest go."""
        kept = self._kept.setdefault(what, OrderedDict())
        if key in kept:
            kept.move_to_end(key)
            found: Answer = kept[key]
            return found
        answer = make()
        kept[key] = answer
        while len(kept) > most:
            kept.popitem(last=False)
        return answer

    def weigh(self) -> None:
        """Take down how many bytes all of it occupies, if that was not done just now."""
        if time.monotonic() - self.weighed_at >= WEIGH_SECONDS:
            self.bytes = bytes_of(self.workup, self._kept)
            self.weighed_at = time.monotonic()


class Workups:
    """What has been worked out, by sheet; the sheets not looked at longest go."""

    def __init__(self) -> None:
        self._lock = Lock()  # held for looking things up, never for work
        self._parsed: OrderedDict[str, Sheet] = OrderedDict()
        self._sheets: OrderedDict[tuple[str, Weights], _Prepared] = OrderedDict()
        self._slots = BoundedSemaphore(WORKING_THREADS)
        self._thread = local()  # whether this one is working already

    def sheet(self, stored: StoredSheet) -> Sheet:
        """The sheet, read."""
        with self._lock:
            found = self._parsed.get(stored.digest)
            if found is not None:
                self._parsed.move_to_end(stored.digest)
                return found
        sheet = parse_sheet(stored.text)
        with self._lock:
            sheet = self._parsed.setdefault(stored.digest, sheet)
            while len(self._parsed) > KEPT_PARSED:
                self._parsed.popitem(last=False)
        return sheet

    @contextmanager
    def working(self, stored: StoredSheet) -> Iterator[_Prepared]:
        """The sheet for this thread alone, for as long as the budget lasts; a thread works on one sheet at a time.

        Raises TooLongError where others keep it too long."""
        prepared = self._prepared(stored)
        if getattr(self._thread, "working", False):
            yield prepared
            return
        if not self._slots.acquire(timeout=SLOT_SECONDS):
            raise TooLongError("Pondrel is working something out for several others: try again in a moment.")
        try:
            if not prepared.busy.acquire(timeout=WAIT_SECONDS):
                raise TooLongError("This circuit is being worked out for somebody else: try again in a moment.")
            try:
                self._thread.working = True
                with interrupted_by(_stop_after(BUDGET_SECONDS)):
                    yield prepared
            finally:
                self._thread.working = False
                prepared.busy.release()
        finally:
            self._slots.release()

    def _prepared(self, stored: StoredSheet) -> _Prepared:
        sheet = self.sheet(stored)
        with self._lock:
            key: tuple[str, Weights] = (stored.digest, NO_WEIGHTS)
            plain = self._sheets.get(key) or self._sheets.setdefault(key, _Prepared(sheet))
            self._sheets.move_to_end(key)
            if not stored.learned:
                return plain
            key = (stored.digest, stored.learned)
            if key not in self._sheets:  # what its circuit does is shared, and so is the lock
                self._sheets[key] = _Prepared(sheet, plain.workup.weighed_by(stored.learned), plain.busy)
            self._sheets.move_to_end(key)
            return self._sheets[key]

    def _make_room(self, own: _Prepared) -> None:
        """Let the sheets not looked at longest go where all together are too large; the one in use stays."""
        if len(self._sheets) > 1:
            own.weigh()
        with self._lock:
            total = sum(p.bytes for p in self._sheets.values())
            for key, prepared in list(self._sheets.items()):
                if total <= MOST_BYTES:
                    return
                if prepared is not own:
                    total -= self._sheets.pop(key).bytes

    def _recall(self, stored: StoredSheet, what: str, key: Hashable, make: Callable[[_Prepared], Answer]) -> Answer:
        with self.working(stored) as prepared:

            def fresh() -> Answer:
                answer = make(prepared)
                self._make_room(prepared)
                return answer

            return prepared.recall(what, key, fresh)

    def workup(self, stored: StoredSheet) -> Workup:
        """The sheet, prepared; to be asked for more only while `working`."""
        return self._prepared(stored).workup

    def items(self, stored: StoredSheet, standing: Iterable[Entry]) -> tuple[Item, ...]:
        """Readings as evidence. Raises ReadingError naming one that cannot be read as such any more."""
        prepared, items = self._prepared(stored), []
        for number, entry in enumerate(standing, 1):
            key = (entry.kind, tuple(sorted(entry.content.items())))
            read = partial(item_from, prepared.sheet, entry.kind, {name: entry.text(name) for name in entry.content})
            try:
                with prepared.parsing:
                    items.append(prepared.recall("items", key, read, KEPT_ITEMS))
            except ReadingError as error:
                raise ReadingError(f"Reading {number} cannot be read any more: {error} Strike it out to go on.") from error
        return tuple(items)

    def isolation(self, stored: StoredSheet, items: tuple[Item, ...]) -> Isolation:
        """What follows from the evidence. Raises TooMuchError beyond what is worked out at once."""

        def make(prepared: _Prepared) -> Isolation:
            check_sheet(prepared.sheet)
            check_items(prepared.sheet, items)
            return isolate(prepared.workup, items)

        return self._recall(stored, "isolation", items, make)

    def belief(self, stored: StoredSheet, items: tuple[Item, ...]) -> Belief:
        """The probabilities alone, for a replay."""

        def make(prepared: _Prepared) -> Belief:
            check_sheet(prepared.sheet)
            check_items(prepared.sheet, items)
            return update(prepared.workup, items)

        return self._recall(stored, "belief", items, make)

    def plan(self, stored: StoredSheet, items: tuple[Item, ...]) -> tuple[Node, tuple[Alternative, ...]]:
        """The tree of the next few tests, and the orders of attack side by side."""

        def make(prepared: _Prepared) -> tuple[Node, tuple[Alternative, ...]]:
            found = self.isolation(stored, items)
            tree = World.of(found.belief, found.groups).tree(PLAN_DEPTH, found.next[0].test if found.next else None)
            return tree, alternatives(found.belief, found.groups, found.next)

        return self._recall(stored, "plan", items, make)

    def visit(self, stored: StoredSheet, items: tuple[Item, ...]) -> Visit:
        """The plan of the visit from the evidence on."""

        def make(prepared: _Prepared) -> Visit:
            found = self.isolation(stored, items)
            return visit_from(World.of(found.belief, found.groups))

        return self._recall(stored, "visit", items, make)

    def sound(self, stored: StoredSheet, state: str) -> OperatingPoint:
        """The sound circuit in a state."""
        return self._recall(stored, "sound", state, lambda prepared: solve(prepared.sheet, state))

    def descent(self, stored: StoredSheet, items: tuple[Item, ...], path: Path, state: str) -> Descent:
        """The volts along a path, with the line of what the headline accuses."""

        def make(prepared: _Prepared) -> Descent:
            found = self.isolation(stored, items)
            return descent(found.belief, path, state, found.targets[0])

        return self._recall(stored, "descent", (items, path.load, state), make)

    def doubts(self, stored: StoredSheet, items: tuple[Item, ...], complaint: str) -> dict[int, str]:
        """The readings that do not go with the complaint, by number."""
        return self._recall(stored, "doubts", (items, complaint), lambda prepared: against_the_complaint(prepared.workup, items, complaint))

    def touches(self, stored: StoredSheet) -> tuple[Touch, ...]:
        """What can be complained of on the circuit."""

        def make(prepared: _Prepared) -> tuple[Touch, ...]:
            check_sheet(prepared.sheet)
            return touches(prepared.workup)

        return self._recall(stored, "touches", "", make)

    def frame(self, stored: StoredSheet, roomy: bool = False) -> Frame:
        """What of the sheet's diagram is always the same; ``roomy`` for thumbs."""
        return self._recall(stored, "frame", roomy, lambda prepared: frame_of(prepared.sheet, roomy=roomy))

    def sketch(self, stored: StoredSheet) -> str:
        """The sheet's circuit as a small picture."""
        return self._recall(stored, "sketch", "", lambda prepared: sketch(frame_of(prepared.sheet, 0)))


def _stop_after(seconds: float) -> Callable[[], None]:
    end = time.monotonic() + seconds

    def ask() -> None:
        if time.monotonic() > end:
            raise TooLongError(
                f"This took longer than {seconds:.0f} s and was stopped: load the page again and it goes on from there, "
                "or split the circuit into smaller sheets."
            )

    return ask


def workups() -> Workups:
    """The application's store."""
    store: Workups = current_app.extensions["workups"]
    return store
