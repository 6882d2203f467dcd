"""Taking a log in: a file chosen, read at once where it is small, and with its progress shown where it is not; and signal databases."""

from __future__ import annotations

import contextlib
import io
import shutil
import sqlite3
from collections.abc import Mapping
from pathlib import Path
from typing import Any, BinaryIO, cast

from flask import Blueprint, Flask, current_app, redirect, render_template, request, url_for
from werkzeug.datastructures import FileStorage
from werkzeug.wrappers import Response as WerkzeugResponse

from ...core.base.errors import PondrelError
from ...core.bus.database import database_from
from ...logs.keep_apart import found_in
from ...logs.kept import keep, kept_path
from ...store.bay import refresh_job
from ...store.buses import add_bus_log, add_database, all_databases, choose_databases, latest_bus_logs
from ...store.db import atomic, opened
from ...store.entries import add_entry
from ...store.files import MOST_BYTES as MOST_ATTACHED
from ...store.files import keep_large, media_of
from ...store.jobs import Job, get_job
from ...store.vehicles import all_vehicles
from ..jobs.files import data_folder
from ..shell.coming import add_coming, comings, digest_of
from ..shell.database import get_db
from ..shell.fields import checked, typed, whole
from ..shell.once import written_once
from ..shell.who import me
from .desk import census_for, log_row

__all__ = ["LONGEST_SAYS", "init_app", "kept_log", "taken_databases"]

bp = Blueprint("logs_taken", __name__, url_prefix="/bus")

SMALL, SMALL_PACKED = 2_000_000, 150_000  # bytes that are read while the browser waits; a packed file may hold a thousand times as many
MOST_BYTES = 2_000_000_000
MOST_LISTED, LONGEST_SAYS = 60, 120
OTHER_MEDIA = "application/octet-stream"


@bp.get("")
def index() -> str:
    """The logs that there are, and the form for another one."""
    return _page({}, "")


def _page(given: Mapping[str, str], error: str) -> str:
    conn = get_db()
    job = _job(given.get("job", "") or request.args.get("job", ""))
    return render_template(
        "bus/index.html", rows=latest_bus_logs(conn, MOST_LISTED, job.id if job else None), typed=given, error=error, job=job,
        vehicles=all_vehicles(conn), databases=all_databases(conn), most_mb=MOST_BYTES // 1_000_000,
    )  # fmt: skip


def _job(text: str) -> Job | None:
    number = whole(text)
    return get_job(get_db(), number) if number is not None else None


@bp.post("")
def take() -> WerkzeugResponse | tuple[str, int]:
    """A log that was chosen."""
    given = typed("says", "vehicle", "job", "database")
    try:
        return redirect(_taken(given))
    except PondrelError as error:
        return _page(given, str(error)), 400


def _taken(given: Mapping[str, str]) -> str:
    sent = request.files.get("log")
    if sent is None or not sent.filename:
        raise PondrelError("No file is chosen: a log as candump, ASC, TRC, BLF, MDF4 or CSV is wanted.")
    name = checked("A file's name", sent.filename, 200)
    says = checked("What it is of", given["says"], LONGEST_SAYS) or name
    job = _job(given["job"])
    about = {
        "name": name, "says": says, "vehicle_id": job.vehicle_id if job else whole(given["vehicle"]), "job_id": job.id if job else None,
        "person": me(), "databases": taken_databases(given["database"]),
    }  # fmt: skip
    stream = cast(BinaryIO, sent.stream)
    size = stream.seek(0, 2)
    if size > MOST_BYTES:
        raise PondrelError(f"{name} is larger than {MOST_BYTES // 1_000_000} MB: cut it into shorter logs.")
    folder, target = data_folder(), kept_path(data_folder(), digest_of(stream))
    token, file = comings().file_for()
    stream.seek(0)
    small = SMALL_PACKED if stream.read(2) == b"\x1f\x8b" else SMALL
    stream.seek(0)
    with file.open("wb") as out:
        shutil.copyfileobj(stream, out, 1 << 20)
    if size <= small:
        try:
            found = found_in(keep(file, target, name))

            def write() -> str:
                with file.open("rb") as own:
                    return url_for("bus.show", log_id=kept_log(get_db(), folder, own, about, found))

            return written_once(write)
        finally:
            file.unlink(missing_ok=True)
    database, app = folder / "pondrel.sqlite", cast(Any, current_app)._get_current_object()

    def finish(read: Mapping[str, Any]) -> int:
        conn = opened(database)
        try:
            with file.open("rb") as own, atomic(conn):
                log_id = kept_log(conn, folder, own, about, read)
        finally:
            conn.close()
        with app.app_context(), contextlib.suppress(PondrelError):
            census_for(log_row(log_id))  # so that its page need not wait for that
        return log_id

    comings().begin(token, name, file, ["pondrel.logs.keep_apart", str(file), str(target), name], finish)
    return url_for("logs_taken.coming", token=token)


def taken_databases(chosen: str) -> list[tuple[int, str]]:
    """The databases of a form: one chosen of those that there are, and files that come with it, which are kept."""
    known = {own.id: own for own in all_databases(get_db())}
    found = [(number, "")] if (number := whole(chosen)) is not None and number in known else []
    return [*found, *((_database(sent), "") for sent in request.files.getlist("databases") if sent.filename)]


def _database(sent: FileStorage) -> int:
    name, text = checked("A file's name", sent.filename or "", 200), sent.stream.read()
    own = database_from(text, name)

    def write() -> int:
        stored = keep_large(get_db(), data_folder(), io.BytesIO(text), media_of(text) or OTHER_MEDIA)
        return add_database(get_db(), stored.digest, name, len(own.messages), me())

    with atomic(get_db()):
        return write()


def kept_log(conn: sqlite3.Connection, folder: Path, stream: BinaryIO, about: Mapping[str, Any], found: Mapping[str, Any]) -> int:
    """Keep the file and the row, and a line in the job's record; in a transaction."""
    media = media_of(stream.read(1 << 16)) or OTHER_MEDIA
    stream.seek(0)
    stored = keep_large(conn, folder, stream, media)
    log_id = add_bus_log(
        conn, stored.digest, about["name"], about["says"], int(found["frames"]), float(found["seconds"]), found["channels"],
        vehicle_id=about["vehicle_id"], job_id=about["job_id"], person=about["person"],
    )  # fmt: skip
    if about["databases"]:
        choose_databases(conn, log_id, about["databases"], about["person"])
    if about["job_id"] is not None:
        text = f"{about['says']}: {found['frames']} messages in {float(found['seconds']):.4g} s"[:400]
        files = [(stored.digest, about["name"])] if stored.bytes <= MOST_ATTACHED else []
        add_entry(conn, about["job_id"], "bus", {"text": text, "log": str(log_id)}, person=about["person"], files=files)
        refresh_job(conn, about["job_id"])
    return log_id


add_coming(bp, lambda kept_id: url_for("bus.show", log_id=kept_id))


def init_app(app: Flask) -> None:
    """Register the blueprint, and say that its form may be larger than others."""
    app.register_blueprint(bp)
    app.config["LARGER_FORMS"] = {**app.config.get("LARGER_FORMS", {}), "logs_taken.take": MOST_BYTES + (1 << 20)}
