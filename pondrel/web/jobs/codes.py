"""The codes' page: read out, noted as self-made, cleared, read out again; and the roll call of modules."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any, cast

from flask import Blueprint, Flask, render_template, request, url_for
from flask import Response as FlaskResponse
from werkzeug.wrappers import Response

from ...core.base.brief import quoted
from ...core.base.errors import PondrelError
from ...core.base.written import Value
from ...core.job.codes import CLEARING_LOSES, check_clearing, codes_of, scan_content
from ...core.module.blinks import counted, spans_from
from ...core.module.causes import CauseList, causes_for, lists_from_text
from ...core.module.read_out import codes_from_text
from ...core.module.readings_out import CodeStanding
from ...store.bay import refresh_job
from ...store.captures import latest_captures
from ...store.causes import cause_tables, keep_causes, own_causes
from ...store.entries import add_entry
from ...store.modules import modules_of_vehicle
from ...store.rosters import roster_for
from ...store.vehicle_entries import mileage_now
from ..shell.attempt import attempt
from ..shell.database import get_db
from ..shell.fields import checked, typed
from ..shell.once import answered_once
from ..shell.who import me
from .docket import Record, record_of

__all__ = ["init_app"]

bp = Blueprint("codes", __name__)

LONGEST_NAME = 80
MOST_FILE_BYTES = 1_000_000


MOST_CAPTURES = 6  # of the job's, in which a lamp may blink


@dataclass(frozen=True, slots=True)
class CodeCard:
    """A code with the cause lists for it."""

    standing: CodeStanding
    causes: tuple[CauseList, ...]


@bp.get("/jobs/<id:job_id>/codes")
def show(job_id: int) -> str:
    """The codes of a job."""
    return _page(record_of(get_db(), job_id), {}, "")


def _page(record: Record, given: Mapping[str, str], error: str) -> str:
    conn = get_db()
    found, own = codes_of(record.entries, mileage_now(conn, record.vehicle.id)), own_causes(conn)
    return render_template(
        "jobs/codes.html",
        record=record,
        found=found,
        cards=[CodeCard(one, causes_for(one.code, own)) for one in found.codes],
        modules=modules_of_vehicle(conn, record.vehicle.id),
        clearing_loses=CLEARING_LOSES,
        captures=latest_captures(conn, MOST_CAPTURES, record.job.id),
        asks=roster_for(conn, record.vehicle) is not None,
        typed=given,
        error=error,
    )


def _written(record: Record, given: Mapping[str, str], write: Callable[[], object]) -> Response | tuple[str, int]:
    conn, job_id = get_db(), record.job.id

    def written() -> str:
        write()
        refresh_job(conn, job_id)
        return url_for("codes.show", job_id=job_id)

    return answered_once(written, lambda error: _page(record_of(conn, job_id), given, error))


def _text_and_file(given: Mapping[str, str]) -> str:
    """What was pasted, and after it what was loaded from a file."""
    upload = request.files.get("file")
    if not upload or not upload.filename:
        return given["codes"]
    with upload.stream as stream:
        content = stream.read(MOST_FILE_BYTES + 1)
    if len(content) > MOST_FILE_BYTES:
        raise PondrelError(f"{quoted(upload.filename)} has more than {MOST_FILE_BYTES // 1_000_000} MB: codes are a short text.")
    try:
        text = content.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise PondrelError(f"{quoted(upload.filename)} is no text (UTF-8): export the codes as text or CSV.") from None
    return f"{given['codes']}\n{text}" if given["codes"] else text


@bp.post("/jobs/<id:job_id>/codes")
def read(job_id: int) -> Response | tuple[str, int]:
    """Write down what was read out; that there is no code is a reading out as well."""
    conn = get_db()
    record = record_of(conn, job_id)
    given = typed("codes", "text", "none")

    def written() -> None:
        codes = () if given["none"] else codes_from_text(_text_and_file(given)).codes
        add_entry(conn, job_id, "scan", scan_content(codes, given["text"]), person=me())

    return _written(record, given, written)


@bp.get("/jobs/<id:job_id>/codes/blinks")
def blinks(job_id: int) -> FlaskResponse:
    """The flash code that some blinks spell, with how they were taken."""
    record_of(get_db(), job_id)
    found, wrong = attempt(lambda: counted(spans_from(request.args.get("at", ""))))
    told: Any = {"code": found.code if found else "", "says": f"{found.code}: {found.says}." if found else str(wrong)}
    return cast(FlaskResponse, told)


@bp.post("/jobs/<id:job_id>/codes/note")
def note(job_id: int) -> Response | tuple[str, int]:
    """Say of a code that the work itself made it, or that it is a real one."""
    conn = get_db()
    record = record_of(conn, job_id)
    given = typed("code", "self_made", "why")

    def written() -> None:
        if given["code"] not in {one.code.name for one in codes_of(record.entries).codes}:
            raise PondrelError(f"{quoted(given['code'])} was not read out in this job: read the codes out first.")
        content: dict[str, Value] = {"code": given["code"], "self_made": given["self_made"] == "yes", "text": given["why"]}
        add_entry(conn, job_id, "code_note", content, person=me())

    return _written(record, {}, written)


@bp.post("/jobs/<id:job_id>/codes/clear")
def clear(job_id: int) -> Response | tuple[str, int]:
    """Write down that codes were cleared; only after they were read out and kept, and where somebody has said to know what is lost."""
    conn = get_db()
    record = record_of(conn, job_id)
    given = typed("why", "known")

    def written() -> None:
        check_clearing(record.entries, given["known"] == "yes")
        add_entry(conn, job_id, "cleared", {"text": given["why"]}, person=me())

    return _written(record, {}, written)


@bp.post("/jobs/<id:job_id>/codes/call")
def call(job_id: int) -> Response | tuple[str, int]:
    """Write down who answers and who is silent."""
    conn = get_db()
    record = record_of(conn, job_id)
    given = typed("answered", "silent")
    touched = {name: request.form.get(f"module {n}", "") for n, name in enumerate(modules_of_vehicle(conn, record.vehicle.id))}
    answered = ", ".join(filter(None, (*(name for name, how in touched.items() if how == "answers"), given["answered"])))
    silent = ", ".join(filter(None, (*(name for name, how in touched.items() if how == "silent"), given["silent"])))
    return _written(record, given, lambda: add_entry(conn, job_id, "roll_call", {"answered": answered, "silent": silent}, person=me()))


@bp.get("/causes")
def causes() -> str:
    """The workshop's own cause lists."""
    return _causes_page({}, "")


def _causes_page(given: Mapping[str, str], error: str) -> str:
    conn = get_db()
    return render_template("jobs/causes.html", tables=cause_tables(conn), own=own_causes(conn), typed=given, error=error)


@bp.post("/causes")
def keep() -> Response | tuple[str, int]:
    """Keep a table of cause lists; a newer one of the same origin takes the place of the one before."""
    conn = get_db()
    given = typed("origin", "codes")

    def kept() -> str:
        origin = checked("The origin", given["origin"], LONGEST_NAME)
        if not origin:
            raise PondrelError("Say whose lists these are: 'our own experience', the name of a book.")
        keep_causes(conn, origin, lists_from_text(_text_and_file(given), origin), me())
        return url_for("codes.causes")

    return answered_once(kept, lambda error: _causes_page(given, error))


def init_app(app: Flask) -> None:
    """Register the blueprint."""
    app.register_blueprint(bp)
