"""Logs that are open: their columns mapped, their databases read, and what was worked out of them, each once."""

from __future__ import annotations

import threading
from collections.abc import Callable, Hashable
from typing import TypeVar

from cachetools import LRUCache
from flask import Flask, abort, current_app

from ...core.base.errors import PondrelError
from ...core.bus.census import Census, census_of
from ...core.bus.changes import Change
from ...core.bus.database import Known, SignalDatabase, database_from
from ...core.bus.decode import DecodedMessage, Short, decoded_of
from ...logs.kept import KeptLog, is_kept, keep, kept, kept_path
from ...store.buses import BusLogRow, DatabaseRow, bus_log_of, chosen_databases
from ...store.files import file_path
from ..jobs.files import data_folder
from ..shell.database import get_db

__all__ = ["census_for", "decoded_for", "init_app", "kept_for", "known_for", "log_row", "worked_out"]

MOST_OPEN, MOST_WORKED_OUT, MOST_DATABASES, MOST_DECODED = 16, 24, 32, 12
Chosen = tuple[tuple[DatabaseRow, str], ...]
Key = TypeVar("Key", bound=Hashable)
Value = TypeVar("Value")


class Desk:
    """What lies open. Safe to be used from several threads; who works something out holds up only those who want the same."""

    def __init__(self) -> None:
        self.lock = threading.Lock()
        self.open: LRUCache[str, KeptLog] = LRUCache(MOST_OPEN)
        self.databases: LRUCache[tuple[str, str, str], SignalDatabase] = LRUCache(MOST_DATABASES)
        self.censuses: LRUCache[tuple[str, Chosen], Census] = LRUCache(MOST_WORKED_OUT)
        self.decoded: LRUCache[tuple[str, Chosen, str, str], DecodedMessage | None] = LRUCache(MOST_DECODED)
        self.changes: LRUCache[tuple[str, Chosen, Hashable], list[Change]] = LRUCache(MOST_WORKED_OUT)
        self.busy: dict[tuple[int, Hashable], threading.Lock] = {}

    def recall(self, cache: LRUCache[Key, Value], key: Key, make: Callable[[], Value]) -> Value:
        """What a cache keeps under a key, made where it keeps none: by one thread, for which those wait that want the same."""
        with self.lock:
            own = self.busy.setdefault((id(cache), key), threading.Lock())
        with own:
            with self.lock:
                if key in cache:
                    return cache[key]
            made = make()
            with self.lock:
                cache[key] = made
            return made


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
    desk, folder = _desk(), data_folder()

    def make() -> KeptLog:
        path = kept_path(folder, row.digest)
        return kept(path) if is_kept(path) else keep(file_path(folder, row.digest), path, row.name)

    return desk.recall(desk.open, row.digest, make)


def _database(row: DatabaseRow, channel: str) -> SignalDatabase:
    desk, folder = _desk(), data_folder()

    def make() -> SignalDatabase:
        try:
            text: bytes = file_path(folder, row.digest).read_bytes()
        except OSError as error:
            raise PondrelError(f"The database {row.name} cannot be read ({error.strerror}): put the data folder's files back.") from error
        return database_from(text, row.name, channel)

    return desk.recall(desk.databases, (row.digest, row.name, channel), make)


def known_for(chosen: Chosen) -> Known:
    """What the databases that were chosen for a log know."""
    return Known([_database(row, channel) for row, channel in chosen])


def census_for(row: BusLogRow) -> Census:
    """The census of a log, by the databases that were chosen for it."""
    desk, chosen = _desk(), chosen_databases(get_db(), row.id)

    def make() -> Census:
        log = kept_for(row)
        return census_of(log.frames, log.channels, known_for(chosen), log.notes)

    return desk.recall(desk.censuses, (row.digest, chosen), make)


def worked_out(row: BusLogRow, key: Hashable, work: Callable[[Known], list[Change]]) -> list[Change]:
    """What differs, worked out once for a log, its databases and what it is compared with (``key``)."""
    desk, chosen = _desk(), chosen_databases(get_db(), row.id)
    return desk.recall(desk.changes, (row.digest, chosen, key), lambda: work(known_for(chosen)))


def decoded_for(row: BusLogRow, channel: str, frame: str) -> DecodedMessage | None:
    """One message of a log, decoded in all its frames; None where it is not in it."""
    desk, chosen = _desk(), chosen_databases(get_db(), row.id)

    def make() -> DecodedMessage | None:
        log = kept_for(row)
        found = decoded_of(log.frames, log.channels, known_for(chosen), Short(), frame)
        return next((own for own in found if log.channels[own.group.channel] == channel), None)

    return desk.recall(desk.decoded, (row.digest, chosen, channel, frame), make)


def init_app(app: Flask) -> None:
    """Give the application its desk."""
    app.extensions["bus"] = Desk()
