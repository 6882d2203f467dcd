"""Talks with the modules of a vehicle: every request and every answer, in order, never changed."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable
from dataclasses import dataclass

from ..core.talk.exchange import Exchange
from .db import now

__all__ = ["TalkRow", "add_exchanges", "add_talk", "exchanges_of", "talk_row", "talks_of"]

_COLUMNS = "talk.id, talk.vehicle_id, vehicle.name, talk.job_id, talk.roster_id, talk.address, talk.person, talk.made_at"
_COUNT = "(SELECT count(*) FROM exchange WHERE talk_id = talk.id)"
_FROM = f"SELECT {_COLUMNS}, {_COUNT} FROM talk JOIN vehicle ON vehicle.id = talk.vehicle_id"
_INSERT = "INSERT INTO talk (vehicle_id, job_id, roster_id, address, person, made_at) VALUES (?, ?, ?, ?, ?, ?) RETURNING id"
_SAID = "INSERT INTO exchange (talk_id, at, module, request, answer, seconds, fault) VALUES (?, ?, ?, ?, ?, ?, ?)"
_LINES = "SELECT at, module, request, answer, seconds, fault FROM exchange WHERE talk_id = ? ORDER BY id LIMIT ? OFFSET ?"


@dataclass(frozen=True, slots=True)
class TalkRow:
    """A talk: with which vehicle, for which job (None for none), by which roster, where, by whom, when, and how many ``lines`` it has."""

    id: int
    vehicle_id: int
    vehicle: str
    job_id: int | None
    roster_id: int
    address: str
    person: str
    made_at: str
    lines: int


def add_talk(
    conn: sqlite3.Connection,
    vehicle_id: int,
    job_id: int | None,
    roster_id: int,
    address: str,
    person: str = "",
    made_at: str | None = None,
) -> int:
    """Begin a talk, return its id."""
    return int(conn.execute(_INSERT, (vehicle_id, job_id, roster_id, address, person, made_at or now())).fetchone()[0])


def add_exchanges(conn: sqlite3.Connection, talk_id: int, said: Iterable[Exchange]) -> None:
    """Write down what was said, in its order."""
    conn.executemany(_SAID, [(talk_id, one.at, one.module, one.request, one.answer, one.seconds, one.fault) for one in said])


def talk_row(conn: sqlite3.Connection, talk_id: int) -> TalkRow | None:
    """A talk; None where there is none of that id."""
    row = conn.execute(f"{_FROM} WHERE talk.id = ?", (talk_id,)).fetchone()
    return TalkRow(*row) if row else None


def talks_of(conn: sqlite3.Connection, most: int, vehicle_id: int | None = None, job_id: int | None = None) -> list[TalkRow]:
    """The latest talks, of a vehicle or a job where one is named."""
    asked = "(? IS NULL OR talk.vehicle_id = ?) AND (? IS NULL OR talk.job_id = ?)"
    given = (vehicle_id, vehicle_id, job_id, job_id, most)
    return [TalkRow(*row) for row in conn.execute(f"{_FROM} WHERE {asked} ORDER BY talk.id DESC LIMIT ?", given)]


def exchanges_of(conn: sqlite3.Connection, talk_id: int, most: int = 500, skip: int = 0) -> list[Exchange]:
    """What was said in a talk, in its order; of long ones a part."""
    return [Exchange(*row) for row in conn.execute(_LINES, (talk_id, most, skip))]
