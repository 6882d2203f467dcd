"""Conclusions: what was found faulty, on which readings; reopened with a reason, never changed."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

from ..core.base.errors import PondrelError
from .db import now

__all__ = ["Conclusion", "add_conclusion", "conclusions_of", "is_concluded", "reopen"]


@dataclass(frozen=True, slots=True)
class Conclusion:
    """A conclusion; ``parts`` is empty for "nothing on this sheet", ``probability`` None where the readings could not be worked out,
    ``reopened`` the reason if it no longer stands."""

    id: int
    job_id: int
    parts: tuple[str, ...]
    says: str
    probability: float | None
    proved: bool
    reason: str
    readings: tuple[int, ...]
    concluded_at: str
    reopened: str | None


def add_conclusion(
    conn: sqlite3.Connection, job_id: int, parts: tuple[str, ...], says: str, probability: float | None, proved: bool,
    reason: str, readings: tuple[int, ...], concluded_at: str | None = None,
) -> int:  # fmt: skip
    """Write a conclusion, return its id. Raises PondrelError where one stands already, sqlite3.IntegrityError for one that is neither
    proved nor has a reason."""
    sql = """
        INSERT INTO conclusion (job_id, parts, says, probability, worked_out, proved, reason, readings, concluded_at)
        VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?) RETURNING id
    """
    numbers = "\n".join(str(i) for i in readings)
    said = (probability or 0.0, int(probability is not None), int(proved), reason)
    values = (job_id, "\n".join(parts), says, *said, numbers, concluded_at or now())
    try:
        return int(conn.execute(sql, values).fetchone()[0])
    except sqlite3.IntegrityError as error:
        if "standing_conclusion" not in str(error):
            raise
        raise PondrelError("This job is concluded already: reopen it with a reason first.") from error


def is_concluded(conn: sqlite3.Connection, job_id: int) -> bool:
    """Whether a conclusion of the job stands."""
    return conn.execute("SELECT 1 FROM standing_conclusion WHERE job_id = ?", (job_id,)).fetchone() is not None


def conclusions_of(conn: sqlite3.Connection, job_id: int) -> list[Conclusion]:
    """A job's conclusions, the latest last."""
    sql = """
        SELECT conclusion.id, job_id, parts, says, iif(worked_out, probability, NULL), proved, conclusion.reason, readings, concluded_at,
            reopening.reason
        FROM conclusion LEFT JOIN reopening ON reopening.conclusion_id = conclusion.id
        WHERE job_id = ? ORDER BY conclusion.id
    """
    return [
        Conclusion(
            row[0], row[1], tuple(row[2].split("\n")) if row[2] else (), row[3], row[4], bool(row[5]), row[6],
            tuple(int(i) for i in row[7].split()), row[8], row[9],
        )
        for row in conn.execute(sql, (job_id,))
    ]  # fmt: skip


def reopen(conn: sqlite3.Connection, job_id: int, reason: str) -> bool:
    """Withdraw the standing conclusion; False when there is none."""
    sql = """
        INSERT INTO reopening (conclusion_id, reason, reopened_at)
        SELECT conclusion_id, ?, ? FROM standing_conclusion WHERE job_id = ?
    """
    return conn.execute(sql, (reason, now(), job_id)).rowcount == 1
