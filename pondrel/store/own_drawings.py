"""Vehicles' own drawings of circuits of the library, made where one is drawn otherwise than it is on the vehicle."""

from __future__ import annotations

import sqlite3

from .db import now
from .sheets import StoredSheet, add_sheet, get_sheet

__all__ = ["add_own_drawing", "library_sheet_of", "note_own_drawing", "own_drawing_of"]

_MARK = "# as found on "
_INSERT = "INSERT OR IGNORE INTO own_drawing (sheet_id, library_id, vehicle_id, made_at) VALUES (?, ?, ?, ?)"
_LIBRARY = "SELECT library_id FROM own_drawing WHERE sheet_id = ?"
_OWN = "SELECT sheet_id FROM own_drawing WHERE vehicle_id = ? AND library_id = ? ORDER BY made_at DESC, sheet_id DESC LIMIT 1"


def add_own_drawing(conn: sqlite3.Connection, text: str, library_id: int, vehicle_id: int, vehicle: str) -> StoredSheet:
    """Store a drawing as a vehicle's own; its first line says whose it is. Returns it as it is stored."""
    name = " ".join(vehicle.split())[:60]
    own = "\n".join(line for line in text.splitlines() if not line.startswith(_MARK))
    sheet_id = add_sheet(conn, f"{_MARK}{name}, number {vehicle_id} here\n{own}\n")
    conn.execute(_INSERT, (sheet_id, library_id, vehicle_id, now()))
    stored = get_sheet(conn, sheet_id)
    assert stored is not None  # it was written just now
    return stored


def note_own_drawing(conn: sqlite3.Connection, sheet_id: int, text: str, vehicle_id: int) -> None:
    """Keep a sheet that came in with a job out of the library, where its first line says that it is one vehicle's own drawing."""
    if text.startswith(_MARK):
        conn.execute(_INSERT, (sheet_id, sheet_id, vehicle_id, now()))


def library_sheet_of(conn: sqlite3.Connection, sheet_id: int) -> int:
    """The sheet of the library that an own drawing was made from; the sheet itself where it is of the library."""
    row = conn.execute(_LIBRARY, (sheet_id,)).fetchone()
    return int(row[0]) if row else sheet_id


def own_drawing_of(conn: sqlite3.Connection, vehicle_id: int, library_id: int) -> int | None:
    """A vehicle's own drawing of a sheet, None where it has none."""
    row = conn.execute(_OWN, (vehicle_id, library_id)).fetchone()
    return int(row[0]) if row else None
