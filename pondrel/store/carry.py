"""What a circuit takes from the job around it, written as evidence on its trace: when the complaint is there, what was renewed in vain."""

from __future__ import annotations

import sqlite3

from ..core.circuit.read.sheet import parse_sheet
from ..core.job.complaint import FROM_COMPLAINT, to_carry, told_of
from ..core.job.renewed import FROM_LEDGER, renewed_on
from .conclusions import is_concluded
from .entries import add_entry, entries_of, strike_entry
from .jobs import get_job
from .sheets import get_sheet
from .traces import Trace, traces_of
from .vehicle_entries import ledger_of

__all__ = ["carry"]

_NOT_TOLD = "the complaint was told otherwise"


def carry(conn: sqlite3.Connection, job_id: int, person: str = "", made_at: str | None = None) -> None:
    """Bring every circuit of a job that is not concluded up to date with what the job knows. To be called within the transaction that wrote
    that, or that took a circuit up."""
    job = get_job(conn, job_id)
    assert job is not None
    entries = entries_of(conn, job_id)
    told, ledger = told_of(entries), [line for line in ledger_of(conn, job.vehicle_id) if line.job_id == job_id and line.helped]
    for trace in traces_of(conn, job_id):
        if is_concluded(conn, job_id, trace.id):
            continue
        own = [entry for entry in entries if entry.trace_id == trace.id]
        change = to_carry(told, own)
        for entry in change.strike:
            strike_entry(conn, job_id, entry.id, _NOT_TOLD, person, made_at)
        for kind, outcome in change.write:
            _write(conn, trace, kind, "", outcome, FROM_COMPLAINT, person, made_at)
        if ledger:
            stored = get_sheet(conn, trace.sheet_id)
            assert stored is not None
            for kind, part, outcome in renewed_on(parse_sheet(stored.text), ledger, own):
                _write(conn, trace, kind, part, outcome, FROM_LEDGER, person, made_at)


def _write(
    conn: sqlite3.Connection, trace: Trace, kind: str, subject: str, outcome: str, note: str, person: str, made_at: str | None
) -> None:
    content = {"state": "", "subject": subject, "outcome": outcome, "note": note}
    add_entry(conn, trace.job_id, kind, content, trace_id=trace.id, person=person, made_at=made_at)
