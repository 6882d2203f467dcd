"""The Bay: every job, those in work on top."""

from __future__ import annotations

from flask import Blueprint, Flask, render_template

from ..store.jobs import JobRow, all_jobs
from ..store.vehicles import all_vehicles
from .database import get_db

__all__ = ["init_app"]

bp = Blueprint("bay", __name__)


def waits_for(row: JobRow) -> str:
    """What a job waits for, in a few words."""
    if row.concluded is not None:
        return "concluded"
    return "first reading" if row.readings == 0 else "next reading"


@bp.get("/")
def show() -> str:
    """All jobs."""
    conn = get_db()
    return render_template("bay.html", jobs=all_jobs(conn), vehicles=all_vehicles(conn), waits_for=waits_for)


def init_app(app: Flask) -> None:
    """Register the blueprint."""
    app.register_blueprint(bp)
