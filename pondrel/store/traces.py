"""Traces: a job's work on one version of a sheet."""

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
SELECT trace.id, trace.job_id, trace.number, trace.sheet_id, sheet.title, trace.person, trace.opened_at
FROM trace
JOIN sheet ON sheet.id = trace.sheet_id
WHERE trace.job_id = ?
ORDER BY trace.number
"""


@dataclass(frozen=True, slots=True)
class Trace:
    """A trace: ``number`` counts those of its job from 1, ``title`` is its sheet's."""

    id: int
    job_id: int
    number: int
    sheet_id: int
    title: str
    person: str
    opened_at: str


def add_trace(conn: sqlite3.Connection, job_id: int, sheet_id: int, person: str = "", opened_at: str | None = None) -> int:
    """Take a sheet up for a job, return the trace's id; sqlite3.IntegrityError when job or sheet do not exist."""
    return int(conn.execute(_INSERT, (job_id, sheet_id, person, opened_at or now(), job_id)).fetchone()[0])


def traces_of(conn: sqlite3.Connection, job_id: int) -> tuple[Trace, ...]:
    """A job's traces in the order in which they were opened."""
    return tuple(Trace(*row) for row in conn.execute(_OF_JOB, (job_id,)))
