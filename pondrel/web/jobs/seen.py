"""Jobs that are like one: the same complaint, the same part, the same vehicle; a part that came back on it is flagged."""

from __future__ import annotations

from dataclasses import dataclass

from ...core.job.alike import ALIKE, likeness, words_in
from ...store.history import SeenJob, parts_of, recent_jobs
from ..shell.database import get_db
from .docket import Record

__all__ = ["SeenBefore", "seen_before"]

LOOKED_AT, SHOWN = 2000, 6  # jobs


@dataclass(frozen=True, slots=True)
class SeenBefore:
    """An earlier job with why it is shown; ``back`` where the same part was at fault on the same vehicle."""

    job: SeenJob
    why: tuple[str, ...]
    back: bool


def seen_before(record: Record) -> tuple[SeenBefore, ...]:
    """The earlier jobs that are most like one, the likest first."""
    own, conn = words_in(record.job.complaint), get_db()
    earlier = [job for job in recent_jobs(conn, LOOKED_AT) if job.id < record.job.id]
    parts = parts_of(conn, [record.job.id, *(job.id for job in earlier)])
    here = parts.get(record.job.id, frozenset())
    model = " ".join(filter(None, (record.vehicle.make, record.vehicle.model)))
    found = []
    for job in earlier:
        alike = likeness(own, words_in(job.complaint))
        same_part, same_vehicle = bool(here & parts.get(job.id, frozenset())), job.vehicle_id == record.vehicle.id
        same_model = not same_vehicle and bool(model) and job.model == model
        if not same_part and alike < ALIKE:
            continue
        why = ("the same part",) * same_part + ("the same complaint",) * (alike >= ALIKE)
        why += ("this vehicle",) if same_vehicle else ("the same model",) if same_model else ()
        score = 2.0 * same_part + alike + 0.8 * same_vehicle + 0.4 * same_model + 0.2 * job.proved
        found.append((score, SeenBefore(job, why, same_part and same_vehicle)))
    found.sort(key=lambda pair: (-pair[0], -pair[1].job.id))
    return tuple(one for _, one in found[:SHOWN])
