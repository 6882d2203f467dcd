"""A job with all that belongs to it, straight from the record; what must be worked out first is worked out when it is asked for."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass
from functools import cached_property

from flask import abort

from ..core.circuit.sheet import Sheet
from ..core.evidence.items import Item
from ..core.isolate.predict.responses import Workup
from ..store.conclusions import Conclusion, conclusions_of
from ..store.jobs import Job, get_job
from ..store.readings import StoredReading, readings_of
from ..store.sheets import StoredSheet, get_sheet
from ..store.vehicles import Vehicle, get_vehicle
from .workups import workups

__all__ = ["Docket", "Step", "docket_of", "last_state", "replay"]


@dataclass(frozen=True)
class Docket:
    """A job with its vehicle, sheet, log and conclusions; ``supposed`` are items weighed with those of the log, but not written."""

    job: Job
    vehicle: Vehicle
    stored_sheet: StoredSheet
    log: tuple[StoredReading, ...]
    conclusions: tuple[Conclusion, ...]
    supposed: tuple[Item, ...] = ()

    @property
    def sheet(self) -> Sheet:
        """The circuit. Raises SheetError where its text is no sheet any more."""
        return workups().sheet(self.stored_sheet)

    @property
    def workup(self) -> Workup:
        """The circuit, prepared."""
        return workups().workup(self.stored_sheet)

    @cached_property
    def items(self) -> tuple[Item, ...]:
        """The evidence that stands. Raises ReadingError naming a reading that cannot be read any more."""
        return (*workups().items(self.stored_sheet, self.standing), *self.supposed)

    @property
    def standing(self) -> tuple[StoredReading, ...]:
        """The readings that are not struck out, in the order they were taken."""
        return tuple(r for r in self.log if r.struck is None)

    @property
    def standing_ids(self) -> tuple[int, ...]:
        """Their ids: reading n has the id at n − 1."""
        return tuple(r.id for r in self.standing)

    @property
    def concluded(self) -> Conclusion | None:
        """The conclusion that stands."""
        return next((c for c in reversed(self.conclusions) if c.reopened is None), None)


def docket_of(conn: sqlite3.Connection, job_id: int) -> Docket:
    """A job by id; 404 when there is none."""
    job = get_job(conn, job_id)
    if job is None:
        abort(404)
    vehicle, stored = get_vehicle(conn, job.vehicle_id), get_sheet(conn, job.sheet_id)
    assert vehicle is not None and stored is not None  # foreign keys hold this
    return Docket(job, vehicle, stored, tuple(readings_of(conn, job_id)), tuple(conclusions_of(conn, job_id)))


def last_state(docket: Docket) -> str:
    """The state in which the vehicle was left."""
    states = docket.sheet.states
    return next((r.state for r in reversed(docket.standing) if r.state in states), next(iter(states)))


@dataclass(frozen=True, slots=True)
class Step:
    """A reading in the replay: what led after it, empty where that was not worked out."""

    number: int
    stored: StoredReading
    lead: str
    probability: float


def replay(docket: Docket, worked_out: bool = True) -> tuple[Step, ...]:
    """The job again from its first item: after each, the part that led. Struck items are left out."""
    return tuple(_step(docket, n, stored, worked_out) for n, stored in enumerate(docket.standing, 1))


def _step(docket: Docket, number: int, stored: StoredReading, worked_out: bool) -> Step:
    if not worked_out:
        return Step(number, stored, "", 0.0)
    name, p = next(iter(workups().belief(docket.stored_sheet, docket.items[:number]).parts().items()))
    return Step(number, stored, name or "nothing on this sheet", p)
