"""Traces: a job's work on one circuit, by the drawing that counts: a version of a sheet, or this vehicle's own since it was corrected."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

from .db import now

__all__ = ["Trace", "add_trace", "traces_of"]

_INSERT = """
INSERT INTO trace (job_id, number, sheet_id, person, opened_at)
SELECT ?, coalesce(max(number), 0) + 1, ?, ?, ? FROM trace WHERE job_id = ?
RETURNING id
"""
_OF_JOB = """
WITH drawn (id, job_id, number, sheet_id, begun_id, person, opened_at) AS (
    SELECT id, job_id, number,
           coalesce((SELECT own.id FROM entry
                     JOIN sheet AS own ON own.digest = json_extract(entry.content, '$.sheet')
                     WHERE entry.job_id = trace.job_id AND entry.trace_id = trace.id AND entry.kind = 'corrected'
                       AND NOT EXISTS (SELECT 1 FROM strike WHERE strike.entry_id = entry.id)
                     ORDER BY entry.id DESC LIMIT 1), sheet_id),
           sheet_id, person, opened_at
    FROM trace WHERE job_id = ?
)
SELECT drawn.id, drawn.job_id, drawn.number, drawn.sheet_id, sheet.title, drawn.person, drawn.opened_at, drawn.begun_id
FROM drawn
JOIN sheet ON sheet.id = drawn.sheet_id
ORDER BY drawn.number
"""


@dataclass(frozen=True, slots=True)
class Trace:
    """A trace: ``number`` counts those of its job from 1, ``title`` is its sheet's. ``sheet_id`` is the drawing that it goes by now,
    ``begun_id`` the one that it was opened with: they differ where the drawing was corrected meanwhile."""

    id: int
    job_id: int
    number: int
    sheet_id: int
    title: str
    person: str
    opened_at: str
    begun_id: int


def add_trace(conn: sqlite3.Connection, job_id: int, sheet_id: int, person: str = "", opened_at: str | None = None) -> int:
    """Take a sheet up for a job, return the trace's id; sqlite3.IntegrityError when job or sheet do not exist."""
    return int(conn.execute(_INSERT, (job_id, sheet_id, person, opened_at or now(), job_id)).fetchone()[0])


def traces_of(conn: sqlite3.Connection, job_id: int) -> tuple[Trace, ...]:
    """A job's traces in the order in which they were opened."""
    return tuple(Trace(*row) for row in conn.execute(_OF_JOB, (job_id,)))
