"""A job straight from the record, and one of its traces with what belongs to it; what must be worked out is worked out when asked for."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass, replace
from functools import cached_property

from flask import abort

from ...core.circuit.sheet import Sheet
from ...core.evidence.items import Item
from ...core.isolate import Workup
from ...core.job.changes import Sides, cuts, mattering, sides_of
from ...core.job.entry import Entry
from ...core.job.kinds import is_evidence
from ...core.job.stages import State, state_of
from ...core.learn import Learned
from ...core.making.differences import drawn_otherwise
from ...store.bay import known_of
from ...store.conclusions import Conclusion, conclusions_of
from ...store.entries import entries_of
from ...store.jobs import Job, get_job
from ...store.sheets import StoredSheet, get_sheet
from ...store.traces import Trace, traces_of
from ...store.vehicles import Vehicle, get_vehicle
from ..shell.attempt import attempt
from ..shell.learned import learned_for
from ..shell.workups import workups

__all__ = ["Docket", "Record", "docket_in", "docket_of", "last_state", "record_of"]


@dataclass(frozen=True)
class Record:
    """A job with its vehicle, its traces, its entries in the order in which they were written, its conclusions, and where it stands."""

    job: Job
    vehicle: Vehicle
    traces: tuple[Trace, ...]
    entries: tuple[Entry, ...]
    conclusions: tuple[Conclusion, ...]
    state: State

    @property
    def standing_conclusions(self) -> tuple[Conclusion, ...]:
        """The conclusions that stand."""
        return tuple(c for c in self.conclusions if c.reopened is None)

    def trace(self, number: int) -> Trace | None:
        """One of its traces by number."""
        return next((trace for trace in self.traces if trace.number == number), None)

    def concluded_on(self, trace: Trace) -> Conclusion | None:
        """The conclusion that stands on a trace."""
        return next((c for c in self.standing_conclusions if c.trace_id == trace.id), None)


@dataclass(frozen=True)
class Docket:
    """A trace of a job with its sheet; ``supposed`` are items weighed with those of the log, but not written. ``begun_with`` is the
    drawing that it was opened with, where that was corrected since; ``learned`` what the record says of its parts."""

    record: Record
    trace: Trace
    stored_sheet: StoredSheet
    supposed: tuple[Item, ...] = ()
    begun_with: StoredSheet | None = None
    learned: Learned | None = None

    @property
    def job(self) -> Job:
        """The job."""
        return self.record.job

    @property
    def vehicle(self) -> Vehicle:
        """Its vehicle."""
        return self.record.vehicle

    @property
    def sheet(self) -> Sheet:
        """The circuit. Raises SheetError where its text is no sheet any more."""
        return workups().sheet(self.stored_sheet)

    @cached_property
    def drawn_otherwise(self) -> frozenset[str]:
        """The parts that are drawn otherwise than where the trace began."""
        return drawn_otherwise(self.sheet, workups().sheet(self.begun_with)) if self.begun_with else frozenset()

    @property
    def workup(self) -> Workup:
        """The circuit, prepared."""
        return workups().workup(self.stored_sheet)

    @property
    def log(self) -> tuple[Entry, ...]:
        """The evidence on this circuit in the order in which it was written, what was struck out included."""
        return tuple(entry for entry in self.record.entries if self._logged(entry))

    def _logged(self, entry: Entry) -> bool:
        return entry.trace_id == self.trace.id and is_evidence(entry.kind)

    @property
    def log_with_actions(self) -> tuple[Entry, ...]:
        """The log, with what was done to the vehicle between its lines."""
        return tuple(e for e in self.record.entries if self._logged(e) or (cuts(e) and e.trace_id in (self.trace.id, None)))

    @cached_property
    def sides(self) -> Sides:
        """The evidence that stands: what was read before the last thing that was done, and what speaks for the circuit as it is."""
        return sides_of(self.record.entries, self.trace.id)

    @property
    def standing(self) -> tuple[Entry, ...]:
        """The evidence that stands and speaks for the circuit as it is now."""
        return self.sides.now

    @property
    def mattering(self) -> tuple[int, ...]:
        """Ids of the entries that all of this hangs on."""
        return mattering(self.record.entries, self.trace.id)

    @property
    def standing_ids(self) -> tuple[int, ...]:
        """Their ids: reading n has the id at n − 1."""
        return tuple(entry.id for entry in self.standing)

    @cached_property
    def items(self) -> tuple[Item, ...]:
        """The evidence that stands, read. Raises ReadingError naming a reading that cannot be read any more."""
        return (*workups().items(self.stored_sheet, self.standing), *self.supposed)

    @property
    def conclusions(self) -> tuple[Conclusion, ...]:
        """The conclusions on this circuit, the latest last."""
        return tuple(c for c in self.record.conclusions if c.trace_id == self.trace.id)

    @property
    def concluded(self) -> Conclusion | None:
        """The conclusion that stands on it."""
        return self.record.concluded_on(self.trace)


def record_of(conn: sqlite3.Connection, job_id: int) -> Record:
    """A job by id; 404 when there is none."""
    job = get_job(conn, job_id)
    if job is None:
        abort(404)
    vehicle = get_vehicle(conn, job.vehicle_id)
    assert vehicle is not None  # a foreign key holds this
    entries = entries_of(conn, job_id)
    known, _ = known_of(conn, job_id)
    return Record(job, vehicle, traces_of(conn, job_id), entries, conclusions_of(conn, job_id), state_of(known, entries))


def docket_of(conn: sqlite3.Connection, job_id: int, number: int) -> Docket:
    """A trace of a job by its number; 404 when there is none."""
    record = record_of(conn, job_id)
    trace = record.trace(number)
    if trace is None:
        abort(404)
    return docket_in(conn, record, trace)


def docket_in(conn: sqlite3.Connection, record: Record, trace: Trace) -> Docket:
    """A trace of a job that has been read already."""
    stored = get_sheet(conn, trace.sheet_id)
    assert stored is not None  # a foreign key holds this
    begun = get_sheet(conn, trace.begun_id) if trace.begun_id != trace.sheet_id else None
    learned, _ = attempt(lambda: learned_for(record.job, record.vehicle, stored))
    known = replace(stored, learned=learned.weights) if learned and learned.weights else stored
    return Docket(record, trace, known, begun_with=begun, learned=learned)


def last_state(docket: Docket) -> str:
    """The state in which the vehicle was left."""
    states = docket.sheet.states
    return next((state for entry in reversed(docket.standing) if (state := entry.text("state")) in states), next(iter(states)))
