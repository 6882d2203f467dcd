"""Jobs: one complaint on one vehicle, traced on one sheet."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass

from .db import atomic, now

__all__ = ["Job", "JobRow", "add_job", "get_job", "keep_outlook", "page_of_jobs"]


@dataclass(frozen=True, slots=True)
class Job:
    """A job as opened."""

    id: int
    vehicle_id: int
    sheet_id: int
    complaint: str
    conditions: str
    person: str
    opened_at: str


@dataclass(frozen=True, slots=True)
class JobRow:
    """A job as the Bay lists it: with its vehicle, sheet, count of standing readings, last reading, standing conclusion, and what its
    standing readings come to where that has been worked out (else empty)."""

    id: int
    complaint: str
    person: str
    opened_at: str
    vehicle: str
    plate: str
    sheet: str
    readings: int
    last_at: str | None
    concluded: str | None
    outlook: str


def add_job(
    conn: sqlite3.Connection,
    vehicle_id: int,
    sheet_id: int,
    complaint: str,
    conditions: str = "",
    person: str = "",
    opened_at: str | None = None,
) -> int:
    """Open a job, return its id; sqlite3.IntegrityError when vehicle or sheet do not exist or the complaint is empty."""
    sql = "INSERT INTO job (vehicle_id, sheet_id, complaint, conditions, person, opened_at) VALUES (?, ?, ?, ?, ?, ?) RETURNING id"
    return int(conn.execute(sql, (vehicle_id, sheet_id, complaint, conditions, person, opened_at or now())).fetchone()[0])


def get_job(conn: sqlite3.Connection, job_id: int) -> Job | None:
    """One job, None if there is none of that id."""
    sql = "SELECT id, vehicle_id, sheet_id, complaint, conditions, person, opened_at FROM job WHERE id = ?"
    row = conn.execute(sql, (job_id,)).fetchone()
    return Job(*row) if row else None


_STANDING = "NOT EXISTS (SELECT 1 FROM strike WHERE strike.reading_id = reading.id)"
_PAGE = f"""
WITH page AS (
    SELECT job_id, done, opened_at,
           (SELECT count(*) FROM reading WHERE reading.job_id = bay.job_id AND {_STANDING}) AS readings,
           (SELECT max(reading.id) FROM reading WHERE reading.job_id = bay.job_id AND {_STANDING}) AS last_id
    FROM bay
    ORDER BY done, opened_at DESC, job_id DESC
    LIMIT ? OFFSET ?
)
SELECT job.id, job.complaint, job.person, job.opened_at, vehicle.name, vehicle.plate, sheet.title,
       page.readings,
       (SELECT max(taken_at) FROM reading WHERE reading.job_id = job.id),
       conclusion.says,
       CASE WHEN outlook.ready AND outlook.readings = page.readings AND outlook.last_id = coalesce(page.last_id, 0)
            THEN outlook.says ELSE '' END
FROM page
JOIN job ON job.id = page.job_id
JOIN vehicle ON vehicle.id = job.vehicle_id
JOIN sheet ON sheet.id = job.sheet_id
LEFT JOIN standing_conclusion ON standing_conclusion.job_id = job.id
LEFT JOIN conclusion ON conclusion.id = standing_conclusion.conclusion_id
LEFT JOIN outlook ON outlook.job_id = job.id
ORDER BY page.done, page.opened_at DESC, page.job_id DESC
"""
_KEEP_OUTLOOK = """
INSERT INTO outlook (job_id, readings, last_id, ready, says) VALUES (?, ?, ?, ?, ?)
ON CONFLICT (job_id) DO UPDATE SET readings = excluded.readings, last_id = excluded.last_id, ready = excluded.ready, says = excluded.says
"""


def page_of_jobs(conn: sqlite3.Connection, count: int, skipped: int = 0) -> list[JobRow]:
    """Some jobs for the Bay: those in work first, the newest on top."""
    return [JobRow(*row) for row in conn.execute(_PAGE, (count, skipped))]


def keep_outlook(conn: sqlite3.Connection, job_id: int, standing: Sequence[int], ready: bool, says: str) -> None:
    """Keep what a job's standing readings (their ids) come to, for lists; it counts no longer once a reading is added or struck out."""
    # It can be made anew, so it need not be on the disk before anyone goes on.
    conn.execute("PRAGMA synchronous = NORMAL")
    try:
        with atomic(conn):
            conn.execute(_KEEP_OUTLOOK, (job_id, len(standing), max(standing, default=0), int(ready), says))
    finally:
        conn.execute("PRAGMA synchronous = FULL")
