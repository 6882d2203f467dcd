"""The captures of a job on paper: each drawn, with what it came to and what was moved."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

from ...core.base.quantity import show
from ...store.captures import CaptureRow, judged_of, latest_captures, marks_of
from ..scope.open import prepared_for
from ..scope.page import scope_of
from ..scope.picture import picture_of
from ..shell.attempt import attempt

__all__ = ["CaptureDrawn", "captures_drawn"]

MOST = 24


@dataclass(frozen=True, slots=True)
class CaptureDrawn:
    """A capture on paper: what it is of, its sentences, and its picture (SVG; empty where its file is gone)."""

    title: str
    says: tuple[str, ...]
    picture: str


def captures_drawn(conn: sqlite3.Connection, job_id: int) -> tuple[CaptureDrawn, ...]:
    """The captures of a job, in the order in which they were taken."""
    rows = sorted(latest_captures(conn, MOST, job_id), key=lambda row: row.id)
    return tuple(_drawn(conn, row) for row in rows)


def _drawn(conn: sqlite3.Connection, row: CaptureRow) -> CaptureDrawn:
    names = ", ".join(name for name, _ in row.channels)
    about = f"{row.name}: {row.count} samples in {show(row.seconds, 's')} of {names}."
    found, error = attempt(lambda: scope_of(row, "", marks_of(conn, row.id), judged_of(conn, [row.id]).get(row.id), None, "", ""))
    if found is None:
        return CaptureDrawn(row.says, (about, error), "")
    judged = (f"{found.judged.verdict.capitalize()}. {found.judged.says}",) if found.judged is not None else ("Not judged.",)
    marks = tuple(f"{one.letter}, {one.row.at:.4g} s: {one.row.says}: {one.change.says}." for one in found.marks)
    picture = picture_of(prepared_for(row), found.place, [(one.row.at, one.letter) for one in found.marks])
    return CaptureDrawn(row.says, (about, *judged, *marks), str(picture))
