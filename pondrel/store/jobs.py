"""Jobs: one complaint on one vehicle."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

from .db import now

__all__ = ["Job", "add_job", "get_job", "persons"]


@dataclass(frozen=True, slots=True)
class Job:
    """A job as opened."""

    id: int
    vehicle_id: int
    complaint: str
    conditions: str
    person: str
    opened_at: str


def add_job(
    conn: sqlite3.Connection, vehicle_id: int, complaint: str, conditions: str = "", person: str = "", opened_at: str | None = None
) -> int:
    """Open a job, return its id; sqlite3.IntegrityError when the vehicle does not exist or the complaint is empty."""
    sql = "INSERT INTO job (vehicle_id, complaint, conditions, person, opened_at) VALUES (?, ?, ?, ?, ?) RETURNING id"
    return int(conn.execute(sql, (vehicle_id, complaint, conditions, person, opened_at or now())).fetchone()[0])


def get_job(conn: sqlite3.Connection, job_id: int) -> Job | None:
    """One job, None if there is none of that id."""
    sql = "SELECT id, vehicle_id, complaint, conditions, person, opened_at FROM job WHERE id = ?"
    row = conn.execute(sql, (job_id,)).fetchone()
    return Job(*row) if row else None


def persons(conn: sqlite3.Connection) -> list[str]:
    """Everybody who has or had a job, by name."""
    return [row[0] for row in conn.execute("SELECT DISTINCT person FROM bay WHERE person <> '' ORDER BY person")]
