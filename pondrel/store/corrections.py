"""What was found different from a sheet on one vehicle, with who and when."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

from .db import now

__all__ = ["Correction", "OnVehicle", "add_correction", "corrections_of", "corrections_on"]


@dataclass(frozen=True, slots=True)
class Correction:
    """A correction to a sheet; ``vehicle`` is the vehicle's name, empty where it holds for all of them. ``step`` is how it is made on the
    drawing, as JSON, empty where it is told in words only."""

    id: int
    sheet_id: int
    vehicle: str
    part: str
    says: str
    person: str
    made_at: str
    step: str = ""


@dataclass(frozen=True, slots=True)
class OnVehicle:
    """A correction as a vehicle's page lists it: ``title`` is the sheet's."""

    id: int
    sheet_id: int
    title: str
    part: str
    says: str
    person: str
    made_at: str


_INSERT = """
INSERT INTO correction (sheet_id, vehicle_id, part, says, person, made_at)
VALUES (?, ?, ?, ?, ?, ?)
RETURNING id
"""
_OF = """
SELECT correction.id, correction.sheet_id, coalesce(vehicle.name, ''), part, says, person, made_at, coalesce(step, '')
FROM correction
LEFT JOIN vehicle ON vehicle.id = correction.vehicle_id
LEFT JOIN correction_step ON correction_step.correction_id = correction.id
WHERE sheet_id IN (SELECT value FROM json_each(?))
ORDER BY correction.id DESC
"""
_ON = """
SELECT correction.id, correction.sheet_id, sheet.title, part, says, person, made_at
FROM correction
JOIN sheet ON sheet.id = correction.sheet_id
WHERE vehicle_id = ?
ORDER BY correction.id DESC
"""


def add_correction(
    conn: sqlite3.Connection, sheet_id: int, vehicle_id: int | None, part: str, says: str, person: str, made_at: str = "", step: str = ""
) -> int:
    """Keep a correction, with the ``step`` that makes it on the drawing where there is one; returns its id."""
    number = int(conn.execute(_INSERT, (sheet_id, vehicle_id, part, says, person, made_at or now())).fetchone()[0])
    if step:
        conn.execute("INSERT INTO correction_step (correction_id, step) VALUES (?, ?)", (number, step))
    return number


def corrections_of(conn: sqlite3.Connection, sheet_ids: list[int]) -> list[Correction]:
    """Corrections to any of some sheets (the versions of one), the newest first."""
    return [Correction(*row) for row in conn.execute(_OF, (str(sheet_ids),))]


def corrections_on(conn: sqlite3.Connection, vehicle_id: int) -> list[OnVehicle]:
    """What was found different from sheets on one vehicle, the newest first."""
    return [OnVehicle(*row) for row in conn.execute(_ON, (vehicle_id,))]
