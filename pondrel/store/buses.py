"""Logs of buses: rows of what was taken and marked, signal databases, and what flags and silent senders say of circuits."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass

from .db import now

__all__ = [
    "BusLogRow", "BusMarkRow", "DatabaseRow", "LinkRow", "add_bus_log", "add_bus_mark", "add_database", "add_link", "all_databases",
    "all_links", "bus_log_of", "bus_logs_beside", "bus_marks_of", "choose_databases", "chosen_databases", "latest_bus_logs",
    "strike_bus_mark",
]  # fmt: skip

_COLUMNS = """
bus_log.id, bus_log.digest, bus_log.name, says, bus_log.vehicle_id, vehicle.name, bus_log.job_id, frames, seconds, channels,
bus_log.person, bus_log.made_at
"""
_FROM = f"SELECT {_COLUMNS} FROM bus_log LEFT JOIN vehicle ON vehicle.id = bus_log.vehicle_id"
_INSERT = """
INSERT INTO bus_log (digest, name, says, vehicle_id, job_id, frames, seconds, channels, person, made_at)
VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)
RETURNING id
"""
_MARKS = """
SELECT id, at, says, person FROM bus_mark
WHERE log_id = ? AND NOT EXISTS (SELECT 1 FROM bus_mark_strike WHERE mark_id = bus_mark.id)
ORDER BY at, id
"""
_STRIKE = """
INSERT INTO bus_mark_strike (mark_id, person, struck_at)
SELECT id, ?, ? FROM bus_mark WHERE id = ? AND log_id = ?
ON CONFLICT (mark_id) DO NOTHING
"""
_LINKS = """
SELECT bus_link.id, frame, signal, sheet_id, sheet.title, line, person FROM bus_link JOIN sheet ON sheet.id = bus_link.sheet_id
WHERE bus_link.id IN (SELECT max(id) FROM bus_link GROUP BY frame, signal) AND line <> ''
ORDER BY frame, signal
"""
_ALIKE = "EXISTS (SELECT 1 FROM vehicle AS mine WHERE mine.id = ? AND mine.make = vehicle.make AND mine.model = vehicle.model)"
MOST_BESIDE = 12


@dataclass(frozen=True, slots=True)
class BusLogRow:
    """A log as it is kept: its file by digest and name, what it is of in words, the vehicle and the job that it is of (None for neither),
    its frames, seconds, and the names of its channels."""

    id: int
    digest: str
    name: str
    says: str
    vehicle_id: int | None
    vehicle: str
    job_id: int | None
    frames: int
    seconds: float
    channels: tuple[str, ...]
    person: str
    made_at: str


@dataclass(frozen=True, slots=True)
class BusMarkRow:
    """A mark that stands: at which second of the log, and what was done."""

    id: int
    at: float
    says: str
    person: str


@dataclass(frozen=True, slots=True)
class DatabaseRow:
    """A signal database: its file by digest and name, and how many messages it knows."""

    id: int
    digest: str
    name: str
    messages: int


@dataclass(frozen=True, slots=True)
class LinkRow:
    """What a flag (``frame`` and ``signal``) or a silent sender (``signal`` is its name, ``frame`` empty) says of a circuit: a ``line`` of
    evidence on a sheet."""

    id: int
    frame: str
    signal: str
    sheet_id: int
    title: str
    line: str
    person: str


def _row(row: sqlite3.Row) -> BusLogRow:
    values = list(row)
    values[5] = values[5] or ""
    values[9] = tuple(str(name) for name in json.loads(values[9]))
    return BusLogRow(*values)


def add_bus_log(
    conn: sqlite3.Connection, digest: str, name: str, says: str, frames: int, seconds: float, channels: Sequence[str],
    *, vehicle_id: int | None = None, job_id: int | None = None, person: str = "", made_at: str | None = None,
) -> int:  # fmt: skip
    """Keep a log's row, return its id."""
    text = json.dumps(list(channels), ensure_ascii=False)
    values = (digest, name, says, vehicle_id, job_id, frames, seconds, text, person, made_at or now())
    return int(conn.execute(_INSERT, values).fetchone()[0])


def bus_log_of(conn: sqlite3.Connection, log_id: int) -> BusLogRow | None:
    """A log; None where there is none of that id."""
    row = conn.execute(f"{_FROM} WHERE bus_log.id = ?", (log_id,)).fetchone()
    return _row(row) if row else None


def latest_bus_logs(conn: sqlite3.Connection, count: int, job_id: int | None = None) -> list[BusLogRow]:
    """The newest logs (of a job, or of all), newest first."""
    sql = f"{_FROM} WHERE ? IS NULL OR bus_log.job_id = ? ORDER BY bus_log.id DESC LIMIT ?"
    return [_row(row) for row in conn.execute(sql, (job_id, job_id, count))]


