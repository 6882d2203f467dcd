"""Kept checks: what was found, the old and the new one side by side, and the way into a job."""

from __future__ import annotations

import sqlite3

from flask import Blueprint, Flask, abort, render_template, request, url_for
from werkzeug.wrappers import Response

from ...core.base.errors import PondrelError
from ...core.bench import outcome
from ...core.bench.given import given_from
from ...core.check import Verdict
from ...core.circuit.sheet import Part
from ...core.evidence.registry import content_of, sort_of
from ...core.job.bench import Said, said_of
from ...core.meter.handheld import AS_TYPED
from ...store.bay import Wanted, page_of_jobs, refresh_job
from ...store.bench import BenchRow, check_of
from ...store.conclusions import is_concluded
from ...store.entries import add_entry
from ...store.jobs import get_job
from ...store.meters import meter_named
from ..jobs.docket import Docket, docket_in, docket_of, record_of
from ..shell.database import get_db
from ..shell.fields import whole
from ..shell.once import answered_with
from ..shell.who import me
from .page import board
from .views import family_here

__all__ = ["init_app"]

bp = Blueprint("bench_checks", __name__)

MOST_JOBS = 30


def _row(check_id: int) -> BenchRow:
    row = check_of(get_db(), check_id)
    if row is None:
        abort(404)
    return row


@bp.get("/bench/checks/<id:check_id>")
def show(check_id: int) -> str:
    """A kept check with its reasons, beside the one of the old part where it follows one."""
    return _page(_row(check_id), "")


def _page(row: BenchRow, error: str) -> str:
    conn = get_db()
    pair = (row.id, *([row.before_id] if row.before_id else []))
    own = board(conn, family_here(row.family), given_from(row.given), row.title, pair, row.vehicle_id)
    before = check_of(conn, row.before_id) if row.before_id is not None else None
    old = board(conn, family_here(before.family), given_from(before.given), before.title, pair) if before else None
    jobs = page_of_jobs(conn, MOST_JOBS, 0, Wanted(vehicle_id=row.vehicle_id))
    chosen = whole(request.values.get("job", "")) or row.job_id
    return render_template(
        "bench/check.html", row=row, board=own, before=before, old=old, jobs=jobs, chosen=chosen, parts=_parts(conn, chosen), error=error
    )  # fmt: skip


def _parts(conn: sqlite3.Connection, job_id: int | None) -> list[tuple[Docket, list[Part]]]:
    """The circuits of a job with their parts that can be measured by themselves."""
    if job_id is None or get_job(conn, job_id) is None:
        return []
    record = record_of(conn, job_id)
    dockets = [docket_in(conn, record, trace) for trace in record.traces]
    return [(docket, [part for part in docket.sheet.parts.values() if not part.kind.posts]) for docket in dockets]


@bp.post("/bench/checks/<id:check_id>/job")
def into_job(check_id: int) -> Response | tuple[str, int]:
    """Write a check into a job's record, and what it says of a part into that circuit's evidence."""
    row = _row(check_id)

    def ready() -> list[tuple[Docket, Said]]:
        job_id = whole(request.form.get("job", ""))
        if job_id is None or get_job(get_db(), job_id) is None:
            raise PondrelError("No job is chosen: pick the one that the check belongs to.")
        number, _, part = request.form.get("on", "").partition(":")
        return _said(row, job_id, int(number), part) if number.isdecimal() and part else []

    def write(said: list[tuple[Docket, Said]]) -> str:
        conn, job_id = get_db(), int(request.form["job"])
        part = request.form.get("on", "").partition(":")[2] or row.part
        content = {"text": f"{row.title}: {row.verdict}. {row.says}", "part": part, "check": str(row.id)}
        add_entry(conn, job_id, "bench", {name: text for name, text in content.items() if text}, person=me())
        for docket, one in said:
            kind, items = sort_of(one.item).name, content_of(one.item, one.value)
            add_entry(conn, job_id, kind, items, trace_id=docket.trace.id, person=me())
        refresh_job(conn, job_id)
        if said:
            return url_for("trace.show", job_id=job_id, number=said[0][0].trace.number)
        # Outside its limits, and nothing else is found or traced: it may be the part, which is named there.
        record = record_of(conn, job_id)
        alone = row.verdict == Verdict.OUTSIDE and not record.traces and not record.state.found
        return url_for("remedy.show" if alone else "jobs.show", job_id=job_id)

    return answered_with(ready, write, lambda error: _page(row, error))


def _said(row: BenchRow, job_id: int, number: int, part: str) -> list[tuple[Docket, Said]]:
    conn = get_db()
    docket = docket_of(conn, job_id, number)
    if is_concluded(conn, job_id, docket.trace.id):
        raise PondrelError("This circuit's work is concluded: reopen it with a reason before a check becomes evidence there.")
    family, given = family_here(row.family), given_from(row.given)
    own = meter_named(conn, given.meter)
    case = given.case(family, own.meter if own else AS_TYPED)
    return [(docket, said) for said in said_of(docket.sheet, part, family, case, outcome(family, case))]


def init_app(app: Flask) -> None:
    """Register the blueprint."""
    app.register_blueprint(bp)
