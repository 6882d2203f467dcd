"""What the record has taught of a circuit on a vehicle, for a job; nothing where the workshop has switched it off."""

from __future__ import annotations

from itertools import groupby

from ...core.base.dates import days_between
from ...core.circuit.sheet import Sheet
from ...core.learn import Here, Learned, Past, Told, learned_from, mode_shares, part_shares
from ...store.house import house_choices
from ...store.jobs import Job
from ...store.proved import proved_before
from ...store.sheets import StoredSheet, get_sheet
from ...store.vehicles import Vehicle
from .attempt import attempt
from .database import get_db
from .workups import workups

__all__ = ["LEARNING", "commonest_mode", "learned_for", "learns", "proved_jobs", "proved_on"]

LEARNING = "learning"  # the house rule that switches it
DAYS_A_YEAR = 365.25


def learns() -> bool:
    """Whether the workshop learns from its record: it does unless it said otherwise."""
    return house_choices(get_db()).get(LEARNING) != "off"


def learned_for(job: Job, vehicle: Vehicle, stored: StoredSheet) -> Learned:
    """What proved jobs said when this one was opened."""
    if not learns():
        return Learned((), (), 0)
    sheet = workups().sheet(stored)
    model = " ".join(filter(None, (vehicle.make, vehicle.model)))
    return learned_from(proved_jobs(job.id, job.opened_at), _here(sheet, model, vehicle.year, job.opened_at))


def _here(sheet: Sheet, model: str, year: str, when: str) -> Here:
    years = days_between(year, when[:10]) / DAYS_A_YEAR if year else None
    kinds = {name: part.kind.name for name, part in sheet.parts.items()}
    return Here(sheet.title, sheet.family, model, years, kinds, part_shares(sheet), mode_shares(sheet))


def proved_jobs(job_id: int, before: str) -> list[Past]:
    """The jobs that were proved before a time, one of them left out; those whose circuit cannot be read any more are passed over."""
    return [past for past, _ in proved_on(job_id, before)]


def proved_on(job_id: int, before: str) -> list[tuple[Past, Sheet]]:
    """The same with the circuit of each."""
    found = []
    for (number, sheet_id), rows in groupby(proved_before(get_db(), job_id, before), key=lambda row: (row.job_id, row.sheet_id)):
        parts = tuple(rows)
        stored = get_sheet(get_db(), sheet_id)
        sheet, _ = attempt(lambda stored=stored: workups().sheet(stored)) if stored else (None, "")  # type: ignore[misc]
        if sheet is not None:
            here = _here(sheet, parts[0].model, parts[0].year, parts[0].opened_at)
            modes = {row.part: row.mode for row in parts if row.mode}
            found.append((Past(number, here, tuple(row.part for row in parts), modes), sheet))
    return found


def commonest_mode(told: Told, sheet: Sheet) -> str:
    """How the part failed most often, where that is known of two jobs or more: ``mostly corroded``; else empty."""
    known = told.modes[0] if told.modes else ("", 0)
    part = sheet.parts.get(told.part)
    words = next((mode.words for mode in part.modes if mode.name == known[0]), "") if part else ""
    return f"mostly {words}" if known[1] > 1 and words else ""
