"""What the vehicle's ledger says of the parts of a circuit: fitted lately, under warranty still, renewed for this very complaint."""

from __future__ import annotations

from collections.abc import Mapping

from ...core.vehicle.ledger import Fitted, fitted_to, lately, warranty_of
from ...core.vehicle.mileage import Mileage
from ...store.db import now
from ...store.vehicle_entries import ledger_of, mileage_now
from ..shell.database import get_db
from .docket import Docket

__all__ = ["fitted_notes"]


def fitted_notes(docket: Docket) -> Mapping[str, str]:
    """By part of the sheet, what is to be known before it is suspected or renewed; nothing of what is old and out of warranty."""
    conn, vehicle = get_db(), docket.vehicle.id
    today, mileage = now()[:10], mileage_now(conn, vehicle)
    found = {
        name: _note(line, docket.job.id, today, mileage) for name, line in fitted_to(docket.sheet.parts, ledger_of(conn, vehicle)).items()
    }
    return {name: text for name, text in found.items() if text}


def _note(line: Fitted, job_id: int, today: str, mileage: Mileage | None) -> str:
    warranty = warranty_of(line, today, mileage)
    helped = {"no": "renewed for this complaint, no help", "yes": "renewed for this complaint, it helped a while"}.get(line.helped, "")
    own = helped if line.job_id == job_id else ""
    if not (lately(line, today) or warranty.stands or own):
        return ""
    left = f"under warranty: {warranty.says}" if warranty.stands else ""
    return "; ".join(filter(None, (own, f"fitted {line.when}, {line.how}", left)))
