"""Circuit sheets as texts, found by what they say. A changed sheet is a new one that replaces the one before."""

from __future__ import annotations

import hashlib
import sqlite3
from dataclasses import dataclass

from ..core.base.errors import PondrelError, SheetError
from ..core.circuit.read.sheet import parse_sheet
from ..core.circuit.sheet import Sheet
from ..core.job.which import Phrase, kept_phrases, phrases_kept, phrases_of
from ..core.learn import NO_WEIGHTS, Weights
from ..core.library.find import mentions_pin, wanted
from .db import now

__all__ = [
    "SheetCard", "StoredSheet", "add_sheet", "families_of_sheets", "get_sheet", "phrases_of_sheets", "replaced_by", "sheet_cards",
    "sheet_called", "sheet_of_digest", "sheet_titles", "sum_up_sheets", "versions_of",
]  # fmt: skip


@dataclass(frozen=True, slots=True)
class StoredSheet:
    """A sheet's text with its title; ``digest`` is the SHA-256 of the text, ``replaces_id`` the version before, ``learned`` what the record
    says of its parts on the vehicle at hand."""

    id: int
    title: str
    family: str
    digest: str
    text: str
    added_at: str
    replaces_id: int | None
    note: str
    learned: Weights = NO_WEIGHTS


_COLUMNS = "id, title, family, digest, text, added_at, replaces_id, note"
_NEWEST = "NOT EXISTS (SELECT 1 FROM sheet AS newer WHERE newer.replaces_id = sheet.id)"
_ON_VEHICLE = """(
    EXISTS (SELECT 1 FROM own_drawing WHERE own_drawing.sheet_id = sheet.id AND own_drawing.vehicle_id = ?)
    OR EXISTS (SELECT 1 FROM trace JOIN job ON job.id = trace.job_id WHERE trace.sheet_id = sheet.id AND job.vehicle_id = ?)
)"""
_CURRENT = (
    "NOT EXISTS (SELECT 1 FROM sheet AS newer WHERE newer.replaces_id = sheet.id) "
    "AND NOT EXISTS (SELECT 1 FROM own_drawing WHERE own_drawing.sheet_id = sheet.id)"
)
_BY_DIGEST = "SELECT id FROM sheet WHERE digest = ?"
_INSERT = """
INSERT INTO sheet (title, family, digest, text, added_at, replaces_id, note)
VALUES (?, ?, ?, ?, ?, ?, ?)
RETURNING id
"""
_SUM_UP = """
INSERT OR REPLACE INTO sheet_summary (sheet_id, parts, places, states, limits, note, flaw, words)
VALUES (?, ?, ?, ?, ?, ?, ?, ?)
"""
_WITHOUT_SUMMARY = """
SELECT id, text FROM sheet
WHERE NOT EXISTS (SELECT 1 FROM sheet_summary WHERE sheet_summary.sheet_id = sheet.id)
ORDER BY id
"""
_CARDS = """
SELECT sheet.id, title, family, coalesce(parts, 0), coalesce(places, 0), coalesce(states, 0), coalesce(limits, 0),
       coalesce(sheet_summary.note, ''), coalesce(flaw, ''),
       (WITH RECURSIVE older (id) AS (
            SELECT sheet.id
            UNION ALL
            SELECT before.replaces_id FROM sheet AS before JOIN older ON before.id = older.id WHERE before.replaces_id IS NOT NULL
        ) SELECT count(*) FROM older),
       coalesce((WITH RECURSIVE older (id) AS (
            SELECT sheet.id
            UNION ALL
            SELECT before.replaces_id FROM sheet AS before JOIN older ON before.id = older.id WHERE before.replaces_id IS NOT NULL
        ) SELECT group_concat(name, ', ') FROM (
            SELECT DISTINCT vehicle.name AS name
            FROM trace
            JOIN job ON job.id = trace.job_id
            JOIN vehicle ON vehicle.id = job.vehicle_id
            WHERE trace.sheet_id IN (SELECT id FROM older)
            ORDER BY vehicle.name
        )), '')
FROM sheet
LEFT JOIN sheet_summary ON sheet_summary.sheet_id = sheet.id
WHERE {where}
ORDER BY title, sheet.id
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
    sheet_id = int(conn.execute(_INSERT, (sheet.title, sheet.family, digest, text, now(), replaces_id, note)).fetchone()[0])
    _sum_up(conn, sheet_id, sheet)
    return sheet_id


def _sum_up(conn: sqlite3.Connection, sheet_id: int, sheet: Sheet) -> None:
    """Write what the Library tells of a sheet."""
    counts = (len(sheet.parts), len(sheet.places), len(sheet.states), len(sheet.limits))
    conn.execute(_SUM_UP, (sheet_id, *counts, sheet.note, "", phrases_kept(phrases_of(sheet))))


def sum_up_sheets(conn: sqlite3.Connection) -> None:
    """Write the summaries that are missing: those of sheets that an older Pondrel has stored."""
    for sheet_id, text in conn.execute(_WITHOUT_SUMMARY).fetchall():
        try:
            _sum_up(conn, sheet_id, parse_sheet(text))
        except SheetError as error:
            conn.execute(_SUM_UP, (sheet_id, 0, 0, 0, 0, "", str(error)[:300], ""))


@dataclass(frozen=True, slots=True)
class SheetCard:
    """A sheet as the Library lists it; ``flaw`` says why it can no longer be read, empty for a good one; ``vehicles`` are those that any
    version of it was traced on, by name."""

    id: int
    title: str
    family: str
    parts: int
    places: int
    states: int
    limits: int
    note: str
    flaw: str
    versions: int
    vehicles: str


def sheet_cards(conn: sqlite3.Connection, words: str = "", family: str = "", vehicle_id: int | None = None) -> list[SheetCard]:
    """Current sheets whose text holds every word and every pin that is looked for, in one family if one is given, or those that one vehicle
    was traced on, its own drawings among them; by title."""
    looked_for = wanted(words)
    where: list[str] = [_CURRENT] if vehicle_id is None else [_NEWEST, _ON_VEHICLE]
    values: list[object] = [] if vehicle_id is None else [vehicle_id, vehicle_id]
    for word in looked_for.words:
        where.append("instr(lower(text), lower(?)) > 0")
        values.append(word)
    for plug, pin in looked_for.pins:
        where.append("mentions_pin(text, ?, ?)")
        values += [plug, pin]
    if family:
        where.append("family = ?")
        values.append(family)
    conn.create_function("mentions_pin", 3, mentions_pin, deterministic=True)
    sql = _CARDS.format(where=" AND ".join(where))
    return [SheetCard(*row) for row in conn.execute(sql, values)]


def families_of_sheets(conn: sqlite3.Connection) -> tuple[list[tuple[str, int]], int]:
    """The families that current sheets are in, by name and with how many, and how many current sheets there are."""
    rows = conn.execute(f"SELECT family, count(*) FROM sheet WHERE {_CURRENT} GROUP BY family ORDER BY family").fetchall()
    return [(family, count) for family, count in rows if family], sum(count for _, count in rows)


def sheet_titles(conn: sqlite3.Connection) -> list[tuple[int, str]]:
    """Id and title of every sheet's current version, by title."""
    return [(row[0], row[1]) for row in conn.execute(f"SELECT id, title FROM sheet WHERE {_CURRENT} ORDER BY title, id")]


