"""What was seen before: jobs by words, by vehicle and by the part that was at fault."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable
from dataclasses import dataclass

__all__ = ["SeenJob", "jobs_with", "parts_of", "recent_jobs"]

_JOBS = """
SELECT job.id, job.complaint, job.opened_at, job.vehicle_id, vehicle.name, vehicle.plate,
       trim(vehicle.make || ' ' || vehicle.model) AS model,
       coalesce((
         SELECT group_concat(DISTINCT json_extract(entry.content, '$.says')) FROM conclusion_standing
         JOIN entry ON entry.id = conclusion_standing.entry_id
         WHERE entry.job_id = job.id AND json_extract(entry.content, '$.faulty')
       ), '') AS found,
       coalesce((
         SELECT json_extract(entry.content, '$.text') FROM entry LEFT JOIN strike ON strike.entry_id = entry.id
         WHERE entry.job_id = job.id AND entry.kind = 'remedy' AND strike.entry_id IS NULL ORDER BY entry.id DESC LIMIT 1
       ), '') AS done,
       coalesce((
         SELECT json_extract(entry.content, '$.works') FROM entry LEFT JOIN strike ON strike.entry_id = entry.id
         WHERE entry.job_id = job.id AND entry.kind = 'proof' AND strike.entry_id IS NULL ORDER BY entry.id DESC LIMIT 1
       ), '') AS works
FROM job
JOIN vehicle ON vehicle.id = job.vehicle_id
"""
_PARTS = """
SELECT DISTINCT entry.job_id, sheet.title, conclusion_part.part
FROM conclusion_standing
JOIN entry ON entry.id = conclusion_standing.entry_id
JOIN conclusion_part ON conclusion_part.entry_id = entry.id
LEFT JOIN trace ON trace.id = entry.trace_id
LEFT JOIN sheet ON sheet.id = trace.sheet_id
"""


@dataclass(frozen=True, slots=True)
class SeenJob:
    """A job as it is listed among those seen before: complaint, vehicle, what was found and done, and whether that was proved."""

    id: int
    complaint: str
    opened_at: str
    vehicle_id: int
    vehicle: str
    plate: str
    model: str
    found: str
    done: str
    works: str

    @property
    def proved(self) -> bool:
        """Whether its repair was proved."""
        return self.works == "yes"


def recent_jobs(conn: sqlite3.Connection, most: int) -> tuple[SeenJob, ...]:
    """The latest jobs, the latest first."""
    return tuple(SeenJob(*row) for row in conn.execute(f"{_JOBS} ORDER BY job.id DESC LIMIT ?", (most,)))


def jobs_with(conn: sqlite3.Connection, words: Iterable[str], most: int) -> tuple[SeenJob, ...]:
    """Jobs that hold every one of some words in their complaint, vehicle, finding or repair, the latest first."""
    wanted = [f"%{_plain(word)}%" for word in words]
    where = " AND ".join(
        ["(complaint || ' ' || name || ' ' || plate || ' ' || model || ' ' || found || ' ' || done) LIKE ? ESCAPE '\\'"] * len(wanted)
    )
    sql = f"SELECT * FROM ({_JOBS}) WHERE {where or 'TRUE'} ORDER BY id DESC LIMIT ?"
    return tuple(SeenJob(*row) for row in conn.execute(sql, (*wanted, most)))


def _plain(word: str) -> str:
    return word.replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_")


def parts_of(conn: sqlite3.Connection, job_ids: Iterable[int]) -> dict[int, frozenset[tuple[str, str]]]:
    """By job the parts that its standing conclusions name, as pairs of the circuit's title (empty without one) and the part."""
    found: dict[int, set[tuple[str, str]]] = {}
    for job_id, title, part in conn.execute(
        f"{_PARTS} WHERE entry.job_id IN (SELECT value FROM json_each(?))", (json.dumps(list(job_ids)),)
    ):
        found.setdefault(job_id, set()).add((title or "", part))
    return {job_id: frozenset(pairs) for job_id, pairs in found.items()}
