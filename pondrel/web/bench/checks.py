"""Kept checks: what was found, the old and the new one side by side, and the way into a job."""

from __future__ import annotations

from flask import Blueprint, Flask, abort, render_template, request, url_for
from werkzeug.wrappers import Response

from ...core.base.errors import PondrelError
from ...core.bench.given import given_from
from ...store.bay import JobRow, Wanted, page_of_jobs, refresh_job
from ...store.bench import BenchRow, check_of
from ...store.entries import add_entry
from ...store.jobs import get_job
from ..shell.database import get_db
from ..shell.fields import whole
from ..shell.once import answered_once
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
    pair = (row.id, row.before_id or 0)
    own = board(conn, family_here(row.family), given_from(row.given), row.title, pair)
    before = check_of(conn, row.before_id) if row.before_id is not None else None
    old = board(conn, family_here(before.family), given_from(before.given), before.title, pair) if before else None
    return render_template("bench/check.html", row=row, board=own, before=before, old=old, jobs=_open_jobs(row), error=error)


def _open_jobs(row: BenchRow) -> list[JobRow]:
    """The jobs that it may go into: those of its vehicle, newest first, or all that are open where no vehicle is known."""
    return page_of_jobs(get_db(), MOST_JOBS, 0, Wanted(vehicle_id=row.vehicle_id))


@bp.post("/bench/checks/<id:check_id>/job")
def into_job(check_id: int) -> Response | tuple[str, int]:
    """Write a check into a job's record."""
    row = _row(check_id)

    def write() -> str:
        conn = get_db()
        job_id = whole(request.form.get("job", ""))
        if job_id is None or get_job(conn, job_id) is None:
            raise PondrelError("No job is chosen: pick the one that the check belongs to.")
        content = {"text": f"{row.title}: {row.verdict}. {row.says}", "part": row.part, "check": str(row.id)}
        add_entry(conn, job_id, "bench", {name: text for name, text in content.items() if text}, person=me())
        refresh_job(conn, job_id)
        return url_for("jobs.show", job_id=job_id)

    return answered_once(write, lambda error: _page(row, error))


def init_app(app: Flask) -> None:
    """Register the blueprint."""
    app.register_blueprint(bp)
