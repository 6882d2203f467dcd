"""Opening, making, migrating and committing: the only module that calls sqlite3."""

from __future__ import annotations

import os
import sqlite3
import urllib.parse
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from datetime import UTC, datetime
from pathlib import Path

from ..core.base.errors import PondrelError

__all__ = [
    "DATABASE", "StoreError", "atomic", "backed_up", "build", "connect", "made_as", "mark", "migrate", "now", "opened", "sentence_of",
]  # fmt: skip

DATABASE = "pondrel.sqlite"
BACKUPS = "backups"
_MIGRATIONS = Path(__file__).parent / "migrations"
_WAIT_SECONDS = 10.0


class StoreError(PondrelError):
    """The database cannot be read or written; nothing of what was asked has been written."""


# What SQLite says, and what is said of it; the first that fits.
_SENTENCES = (
    (("locked", "busy"), "The database is busy with another write, so nothing was written: try again in a moment."),
    (("readonly", "read-only"), "The database may not be written to: nothing was written. Give Pondrel the right to write in its folder."),
    (("full", "disk i/o"), "The disk is full or does not answer, so nothing was written: make room and try again."),
    (
        ("malformed", "not a database", "corrupt"),
        "The database is damaged: stop Pondrel and put the last copy from the folder 'backups' in its place.",
    ),
    (("unable to open",), "The database cannot be opened: see that the data folder is there and that Pondrel may read it."),
)  # fmt: skip
_OTHERWISE = "The database does not answer as it should, so nothing was written: load the page again."


def sentence_of(error: sqlite3.Error) -> str:
    """What a person is told of an error of the database."""
    text = str(error).lower()
    return next((says for words, says in _SENTENCES if any(word in text for word in words)), _OTHERWISE)


def connect(path: Path) -> sqlite3.Connection:
    """A connection to an existing database: rows by name, foreign keys on, every commit on the disk before it returns.

    Raises StoreError where it cannot be opened.
    """
    return _connected(path, "rw")


def _connected(path: Path, mode: str) -> sqlite3.Connection:
    try:
        address = f"file:{urllib.parse.quote(str(path.absolute()))}?mode={mode}"
        conn = sqlite3.connect(address, timeout=_WAIT_SECONDS, isolation_level=None, uri=True)
        conn.row_factory = sqlite3.Row
        conn.execute("PRAGMA synchronous = FULL")
        conn.execute("PRAGMA foreign_keys = ON")
    except sqlite3.Error as error:
        raise StoreError(sentence_of(error)) from error
    return conn


@contextmanager
def atomic(conn: sqlite3.Connection) -> Iterator[sqlite3.Connection]:
    """Commit what the block wrote, or nothing of it. Raises StoreError where the database refuses."""
    try:
        conn.execute("BEGIN IMMEDIATE")
        try:
            yield conn
        except BaseException:
            conn.rollback()
            raise
        conn.execute("COMMIT")
    except sqlite3.IntegrityError:
        raise
    except sqlite3.DatabaseError as error:
        with suppress(sqlite3.Error):
            conn.rollback()
        raise StoreError(sentence_of(error)) from error


def migrate(conn: sqlite3.Connection) -> int:
    """Run the migrations that the database has not had, each together with its number or not at all; returns the version."""
    version = _version(conn)
    # SQLite's own text of a number keeps fifteen digits of it; this one keeps it whole.
    conn.create_function("real_text", 1, repr, deterministic=True)
    for number, file in _migrations():
        if number <= version:
            continue
        try:
            conn.executescript(f"BEGIN IMMEDIATE;\n{file.read_text(encoding='utf-8')}\n;PRAGMA user_version = {number:d};\nCOMMIT;")
        except sqlite3.Error:
            conn.rollback()
            raise
        version = number
    return version


def _migrations() -> list[tuple[int, Path]]:
    return [(int(file.name.split("_")[0]), file) for file in sorted(_MIGRATIONS.glob("[0-9]*.sql"))]


def _version(conn: sqlite3.Connection) -> int:
    return int(conn.execute("PRAGMA user_version").fetchone()[0])


