"""The workshop's own limits for checks by themselves, with their versions."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

from .db import now

__all__ = ["OwnLimit", "add_limit", "limits_for", "own_limit", "search_limits", "versions_of", "withdraw_limit"]

_COLUMNS = "number, version, family, what, line, note, person, made_at"
_CURRENT = f"""
SELECT {_COLUMNS}
FROM own_limit
WHERE (number, version) IN (SELECT number, max(version) FROM own_limit GROUP BY number) AND NOT gone
"""
_INSERT = """
INSERT INTO own_limit (number, version, family, what, line, note, person, gone, made_at)
VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)
"""
MOST_FOUND = 300


@dataclass(frozen=True, slots=True)
class OwnLimit:
    """A limit: its number and version, for which family and for ``what`` (empty for all of the family), its line as it is written, a note,
    and who wrote it when."""

    number: int
    version: int
    family: str
    what: str
    line: str
    note: str
    person: str
    made_at: str


def add_limit(
    conn: sqlite3.Connection, family: str, what: str, line: str, note: str = "", person: str = "", number: int | None = None
) -> OwnLimit:
    """Write a limit down, or the next version of one."""
    if number is None:
        number = int(conn.execute("SELECT coalesce(max(number), 0) + 1 FROM own_limit").fetchone()[0])
    version = int(conn.execute("SELECT coalesce(max(version), 0) + 1 FROM own_limit WHERE number = ?", (number,)).fetchone()[0])
    at = now()
    conn.execute(_INSERT, (number, version, family, what, line, note, person, 0, at))
    return OwnLimit(number, version, family, what, line, note, person, at)


def withdraw_limit(conn: sqlite3.Connection, number: int, person: str = "") -> None:
    """Take a limit off the list; its versions stay."""
    last = own_limit(conn, number)
    if last is not None:
        conn.execute(_INSERT, (number, last.version + 1, last.family, last.what, last.line, last.note, person, 1, now()))


def own_limit(conn: sqlite3.Connection, number: int) -> OwnLimit | None:
    """The current version of a limit; None where there is none on the list."""
    row = conn.execute(f"{_CURRENT} AND number = ?", (number,)).fetchone()
    return OwnLimit(*row) if row else None


def versions_of(conn: sqlite3.Connection, number: int) -> list[OwnLimit]:
    """Every version of a limit, oldest first."""
    rows = conn.execute(f"SELECT {_COLUMNS} FROM own_limit WHERE number = ? ORDER BY version", (number,))
    return [OwnLimit(*row) for row in rows]


def limits_for(conn: sqlite3.Connection, family: str, what: str) -> list[OwnLimit]:
    """The limits of a family for one thing, then those for all of the family."""
    sql = f"{_CURRENT} AND family = ? AND (what = '' OR lower(what) = lower(?)) ORDER BY what = '', number"
    return [OwnLimit(*row) for row in conn.execute(sql, (family, what))]


def search_limits(conn: sqlite3.Connection, words: str) -> list[OwnLimit]:
    """The limits in which every one of some words stands, by family and what they are for."""
    sql, values = _CURRENT, []
    for word in words.split()[:8]:
        sql += " AND (family || ' ' || what || ' ' || line || ' ' || note) LIKE ? ESCAPE '\\'"
        values.append("%" + word.replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_") + "%")
    sql += " ORDER BY family, what, number LIMIT ?"
    return [OwnLimit(*row) for row in conn.execute(sql, (*values, MOST_FOUND))]
