"""The head of every report: whose vehicle, which job, when and by whom; and the digest of what a report says."""

from __future__ import annotations

import json
from dataclasses import asdict, dataclass
from typing import Any

from ...core.base.dates import said_date
from ...core.job.entry import standing
from ...core.job.report import ISSUED, REPORT, digest_of, seal_of
from ...core.remedy.choice import AGREED
from ...store.reports import letterhead_of
from ...store.vehicle_entries import mileage_now
from ..jobs.docket import Record
from ..shell.database import get_db

__all__ = ["Head", "Sealed", "head_of"]


@dataclass(frozen=True, slots=True)
class Head:
    """The head of a report: whose vehicle, which job, when and by whom."""

    workshop: str
    place: str
    job: int
    date: str
    person: str
    customer: str
    vehicle: str
    plate: str
    mileage: str


def head_of(record: Record) -> Head:
    """The head of a job's report."""
    conn, vehicle = get_db(), record.vehicle
    letter = letterhead_of(conn)
    said = [e for e in standing(record.entries, AGREED.name) if e.text("agrees") == "yes"]
    made = " ".join(filter(None, (vehicle.make, vehicle.model)))
    work = [e.made_at for e in standing(record.entries) if e.kind not in (ISSUED.name, REPORT.name)]
    last = work[-1] if work else record.job.opened_at
    return Head(
        letter.name,
        letter.place,
        record.job.id,
        said_date(last[:10]),
        record.job.person,
        said[-1].text("who") if said else "",
        ", ".join(filter(None, (vehicle.name, made, vehicle.year))),
        vehicle.plate,
        str(mileage_now(conn, vehicle.id) or ""),
    )


class Sealed:
    """A report under a seal: a dataclass that holds everything it says."""

    __slots__ = ()

    @property
    def digest(self) -> str:
        """Of everything that it says."""
        content: Any = self
        return digest_of(json.loads(json.dumps(asdict(content), default=str)))

    @property
    def seal(self) -> str:
        """What stands at its foot."""
        return seal_of(self.digest)
