"""Readings: written once, struck out with a reason, never changed."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

from .db import now

__all__ = ["StoredReading", "add_reading", "readings_of", "standing_ids", "strike_reading"]


@dataclass(frozen=True, slots=True)
class StoredReading:
    """A reading as typed; ``struck`` is the reason if it was struck out."""

    id: int
    job_id: int
    state: str
    instrument: str
    red: str
    black: str
    typed: str
    note: str
    taken_at: str
    struck: str | None


def add_reading(
    conn: sqlite3.Connection,
    job_id: int,
    state: str,
    instrument: str,
    red: str,
    black: str,
    typed: str,
    note: str = "",
    taken_at: str | None = None,
) -> int:
    """Write a reading, return its id; it is on the disk when the surrounding transaction has ended."""
    sql = """
        INSERT INTO reading (job_id, state, instrument, red, black, typed, note, taken_at)
        VALUES (?, ?, ?, ?, ?, ?, ?, ?) RETURNING id
    """
    return int(conn.execute(sql, (job_id, state, instrument, red, black, typed, note, taken_at or now())).fetchone()[0])


def readings_of(conn: sqlite3.Connection, job_id: int) -> list[StoredReading]:
    """A job's readings in the order they were taken, struck ones included."""
    sql = """
        SELECT reading.id, job_id, state, instrument, red, black, typed, note, taken_at, strike.reason
        FROM reading LEFT JOIN strike ON strike.reading_id = reading.id
        WHERE job_id = ? ORDER BY reading.id
    """
    return [StoredReading(*row) for row in conn.execute(sql, (job_id,))]


def standing_ids(conn: sqlite3.Connection, job_id: int) -> tuple[int, ...]:
    """Ids of a job's readings that are not struck out, in the order they were taken."""
    sql = """
        SELECT id FROM reading
        WHERE job_id = ? AND NOT EXISTS (SELECT 1 FROM strike WHERE strike.reading_id = reading.id)
        ORDER BY id
    """
    return tuple(row[0] for row in conn.execute(sql, (job_id,)))


def strike_reading(conn: sqlite3.Connection, job_id: int, reading_id: int, reason: str) -> bool:
    """Strike a reading out; False when the job has no such standing reading."""
    sql = """
        INSERT INTO strike (reading_id, reason, struck_at)
        SELECT reading.id, ?, ? FROM reading
        WHERE reading.id = ? AND job_id = ? AND NOT EXISTS (SELECT 1 FROM strike WHERE strike.reading_id = reading.id)
    """
    return conn.execute(sql, (reason, now(), reading_id, job_id)).rowcount == 1