def phrases_of_sheets(conn: sqlite3.Connection) -> dict[int, tuple[Phrase, ...]]:
    """What every current sheet says of itself in words, by its id."""
    sql = f"SELECT sheet.id, words FROM sheet JOIN sheet_summary ON sheet_summary.sheet_id = sheet.id WHERE {_CURRENT} ORDER BY sheet.id"
    return {row[0]: kept_phrases(row[1]) for row in conn.execute(sql)}


def sheet_called(conn: sqlite3.Connection, title: str) -> StoredSheet | None:
    """The newest sheet of a title that is no vehicle's own drawing; None where there is none."""
    row = conn.execute(f"SELECT {_COLUMNS} FROM sheet WHERE title = ? AND {_CURRENT} ORDER BY id DESC LIMIT 1", (title,)).fetchone()
    return StoredSheet(*row) if row else None


def get_sheet(conn: sqlite3.Connection, sheet_id: int) -> StoredSheet | None:
    """One sheet, None if there is none of that id."""
    row = conn.execute(f"SELECT {_COLUMNS} FROM sheet WHERE id = ?", (sheet_id,)).fetchone()
    return StoredSheet(*row) if row else None


def sheet_of_digest(conn: sqlite3.Connection, digest: str) -> int | None:
    """Id of the sheet with a text of that digest, None where there is none."""
    row = conn.execute(_BY_DIGEST, (digest,)).fetchone()
    return int(row["id"]) if row else None


def replaced_by(conn: sqlite3.Connection, sheet_id: int) -> int | None:
    """Id of the version that replaces a sheet, None for a current one."""
    row = conn.execute("SELECT id FROM sheet WHERE replaces_id = ?", (sheet_id,)).fetchone()
    return int(row["id"]) if row else None


def versions_of(conn: sqlite3.Connection, sheet_id: int) -> list[StoredSheet]:
    """All versions of a sheet, the newest first."""
    return [StoredSheet(*row) for row in conn.execute(_VERSIONS, (sheet_id, sheet_id))]
