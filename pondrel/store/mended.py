"""What a repair leaves in the vehicle's own record: the part that was fitted, and whether it helped once that is known."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable

from ..core.vehicle.ledger import Fitted
from .db import now
from .vehicle_entries import add_vehicle_entry, ledger_of, mileage_now, strike_vehicle_entry

__all__ = ["fit_parts", "fitted_before", "fitted_by_repair", "ledger_before_repair", "tell_helped"]

FROM_REMEDY = "by the repair of this job"


def fit_parts(
    conn: sqlite3.Connection,
    vehicle_id: int,
    job_id: int,
    parts: Iterable[tuple[str, str]],
    how: str,
    months: int,
    source: str,
    person: str,
) -> None:
    """Write the parts of a repair into the ledger, as pairs of what each is called and its name on the circuit (empty for none)."""
    mileage = mileage_now(conn, vehicle_id)
    for called, name in parts:
        content = {
            "part": called[:120], "name": name, "on": now()[:10], "at": mileage.kept if mileage else "", "how": how, "source": source,
            "months": str(months) if months else "", "distance": "", "helped": "", "note": FROM_REMEDY,
        }  # fmt: skip
        add_vehicle_entry(conn, vehicle_id, "fitted", content, job_id=job_id, person=person)


def tell_helped(conn: sqlite3.Connection, vehicle_id: int, job_id: int, helped: str, person: str) -> None:
    """Write beside the parts of a job's repair whether they helped: the line is struck out and written anew."""
    for line in ledger_of(conn, vehicle_id):
        if line.job_id == job_id and line.note == FROM_REMEDY and line.helped != helped:
            strike_vehicle_entry(conn, vehicle_id, line.id, f"it {'helped' if helped == 'yes' else 'did not help'}: written anew", person)
            add_vehicle_entry(conn, vehicle_id, "fitted", _again(line, helped), job_id=job_id, person=person)


def fitted_by_repair(conn: sqlite3.Connection, vehicle_id: int, job_id: int) -> tuple[Fitted, ...]:
    """What the repairs of a job have put in, those that did not help too."""
    return tuple(line for line in ledger_of(conn, vehicle_id) if line.job_id == job_id and line.note == FROM_REMEDY)


def fitted_before(conn: sqlite3.Connection, vehicle_id: int, job_id: int) -> tuple[Fitted, ...]:
    """What was renewed for the complaint of a job before anybody looked for its cause here."""
    return tuple(line for line in ledger_of(conn, vehicle_id) if line.job_id == job_id and line.note != FROM_REMEDY)


def ledger_before_repair(conn: sqlite3.Connection, vehicle_id: int, job_id: int) -> tuple[Fitted, ...]:
    """The parts of a vehicle without those that the repair of a job has put in; what did not help is in as any other part is."""
    lines = ledger_of(conn, vehicle_id)
    return tuple(line for line in lines if line.job_id != job_id or line.note != FROM_REMEDY or line.helped == "no")


def _again(line: Fitted, helped: str) -> dict[str, str | float | bool | None]:
    return {
        "part": line.part, "name": line.name, "on": line.on, "at": line.at.kept if line.at else "", "how": line.how, "source": line.source,
        "months": str(line.months) if line.months else "", "distance": line.distance.kept if line.distance else "", "helped": helped,
        "note": line.note,
    }  # fmt: skip
