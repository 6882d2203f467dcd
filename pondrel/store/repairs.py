"""Repairs of the record: by which way, in how many minutes, and of which part on which circuit."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

__all__ = ["Repair", "repairs_before"]

_REPAIRS = """
SELECT choice.job_id, job.vehicle_id, json_extract(choice.content, '$.way'), json_extract(choice.content, '$.minutes'),
       coalesce(json_extract(remedy.content, '$.minutes'), ''), conclusion_part.part, coalesce(trace.sheet_id, 0),
       coalesce(sheet.title, ''), remedy.made_at
FROM entry AS choice
JOIN job ON job.id = choice.job_id
JOIN entry AS remedy ON remedy.job_id = choice.job_id AND remedy.kind = 'remedy' AND remedy.id > choice.id
JOIN conclusion_standing ON conclusion_standing.job_id = choice.job_id
JOIN conclusion_part ON conclusion_part.entry_id = conclusion_standing.entry_id
JOIN entry AS conclusion ON conclusion.id = conclusion_standing.entry_id
LEFT JOIN trace ON trace.id = conclusion.trace_id
LEFT JOIN sheet ON sheet.id = trace.sheet_id
WHERE choice.kind = 'choice' AND choice.job_id <> :job AND remedy.made_at <= :before AND conclusion.id < choice.id
  AND NOT EXISTS (SELECT 1 FROM strike WHERE strike.entry_id IN (choice.id, remedy.id))
  AND NOT EXISTS (
    SELECT 1 FROM entry AS later
    WHERE later.job_id = choice.job_id AND later.kind IN ('choice', 'remedy') AND later.id > choice.id AND later.id < remedy.id
  )
ORDER BY remedy.id
"""


@dataclass(frozen=True, slots=True)
class Repair:
    """A repair: its way, minutes reckoned (None where nobody did) and taken (empty), the part on the circuit of a sheet (0 for none)."""

    job_id: int
    vehicle_id: int
    way: str
    reckoned: float | None
    taken: str
    part: str
    sheet_id: int
    circuit: str
    made_at: str


def repairs_before(conn: sqlite3.Connection, job_id: int, before: str) -> tuple[Repair, ...]:
    """The repairs of other jobs that were carried out before a time."""
    return tuple(Repair(*row) for row in conn.execute(_REPAIRS, {"job": job_id, "before": before}))
