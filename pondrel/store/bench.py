"""Checks of components by themselves, as they were made."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Mapping
from dataclasses import dataclass

from .db import now

__all__ = ["BenchRow", "add_check", "alike", "check_of", "checks_of_vehicle", "earlier_of_vehicle", "latest_checks", "new_one_after"]

_COLUMNS = """
bench_check.id, family, title, bench_check.vehicle_id, vehicle.name, bench_check.job_id, part, before_id, given, verdict, says, number,
bench_check.unit, bench_check.person, bench_check.made_at
"""
_FROM = f"SELECT {_COLUMNS} FROM bench_check LEFT JOIN vehicle ON vehicle.id = bench_check.vehicle_id"
_INSERT = """
INSERT INTO bench_check (family, title, vehicle_id, job_id, part, before_id, given, verdict, says, number, unit, person, made_at)
VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)
RETURNING id
"""
MOST_ALIKE = 200


@dataclass(frozen=True, slots=True)
class BenchRow:
    """A check as it is kept: its family, what was checked, of which vehicle and for which job, the check of the old part that it follows,
    what was given, what came of it in one sentence, and the number by which it stands beside others of its sort."""

    id: int
    family: str
    title: str
    vehicle_id: int | None
    vehicle: str
    job_id: int | None
    part: str
    before_id: int | None
    given: Mapping[str, object]
    verdict: str
    says: str
    number: float | None
    unit: str
    person: str
    made_at: str


def _row(row: sqlite3.Row) -> BenchRow:
    values = list(row)
    values[4] = values[4] or ""
    values[8] = json.loads(values[8])
    return BenchRow(*values)


def add_check(
    conn: sqlite3.Connection, family: str, title: str, given: Mapping[str, object], verdict: str, says: str, number: float | None,
    unit: str,
    *, vehicle_id: int | None = None, job_id: int | None = None, part: str = "", before_id: int | None = None, person: str = "",
    made_at: str | None = None,
) -> int:  # fmt: skip
    """Keep a check, return its id."""
    text = json.dumps(given, ensure_ascii=False)
    values = (family, title, vehicle_id, job_id, part, before_id, text, verdict, says, number, unit, person, made_at or now())
    return int(conn.execute(_INSERT, values).fetchone()[0])


def check_of(conn: sqlite3.Connection, check_id: int) -> BenchRow | None:
    """A check; None where there is none of that id."""
    row = conn.execute(f"{_FROM} WHERE bench_check.id = ?", (check_id,)).fetchone()
    return _row(row) if row else None


def latest_checks(conn: sqlite3.Connection, count: int) -> list[BenchRow]:
    """The newest checks, newest first."""
    return [_row(row) for row in conn.execute(f"{_FROM} ORDER BY bench_check.id DESC LIMIT ?", (count,))]


def checks_of_vehicle(conn: sqlite3.Connection, vehicle_id: int, count: int) -> list[BenchRow]:
    """A vehicle's newest checks, newest first."""
    sql = f"{_FROM} WHERE bench_check.vehicle_id = ? ORDER BY bench_check.id DESC LIMIT ?"
    return [_row(row) for row in conn.execute(sql, (vehicle_id, count))]


def earlier_of_vehicle(conn: sqlite3.Connection, family: str, vehicle_id: int, before: int | None) -> BenchRow | None:
    """A vehicle's newest check by a family, older than the one of an id where that is given; None where there is none."""
    sql = (
        f"{_FROM} WHERE family = ? AND bench_check.vehicle_id = ? AND (? IS NULL OR "
        "bench_check.id < ?) ORDER BY bench_check.id DESC LIMIT 1"
    )
    row = conn.execute(sql, (family, vehicle_id, before, before)).fetchone()
    return _row(row) if row else None


def alike(conn: sqlite3.Connection, family: str, title: str, unit: str) -> list[BenchRow]:
    """The newest checks of the same thing with a number in the same unit, newest first."""
    sql = f"""{_FROM} WHERE family = ? AND title = ? COLLATE NOCASE AND bench_check.unit = ? AND number IS NOT NULL
    ORDER BY bench_check.id DESC LIMIT ?"""
    return [_row(row) for row in conn.execute(sql, (family, title, unit, MOST_ALIKE))]


def new_one_after(conn: sqlite3.Connection, check_id: int) -> BenchRow | None:
    """The newest check of the new part that follows the one of an old part; None where the new one was not measured."""
    row = conn.execute(f"{_FROM} WHERE bench_check.before_id = ? ORDER BY bench_check.id DESC LIMIT 1", (check_id,)).fetchone()
    return _row(row) if row else None
