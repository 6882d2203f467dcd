"""Captures that are open: made ready where they are not, mapped once, and measured once."""

from __future__ import annotations

import threading
from pathlib import Path

from cachetools import LRUCache
from flask import Flask, abort, current_app

from ...core.base.errors import PondrelError
from ...core.wave.measure import Measures, measures_of
from ...store.captures import CaptureRow, capture_of
from ...store.files import file_path
from ...store.prepared import Prepared, is_prepared, opened, prepare, prepared_path
from ..jobs.files import data_folder
from ..shell.database import get_db

__all__ = ["capture_row", "init_app", "measures_for", "prepared_for"]

MOST_OPEN, MOST_MEASURED = 16, 8


class Desk:
    """What lies open. Safe to be used from several threads."""

    def __init__(self) -> None:
        self.lock = threading.Lock()
        self.open: LRUCache[Path, Prepared] = LRUCache(MOST_OPEN)
        self.measured: LRUCache[tuple[Path, int], Measures] = LRUCache(MOST_MEASURED)


def _desk() -> Desk:
    found: Desk = current_app.extensions["scope"]
    return found


def capture_row(capture_id: int) -> CaptureRow:
    """A capture's row; nothing at this address where there is none."""
    row = capture_of(get_db(), capture_id)
    if row is None:
        abort(404)
    return row


def _path(row: CaptureRow) -> Path:
    return prepared_path(data_folder(), row.digest, row.full_scale)


def prepared_for(row: CaptureRow) -> Prepared:
    """A capture's samples. Raises PondrelError where its file is gone."""
    desk, path = _desk(), _path(row)
    with desk.lock:
        found = desk.open.get(path)
        if found is None:
            if not is_prepared(path):
                _make(row, path)
            found = desk.open[path] = opened(path)
    return found


def _make(row: CaptureRow, path: Path) -> None:
    try:
        with file_path(data_folder(), row.digest).open("rb") as stream:
            prepare(stream, path, row.full_scale)
    except OSError as error:
        raise PondrelError(f"The file of this capture cannot be read ({error.strerror}): put the data folder's files back.") from error


def measures_for(row: CaptureRow, place: int) -> Measures:
    """All that is measured of one of a capture's channels."""
    own, desk, key = prepared_for(row), _desk(), (_path(row), place)
    with desk.lock:
        found = desk.measured.get(key)
    if found is None:
        found = measures_of(own.capture, own.capture.channels[place])
        with desk.lock:
            desk.measured[key] = found
    return found


def init_app(app: Flask) -> None:
    """Give the application its desk."""
    app.extensions["scope"] = Desk()
