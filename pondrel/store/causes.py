"""A workshop's own lists of what is usually behind a code."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass

from ..core.module.causes import CauseList, kept_lists, lists_kept
from .db import now

__all__ = ["CauseTable", "cause_tables", "keep_causes", "own_causes"]


@dataclass(frozen=True, slots=True)
class CauseTable:
    """A table as it was kept: whose lists they are, how many patterns it has, by whom and when."""

    origin: str
    lists: tuple[CauseList, ...]
    person: str
    made_at: str


_LAST = """
SELECT origin, lists, person, made_at FROM cause_table
WHERE NOT EXISTS (SELECT 1 FROM cause_table AS later WHERE later.origin = cause_table.origin AND later.id > cause_table.id)
ORDER BY origin, id
"""


def keep_causes(conn: sqlite3.Connection, origin: str, lists: Sequence[CauseList], person: str = "", made_at: str | None = None) -> None:
    """Keep a table; it takes the place of the one of the same origin before it."""
    sql = "INSERT INTO cause_table (origin, lists, person, made_at) VALUES (?, ?, ?, ?)"
    conn.execute(sql, (origin, lists_kept(lists), person, made_at or now()))


def cause_tables(conn: sqlite3.Connection) -> list[CauseTable]:
    """The tables that count, by their origin."""
    return [CauseTable(row[0], kept_lists(row[1], row[0]), row[2], row[3]) for row in conn.execute(_LAST)]


def own_causes(conn: sqlite3.Connection) -> tuple[CauseList, ...]:
    """All lists that the workshop has of its own."""
    return tuple(one for table in cause_tables(conn) for one in table.lists)
