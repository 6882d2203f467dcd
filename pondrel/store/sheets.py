"""Circuit sheets as texts, found by what they say."""

from __future__ import annotations

import hashlib
import sqlite3
from dataclasses import dataclass

from ..core.circuit.sheet import parse_sheet
from .db import now

__all__ = ["StoredSheet", "add_sheet", "all_sheets", "get_sheet"]


@dataclass(frozen=True, slots=True)
class StoredSheet:
    """A sheet's text with its title; ``digest`` is the SHA-256 of the text."""

    id: int
    title: str
    family: str
    digest: str
    text: str
    added_at: str


_COLUMNS = "id, title, family, digest, text, added_at"


def add_sheet(conn: sqlite3.Connection, text: str) -> int:
    """Store a sheet, or find it where the same text is stored already; returns its id. Raises SheetError for a text that is no sheet."""
    sheet = parse_sheet(text)
    digest = hashlib.sha256(text.encode()).hexdigest()
    known = conn.execute("SELECT id FROM sheet WHERE digest = ?", (digest,)).fetchone()
    if known:
        return int(known["id"])
    sql = "INSERT INTO sheet (title, family, digest, text, added_at) VALUES (?, ?, ?, ?, ?) RETURNING id"
    return int(conn.execute(sql, (sheet.title, sheet.family, digest, text, now())).fetchone()[0])


def all_sheets(conn: sqlite3.Connection) -> list[StoredSheet]:
    """Every sheet, by title."""
    return [StoredSheet(*row) for row in conn.execute(f"SELECT {_COLUMNS} FROM sheet ORDER BY title, id")]


def get_sheet(conn: sqlite3.Connection, sheet_id: int) -> StoredSheet | None:
    """One sheet, None if there is none of that id."""
    row = conn.execute(f"SELECT {_COLUMNS} FROM sheet WHERE id = ?", (sheet_id,)).fetchone()
    return StoredSheet(*row) if row else None
