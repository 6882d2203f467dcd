"""What a job is made safe from: the hazards of all its circuits, traced out or not, and of what is said of complaint and vehicle."""

from __future__ import annotations

from ...core.circuit.sheet import Sheet
from ...core.evidence.hazards import Hazard
from ...core.job.complaint import told_of
from ...core.job.safety import MadeSafe, hazards_of_job, made_safe
from ..shell.attempt import attempt
from ..shell.database import get_db
from .docket import Record, docket_in

__all__ = ["repair_waits_for", "safe_of"]


def safe_of(record: Record) -> tuple[MadeSafe, ...]:
    """Every hazard that the job may meet, those still to be made safe first."""
    told, vehicle = told_of(record.entries), record.vehicle
    words = (*_said(record), record.job.conditions, told.text if told else "", vehicle.options, vehicle.note)
    return made_safe(hazards_of_job(_sheets(record), *words), record.entries)


def repair_waits_for(record: Record) -> tuple[Hazard, ...]:
    """Those of circuits, complaint and finding that a repair waits for: what is only said of the vehicle may be far from it."""
    found = made_safe(hazards_of_job(_sheets(record), *_said(record)), record.entries)
    return tuple(one.hazard for one in found if one.entry is None and one.hazard.locks)


def _said(record: Record) -> tuple[str, ...]:
    return (record.job.complaint, *(conclusion.says for conclusion in record.standing_conclusions))


def _sheets(record: Record) -> list[Sheet]:
    dockets = [docket_in(get_db(), record, trace) for trace in record.traces]
    return [sheet for docket in dockets if (sheet := attempt(lambda docket=docket: docket.sheet)[0])]  # type: ignore[misc]
