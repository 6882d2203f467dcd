"""Forms that have been written: a form carries a key made when it was drawn, and what its first sending wrote answers every other."""

from __future__ import annotations

import re
import sqlite3
from collections.abc import Callable
from contextlib import suppress

from .db import StoreError, atomic, now

__all__ = ["KEY", "forget_old_keys", "is_written", "once"]

KEY = re.compile(r"[A-Za-z0-9_-]{16,64}")
KEPT_DAYS = 60


def is_written(conn: sqlite3.Connection, key: str) -> bool:
    """Whether a form with that key has been written."""
    return conn.execute("SELECT 1 FROM written WHERE key = ?", (key,)).fetchone() is not None


def once(conn: sqlite3.Connection, key: str, write: Callable[[], str]) -> str:
    """Run ``write`` in a transaction and return its answer; where the key has been written already, that answer without writing again.

    The key and what it stands for are on the disk together or not at all. An empty key, or one that no form of ours could have, writes
    without being remembered.
    """
    with atomic(conn):
        row = conn.execute("SELECT answer FROM written WHERE key = ?", (key,)).fetchone()
        if row is not None:
            return str(row[0])
        answer = write()
        if KEY.fullmatch(key):
            conn.execute("INSERT INTO written (key, answer, written_at) VALUES (?, ?, ?)", (key, answer, now()))
    return answer


def forget_old_keys(conn: sqlite3.Connection) -> None:
    """Let go of the keys of forms that nobody will send any more."""
    with suppress(StoreError), atomic(conn):
        conn.execute("DELETE FROM written WHERE written_at < strftime('%Y-%m-%dT%H:%M:%SZ', 'now', ?)", (f"-{KEPT_DAYS} days",))
