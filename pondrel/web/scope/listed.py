"""What can be unplugged, as the circuit of a job lists it: a beginning for who unplugs one thing after the other."""

from __future__ import annotations

from ...core.circuit.unpluggable import unpluggables
from ...core.scope.one_by_one import written
from ...store.captures import LaidRow
from ..jobs.docket import Record, docket_in
from ..shell.database import get_db

__all__ = ["listed_for"]


def listed_for(record: Record | None, laid: LaidRow | None = None) -> str:
    """The list of the circuit on which a capture lies, watched from red's place, or of the job's first one; empty where there is none."""
    if record is None or not record.traces:
        return ""
    trace = (record.trace(laid.trace_number) if laid is not None else None) or record.traces[0]
    sheet = docket_in(get_db(), record, trace).sheet
    watched = laid.red if laid is not None else next((name for name in sheet.places if name not in (sheet.plus, sheet.minus)), sheet.plus)
    found = {one.name: one for one in unpluggables(sheet, watched)}
    return written((one.called, one.minutes, [found[name].called for name in one.off]) for one in found.values())
