"""Files that come with a form: each is checked and kept before the entry that it belongs to is written."""

from __future__ import annotations

import sqlite3
from pathlib import Path

from flask import current_app, request

from ...core.base.errors import PondrelError
from ...store.files import keep_file
from ..shell.fields import checked

__all__ = ["data_folder", "files_sent"]

MOST_FILES = 6  # of one entry
LONGEST_NAME = 200  # characters


def data_folder() -> Path:
    """Where the files are kept."""
    return Path(current_app.config["DATABASE"]).parent


def files_sent(conn: sqlite3.Connection) -> list[tuple[str, str]]:
    """The files of the form as pairs of digest and name, kept. Raises PondrelError with one sentence."""
    files = [file for file in request.files.getlist("files") if file.filename]
    if len(files) > MOST_FILES:
        raise PondrelError(f"{len(files)} files at once are too many: at most {MOST_FILES} belong to one entry.")
    kept = []
    for file in files:
        name = checked("A file's name", str(file.filename), LONGEST_NAME)
        with file.stream as stream:
            kept.append((keep_file(conn, data_folder(), stream.read()).digest, name))
    return kept
