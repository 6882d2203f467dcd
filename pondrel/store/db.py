"""Opening, migrating and committing: the only module that calls sqlite3."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path

__all__ = ["DATABASE", "atomic", "connect", "migrate", "now"]

DATABASE = "pondrel.sqlite"
_MIGRATIONS = Path(__file__).parent / "migrations"


def connect(path: Path) -> sqlite3.Connection:
    """A connection with rows by name, foreign keys on, write-ahead log, and every commit on the disk before it returns."""
    conn = sqlite3.connect(path, timeout=10.0, isolation_level=None)
    conn.row_factory = sqlite3.Row
    conn.execute("PRAGMA busy_timeout = 10000")
    conn.execute("PRAGMA journal_mode = WAL")
    conn.execute("PRAGMA synchronous = FULL")
    conn.execute("PRAGMA foreign_keys = ON")
    return conn


@contextmanager
def atomic(conn: sqlite3.Connection) -> Iterator[sqlite3.Connection]:
    """Commit what the block wrote, or nothing of it."""
    conn.execute("BEGIN IMMEDIATE")
    try:
        yield conn
    except BaseException:
        conn.rollback()
        raise
    conn.execute("COMMIT")


def migrate(conn: sqlite3.Connection) -> int:
    """Run the migrations that the database has not had, each together with its number or not at all; returns the version."""
    version = conn.execute("PRAGMA user_version").fetchone()[0]
    for file in sorted(_MIGRATIONS.glob("[0-9]*.sql")):
        number = int(file.name.split("_")[0])
        if number <= version:
            continue
        try:
            conn.executescript(f"BEGIN IMMEDIATE;\n{file.read_text(encoding='utf-8')}\n;PRAGMA user_version = {number:d};\nCOMMIT;")
        except sqlite3.Error:
            conn.rollback()
            raise
        version = number
    return version


def now() -> str:
    """The time to the second, UTC, as ISO 8601 text."""
    return datetime.now(UTC).strftime("%Y-%m-%dT%H:%M:%SZ")
