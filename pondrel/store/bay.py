"""The Bay's list: where every job stands, kept beside the record so that a page of it is read without looking at every job."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass, field

from ..core.job.changes import mattering
from ..core.job.entry import Entry, standing
from ..core.job.module_work import FROM_MODULES, ModuleWork, module_work_of
from ..core.job.power import found_on, setup_of
from ..core.job.stages import Known, State, state_of
from .db import atomic
from .entries import entries_of
from .house import house_choices
from .jobs import get_job
from .rosters import roster_for
from .traces import traces_of
from .vehicles import Vehicle, get_vehicle

__all__ = ["JobRow", "Wanted", "counts_by_party", "keep_outlook", "known_of", "page_of_jobs", "refresh_all", "refresh_job"]

MOST_WORDS = 8  # of a search


@dataclass(frozen=True, slots=True)
class JobRow:
    """A job as the Bay lists it: its vehicle, whose move it is (a number of `stages.GROUPS`), the stage it is at and each stage's state by
    a letter, what it waits for, what was found or else what its readings come to."""

    id: int
    complaint: str
    person: str
    opened_at: str
    vehicle: str
    plate: str
    party: int
    stage: str
    stages: str
    waits_for: str
    found: str
    outlook: str
    entries: int
    last_at: str | None


@dataclass(frozen=True, slots=True)
class Wanted:
    """Which jobs are listed: those of some parties, of a person, of a vehicle, holding some words; nothing named means all."""

    parties: tuple[int, ...] = ()
    person: str = ""
    vehicle_id: int | None = None
    words: tuple[str, ...] = field(default=())

    def condition(self) -> tuple[str, list[object]]:
        """The SQL condition on bay, job and vehicle, and its values."""
        where: list[str] = []
        values: list[object] = []
        if self.parties:
            where.append(f"bay.party IN ({', '.join('?' * len(self.parties))})")
            values += self.parties
        if self.person:
            where.append("bay.person = ?")
            values.append(self.person)
        if self.vehicle_id is not None:
            where.append("bay.vehicle_id = ?")
            values.append(self.vehicle_id)
        for word in self.words[:MOST_WORDS]:
            where.append("instr(bay.words, ?) > 0")
            values.append(word.lower())
        return " AND ".join(where) or "1", values


_PAGE = """
SELECT job.id, job.complaint, job.person, job.opened_at, vehicle.name, vehicle.plate, bay.party, bay.stage, bay.stages, bay.waits_for,
       bay.found, bay.outlook, bay.entries, bay.last_at
FROM bay
JOIN job ON job.id = bay.job_id
JOIN vehicle ON vehicle.id = bay.vehicle_id
WHERE {where}
ORDER BY bay.party, bay.opened_at DESC, bay.job_id DESC
LIMIT ? OFFSET ?
"""
_REFRESH = """
UPDATE bay
SET known = 1, party = ?, stage = ?, stages = ?, waits_for = ?, found = ?, outlook = ?, words = ?, entries = ?, last_at = ?
WHERE job_id = ?
"""
_KEEP_OUTLOOK = """
INSERT INTO outlook (trace_id, entries, last_id, ready, says) VALUES (?, ?, ?, ?, ?)
ON CONFLICT (trace_id) DO UPDATE
SET entries = excluded.entries, last_id = excluded.last_id, ready = excluded.ready, says = excluded.says
"""


def page_of_jobs(conn: sqlite3.Connection, count: int, skipped: int = 0, wanted: Wanted | None = None) -> list[JobRow]:
    """Some jobs for the Bay: by whose move it is, the newest on top."""
    where, values = (wanted or Wanted()).condition()
    return [JobRow(*row) for row in conn.execute(_PAGE.format(where=where), (*values, count, skipped))]


def counts_by_party(conn: sqlite3.Connection) -> dict[int, int]:
    """How many jobs there are of each party."""
    return dict(conn.execute("SELECT party, count(*) FROM bay GROUP BY party").fetchall())


def known_of(conn: sqlite3.Connection, job_id: int) -> tuple[Known, dict[int, str]]:
    """What a job knows besides its entries, and what the evidence of each trace comes to where that has been worked out."""
    job = get_job(conn, job_id)
    assert job is not None
    traces, entries = traces_of(conn, job_id), entries_of(conn, job_id)
    ready: dict[int, str] = {}
    says: dict[int, str] = {}
    for trace in traces:
        row = conn.execute("SELECT entries, last_id, ready, says FROM outlook WHERE trace_id = ?", (trace.id,)).fetchone()
        stands = mattering(entries, trace.id)
        if row is not None and (row["entries"], row["last_id"]) == (len(stands), max(stands, default=0)):
            says[trace.id] = row["says"]
            if row["ready"]:
                ready[trace.id] = row["says"]
    vehicle = get_vehicle(conn, job.vehicle_id)
    guided = found_on(entries, setup_of(entries, vehicle.volts if vehicle else None, house_choices(conn)))
    modules = _module_work(conn, vehicle, entries)
    return Known(job.complaint, job.conditions, {trace.id: trace.title for trace in traces}, ready, guided, modules), says


def _module_work(conn: sqlite3.Connection, vehicle: Vehicle | None, entries: Sequence[Entry]) -> ModuleWork | None:
    """What is under way with a vehicle's modules; None for nothing, or where no roster fits it."""
    if vehicle is None or not any(entry.kind in FROM_MODULES for entry in entries):
        return None
    row = roster_for(conn, vehicle)
    return module_work_of(row.roster, entries) if row is not None else None


def refresh_job(conn: sqlite3.Connection, job_id: int) -> State:
    """Write down anew where a job stands; returns it."""
    known, says = known_of(conn, job_id)
    entries = entries_of(conn, job_id)
    state = state_of(known, entries)
    told = known.guided or next(reversed(says.values()), "")
    vehicle = conn.execute("SELECT name, plate FROM vehicle JOIN job ON job.vehicle_id = vehicle.id WHERE job.id = ?", (job_id,)).fetchone()
    words = " ".join((known.complaint, *vehicle, *known.traces.values(), state.found)).lower()
    last = max((entry.made_at for entry in entries), default=None)
    values = (state.group, state.here, state.letters, state.waits_for, state.found, told, words, len(standing(entries)), last, job_id)
    conn.execute(_REFRESH, values)
    return state


def refresh_all(conn: sqlite3.Connection) -> int:
    """Write down anew where those jobs stand of which that is not known; returns how many they were."""
    unknown = [row[0] for row in conn.execute("SELECT job_id FROM bay WHERE known = 0 ORDER BY job_id")]
    for job_id in unknown:
        refresh_job(conn, job_id)
    return len(unknown)


def keep_outlook(conn: sqlite3.Connection, job_id: int, trace_id: int, stands: Sequence[int], ready: bool, says: str) -> None:
    """Keep what the evidence of a trace comes to, for lists; ``stands`` are ids of the entries that matter to it: it counts no longer once
    one is added or struck."""
    # It can be made anew, so it need not be on the disk before anyone goes on.
    conn.execute("PRAGMA synchronous = NORMAL")
    try:
        with atomic(conn):
            conn.execute(_KEEP_OUTLOOK, (trace_id, len(stands), max(stands, default=0), int(ready), says))
            refresh_job(conn, job_id)
    finally:
        conn.execute("PRAGMA synchronous = FULL")
