"""Making a report and keeping it: its PDF among the files, its seal in the record."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass
from pathlib import Path

from ...core.job.report import ISSUED
from ...store.bay import refresh_job
from ...store.entries import add_entry
from ...store.files import ReadyFile, keep_file, ready_file
from ..jobs.docket import Record
from .customer import Customer, customer_of
from .document import html_of, pdf_of
from .full import Full, full_of
from .plan import Plan, plan_of

__all__ = ["CUSTOMER", "FULL", "PLAN", "Ready", "html_sheet", "kept", "ready_pdf"]

CUSTOMER, FULL, PLAN = "customer", "full", "plan"


@dataclass(frozen=True, slots=True)
class Ready:
    """A report that is made and not yet kept."""

    sheet: str
    seal: str
    digest: str
    pdf: ReadyFile


def _report(record: Record, sheet: str, shows: frozenset[str]) -> Customer | Full | Plan:
    return full_of(record) if sheet == FULL else plan_of(record) if sheet == PLAN else customer_of(record, shows)


def html_sheet(record: Record, sheet: str, shows: frozenset[str]) -> str:
    """One of the sheets as an HTML file that holds everything."""
    return html_of(sheet, _report(record, sheet, shows))


def ready_pdf(record: Record, sheet: str, shows: frozenset[str]) -> Ready:
    """One of the sheets as PDF; to be asked for before the transaction that keeps it. Raises DocumentError."""
    report = _report(record, sheet, shows)
    return Ready(sheet, report.seal, report.digest, ready_file(pdf_of(sheet, report)))


def kept(conn: sqlite3.Connection, folder: Path, job_id: int, ready: Ready, person: str) -> None:
    """Keep a report that is ready: the file, and its seal in the record."""
    file = keep_file(conn, folder, ready.pdf)
    content = {"sheet": ready.sheet, "seal": ready.seal, "digest": ready.digest, "pdf": file.digest}
    add_entry(conn, job_id, ISSUED.name, content, person=person, files=[(file.digest, f"{ready.sheet}-{ready.seal}.pdf")])
    refresh_job(conn, job_id)
