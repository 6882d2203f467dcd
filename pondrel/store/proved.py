"""Jobs that were proved: what was at fault on which circuit of which vehicle, and when."""

from __future__ import annotations

import json
import sqlite3
from dataclasses import dataclass

from ..core.job.conclusion import modes_in
from ..core.remedy.registry import WAYS

__all__ = ["ProvedPart", "proved_before"]

_PROVED = """
SELECT entry.job_id, trace.sheet_id, conclusion_part.part, trim(vehicle.make || ' ' || vehicle.model), vehicle.year, job.opened_at,
    entry.content
FROM conclusion_standing
JOIN entry ON entry.id = conclusion_standing.entry_id
JOIN conclusion_part ON conclusion_part.entry_id = entry.id
JOIN trace ON trace.id = entry.trace_id
JOIN job ON job.id = entry.job_id
JOIN vehicle ON vehicle.id = job.vehicle_id
WHERE job.id <> :job
  AND EXISTS (
    SELECT 1 FROM entry AS proof
    LEFT JOIN strike ON strike.entry_id = proof.id
    WHERE proof.job_id = entry.job_id AND proof.kind = 'proof' AND proof.id > entry.id AND strike.entry_id IS NULL
      AND json_extract(proof.content, '$.works') = 'yes' AND proof.made_at < :before
  )
  AND coalesce((
    SELECT json_extract(choice.content, '$.way') FROM entry AS choice
    LEFT JOIN strike ON strike.entry_id = choice.id
    WHERE choice.job_id = entry.job_id AND choice.kind = 'choice' AND choice.id > entry.id AND strike.entry_id IS NULL
    ORDER BY choice.id DESC LIMIT 1
  ), '') NOT IN (SELECT value FROM json_each(:lived_with))
ORDER BY entry.id, conclusion_part.place
"""
_LIVED_WITH = json.dumps([way.name for way in WAYS.values() if not way.cures])


@dataclass(frozen=True, slots=True)
class ProvedPart:
    """A part that a proved job names, with its circuit's sheet, the vehicle's make and model and year, when the job was opened, and the
    mode in which it failed (empty where nobody knows)."""

    job_id: int
    sheet_id: int
    part: str
    model: str
    year: str
    opened_at: str
    mode: str


def proved_before(conn: sqlite3.Connection, job_id: int, before: str) -> tuple[ProvedPart, ...]:
    """What other jobs had proved when a job was opened: what comes later does not change it, so that it can be replayed. What is lived
    with proves nothing of its part."""
    return tuple(
        ProvedPart(job, sheet, part, model, year, opened_at, modes_in(json.loads(content)).get(part, ""))
        for job, sheet, part, model, year, opened_at, content in conn.execute(
            _PROVED, {"job": job_id, "before": before, "lived_with": _LIVED_WITH}
        )
    )
