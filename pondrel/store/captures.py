"""Captures of the scope: rows of what was taken, marked and judged; their samples lie in files (`store.prepared`)."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from .db import now

__all__ = [
    "CaptureRow",
    "JudgedRow",
    "LaidRow",
    "MarkRow",
    "add_capture",
    "add_judged",
    "add_laid",
    "add_mark",
    "add_plan",
    "capture_of",
    "captures_beside",
    "judged_of",
    "laid_of",
    "latest_captures",
    "marks_of",
    "plan_of",
    "strike_mark",
]

_COLUMNS = """
capture.id, capture.digest, capture.name, says, capture.vehicle_id, vehicle.name, capture.job_id, full_scale, count, step, channels,
capture.person, capture.made_at
"""
_FROM = f"SELECT {_COLUMNS} FROM capture LEFT JOIN vehicle ON vehicle.id = capture.vehicle_id"
_INSERT = """
INSERT INTO capture (digest, name, says, vehicle_id, job_id, full_scale, count, step, channels, person, made_at)
VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)
RETURNING id
"""
_JUDGED = "SELECT id, capture_id, pattern, given, verdict, says, person, made_at FROM capture_judged"
_STRIKE = """
INSERT INTO capture_mark_strike (mark_id, person, struck_at)
SELECT id, ?, ? FROM capture_mark WHERE id = ? AND capture_id = ?
ON CONFLICT (mark_id) DO NOTHING
"""
MOST_BESIDE = 8


@dataclass(frozen=True, slots=True)
class CaptureRow:
    """A capture as it is kept: its file by digest and name, what it is of in words, the vehicle and the job that it is of (None for
    neither), samples of each channel, seconds between two, and each channel's name and unit."""

    id: int
    digest: str
    name: str
    says: str
    vehicle_id: int | None
    vehicle: str
    job_id: int | None
    full_scale: float | None
    count: int
    step: float
    channels: tuple[tuple[str, str], ...]
    person: str
    made_at: str

    @property
    def seconds(self) -> float:
        """How long it is."""
        return self.count * self.step


@dataclass(frozen=True, slots=True)
class MarkRow:
    """A mark that stands: at which time of the capture (s), and what was done."""

    id: int
    at: float
    says: str
    person: str


@dataclass(frozen=True, slots=True)
class JudgedRow:
    """What a capture came to by a pattern, and what was given for that."""

    id: int
    capture_id: int
    pattern: str
    given: Mapping[str, object]
    verdict: str
    says: str
    person: str
    made_at: str


@dataclass(frozen=True, slots=True)
class LaidRow:
    """Where a channel (its place from 0) of a capture was taken: the number of the job's circuit, the state, and the places of both
    leads."""

    id: int
    channel: int
    trace_number: int
    state: str
    red: str
    black: str


def _row(row: sqlite3.Row) -> CaptureRow:
    values = list(row)
    values[5] = values[5] or ""
    values[10] = tuple((str(name), str(unit)) for name, unit in json.loads(values[10]))
    return CaptureRow(*values)


def add_capture(
    conn: sqlite3.Connection, digest: str, name: str, says: str, count: int, step: float, channels: Sequence[tuple[str, str]],
    *, vehicle_id: int | None = None, job_id: int | None = None, full_scale: float | None = None, person: str = "",
    made_at: str | None = None,
) -> int:  # fmt: skip
    """Keep a capture's row, return its id."""
    text = json.dumps([list(channel) for channel in channels], ensure_ascii=False)
    values = (digest, name, says, vehicle_id, job_id, full_scale, count, step, text, person, made_at or now())
    return int(conn.execute(_INSERT, values).fetchone()[0])


def capture_of(conn: sqlite3.Connection, capture_id: int) -> CaptureRow | None:
    """A capture; None where there is none of that id."""
    row = conn.execute(f"{_FROM} WHERE capture.id = ?", (capture_id,)).fetchone()
    return _row(row) if row else None


def latest_captures(conn: sqlite3.Connection, count: int, job_id: int | None = None) -> list[CaptureRow]:
    """The newest captures (of a job, or of all), newest first."""
    sql = f"{_FROM} WHERE ? IS NULL OR capture.job_id = ? ORDER BY capture.id DESC LIMIT ?"
    return [_row(row) for row in conn.execute(sql, (job_id, job_id, count))]