def build(path: Path, fill: Callable[[sqlite3.Connection], None] | None = None) -> bool:
    """Make a database whole or not at all, with what ``fill`` writes into it; False where there is one already.

    It is made beside its place and put there when it is complete: who is interrupted leaves nothing that looks like a depot.
    """
    if path.exists():
        return False
    _tidied(path)
    beside = path.with_name(f".{path.name}.{os.getpid()}.new")
    try:
        os.close(os.open(beside, os.O_CREAT | os.O_TRUNC | os.O_WRONLY, 0o600))
        conn = _connected(beside, "rw")
        try:
            conn.execute("PRAGMA journal_mode = WAL")
            migrate(conn)
            if fill:
                with atomic(conn):
                    fill(conn)
        finally:
            conn.close()
        os.link(beside, path)  # unlike a renaming, never in place of another
        return True
    except FileExistsError:
        return False
    finally:
        for left in (beside, Path(f"{beside}-wal"), Path(f"{beside}-shm")):
            left.unlink(missing_ok=True)


def _tidied(path: Path) -> None:
    """Take away what makers that were killed have left beside a database."""
    for left in path.parent.glob(f".{path.name}.*.new*"):
        maker = left.name.removeprefix(f".{path.name}.").partition(".")[0]
        if not (maker.isdecimal() and Path(f"/proc/{maker}").exists()):
            left.unlink(missing_ok=True)


def opened(path: Path) -> sqlite3.Connection:
    """A connection to the database at ``path``, made where there is none and migrated where it is older.

    Raises StoreError with one sentence for a file that is empty, damaged, or written by a newer Pondrel.
    """
    build(path)
    if path.stat().st_size == 0:
        raise StoreError(f"{path.name} is an empty file, no database: put a copy from 'backups' in its place, or delete it to start anew.")
    conn = _connected(path, "rw")
    try:
        version, newest = _version(conn), _migrations()[-1][0]
        if version > newest:
            newer = f"{path.name} was written by a newer Pondrel (version {version}; this one knows {newest})"
            raise StoreError(f"{newer}: start that one, this one would spoil it.")
        damage = conn.execute("PRAGMA quick_check(1)").fetchone()[0]
        if damage != "ok":
            raise sqlite3.DatabaseError(f"malformed: {damage}")
        if version < newest:
            if version:
                backed_up(path, f"before-{newest}")
            migrate(conn)
    except sqlite3.Error as error:
        conn.close()
        raise StoreError(sentence_of(error)) from error
    except BaseException:
        conn.close()
        raise
    return conn


def made_as(conn: sqlite3.Connection) -> str:
    """What a database was made as, empty for an ordinary one or one that is older than the question."""
    if conn.execute("SELECT 1 FROM sqlite_master WHERE name = 'depot'").fetchone() is None:
        return ""
    row = conn.execute("SELECT made_as FROM depot").fetchone()
    return row[0] if row else ""


def mark(conn: sqlite3.Connection, kind: str) -> None:
    """Write what a new database was made as."""
    conn.execute("INSERT INTO depot (made_as) VALUES (?)", (kind,))


def backed_up(path: Path, why: str) -> Path:
    """A copy of a database in the folder ``backups`` beside it, whole even while others write; returns where it is."""
    folder = path.parent / BACKUPS
    folder.mkdir(mode=0o700, exist_ok=True)
    stem = f"{path.stem}-{now().replace(':', '')}-{why}"
    target = next(t for n in range(1000) if not (t := folder / f"{stem}{f'-{n}' if n else ''}.sqlite").exists())
    os.close(os.open(target, os.O_CREAT | os.O_EXCL | os.O_WRONLY, 0o600))
    source, copy = _connected(path, "rw"), _connected(target, "rw")
    try:
        source.backup(copy)
    finally:
        copy.close()
        source.close()
    return target


def now() -> str:
    """The time to the second, UTC, as ISO 8601 text."""
    return datetime.now(UTC).strftime("%Y-%m-%dT%H:%M:%SZ")
