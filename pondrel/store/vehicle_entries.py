"""A vehicle's own record: notes, mileages and parts fitted, written once and struck out with a reason."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Mapping

from ..core.base.written import Value
from ..core.vehicle.history import Concluded
from ..core.vehicle.ledger import Fitted
from ..core.vehicle.mileage import Mileage
from ..core.vehicle.record import VehicleEntry, checked_vehicle_content, fitted_of, mileage_of
from .db import now

__all__ = ["add_vehicle_entry", "conclusions_on", "last_mileage", "ledger_of", "mileage_now", "strike_vehicle_entry", "vehicle_entries_of"]

_INSERT = """
INSERT INTO vehicle_entry (vehicle_id, job_id, kind, content, person, made_at)
VALUES (?, ?, ?, ?, ?, ?)
RETURNING id
"""
_OF_VEHICLE = """
SELECT vehicle_entry.id, vehicle_id, job_id, kind, content, vehicle_entry.person, made_at, vehicle_strike.reason
FROM vehicle_entry
LEFT JOIN vehicle_strike ON vehicle_strike.entry_id = vehicle_entry.id
WHERE vehicle_id = ?
ORDER BY vehicle_entry.id
"""
_STRIKE = """
INSERT INTO vehicle_strike (entry_id, reason, person, struck_at)
SELECT id, ?, ?, ?
FROM vehicle_entry
WHERE id = ? AND vehicle_id = ?
  AND NOT EXISTS (SELECT 1 FROM vehicle_strike WHERE vehicle_strike.entry_id = vehicle_entry.id)
"""
_CONCLUDED = """
SELECT entry.job_id, sheet.title, conclusion_part.part, json_extract(entry.content, '$.says'), entry.made_at
FROM conclusion_standing
JOIN entry ON entry.id = conclusion_standing.entry_id
JOIN conclusion_part ON conclusion_part.entry_id = entry.id
JOIN trace ON trace.id = entry.trace_id
JOIN sheet ON sheet.id = trace.sheet_id
JOIN job ON job.id = entry.job_id
WHERE job.vehicle_id = ?
ORDER BY entry.id, conclusion_part.place
"""


def add_vehicle_entry(
    conn: sqlite3.Connection,
    vehicle_id: int,
    kind: str,
    given: Mapping[str, Value],
    *,
    unit: str = "km",
    job_id: int | None = None,
    person: str = "",
    made_at: str | None = None,
) -> int:
    """Write a line into a vehicle's record, return its id; numbers are in ``unit`` where they name none. Raises PondrelError with one
    sentence for what does not fit."""
    at = made_at or now()
    content = checked_vehicle_content(kind, given, unit, at[:10], last_mileage(conn, vehicle_id))
    text = json.dumps(content, ensure_ascii=False)
    return int(conn.execute(_INSERT, (vehicle_id, job_id, kind, text, person, at)).fetchone()[0])


def vehicle_entries_of(conn: sqlite3.Connection, vehicle_id: int) -> tuple[VehicleEntry, ...]:
    """A vehicle's record in the order in which it was written, struck lines included."""
    return tuple(
        VehicleEntry(row[0], row[1], row[2], row[3], json.loads(row[4]), row[5], row[6], row[7])
        for row in conn.execute(_OF_VEHICLE, (vehicle_id,))
    )


def _standing(conn: sqlite3.Connection, vehicle_id: int, kind: str) -> list[VehicleEntry]:
    return [entry for entry in vehicle_entries_of(conn, vehicle_id) if entry.kind == kind and entry.struck is None]


def last_mileage(conn: sqlite3.Connection, vehicle_id: int) -> VehicleEntry | None:
    """The last line of mileage that stands, None before the first."""
    return next(reversed(_standing(conn, vehicle_id, "mileage")), None)


def mileage_now(conn: sqlite3.Connection, vehicle_id: int) -> Mileage | None:
    """What the instrument showed last."""
    entry = last_mileage(conn, vehicle_id)
    return mileage_of(entry) if entry else None


def ledger_of(conn: sqlite3.Connection, vehicle_id: int) -> tuple[Fitted, ...]:
    """The parts that were fitted to a vehicle, in the order in which they were written down."""
    return tuple(fitted_of(entry) for entry in _standing(conn, vehicle_id, "fitted"))


def strike_vehicle_entry(conn: sqlite3.Connection, vehicle_id: int, entry_id: int, reason: str, person: str = "") -> bool:
    """Strike a line out with a reason; False where there is none of that id on the vehicle, or it is struck out already."""
    return conn.execute(_STRIKE, (reason, person, now(), entry_id, vehicle_id)).rowcount == 1


def conclusions_on(conn: sqlite3.Connection, vehicle_id: int) -> tuple[Concluded, ...]:
    """What was found on a vehicle, a line for every part that a standing conclusion names."""
    return tuple(Concluded(*row) for row in conn.execute(_CONCLUDED, (vehicle_id,)))