def captures_beside(conn: sqlite3.Connection, own: CaptureRow) -> list[CaptureRow]:
    """Other captures that one may be laid beside: of its vehicle or job first, then the newest of all."""
    sql = f"""{_FROM} WHERE capture.id <> ?
    ORDER BY coalesce(capture.job_id = ?, 0) DESC, coalesce(capture.vehicle_id = ?, 0) DESC, capture.id DESC LIMIT ?"""
    return [_row(row) for row in conn.execute(sql, (own.id, own.job_id, own.vehicle_id, MOST_BESIDE))]


def add_mark(conn: sqlite3.Connection, capture_id: int, at: float, says: str, person: str = "", made_at: str | None = None) -> int:
    """Set a mark, return its id."""
    sql = "INSERT INTO capture_mark (capture_id, at, says, person, made_at) VALUES (?, ?, ?, ?, ?) RETURNING id"
    return int(conn.execute(sql, (capture_id, at, says, person, made_at or now())).fetchone()[0])


def marks_of(conn: sqlite3.Connection, capture_id: int) -> list[MarkRow]:
    """The marks of a capture that stand, in its time's order."""
    sql = """
        SELECT id, at, says, person FROM capture_mark
        WHERE capture_id = ? AND NOT EXISTS (SELECT 1 FROM capture_mark_strike WHERE mark_id = capture_mark.id)
        ORDER BY at, id
    """
    return [MarkRow(*row) for row in conn.execute(sql, (capture_id,))]


def strike_mark(conn: sqlite3.Connection, capture_id: int, mark_id: int, person: str = "") -> bool:
    """Strike a mark out; False where the capture has no such mark that stands."""
    return conn.execute(_STRIKE, (person, now(), mark_id, capture_id)).rowcount == 1


def add_judged(
    conn: sqlite3.Connection, capture_id: int, pattern: str, given: Mapping[str, object], verdict: str, says: str, person: str = "",
    made_at: str | None = None,
) -> int:  # fmt: skip
    """Keep what a capture came to, return its id."""
    sql = """
        INSERT INTO capture_judged (capture_id, pattern, given, verdict, says, person, made_at)
        VALUES (?, ?, ?, ?, ?, ?, ?) RETURNING id
    """
    text = json.dumps(given, ensure_ascii=False)
    return int(conn.execute(sql, (capture_id, pattern, text, verdict, says, person, made_at or now())).fetchone()[0])


def judged_of(conn: sqlite3.Connection, capture_ids: Sequence[int]) -> Mapping[int, JudgedRow]:
    """By capture: what it came to the last time that it was judged; none where it never was."""
    found: dict[int, JudgedRow] = {}
    for capture_id in capture_ids:
        row = conn.execute(f"{_JUDGED} WHERE capture_id = ? ORDER BY id DESC LIMIT 1", (capture_id,)).fetchone()
        if row is not None:
            values = list(row)
            values[3] = json.loads(values[3])
            found[capture_id] = JudgedRow(*values)
    return found


def add_laid(
    conn: sqlite3.Connection, capture_id: int, channel: int, trace_number: int, state: str, red: str, black: str, person: str = ""
) -> None:
    """Keep where a channel was taken."""
    sql = """
        INSERT INTO capture_laid (capture_id, channel, trace_number, state, red, black, person, made_at)
        VALUES (?, ?, ?, ?, ?, ?, ?, ?)
    """
    conn.execute(sql, (capture_id, channel, trace_number, state, red, black, person, now()))


def laid_of(conn: sqlite3.Connection, capture_id: int) -> LaidRow | None:
    """Where a capture was taken, as it was said last; None where nobody said."""
    sql = """
        SELECT id, channel, trace_number, state, red, black FROM capture_laid
        WHERE capture_id = ? ORDER BY id DESC LIMIT 1
    """
    row = conn.execute(sql, (capture_id,)).fetchone()
    return LaidRow(*row) if row else None


def add_plan(conn: sqlite3.Connection, capture_id: int, things: str, person: str = "") -> None:
    """Keep what can be unplugged one after the other."""
    sql = "INSERT INTO capture_plan (capture_id, things, person, made_at) VALUES (?, ?, ?, ?)"
    conn.execute(sql, (capture_id, things, person, now()))


def plan_of(conn: sqlite3.Connection, capture_id: int) -> str:
    """What can be unplugged, as it was typed last; empty where nobody did."""
    row = conn.execute("SELECT things FROM capture_plan WHERE capture_id = ? ORDER BY id DESC LIMIT 1", (capture_id,)).fetchone()
    return str(row[0]) if row else ""
