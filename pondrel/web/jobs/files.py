"""Files that come with a form: each is checked and kept before the entry that it belongs to is written."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from pathlib import Path

from flask import current_app, request

from ...core.base.errors import PondrelError
from ...store.files import ReadyFile, keep_file, ready_file
from ..shell.fields import checked

__all__ = ["data_folder", "files_kept", "files_sent"]

MOST_FILES = 6  # of one entry
LONGEST_NAME = 200  # characters


def data_folder() -> Path:
    """Where the files are kept."""
    return Path(current_app.config["DATABASE"]).parent


def files_sent() -> list[tuple[ReadyFile, str]]:
    """The files of the form, ready to be kept, each with its name; to be asked for before the transaction that keeps them. Raises
    PondrelError with one sentence."""
    files = [file for file in request.files.getlist("files") if file.filename]
    if len(files) > MOST_FILES:
        raise PondrelError(f"{len(files)} files at once are too many: at most {MOST_FILES} belong to one entry.")
    ready = []
    for file in files:
        name = checked("A file's name", str(file.filename), LONGEST_NAME)
        with file.stream as stream:
            ready.append((ready_file(stream.read()), name))
    return ready


def files_kept(conn: sqlite3.Connection, files: Sequence[tuple[ReadyFile, str]]) -> list[tuple[str, str]]:
    """Keep the files; pairs of digest and name, as an entry has them."""
    return [(keep_file(conn, data_folder(), ready).digest, name) for ready, name in files]
