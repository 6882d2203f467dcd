"""Reports that were made: by their seal, and by the digest of their file; and what the workshop calls itself on them."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

from .house import house_choices, settle_house

__all__ = ["Letterhead", "MadeReport", "keep_letterhead", "letterhead_of", "report_of_file", "reports_sealed"]

_COLUMNS = """
SELECT entry.job_id, entry.id, json_extract(entry.content, '$.sheet'), json_extract(entry.content, '$.seal'),
       json_extract(entry.content, '$.pdf'), entry.made_at, vehicle.name, strike.entry_id IS NOT NULL
FROM entry
JOIN job ON job.id = entry.job_id
JOIN vehicle ON vehicle.id = job.vehicle_id
LEFT JOIN strike ON strike.entry_id = entry.id
WHERE entry.kind = 'issued'
"""


@dataclass(frozen=True, slots=True)
class MadeReport:
    """A report that was made: its job and entry, which sheet, seal, digest of the PDF, when, for which vehicle, and whether it was
    withdrawn since."""

    job_id: int
    entry_id: int
    sheet: str
    seal: str
    pdf: str
    made_at: str
    vehicle: str
    withdrawn: bool


def reports_sealed(conn: sqlite3.Connection, seal: str) -> tuple[MadeReport, ...]:
    """Those made under a seal, the first first."""
    rows = conn.execute(_COLUMNS + " AND json_extract(entry.content, '$.seal') = ? ORDER BY entry.id", (seal,))
    return tuple(_made(row) for row in rows)


def report_of_file(conn: sqlite3.Connection, digest: str) -> MadeReport | None:
    """The one whose PDF has this digest, to the last byte; None for none."""
    row = conn.execute(_COLUMNS + " AND json_extract(entry.content, '$.pdf') = ? ORDER BY entry.id", (digest,)).fetchone()
    return _made(row) if row else None


def _made(row: sqlite3.Row) -> MadeReport:
    job_id, entry_id, sheet, seal, pdf, made_at, vehicle, withdrawn = row
    return MadeReport(job_id, entry_id, sheet, seal, pdf, made_at, vehicle, bool(withdrawn))


@dataclass(frozen=True, slots=True)
class Letterhead:
    """What stands at the head of a report: the workshop's name and where it is."""

    name: str = "The workshop"
    place: str = ""


def letterhead_of(conn: sqlite3.Connection) -> Letterhead:
    """The workshop's, as it was settled."""
    settled = house_choices(conn)
    return Letterhead(settled.get("letterhead.name") or "The workshop", settled.get("letterhead.place", ""))


def keep_letterhead(conn: sqlite3.Connection, head: Letterhead, person: str = "") -> None:
    """Settle it."""
    settle_house(conn, "letterhead.name", head.name, person)
    settle_house(conn, "letterhead.place", head.place, person)
