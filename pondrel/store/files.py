"""Files of the record: photos, captures, logs and papers, kept by the SHA-256 of what they hold in the data folder.

A file is told by its first bytes, never by its name, and written once: beside its place, onto the disk, then put there. What the record
refers to is never taken away; what it does not is left over from a write that did not come about, and harms nobody.
"""

from __future__ import annotations

import hashlib
import os
import secrets
import sqlite3
from dataclasses import dataclass
from pathlib import Path
from typing import BinaryIO

from ..core.base.errors import PondrelError
from .db import StoreError, now
from .photos import is_photo, is_tidy, tidied_photo

__all__ = [
    "MOST_BYTES",
    "FileError",
    "ReadyFile",
    "StoredFile",
    "file_path",
    "get_file",
    "keep_file",
    "keep_large",
    "media_of",
    "photos_of",
    "ready_file",
]

MOST_BYTES = 24 * 1024 * 1024
_FOLDER = "files"
# By media type: how such a file begins. A text is one that is no other and holds no control characters.
_BEGINNINGS = (
    ("image/png", b"\x89PNG\r\n\x1a\n", 0),
    ("image/jpeg", b"\xff\xd8\xff", 0),
    ("image/webp", b"WEBP", 8),
    ("application/pdf", b"%PDF-", 0),
    ("audio/wav", b"WAVE", 8),
    ("application/gzip", b"\x1f\x8b", 0),
    ("application/zip", b"PK\x03\x04", 0),
)
_TEXT = "text/plain"
_LOOKED_AT = 4096
TAKEN = "photos (PNG, JPEG, WebP), PDF, WAV, text and CSV, gzip and zip"


class FileError(PondrelError):
    """A file that is not taken: too large, empty, or of no sort that is kept."""


@dataclass(frozen=True, slots=True)
class StoredFile:
    """A file that is kept: its digest, what it is, and how many bytes."""

    digest: str
    media: str
    bytes: int
    added_at: str


def media_of(content: bytes) -> str:
    """What a file is, by how it begins; empty for what is not kept."""
    for media, beginning, at in _BEGINNINGS:
        if content[at : at + len(beginning)] == beginning:
            return media
    head = content[:_LOOKED_AT]
    try:
        # A character may be cut in two where the look ends.
        text = head.decode("utf-8") if len(head) < _LOOKED_AT else head[:-4].decode("utf-8", errors="ignore")
    except UnicodeDecodeError:
        return ""
    return _TEXT if all(c.isprintable() or c in "\t\r\n" for c in text) else ""


@dataclass(frozen=True, slots=True)
class ReadyFile:
    """A file as it will be kept: checked, a photo tidied; what that takes is done before anything is locked."""

    content: bytes
    media: str


def ready_file(content: bytes, tidied: bool = False) -> ReadyFile:
    """A file made ready to be kept; a photo is tidied, unless it was ``tidied`` when it was kept before and still is. Raises FileError or
    PhotoError with one sentence."""
    if not content:
        raise FileError("The file is empty: choose another one.")
    if len(content) > MOST_BYTES:
        raise FileError(
            f"The file has {len(content) / 1e6:.0f} MB; at most {MOST_BYTES // 1024 // 1024} MB are kept. Make it smaller first."
        )
    media = media_of(content)
    if not media:
        raise FileError(f"This sort of file is not kept: {TAKEN} are.")
    if is_photo(media) and not (tidied and is_tidy(content, media)):
        content = tidied_photo(content, media)
    return ReadyFile(content, media)


def keep_file(conn: sqlite3.Connection, folder: Path, ready: ReadyFile) -> StoredFile:
    """Keep a file and return what it is; the same content is kept once. Raises StoreError where the folder takes nothing."""
    content, media = ready.content, ready.media
    digest = hashlib.sha256(content).hexdigest()
    _put(file_path(folder, digest), content)
    sql = "INSERT INTO file (digest, media, bytes, added_at) VALUES (?, ?, ?, ?) ON CONFLICT (digest) DO NOTHING"
    conn.execute(sql, (digest, media, len(content), now()))
    found = get_file(conn, digest)
    assert found is not None
    return found


def keep_large(conn: sqlite3.Connection, folder: Path, stream: BinaryIO, media: str) -> StoredFile:
    """Keep a file that may be larger than memory should hold, out of a stream from its beginning; nothing of it is changed. Raises
    StoreError where the folder takes nothing."""
    stream.seek(0)
    beside = folder / _FOLDER / f".coming.{os.getpid()}.{secrets.token_hex(4)}"
    digest, size = hashlib.sha256(), 0
    try:
        beside.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
        with os.fdopen(os.open(beside, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "wb") as out:
            while piece := stream.read(1 << 20):
                digest.update(piece)
                size += len(piece)
                out.write(piece)
            out.flush()
            os.fsync(out.fileno())
        path = file_path(folder, digest.hexdigest())
        path.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
        os.replace(beside, path)
    except OSError as error:
        raise StoreError(f"The file cannot be kept ({error.strerror}), so nothing was written: make room and try again.") from error
    finally:
        beside.unlink(missing_ok=True)
    sql = "INSERT INTO file (digest, media, bytes, added_at) VALUES (?, ?, ?, ?) ON CONFLICT (digest) DO NOTHING"
    conn.execute(sql, (digest.hexdigest(), media, size, now()))
    found = get_file(conn, digest.hexdigest())
    assert found is not None
    return found


def _put(path: Path, content: bytes) -> None:
    if path.exists():
        return
    beside = path.with_name(f".{path.name}.{os.getpid()}")
    try:
        path.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
        with os.fdopen(os.open(beside, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600), "wb") as out:
            out.write(content)
            out.flush()
            os.fsync(out.fileno())
        os.replace(beside, path)
    except OSError as error:
        raise StoreError(f"The file cannot be kept ({error.strerror}), so nothing was written: make room and try again.") from error
    finally:
        beside.unlink(missing_ok=True)


def file_path(folder: Path, digest: str) -> Path:
    """Where a file lies in the data folder."""
    return folder / _FOLDER / digest[:2] / digest


def get_file(conn: sqlite3.Connection, digest: str) -> StoredFile | None:
    """One file, None if none of that digest is kept."""
    row = conn.execute("SELECT digest, media, bytes, added_at FROM file WHERE digest = ?", (digest,)).fetchone()
    return StoredFile(*row) if row else None


def photos_of(conn: sqlite3.Connection, job_id: int) -> frozenset[str]:
    """The digests of a job's files that are photos."""
    sql = """
        SELECT DISTINCT file.digest FROM entry_file
        JOIN entry ON entry.id = entry_file.entry_id
        JOIN file ON file.digest = entry_file.digest
        WHERE entry.job_id = ? AND file.media LIKE 'image/%'
    """
    return frozenset(row[0] for row in conn.execute(sql, (job_id,)))
