"""Jobs: opening one, its page with the record, what is written into that, and the files that belong to it."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable, Mapping, Sequence
from typing import Any

from flask import Blueprint, Flask, abort, redirect, render_template, request, send_file, url_for
from werkzeug.wrappers import Response

from ...core.base.errors import PondrelError
from ...core.job.changes import ACTION
from ...core.job.codes import CODE_KINDS, codes_of
from ...core.job.complaint import FROM_COMPLAINT, told_of
from ...core.job.kinds import KINDS, WAITS_FOR, is_evidence
from ...core.job.look import LOOKED
from ...core.job.marks import MARKS
from ...core.job.module_work import Room
from ...core.job.proof import PROOF_KINDS
from ...core.job.refit import REFIT_KINDS
from ...core.job.remedy import REMEDY_KINDS
from ...core.job.renewing import RENEWAL_STEP
from ...core.job.report import REPORT_KINDS
from ...core.job.reproduce import FLEXED, shown_itself
from ...core.job.resets import RESET_KINDS
from ...core.job.safety import CAUTION
from ...core.job.substituted import SUBSTITUTED
from ...core.power.guide import WAYS
from ...core.vehicle.facts import checked_facts
from ...core.vehicle.fitting import sheet_misfit
from ...core.vehicle.history import came_back
from ...store.bay import Wanted, page_of_jobs, refresh_job
from ...store.bench import check_of
from ...store.buses import bus_log_of
from ...store.captures import capture_of
from ...store.carry import carry
from ...store.entries import add_entry, strike_entry
from ...store.files import ReadyFile, file_path, get_file, photos_of
from ...store.jobs import add_job
from ...store.own_drawings import own_drawing_of
from ...store.rosters import roster_for
from ...store.sheets import get_sheet, sheet_titles
from ...store.traces import add_trace
from ...store.vehicle_entries import add_vehicle_entry, conclusions_on, ledger_of, mileage_now, vehicle_entries_of
from ...store.vehicles import add_vehicle, all_vehicles, get_vehicle
from ..shell.attempt import attempt
from ..shell.database import get_db
from ..shell.fields import checked, typed, whole
from ..shell.once import answered_once, answered_with, written_once
from ..shell.who import LONGEST_NAME, me
from ..vehicles.page import ledger_lines
from .docket import Record, docket_in, record_of
from .files import data_folder, files_kept, files_sent
from .fitted import fitted_notes
from .seen import seen_before
from .story import Line, plain_line, story_of

__all__ = ["init_app"]

bp = Blueprint("jobs", __name__)

Find = Callable[[sqlite3.Connection, int], Any]

MOST_EARLIER = 100  # jobs of a vehicle that are counted
LONGEST_REASON = 500  # characters
# What a person writes down on the job's page, in the order in which it is offered; other kinds of entry come from their own screens.
WRITTEN_HERE = ("note", "waits", "aside", "off")
# What can be struck out in the record as it is shown there, besides what has a page of its own for that.
_STRUCK_KINDS = (
    *CODE_KINDS, *REMEDY_KINDS, *REFIT_KINDS, *PROOF_KINDS, *REPORT_KINDS, ACTION, LOOKED, FLEXED, CAUTION, MARKS,
    *RESET_KINDS, RENEWAL_STEP, SUBSTITUTED,
)  # fmt: skip
STRUCK_HERE = frozenset({*WRITTEN_HERE, "corrected", "link", *(kind.name for kind in _STRUCK_KINDS)})


@bp.get("/jobs/new")
def new() -> str:
    """The form for a new job."""
    return _new_form({"person": me(), "vehicle": request.args.get("vehicle", "")}, "")


def _new_form(given: dict[str, str], error: str) -> str:
    conn = get_db()
    return render_template("jobs/new.html", vehicles=all_vehicles(conn), sheets=sheet_titles(conn), typed=given, error=error)


@bp.post("/jobs/new")
def create() -> Response | tuple[str, int]:
    """Open a job, with a new vehicle if one is named, and take up a circuit if one is chosen."""
    given = typed("vehicle", "new_vehicle", "complaint", "person", "sheet", "mileage")
    conn = get_db()
    return answered_once(lambda: _opened(conn, given), lambda error: _new_form(given, error))


def _opened(conn: sqlite3.Connection, given: dict[str, str]) -> str:
    """Write the job down; returns the address where it goes on."""
    if not given["complaint"]:
        raise PondrelError("The complaint is missing: write what the vehicle does and what it should do.")
    complaint = checked("The complaint", given["complaint"])
    person = checked("The name of who has the job", given["person"], LONGEST_NAME)
    sheet_id = _sheet_chosen(conn, given["sheet"]) if given["sheet"] else None
    vehicle_id = _vehicle_chosen(conn, given)
    job_id = add_job(conn, vehicle_id, complaint, person=person)
    if given["mileage"]:
        vehicle = get_vehicle(conn, vehicle_id)
        unit = vehicle.unit if vehicle else "km"
        add_vehicle_entry(
            conn, vehicle_id, "mileage", {"reads": given["mileage"], "renewed": False}, unit=unit, job_id=job_id, person=person
        )  # fmt: skip
    if sheet_id is not None:
        add_trace(conn, job_id, _drawn_for(conn, vehicle_id, sheet_id), person)
    carry(conn, job_id, person)
    refresh_job(conn, job_id)
    return url_for("complaint.show", job_id=job_id) if sheet_id is None else url_for("trace.show", job_id=job_id)


def _sheet_chosen(conn: sqlite3.Connection, text: str) -> int:
    sheet_id = whole(text)
    if sheet_id is None or get_sheet(conn, sheet_id) is None:
        raise PondrelError("No circuit sheet is chosen: pick the circuit that the complaint is about.")
    return sheet_id


def _drawn_for(conn: sqlite3.Connection, vehicle_id: int, sheet_id: int) -> int:
    """The drawing of a circuit that counts on a vehicle: its own, where it was found to be wired otherwise."""
    return own_drawing_of(conn, vehicle_id, sheet_id) or sheet_id


def _vehicle_chosen(conn: sqlite3.Connection, given: dict[str, str]) -> int:
    if given["new_vehicle"]:
        return add_vehicle(conn, checked_facts({"name": given["new_vehicle"]}))
    vehicle_id = whole(given["vehicle"])
    if vehicle_id is None or get_vehicle(conn, vehicle_id) is None:
        raise PondrelError("No vehicle is chosen: pick one from the list or name a new one.")
    return vehicle_id


@bp.get("/jobs/<id:job_id>")
def show(job_id: int) -> str:
    """The job's page: where it stands, what comes next, and the record."""
    return _page(record_of(get_db(), job_id), {}, "")


