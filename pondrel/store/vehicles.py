"""Vehicles: what they are called and what they are."""

from __future__ import annotations

import sqlite3
from dataclasses import asdict, dataclass

from ..core.base.errors import PondrelError
from ..core.vehicle.facts import FACT_NAMES, Facts

__all__ = ["Vehicle", "add_vehicle", "all_vehicles", "change_vehicle", "get_vehicle"]


@dataclass(frozen=True, slots=True)
class Vehicle(Facts):
    """A vehicle."""

    id: int = 0


_COLUMNS = ", ".join((*FACT_NAMES, "id"))
_INSERT = f"INSERT INTO vehicle ({', '.join(FACT_NAMES)}) VALUES ({', '.join('?' * len(FACT_NAMES))}) RETURNING id"
_CHANGE = f"UPDATE vehicle SET {', '.join(f'{name} = ?' for name in FACT_NAMES)} WHERE id = ?"


def _values(facts: Facts) -> tuple[object, ...]:
    known = asdict(facts)
    return tuple(known[name] for name in FACT_NAMES)


def add_vehicle(conn: sqlite3.Connection, facts: Facts) -> int:
    """Insert a vehicle, return its id. Raises PondrelError where the name is taken; sqlite3.IntegrityError where it is empty."""
    _check_name(conn, facts.name, None)
    return int(conn.execute(_INSERT, _values(facts)).fetchone()[0])


def change_vehicle(conn: sqlite3.Connection, vehicle_id: int, facts: Facts) -> None:
    """Write down what a vehicle is now; what it was before is kept. Raises PondrelError where the name is another vehicle's."""
    _check_name(conn, facts.name, vehicle_id)
    conn.execute(_CHANGE, (*_values(facts), vehicle_id))


def _check_name(conn: sqlite3.Connection, name: str, own: int | None) -> None:
    row = conn.execute("SELECT id FROM vehicle WHERE name = ?", (name,)).fetchone()
    if row is not None and row["id"] != own:
        raise PondrelError(f"There is a vehicle '{name}' already: choose it from the list, or call this one something else.")


def all_vehicles(conn: sqlite3.Connection) -> list[Vehicle]:
    """Every vehicle, by name."""
    return [Vehicle(*row) for row in conn.execute(f"SELECT {_COLUMNS} FROM vehicle ORDER BY name, id")]


def get_vehicle(conn: sqlite3.Connection, vehicle_id: int) -> Vehicle | None:
    """One vehicle, None if there is none of that id."""
    row = conn.execute(f"SELECT {_COLUMNS} FROM vehicle WHERE id = ?", (vehicle_id,)).fetchone()
    return Vehicle(*row) if row else None
