"""Logs that are open: their columns mapped, their databases read, and what was worked out of them, each once."""

from __future__ import annotations

import threading
from pathlib import Path

from cachetools import LRUCache
from flask import Flask, abort, current_app

from ...core.base.errors import PondrelError
from ...core.bus.census import Census, census_of
from ...core.bus.database import Known, SignalDatabase, database_from
from ...core.bus.decode import DecodedMessage, Short, decoded_of
from ...logs.kept import KeptLog, is_kept, keep, kept, kept_path
from ...store.buses import BusLogRow, DatabaseRow, bus_log_of, chosen_databases
from ...store.files import file_path
from ..jobs.files import data_folder
from ..shell.database import get_db

__all__ = ["census_for", "decoded_for", "init_app", "kept_for", "known_for", "log_row"]

MOST_OPEN, MOST_WORKED_OUT, MOST_DATABASES, MOST_DECODED = 16, 24, 32, 12
Chosen = tuple[tuple[DatabaseRow, str], ...]


class Desk:
    """What lies open. Safe to be used from several threads; who works something out holds up only those who want the same."""

    def __init__(self) -> None:
        self.lock = threading.Lock()
        self.open: LRUCache[str, KeptLog] = LRUCache(MOST_OPEN)
        self.databases: LRUCache[tuple[str, str, str], SignalDatabase] = LRUCache(MOST_DATABASES)
        self.censuses: LRUCache[tuple[str, Chosen], Census] = LRUCache(MOST_WORKED_OUT)
        self.decoded: LRUCache[tuple[str, Chosen, str, str], DecodedMessage | None] = LRUCache(MOST_DECODED)
        self.busy: dict[object, threading.Lock] = {}

    def alone(self, key: object) -> threading.Lock:
        """The lock of those who work one thing out."""
        with self.lock:
            return self.busy.setdefault(key, threading.Lock())


def _desk() -> Desk:
    found: Desk = current_app.extensions["bus"]
    return found


def log_row(log_id: int) -> BusLogRow:
    """A log's row; nothing at this address where there is none."""
    row = bus_log_of(get_db(), log_id)
    if row is None:
        abort(404)
    return row


def kept_for(row: BusLogRow) -> KeptLog:
    """A log's frames. Raises PondrelError where its file is gone."""
    desk = _desk()
    with desk.alone(row.digest):
        found = desk.open.get(row.digest)
        if found is None:
            path = kept_path(data_folder(), row.digest)
            found = kept(path) if is_kept(path) else keep(file_path(data_folder(), row.digest), path, row.name)
            desk.open[row.digest] = found
    return found


def _database(row: DatabaseRow, channel: str) -> SignalDatabase:
    desk, key = _desk(), (row.digest, row.name, channel)
    with desk.lock:
        found = desk.databases.get(key)
    if found is None:
        try:
            text: bytes = Path(file_path(data_folder(), row.digest)).read_bytes()
        except OSError as error:
            raise PondrelError(f"The database {row.name} cannot be read ({error.strerror}): put the data folder's files back.") from error
        found = database_from(text, row.name, channel)
        with desk.lock:
            desk.databases[key] = found
    return found


def known_for(chosen: Chosen) -> Known:
    """What the databases that were chosen for a log know."""
    return Known([_database(row, channel) for row, channel in chosen])


def census_for(row: BusLogRow) -> Census:
    """The census of a log, by the databases that were chosen for it."""
    chosen = chosen_databases(get_db(), row.id)
    desk, key = _desk(), (row.digest, chosen)
    with desk.alone(key):
        found = desk.censuses.get(key)
        if found is None:
            log = kept_for(row)
            found = census_of(log.frames, log.channels, known_for(chosen), log.notes)
            desk.censuses[key] = found
    return found


def decoded_for(row: BusLogRow, channel: str, frame: str) -> DecodedMessage | None:
    """One message of a log, decoded in all its frames; None where it is not in it."""
    chosen = chosen_databases(get_db(), row.id)
    desk, key = _desk(), (row.digest, chosen, channel, frame)
    with desk.alone(key):
        if key not in desk.decoded:
            log = kept_for(row)
            found = decoded_of(log.frames, log.channels, known_for(chosen), Short(), frame)
            desk.decoded[key] = next((own for own in found if log.channels[own.group.channel] == channel), None)
        return desk.decoded[key]


def init_app(app: Flask) -> None:
    """Give the application its desk."""
    app.extensions["bus"] = Desk()
