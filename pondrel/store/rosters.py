"""Rosters of modules: kept as their text, the newest of each title counts; which of them fits a vehicle."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass
from functools import lru_cache

from ..core.circuit.fits import misfit
from ..core.job.module_work import FROM_MODULES
from ..core.module.roster import Roster, parse_roster
from ..core.module.roster.standard import STANDARD_TITLE, standard_text
from .db import now
from .vehicles import Vehicle

__all__ = ["RosterRow", "add_roster", "all_rosters", "keep_standard_roster", "roster_fitting", "roster_for", "roster_row"]

_NEWEST = "SELECT id, title, text, person, made_at FROM roster WHERE id IN (SELECT max(id) FROM roster GROUP BY title) ORDER BY title"
_ONE = "SELECT id, title, text, person, made_at FROM roster WHERE id = ?"
_INSERT = "INSERT INTO roster (title, text, person, made_at) VALUES (?, ?, ?, ?) RETURNING id"
# Where jobs stand that asked modules hangs on the roster.
_STAND_OTHERWISE = "UPDATE bay SET known = 0 WHERE job_id IN (SELECT job_id FROM entry WHERE kind IN ({marks}))"


@dataclass(frozen=True, slots=True)
class RosterRow:
    """A roster as it is kept."""

    id: int
    title: str
    text: str
    person: str
    made_at: str

    @property
    def roster(self) -> Roster:
        """What its text says. Raises SheetError where it is no roster any more."""
        return _parsed(self.text)


@lru_cache(maxsize=64)
def _parsed(text: str) -> Roster:
    return parse_roster(text)


def add_roster(conn: sqlite3.Connection, text: str, person: str = "", made_at: str | None = None) -> int:
    """Keep a roster; the same text again is the one that is there. Returns its id. Raises SheetError for a text that is none."""
    title = parse_roster(text).title
    same = next((row.id for row in all_rosters(conn) if row.text == text), None)
    if same is not None:
        return same
    kinds = sorted(FROM_MODULES)
    conn.execute(_STAND_OTHERWISE.format(marks=", ".join("?" * len(kinds))), kinds)
    return int(conn.execute(_INSERT, (title, text, person, made_at or now())).fetchone()[0])


def all_rosters(conn: sqlite3.Connection) -> list[RosterRow]:
    """The newest roster of each title."""
    return [RosterRow(*row) for row in conn.execute(_NEWEST)]


def roster_row(conn: sqlite3.Connection, roster_id: int) -> RosterRow | None:
    """A roster; None where there is none of that id."""
    row = conn.execute(_ONE, (roster_id,)).fetchone()
    return RosterRow(*row) if row else None


def roster_for(conn: sqlite3.Connection, vehicle: Vehicle) -> RosterRow | None:
    """The roster that says that it fits a vehicle, or else that of any vehicle; None where that is not kept (yet)."""
    return roster_fitting(conn, vehicle) or next((row for row in all_rosters(conn) if row.title == STANDARD_TITLE), None)


def keep_standard_roster(conn: sqlite3.Connection) -> None:
    """Keep the roster of any vehicle as it is now."""
    add_roster(conn, standard_text())


def roster_fitting(conn: sqlite3.Connection, vehicle: Vehicle) -> RosterRow | None:
    """The roster that says that it fits a vehicle; None where none does."""
    year = int(vehicle.year) if vehicle.year.isdecimal() else None
    for row in all_rosters(conn):
        fits = row.roster.fits
        if fits and vehicle.make and not misfit(fits, vehicle.make, vehicle.model, year, vehicle.options):
            return row
    return None
