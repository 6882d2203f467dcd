"""What the pages of a vehicle's modules start from: its roster, the job that they belong to, and the talk that was begun last."""

from __future__ import annotations

from collections.abc import Iterable

from flask import abort, current_app, request

from ...core.job.safety import CAUTION
from ...core.module.moving import check_said_safe
from ...core.module.roster import Module, Roster
from ...store.entries import add_entry
from ...store.jobs import get_job
from ...store.rosters import roster_for
from ...store.vehicles import get_vehicle
from ..jobs.docket import Record, record_of
from ..shell.database import get_db
from ..shell.fields import checked, whole
from ..shell.who import me
from .live import Live, Lives

__all__ = ["job_asked", "module_of", "roster_of", "talk_as_of", "talk_with", "write_made_safe"]


def roster_of(vehicle_id: int) -> Roster:
    """The roster that fits a vehicle; 404 where there is none."""
    vehicle = get_vehicle(get_db(), vehicle_id) or abort(404)
    return (roster_for(get_db(), vehicle) or abort(404)).roster


def module_of(vehicle_id: int, name: str) -> Module:
    """A module of a vehicle; 404 where its roster has none of that name."""
    return roster_of(vehicle_id).modules.get(name) or abort(404)


def job_asked(vehicle_id: int) -> Record | None:
    """The job that the address names, if it is of this vehicle."""
    number = whole(request.values.get("job", ""))
    job = get_job(get_db(), number) if number is not None else None
    return record_of(get_db(), job.id) if job is not None and job.vehicle_id == vehicle_id else None


def talk_with(vehicle_id: int) -> Live | None:
    """The talk with this vehicle that was begun last, whether it is over or not."""
    lives: Lives = current_app.extensions["module_lives"]
    own = [one for one in lives.known.values() if one.vehicle_id == vehicle_id]
    return own[-1] if own else None


def talk_as_of(vehicle_id: int) -> tuple[Live | None, int]:
    """The same, with its version. Asked for before anything else is read, it is never newer than what a page shows: an answer that comes
    while the page is made is seen at its next look."""
    talk = talk_with(vehicle_id)
    return talk, talk.version if talk is not None else 0


def write_made_safe(job_id: int, hazards: Iterable[str], caution: str, text: str, by: str = "") -> None:
    """Write in a job that a caution was seen to. Raises PondrelError where it is none of these, or qualified people are to be named."""
    by = checked("Who isolated it", by, 120)
    check_said_safe(hazards, caution, text, by)
    add_entry(get_db(), job_id, CAUTION.name, {"text": text, "by": by}, person=me())
