"""A photo of the record: as it is kept, with marks that can be drawn on it."""

from __future__ import annotations

from collections.abc import Mapping

from flask import Blueprint, Flask, abort, render_template, url_for
from werkzeug.wrappers import Response

from ...core.base.errors import PondrelError
from ...core.job.marks import LONGEST_WORDS, MARKS, MOST_MARKS, marks_of
from ...store.bay import refresh_job
from ...store.entries import add_entry
from ...store.files import file_path, get_file
from ...store.photos import size_of
from ..shell.database import get_db
from ..shell.fields import typed
from ..shell.once import answered_once
from ..shell.points import points_typed
from ..shell.who import me
from .docket import Record, record_of
from .files import data_folder

__all__ = ["init_app"]

bp = Blueprint("photos", __name__, url_prefix="/jobs/<id:job_id>/photos/<digest>")


@bp.get("")
def show(job_id: int, digest: str) -> str:
    """The photo with its marks."""
    return _page(record_of(get_db(), job_id), digest, {}, "")


def _page(record: Record, digest: str, given: Mapping[str, str], error: str) -> str:
    entry = next((e for e in record.entries if any(own == digest for own, _ in e.files)), None)
    stored, path = get_file(get_db(), digest), file_path(data_folder(), digest)
    if entry is None or stored is None or not stored.media.startswith("image/") or not path.exists():
        abort(404)
    width, height = size_of(path.read_bytes())
    return render_template(
        "jobs/photo.html",
        record=record,
        entry=entry,
        name=next(name for own, name in entry.files if own == digest),
        digest=digest,
        width=width,
        height=height,
        marks=marks_of(record.entries, digest),
        kept=points_typed(given.get("marks", ""), 1) or [[m.x, m.y, m.words] for m in marks_of(record.entries, digest)],
        most=MOST_MARKS,
        longest=LONGEST_WORDS,
        typed=given,
        error=error,
    )


@bp.post("")
def mark(job_id: int, digest: str) -> Response | tuple[str, int]:
    """Write the marks down; the photo itself is never changed."""
    conn = get_db()
    record = record_of(conn, job_id)
    given = typed("marks")

    def written() -> str:
        if not any(own == digest for e in record.entries for own, _ in e.files):
            raise PondrelError("This photo is none of this job's: open it from the record.")
        add_entry(conn, job_id, MARKS.name, {"file": digest, "marks": given["marks"]}, person=me())
        refresh_job(conn, job_id)
        return url_for("photos.show", job_id=job_id, digest=digest)

    return answered_once(written, lambda error: _page(record, digest, given, error))


def init_app(app: Flask) -> None:
    """Register the blueprint."""
    app.register_blueprint(bp)
