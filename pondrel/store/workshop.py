"""What a workshop has settled for all its jobs."""

from __future__ import annotations

import sqlite3

from ..core.base.conditions import Units

__all__ = ["keep_units", "units_of"]

_KEEP = """
INSERT INTO workshop (id, temperature, pressure, width) VALUES (1, ?, ?, ?)
ON CONFLICT (id) DO UPDATE SET temperature = excluded.temperature, pressure = excluded.pressure, width = excluded.width
"""


def units_of(conn: sqlite3.Connection) -> Units:
    """The units in which the workshop wants conditions shown; the usual ones where it never said."""
    row = conn.execute("SELECT temperature, pressure, width FROM workshop").fetchone()
    return Units(*row) if row else Units()


def keep_units(conn: sqlite3.Connection, units: Units) -> None:
    """Settle them."""
    conn.execute(_KEEP, (units.temperature, units.pressure, units.width))
