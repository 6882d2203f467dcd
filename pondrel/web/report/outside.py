"""A report made where no page is asked for: on the command line."""

from __future__ import annotations

from pathlib import Path

from ...core.base.errors import PondrelError
from ...store.db import atomic
from ...store.jobs import get_job
from .. import create_app
from ..jobs.docket import record_of
from ..shell.database import get_db
from .made import CUSTOMER, FULL, html_sheet, kept, ready_pdf

__all__ = ["report_outside"]


def report_outside(folder: Path, job_id: int, as_pdf: bool, full: bool, shows: frozenset[str]) -> bytes:
    """The report of a job as PDF, which is kept and sealed as from the screen, or as HTML. Raises PondrelError with one sentence."""
    app = create_app(folder)
    with app.test_request_context():
        conn = get_db()
        if get_job(conn, job_id) is None:
            raise PondrelError(f"There is no job {job_id}: the Bay lists every job.")
        record, sheet = record_of(conn, job_id), FULL if full else CUSTOMER
        if not as_pdf:
            return html_sheet(record, sheet, shows).encode("utf-8")
        ready = ready_pdf(record, sheet, shows)
        with atomic(conn):
            kept(conn, folder, job_id, ready, "")
        return ready.pdf.content
