"""What tolerances do to readings, kept by reading and row as far as there is room: every belief that has a reading asks for the same."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Sequence

import numpy as np
from numpy.typing import NDArray

from ...base.arrays import Floats
from ..predict.workup import Column

__all__ = ["Spreads"]

_MOST_NUMBERS = 5_000_000

Rows = NDArray[np.intp]
Make = Callable[[list[int], Rows], Floats]  # (which of the readings, rows) -> (rows, readings, K)


class Spreads:
    """Spreads of readings, each known by the ``Column`` of what it would be, at those of ``rows`` rows that were asked for."""

    def __init__(self, rows: int):
        self._rows = rows
        self._kept: OrderedDict[int, _OfReading] = OrderedDict()  # by the identity of the column, the one longest unused first

    def of(self, columns: Sequence[Column], rows: Rows, tolerances: int, make: Make, keep: bool) -> Floats:
        """(L, R, K) of some readings at some rows; ``make`` works out what is not known, which is kept if it is asked for."""
        numbers: dict[int, list[int]] = {}  # of each reading; the same test may have been taken several times
        for number, column in enumerate(columns):
            numbers.setdefault(id(column), []).append(number)
        if len(numbers) == len(columns) and not any(column_id in self._kept for column_id in numbers):
            made = make(list(range(len(columns))), rows)
            if keep:
                self._keep(list(columns), rows, made)
            return made
        found = np.empty((len(rows), len(columns), tolerances))
        missing: dict[bytes, tuple[Rows, list[list[int]]]] = {}
        for column_id, own in numbers.items():
            kept = self._kept.get(column_id)
            place = kept.place[rows] if kept else np.full(len(rows), -1)
            lacks = np.flatnonzero(place < 0)
            if lacks.size:
                missing.setdefault(lacks.tobytes(), (lacks, []))[1].append(own)
            if kept and len(lacks) < len(rows):
                self._kept.move_to_end(column_id)
                has = place >= 0 if lacks.size else slice(None)
                known = kept.spread[place[has]]
                for number in own:
                    found[has, number] = known
        for lacks, groups in missing.values():
            made = make([own[0] for own in groups], rows[lacks])
            for k in range(max(map(len, groups))):
                again = [i for i, own in enumerate(groups) if len(own) > k]
                found[lacks[:, None], [groups[i][k] for i in again]] = made[:, again]
            if keep:
                self._keep([columns[own[0]] for own in groups], rows[lacks], made)
        return found

    def _keep(self, columns: list[Column], rows: Rows, made: Floats) -> None:
        wanted = made.size + len(columns) * self._rows
        own = {id(column) for column in columns}
        while self._kept and wanted + sum(kept.size for kept in self._kept.values()) > _MOST_NUMBERS:
            first = next(iter(self._kept))
            if first in own:
                return
            del self._kept[first]
        if wanted > _MOST_NUMBERS:
            return
        for number, column in enumerate(columns):
            if id(column) not in self._kept:
                self._kept[id(column)] = _OfReading(column, self._rows, made.shape[2])
            self._kept[id(column)].add(rows, made[:, number])


class _OfReading:
    """Those of one reading: ``place`` (M,) of a row in ``spread`` (n, K), −1 for none. The ``column`` is held, so that no other one takes
    its place in memory."""

    def __init__(self, column: Column, rows: int, tolerances: int):
        self.column = column
        self.place = np.full(rows, -1, dtype=np.int32)
        self.spread: Floats = np.empty((0, tolerances))
        self._count = 0

    @property
    def size(self) -> int:
        """Numbers held."""
        return self.spread.size + self.place.size

    def add(self, rows: Rows, spread: Floats) -> None:
        """Those of more rows."""
        end = self._count + len(rows)
        if end > len(self.spread):
            grown = np.empty((end if not self._count else max(end, self._count * 5 // 4), spread.shape[1]))
            grown[: self._count] = self.spread[: self._count]
            self.spread = grown
        self.spread[self._count : end] = spread
        self.place[rows] = np.arange(self._count, end)
        self._count = end