def _page(record: Record, given: dict[str, str], error: str) -> str:
    stories = {}
    for trace in record.traces:
        docket = docket_in(get_db(), record, trace)
        stories[trace.id] = attempt(lambda docket=docket: story_of(docket))  # type: ignore[misc]
    conn, vehicle = get_db(), record.vehicle
    mileage = mileage_now(conn, vehicle.id)
    notes = [e for e in vehicle_entries_of(conn, vehicle.id) if e.kind == "note" and e.struck is None]
    lines = _lines(record, {trace_id: story for trace_id, (story, _) in stories.items() if story})
    return render_template(
        "jobs/show.html",
        record=record,
        lines=lines,
        stuck={trace_id: says for trace_id, (_, says) in stories.items()},
        unseen=_unseen(record),
        way=WAYS.get(record.state.way),
        module_address=_module_work_address(record),
        photos=photos_of(conn, record.job.id),
        checks=_checks(conn, record),
        captures=_told_of(conn, record, "capture", "capture", capture_of),
        logs=_told_of(conn, record, "bus", "log", bus_log_of),
        fitted=_fitted(record),
        misfits=_misfits(record),
        codes=codes_of(record.entries, mileage),
        mileage=mileage,
        ledger=ledger_lines(ledger_of(conn, vehicle.id), mileage),
        notes=notes,
        asks_modules=roster_for(conn, vehicle) is not None,
        earlier=len(page_of_jobs(conn, MOST_EARLIER, 0, Wanted(vehicle_id=vehicle.id))) - 1,
        came_back=came_back(conclusions_on(conn, vehicle.id)),
        kinds={name: KINDS[name] for name in WRITTEN_HERE},
        struck_here=STRUCK_HERE,
        seen=seen_before(record),
        waits_for=WAITS_FOR,
        sheets=sheet_titles(get_db()),
        typed=given,
        error=error,
    )


def _module_work_address(record: Record) -> str:
    """Where what is under way with the modules goes on."""
    work = record.state.modules
    own: dict[str, Any] = {"vehicle_id": record.vehicle.id, "job": record.job.id}
    if work is None:
        return ""
    if work.room is Room.CHAIN:
        return url_for("module_chain.show", function=work.named, **own)
    if work.room is Room.MODULES:
        return url_for("module_talk.vehicle", **own)
    return url_for("module_renewal.show" if work.renews else "module_reset.show", module=work.named, **own)


def _checks(conn: sqlite3.Connection, record: Record) -> dict[int, int]:
    """By entry the check of a part by itself that it tells of; none for one that was brought in from another workshop."""
    found = {}
    for entry in record.entries:
        number = whole(entry.text("check")) if entry.kind == "bench" else None
        row = check_of(conn, number) if number is not None else None
        if row is not None and row.says in entry.text("text"):
            found[entry.id] = row.id
    return found


def _told_of(conn: sqlite3.Connection, record: Record, kind: str, named: str, find: Find) -> dict[int, int]:
    """By entry the capture or log that it tells of; none for one that was brought in from another workshop."""
    found = {}
    for entry in record.entries:
        number = whole(entry.text(named)) if entry.kind == kind else None
        row = find(conn, number) if number is not None else None
        if row is not None and row.job_id == record.job.id and entry.text("text").startswith(row.says):
            found[entry.id] = row.id
    return found


