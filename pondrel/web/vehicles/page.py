"""What is shown of a vehicle: its facts, the ledger with its warranties, its jobs, what was found and what came back."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass

from flask import abort

from ...core.vehicle.history import CameBack, came_back
from ...core.vehicle.identity import vin_remarks
from ...core.vehicle.ledger import Fitted, Warranty, lately, warranty_of
from ...core.vehicle.mileage import Mileage
from ...core.vehicle.record import VehicleEntry, fitted_of, mileage_of
from ...store.bay import JobRow, Wanted, page_of_jobs
from ...store.bench import BenchRow, checks_of_vehicle
from ...store.corrections import OnVehicle, corrections_on
from ...store.db import now
from ...store.vehicle_entries import conclusions_on, last_mileage, ledger_of, mileage_now, vehicle_entries_of
from ...store.vehicles import Vehicle, get_vehicle

__all__ = ["LedgerLine", "VehiclePage", "ledger_lines", "vehicle_of", "vehicle_page"]

MOST_JOBS = 100
MOST_CHECKS = 12


@dataclass(frozen=True, slots=True)
class LedgerLine:
    """A part that was fitted, with what is left of its warranty today and whether that was lately."""

    fitted: Fitted
    warranty: Warranty
    lately: bool

    @property
    def for_complaint(self) -> str:
        """What came of it where it was fitted for a complaint."""
        return {"no": "for this complaint, no help", "yes": "helped then"}.get(self.fitted.helped, "")


def ledger_lines(ledger: Sequence[Fitted], mileage: Mileage | None) -> list[LedgerLine]:
    """The ledger with its warranties, the last fitted on top."""
    today = now()[:10]
    lines = [LedgerLine(one, warranty_of(one, today, mileage), lately(one, today)) for one in ledger]
    return sorted(lines, key=lambda line: (line.fitted.on, line.fitted.id), reverse=True)


@dataclass(frozen=True)
class VehiclePage:
    """All that is shown of a vehicle."""

    vehicle: Vehicle
    remarks: tuple[str, ...]
    mileage: VehicleEntry | None
    ledger: list[LedgerLine]
    entries: tuple[VehicleEntry, ...]
    jobs: list[JobRow]
    corrections: list[OnVehicle]
    came_back: tuple[CameBack, ...]
    checks: list[BenchRow]

    @property
    def notes(self) -> list[VehicleEntry]:
        """The notes that stand, the latest on top."""
        return [entry for entry in reversed(self.entries) if entry.kind == "note" and entry.struck is None]

    @property
    def distance(self) -> str:
        """What the instrument showed last."""
        return str(mileage_of(self.mileage)) if self.mileage else ""

    @property
    def struck(self) -> list[tuple[VehicleEntry, str]]:
        """What was struck out of its record, with how it read."""
        return [(entry, _reads(entry)) for entry in reversed(self.entries) if entry.struck is not None]


def _reads(entry: VehicleEntry) -> str:
    if entry.kind == "fitted":
        return fitted_of(entry).part
    return entry.text("reads") or entry.text("text")


def vehicle_of(conn: sqlite3.Connection, vehicle_id: int) -> Vehicle:
    """A vehicle by id; 404 when there is none."""
    found = get_vehicle(conn, vehicle_id)
    if found is None:
        abort(404)
    return found


def vehicle_page(conn: sqlite3.Connection, vehicle: Vehicle) -> VehiclePage:
    """The page's contents."""
    return VehiclePage(
        vehicle,
        vin_remarks(vehicle.vin),
        last_mileage(conn, vehicle.id),
        ledger_lines(ledger_of(conn, vehicle.id), mileage_now(conn, vehicle.id)),
        vehicle_entries_of(conn, vehicle.id),
        page_of_jobs(conn, MOST_JOBS, 0, Wanted(vehicle_id=vehicle.id)),
        corrections_on(conn, vehicle.id),
        came_back(conclusions_on(conn, vehicle.id)),
        checks_of_vehicle(conn, vehicle.id, MOST_CHECKS),
    )
