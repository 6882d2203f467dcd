"""The record: entries written once, struck out with a reason, never changed."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Mapping, Sequence

from ..core.base.written import Value
from ..core.job.entry import Entry, Struck
from ..core.job.kinds import checked_content
from .db import now

__all__ = ["add_entry", "entries_of", "strike_entry"]

_INSERT = """
INSERT INTO entry (job_id, trace_id, kind, content, person, made_at)
VALUES (?, ?, ?, ?, ?, ?) RETURNING id
"""
_ATTACH = "INSERT INTO entry_file (entry_id, place, digest, name) VALUES (?, ?, ?, ?)"
_OF_JOB = """
SELECT entry.id, entry.job_id, entry.trace_id, entry.kind, entry.content, entry.person, entry.made_at,
       strike.reason AS strike_reason, strike.person AS strike_person, strike.struck_at
FROM entry
LEFT JOIN strike ON strike.entry_id = entry.id
WHERE entry.job_id = ?
ORDER BY entry.id
"""
_FILES = """
SELECT entry_file.entry_id, entry_file.digest, entry_file.name
FROM entry_file
JOIN entry ON entry.id = entry_file.entry_id
WHERE entry.job_id = ?
ORDER BY entry_file.entry_id, entry_file.place
"""
_STRIKE = """
INSERT INTO strike (entry_id, reason, person, struck_at)
SELECT entry.id, ?, ?, ?
FROM entry
WHERE entry.id = ? AND entry.job_id = ?
  AND NOT EXISTS (SELECT 1 FROM strike WHERE strike.entry_id = entry.id)
"""


def add_entry(
    conn: sqlite3.Connection,
    job_id: int,
    kind: str,
    content: Mapping[str, Value],
    *,
    trace_id: int | None = None,
    person: str = "",
    made_at: str | None = None,
    files: Sequence[tuple[str, str]] = (),
) -> int:
    """Write an entry, return its id; it is on the disk when the surrounding transaction has ended. ``files`` are pairs of a digest and a
    name.

    Raises EntryError for content that is not of its kind, sqlite3.IntegrityError for a trace that is not the job's.
    """
    text = json.dumps(checked_content(kind, content), ensure_ascii=False)
    entry_id = int(conn.execute(_INSERT, (job_id, trace_id, kind, text, person, made_at or now())).fetchone()[0])
    conn.executemany(_ATTACH, [(entry_id, place, digest, name) for place, (digest, name) in enumerate(files)])
    return entry_id


def entries_of(conn: sqlite3.Connection, job_id: int) -> tuple[Entry, ...]:
    """A job's entries in the order in which they were written, struck ones included."""
    files: dict[int, list[tuple[str, str]]] = {}
    for entry_id, digest, name in conn.execute(_FILES, (job_id,)):
        files.setdefault(entry_id, []).append((digest, name))
    return tuple(_entry(row, tuple(files.get(row["id"], ()))) for row in conn.execute(_OF_JOB, (job_id,)))


def _entry(row: sqlite3.Row, files: tuple[tuple[str, str], ...]) -> Entry:
    struck = Struck(row["strike_reason"], row["strike_person"], row["struck_at"]) if row["strike_reason"] is not None else None
    content = json.loads(row["content"])
    return Entry(row["id"], row["job_id"], row["trace_id"], row["kind"], content, row["person"], row["made_at"], struck, files)


def strike_entry(conn: sqlite3.Connection, job_id: int, entry_id: int, reason: str, person: str = "", struck_at: str | None = None) -> bool:
    """Strike an entry out; False when the job has no such standing entry."""
    return conn.execute(_STRIKE, (reason, person, struck_at or now(), entry_id, job_id)).rowcount == 1
