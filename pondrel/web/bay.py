"""The Bay: every job, those in work on top."""

from __future__ import annotations

from flask import Blueprint, Flask, render_template, request

from ..store.jobs import JobRow, page_of_jobs
from .database import get_db
from .fields import whole

__all__ = ["init_app"]

ON_A_PAGE = 20
MOST_PAGES = 100_000

bp = Blueprint("bay", __name__)


def waits_for(row: JobRow) -> str:
    """What a job waits for, in a few words."""
    if row.concluded is not None:
        return "concluded"
    if row.outlook:
        return "found: waits to be concluded"
    return "waits for the first reading" if row.readings == 0 else "waits for the next reading"


@bp.get("/")
def show() -> str:
    """A page of the jobs, those in work first."""
    page = min(max(whole(request.args.get("page", "")) or 1, 1), MOST_PAGES)
    found = page_of_jobs(get_db(), ON_A_PAGE + 1, (page - 1) * ON_A_PAGE)
    return render_template("bay.html", jobs=found[:ON_A_PAGE], page=page, more=len(found) > ON_A_PAGE, waits_for=waits_for)


def init_app(app: Flask) -> None:
    """Register the blueprint."""
    app.register_blueprint(bp)
