"""Taking a capture in: a file chosen, read at once where it is small, and with its progress shown where it is not."""

from __future__ import annotations

import math
import shutil
from collections.abc import Mapping
from pathlib import Path
from typing import Any, BinaryIO, cast

from flask import Blueprint, Flask, redirect, render_template, request, url_for
from werkzeug.wrappers import Response as WerkzeugResponse

from ...core.base.errors import PondrelError
from ...core.base.quantity import parse_reading
from ...core.wave import Capture
from ...core.wave.read import MOST_BYTES
from ...store.bay import refresh_job
from ...store.captures import add_capture, judged_of, latest_captures
from ...store.db import atomic, opened
from ...store.entries import add_entry
from ...store.files import MOST_BYTES as MOST_ATTACHED
from ...store.files import keep_large, media_of
from ...store.jobs import Job, get_job
from ...store.prepared import prepare, prepared_path
from ...store.vehicles import all_vehicles
from ..jobs.files import data_folder
from ..shell.coming import add_coming, comings, digest_of
from ..shell.database import get_db
from ..shell.fields import checked, typed, whole
from ..shell.once import written_once
from ..shell.who import me

__all__ = ["init_app", "kept_capture"]

bp = Blueprint("captures_taken", __name__, url_prefix="/scope")

SMALL = 3_000_000  # bytes that are read while the browser waits
MOST_LISTED, LONGEST_SAYS = 60, 120
OTHER_MEDIA = "application/octet-stream"


@bp.get("")
def index() -> str:
    """The captures that there are, and the form for another one."""
    return _page({}, "")


def _page(given: Mapping[str, str], error: str) -> str:
    conn = get_db()
    job = _job(given.get("job", "") or request.args.get("job", ""))
    rows = latest_captures(conn, MOST_LISTED, job.id if job else None)
    return render_template(
        "scope/index.html", rows=rows, judged=judged_of(conn, [row.id for row in rows]), typed=given, error=error, job=job,
        vehicles=all_vehicles(conn), most_mb=MOST_BYTES // 1_000_000,
    )  # fmt: skip


def _job(text: str) -> Job | None:
    number = whole(text)
    return get_job(get_db(), number) if number is not None else None


@bp.post("")
def take() -> WerkzeugResponse | tuple[str, int]:
    """A capture that was chosen."""
    given = typed("says", "vehicle", "job", "full_scale")
    try:
        return redirect(_taken(given))
    except PondrelError as error:
        return _page(given, str(error)), 400


def _taken(given: Mapping[str, str]) -> str:
    sent = request.files.get("capture")
    if sent is None or not sent.filename:
        raise PondrelError("No file is chosen: a capture as CSV, WAV, VCD or .npz is wanted.")
    name = checked("A file's name", sent.filename, 200)
    says = checked("What it is of", given["says"], LONGEST_SAYS) or name
    scale = parse_reading(given["full_scale"], "V").value if given["full_scale"] else None
    if scale is not None and not (math.isfinite(scale) and scale > 0.0):
        raise PondrelError("The volts at full scale are a number above nought, such as 20.")
    about = _about(name, says, _job(given["job"]), whole(given["vehicle"]), scale)
    stream = cast(BinaryIO, sent.stream)
    size = stream.seek(0, 2)
    digest = digest_of(stream)
    folder = data_folder()
    target = prepared_path(folder, digest, scale)
    if size <= SMALL:
        stream.seek(0)
        capture = prepare(stream, target, scale)
        found = _found(capture)

        def write() -> str:
            stream.seek(0)
            return url_for("scope.show", capture_id=_kept(get_db(), folder, stream, about, found))

        return written_once(write)
    token, file = comings().file_for()
    stream.seek(0)
    with file.open("wb") as out:
        shutil.copyfileobj(stream, out, 1 << 20)
    database = folder / "pondrel.sqlite"

    def finish(read: Mapping[str, Any]) -> int:
        conn = opened(database)
        try:
            with file.open("rb") as own, atomic(conn):
                return _kept(conn, folder, own, about, read)
        finally:
            conn.close()

    command = ["pondrel.store.prepare_apart", str(file), str(target), *([repr(scale)] if scale is not None else [])]
    comings().begin(token, name, file, command, finish)
    return url_for("captures_taken.coming", token=token)


def _about(name: str, says: str, job: Job | None, vehicle_id: int | None, full_scale: float | None) -> dict[str, Any]:
    """What is said of a capture by who takes it; a job's capture is of the job's vehicle."""
    return {
        "name": name,
        "says": says,
        "vehicle_id": job.vehicle_id if job else vehicle_id,
        "job_id": job.id if job else None,
        "full_scale": full_scale,
        "person": me(),
    }


def _found(capture: Capture) -> dict[str, Any]:
    """What a capture holds, as reading it apart tells it."""
    return {"count": capture.count, "step": capture.step, "channels": [(one.name, one.unit) for one in capture.channels]}


def _kept(conn: Any, folder: Path, stream: BinaryIO, about: Mapping[str, Any], found: Mapping[str, Any]) -> int:
    """Keep the file and the row, and a line in the job's record; in a transaction."""
    stream.seek(0)
    media = media_of(stream.read(1 << 16)) or OTHER_MEDIA
    stored = keep_large(conn, folder, stream, media)
    channels = [(str(name), str(unit)) for name, unit in found["channels"]]
    capture_id = add_capture(
        conn, stored.digest, about["name"], about["says"], int(found["count"]), float(found["step"]), channels,
        vehicle_id=about["vehicle_id"], job_id=about["job_id"], full_scale=about["full_scale"], person=about["person"],
    )  # fmt: skip
    if about["job_id"] is not None:
        seconds = int(found["count"]) * float(found["step"])
        text = f"{about['says']}: {seconds:.4g} s, {', '.join(name for name, _ in channels)}"[:400]
        files = [(stored.digest, about["name"])] if stored.bytes <= MOST_ATTACHED else []
        add_entry(conn, about["job_id"], "capture", {"text": text, "capture": str(capture_id)}, person=about["person"], files=files)
        refresh_job(conn, about["job_id"])
    return capture_id


def kept_capture(stream: BinaryIO, name: str, says: str, job_id: int | None) -> int:
    """Keep a capture that was made here, in the transaction that is open; its id. Raises CaptureError where it holds none."""
    digest, folder = digest_of(stream), data_folder()
    stream.seek(0)
    capture = prepare(stream, prepared_path(folder, digest, None))
    job = get_job(get_db(), job_id) if job_id is not None else None
    return _kept(get_db(), folder, stream, _about(name, says, job, None, None), _found(capture))


add_coming(bp, lambda kept_id: url_for("scope.show", capture_id=kept_id))


def init_app(app: Flask) -> None:
    """Register the blueprint, and say that its form may be larger than others."""
    app.register_blueprint(bp)
    app.config["LARGER_FORMS"] = {**app.config.get("LARGER_FORMS", {}), "captures_taken.take": MOST_BYTES + (1 << 20)}