def bus_logs_beside(conn: sqlite3.Connection, own: BusLogRow) -> list[BusLogRow]:
    """Other logs that one may be compared with: of its vehicle, of vehicles of its make and model, or of no vehicle that is known."""
    sql = f"""{_FROM} WHERE bus_log.id <> ? AND (bus_log.vehicle_id IS NULL OR ? IS NULL OR bus_log.vehicle_id = ? OR {_ALIKE})
    ORDER BY coalesce(bus_log.vehicle_id = ?, 0) DESC, {_ALIKE} DESC, bus_log.id DESC LIMIT ?"""
    vehicle = own.vehicle_id
    return [_row(row) for row in conn.execute(sql, (own.id, vehicle, vehicle, vehicle, vehicle, vehicle, MOST_BESIDE))]


def add_bus_mark(conn: sqlite3.Connection, log_id: int, at: float, says: str, person: str = "", made_at: str | None = None) -> int:
    """Set a mark, return its id."""
    sql = "INSERT INTO bus_mark (log_id, at, says, person, made_at) VALUES (?, ?, ?, ?, ?) RETURNING id"
    return int(conn.execute(sql, (log_id, at, says, person, made_at or now())).fetchone()[0])


def bus_marks_of(conn: sqlite3.Connection, log_id: int) -> list[BusMarkRow]:
    """The marks of a log that stand, in its time's order."""
    return [BusMarkRow(*row) for row in conn.execute(_MARKS, (log_id,))]


def strike_bus_mark(conn: sqlite3.Connection, log_id: int, mark_id: int, person: str = "") -> bool:
    """Strike a mark out; False where the log has no such mark that stands."""
    return conn.execute(_STRIKE, (person, now(), mark_id, log_id)).rowcount == 1


def add_database(
    conn: sqlite3.Connection, digest: str, name: str, messages: int, person: str = "", made_at: str | None = None
) -> int:  # fmt: skip
    """Keep a signal database, return its id; the same file under the same name is kept once."""
    known = conn.execute("SELECT id FROM signal_database WHERE digest = ? AND name = ?", (digest, name)).fetchone()
    if known:
        return int(known[0])
    sql = "INSERT INTO signal_database (digest, name, messages, person, made_at) VALUES (?, ?, ?, ?, ?) RETURNING id"
    return int(conn.execute(sql, (digest, name, messages, person, made_at or now())).fetchone()[0])


def all_databases(conn: sqlite3.Connection) -> list[DatabaseRow]:
    """All signal databases, by name, the newest of a name first."""
    return [DatabaseRow(*row) for row in conn.execute("SELECT id, digest, name, messages FROM signal_database ORDER BY name, id DESC")]


def choose_databases(
    conn: sqlite3.Connection, log_id: int, databases: Sequence[tuple[int, str]], person: str = "", made_at: str | None = None
) -> None:  # fmt: skip
    """Keep which databases read a log: each with the channel that it is for, empty for all."""
    text = json.dumps([[database_id, channel] for database_id, channel in databases], ensure_ascii=False)
    sql = "INSERT INTO bus_log_database (log_id, databases, person, made_at) VALUES (?, ?, ?, ?)"
    conn.execute(sql, (log_id, text, person, made_at or now()))


def chosen_databases(conn: sqlite3.Connection, log_id: int) -> tuple[tuple[DatabaseRow, str], ...]:
    """The databases that read a log, each with its channel; none where none was chosen."""
    row = conn.execute("SELECT databases FROM bus_log_database WHERE log_id = ? ORDER BY id DESC LIMIT 1", (log_id,)).fetchone()
    known = {own.id: own for own in all_databases(conn)}
    return tuple((known[int(one)], str(channel)) for one, channel in (json.loads(row[0]) if row else ()) if int(one) in known)


def add_link(
    conn: sqlite3.Connection, frame: str, signal: str, sheet_id: int, line: str, person: str = "", made_at: str | None = None
) -> None:  # fmt: skip
    """Keep what a flag or a silent sender says of a circuit; an empty line takes the link back."""
    sql = "INSERT INTO bus_link (frame, signal, sheet_id, line, person, made_at) VALUES (?, ?, ?, ?, ?, ?)"
    conn.execute(sql, (frame, signal, sheet_id, line, person, made_at or now()))


def all_links(conn: sqlite3.Connection) -> dict[tuple[str, str], LinkRow]:
    """The links that stand, by frame and signal."""
    return {(row[1], row[2]): LinkRow(*row) for row in conn.execute(_LINKS)}