def _unseen(record: Record) -> bool:
    """Whether a complaint that comes and goes has not shown itself yet while somebody moved things."""
    told = told_of(record.entries)
    return told is not None and told.comes_and_goes and not shown_itself(record.entries)


def _fitted(record: Record) -> dict[int, Mapping[str, str]]:
    """By trace what the vehicle's ledger says of its parts, where one of them was concluded to be faulty."""
    found = {}
    for trace in record.traces:
        docket = docket_in(get_db(), record, trace)
        notes, _ = attempt(lambda docket=docket: fitted_notes(docket)) if record.concluded_on(trace) else (None, "")  # type: ignore[misc]
        found[trace.id] = notes or {}
    return found


def _misfits(record: Record) -> list[str]:
    """Why a circuit that is traced may not be for this vehicle."""
    found = []
    for trace in record.traces:
        docket = docket_in(get_db(), record, trace)
        sheet, _ = attempt(lambda docket=docket: docket.sheet)  # type: ignore[misc]
        says = sheet_misfit(sheet, record.vehicle) if sheet else ""
        found += [f"{trace.title}: {says}"] if says else []
    return found


def _lines(record: Record, stories: dict[int, dict[int, Line]]) -> list[Line]:
    """The record read in order, each line of evidence with what led after it."""
    told = {entry_id: line for story in stories.values() for entry_id, line in story.items()}
    shown = [e for e in record.entries if e.text("subject") or e.text("note") != FROM_COMPLAINT]  # the complaint stands there itself
    return [told.get(entry.id) or plain_line(entry) for entry in shown]


@bp.post("/jobs/<id:job_id>/entries")
def write(job_id: int) -> Response | tuple[str, int]:
    """Write something down that is no evidence: a note, or what is waited for."""
    conn = get_db()
    record = record_of(conn, job_id)
    given = typed("kind", "text", "for")

    def written(files: Sequence[tuple[ReadyFile, str]]) -> str:
        if given["kind"] not in WRITTEN_HERE:
            raise PondrelError(
                f"Nothing is chosen to be written down: pick one of {', '.join(KINDS[k].title.lower() for k in WRITTEN_HERE)}."
            )
        content = {field.name: given[field.name] for field in KINDS[given["kind"]].fields}
        add_entry(conn, job_id, given["kind"], content, person=me(), files=files_kept(conn, files))
        refresh_job(conn, job_id)
        return url_for("jobs.show", job_id=job_id)

    return answered_with(files_sent, written, lambda error: _page(record, given, error))


@bp.post("/jobs/<id:job_id>/entries/<id:entry_id>/strike")
def strike(job_id: int, entry_id: int) -> Response:
    """Strike out an entry that is no evidence, with a reason; to take a job up again its setting aside is struck out."""
    conn = get_db()
    record = record_of(conn, job_id)
    entry = next((e for e in record.entries if e.id == entry_id), None)
    if entry is None or is_evidence(entry.kind) or entry.kind == "conclusion":
        abort(404)
    reason = checked("The reason", typed("reason")["reason"], LONGEST_REASON)
    if not reason:
        raise PondrelError("A reason is missing: say why this no longer counts.")

    def struck() -> str:
        if not strike_entry(conn, job_id, entry_id, reason, me()):
            raise PondrelError("This is struck out already, perhaps by somebody else: load the page again to see what stands.")
        refresh_job(conn, job_id)
        return url_for("jobs.show", job_id=job_id)

    return redirect(written_once(struck))


@bp.post("/jobs/<id:job_id>/traces")
def take_up(job_id: int) -> Response | tuple[str, int]:
    """Take up a circuit, the first or another one."""
    conn = get_db()
    record = record_of(conn, job_id)
    given = typed("sheet")

    def taken() -> str:
        sheet_id = _drawn_for(conn, record.vehicle.id, _sheet_chosen(conn, given["sheet"]))
        known = next((trace for trace in record.traces if trace.sheet_id == sheet_id), None)
        if known is not None:
            raise PondrelError(f"'{known.title}' is traced in this job already: go on there.")
        add_trace(conn, job_id, sheet_id, me())
        carry(conn, job_id, me())
        refresh_job(conn, job_id)
        return url_for("trace.show", job_id=job_id, number=len(record.traces) + 1)

    return answered_once(taken, lambda error: _page(record_of(conn, job_id), given, error))


@bp.get("/files/<digest>")
def file(digest: str) -> Response:
    """A file of the record, as what it is and nothing else."""
    stored = get_file(get_db(), digest)
    path = file_path(data_folder(), digest)
    if stored is None or not path.exists():
        abort(404)
    answer = send_file(path, mimetype=stored.media, as_attachment=not stored.media.startswith("image/"), download_name=digest[:12])
    answer.headers["Content-Security-Policy"] = "default-src 'none'; sandbox"
    return answer


def init_app(app: Flask) -> None:
    """Register the blueprint."""
    app.register_blueprint(bp)
