"""Jobs: one complaint on one vehicle, traced on one sheet."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

from .db import now

__all__ = ["Job", "JobRow", "add_job", "all_jobs", "get_job"]


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
    """A job as the Bay lists it: with its vehicle, sheet, count of standing readings, last reading and standing conclusion."""

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


_ALL = """
SELECT job.id, job.complaint, job.person, job.opened_at, vehicle.name, vehicle.plate, sheet.title,
       (SELECT count(*) FROM reading WHERE reading.job_id = job.id
          AND NOT EXISTS (SELECT 1 FROM strike WHERE strike.reading_id = reading.id)),
       (SELECT max(taken_at) FROM reading WHERE reading.job_id = job.id),
       (SELECT conclusion.says FROM conclusion WHERE conclusion.job_id = job.id
          AND NOT EXISTS (SELECT 1 FROM reopening WHERE reopening.conclusion_id = conclusion.id)
        ORDER BY conclusion.id DESC LIMIT 1) AS concluded
FROM job
JOIN vehicle ON vehicle.id = job.vehicle_id
JOIN sheet ON sheet.id = job.sheet_id
ORDER BY concluded IS NOT NULL, job.opened_at DESC, job.id DESC
"""


def all_jobs(conn: sqlite3.Connection) -> list[JobRow]:
    """Every job for the Bay: those in work first, the newest on top."""
    return [JobRow(*row) for row in conn.execute(_ALL)]
