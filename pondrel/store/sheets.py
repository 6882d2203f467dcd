"""Circuit sheets as texts, found by what they say. A changed sheet is a new one that replaces the one before."""

from __future__ import annotations

import hashlib
import sqlite3
from dataclasses import dataclass

from ..core.circuit.sheet import parse_sheet
from ..core.errors import PondrelError
from .db import now

__all__ = ["StoredSheet", "add_sheet", "all_sheets", "find_sheets", "get_sheet", "replaced_by", "versions_of"]


@dataclass(frozen=True, slots=True)
class StoredSheet:
    """A sheet's text with its title; ``digest`` is the SHA-256 of the text, ``replaces_id`` the version before."""

    id: int
    title: str
    family: str
    digest: str
    text: str
    added_at: str
    replaces_id: int | None
    note: str


_COLUMNS = "id, title, family, digest, text, added_at, replaces_id, note"
_CURRENT = "NOT EXISTS (SELECT 1 FROM sheet AS newer WHERE newer.replaces_id = sheet.id)"
_BY_DIGEST = "SELECT id FROM sheet WHERE digest = ?"
_INSERT = """
INSERT INTO sheet (title, family, digest, text, added_at, replaces_id, note)
VALUES (?, ?, ?, ?, ?, ?, ?)
RETURNING id
"""
_VERSIONS = f"""
WITH RECURSIVE older (id) AS (
    SELECT ? UNION ALL SELECT sheet.replaces_id FROM sheet JOIN older ON sheet.id = older.id WHERE sheet.replaces_id IS NOT NULL
), newer (id) AS (
    SELECT ? UNION ALL SELECT sheet.id FROM sheet JOIN newer ON sheet.replaces_id = newer.id
)
SELECT {_COLUMNS} FROM sheet WHERE id IN (SELECT id FROM older UNION SELECT id FROM newer) ORDER BY id DESC
"""


def add_sheet(conn: sqlite3.Connection, text: str, replaces_id: int | None = None, note: str = "") -> int:
    """Store a sheet, or find it where the same text is stored already; returns its id.

    Raises SheetError for a text that is no sheet, PondrelError where the version to be replaced has been replaced already or where a
    replacement says what another sheet says.
    """
    sheet = parse_sheet(text)
    digest = hashlib.sha256(text.encode()).hexdigest()
    known = conn.execute(_BY_DIGEST, (digest,)).fetchone()
    if known and replaces_id is None:
        return int(known["id"])
    if known:
        raise PondrelError("This text is stored already: change something, or leave the sheet as it is.")
    if replaces_id is not None and replaced_by(conn, replaces_id) is not None:
        raise PondrelError("Somebody saved a newer version in the meantime: open that one and make your change there.")
    return int(conn.execute(_INSERT, (sheet.title, sheet.family, digest, text, now(), replaces_id, note)).fetchone()[0])


def all_sheets(conn: sqlite3.Connection) -> list[StoredSheet]:
    """Every sheet's current version, by title."""
    return [StoredSheet(*row) for row in conn.execute(f"SELECT {_COLUMNS} FROM sheet WHERE {_CURRENT} ORDER BY title, id")]


def find_sheets(conn: sqlite3.Connection, words: str = "", family: str = "") -> list[StoredSheet]:
    """Current sheets whose text holds every word, in one family if one is given; by title."""
    where, values = [_CURRENT], []
    for word in words.split():
        where.append("instr(lower(text), lower(?)) > 0")
        values.append(word)
    if family:
        where.append("family = ?")
        values.append(family)
    sql = f"SELECT {_COLUMNS} FROM sheet WHERE {' AND '.join(where)} ORDER BY title, id"
    return [StoredSheet(*row) for row in conn.execute(sql, values)]


def get_sheet(conn: sqlite3.Connection, sheet_id: int) -> StoredSheet | None:
    """One sheet, None if there is none of that id."""
    row = conn.execute(f"SELECT {_COLUMNS} FROM sheet WHERE id = ?", (sheet_id,)).fetchone()
    return StoredSheet(*row) if row else None


def replaced_by(conn: sqlite3.Connection, sheet_id: int) -> int | None:
    """Id of the version that replaces a sheet, None for a current one."""
    row = conn.execute("SELECT id FROM sheet WHERE replaces_id = ?", (sheet_id,)).fetchone()
    return int(row["id"]) if row else None


def versions_of(conn: sqlite3.Connection, sheet_id: int) -> list[StoredSheet]:
    """All versions of a sheet, the newest first."""
    return [StoredSheet(*row) for row in conn.execute(_VERSIONS, (sheet_id, sheet_id))]
