"""Vehicles in work."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

__all__ = ["Vehicle", "add_vehicle", "all_vehicles", "get_vehicle", "vehicle_named"]


@dataclass(frozen=True, slots=True)
class Vehicle:
    """A vehicle; ``name`` is what the workshop calls it."""

    id: int
    name: str
    make: str
    model: str
    year: str
    plate: str
    note: str

    @property
    def described(self) -> str:
        """Make, model and year in one line."""
        return " ".join(text for text in (self.make, self.model, self.year) if text)


_COLUMNS = "id, name, make, model, year, plate, note"


def add_vehicle(
    conn: sqlite3.Connection, name: str, make: str = "", model: str = "", year: str = "", plate: str = "", note: str = ""
) -> int:
    """Insert a vehicle, return its id; sqlite3.IntegrityError when the name is taken or empty."""
    sql = "INSERT INTO vehicle (name, make, model, year, plate, note) VALUES (?, ?, ?, ?, ?, ?) RETURNING id"
    return int(conn.execute(sql, (name, make, model, year, plate, note)).fetchone()[0])


def all_vehicles(conn: sqlite3.Connection) -> list[Vehicle]:
    """Every vehicle, by name."""
    return [Vehicle(*row) for row in conn.execute(f"SELECT {_COLUMNS} FROM vehicle ORDER BY name, id")]


def vehicle_named(conn: sqlite3.Connection, name: str) -> bool:
    """Whether a vehicle goes by that name."""
    return conn.execute("SELECT 1 FROM vehicle WHERE name = ?", (name,)).fetchone() is not None


def get_vehicle(conn: sqlite3.Connection, vehicle_id: int) -> Vehicle | None:
    """One vehicle, None if there is none of that id."""
    row = conn.execute(f"SELECT {_COLUMNS} FROM vehicle WHERE id = ?", (vehicle_id,)).fetchone()
    return Vehicle(*row) if row else None
