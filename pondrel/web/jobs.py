"""Jobs: opening one, tracing it, concluding it, and its page with the replay."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping
from contextlib import suppress
from dataclasses import replace

from flask import Blueprint, Flask, flash, redirect, render_template, request, session, url_for
from werkzeug.wrappers import Response

from ..core.base.errors import PondrelError
from ..core.circuit.sheet import Part
from ..core.evidence.line import completions
from ..core.evidence.registry import columns_of
from ..core.isolate.advise.orders import ORDERS
from ..core.isolate.isolation import Isolation
from ..store.conclusions import add_conclusion, is_concluded, reopen
from ..store.db import StoreError, atomic
from ..store.jobs import add_job, keep_outlook
from ..store.readings import add_reading, standing_ids, strike_reading
from ..store.sheets import get_sheet, sheet_titles
from ..store.vehicles import add_vehicle, all_vehicles, get_vehicle, vehicle_named
from .attempt import attempt
from .database import get_db
from .docket import Docket, docket_of, replay
from .entry import Entry, checked_item, entry_of, questioned
from .fields import checked, is_fragment, typed, whole
from .preview import preview_of
from .trace import Chosen, Drawn, stalled, trace_of
from .workups import workups

__all__ = ["init_app"]

bp = Blueprint("jobs", __name__, url_prefix="/jobs")

CHOSEN_ORDERS = tuple(name for name in ORDERS if name != "random")  # a person chooses among these
LONGEST_NAME, LONGEST_REASON = 80, 500  # characters


@bp.get("/new")
def new() -> str:
    """The form for a new job."""
    return _new_form({}, "")


def _new_form(given: dict[str, str], error: str) -> str:
    conn = get_db()
    return render_template("jobs/new.html", vehicles=all_vehicles(conn), sheets=sheet_titles(conn), typed=given, error=error)


@bp.post("/new")
def create() -> Response | tuple[str, int]:
    """Open a job, with a new vehicle if one is named."""
    given = typed("vehicle", "new_vehicle", "complaint", "conditions", "person", "sheet")
    conn = get_db()
    try:
        with atomic(conn):
            job_id = _open_job(conn, given)
    except PondrelError as error:
        return _new_form(given, str(error)), 400
    return redirect(url_for("jobs.trace", job_id=job_id))


def _open_job(conn: sqlite3.Connection, given: dict[str, str]) -> int:
    if not given["complaint"]:
        raise PondrelError("The complaint is missing: write what the vehicle does and what it should do.")
    complaint, conditions = checked("The complaint", given["complaint"]), checked("The text of the conditions", given["conditions"])
    person = checked("The name of who has the job", given["person"], LONGEST_NAME)
    sheet_id, vehicle_id = whole(given["sheet"]), whole(given["vehicle"])
    if sheet_id is None or get_sheet(conn, sheet_id) is None:
        raise PondrelError("No circuit sheet is chosen: pick the circuit that the complaint is about.")
    if given["new_vehicle"]:
        name = checked("The vehicle's name", given["new_vehicle"], LONGEST_NAME)
        if vehicle_named(conn, name):
            raise PondrelError(f"There is a vehicle '{name}' already: choose it from the list.")
        vehicle_id = add_vehicle(conn, name)
    elif vehicle_id is None or get_vehicle(conn, vehicle_id) is None:
        raise PondrelError("No vehicle is chosen: pick one from the list or name a new one.")
    return add_job(conn, vehicle_id, sheet_id, complaint, conditions, person)


@bp.get("/<id:job_id>")
def show(job_id: int) -> str:
    """The job's record: complaint, readings replayed, conclusion."""
    docket = docket_of(get_db(), job_id)
    found, says = attempt(lambda: (_isolation(docket), replay(docket)))
    isolation, steps = found or (None, replay(docket, worked_out=False))
    return render_template("jobs/show.html", docket=docket, isolation=isolation, says=says, steps=steps)


def _isolation(docket: Docket) -> Isolation:
    return workups().isolation(docket.stored_sheet, docket.items)


@bp.get("/<id:job_id>/trace")
def trace(job_id: int) -> str:
    """The Trace screen; ``state``, ``load`` and ``since`` choose what is drawn, ``instrument``, ``in``, ``red`` and ``black`` a test."""
    return _trace_page(docket_of(get_db(), job_id), _drawn(request.args))


def _drawn(given: Mapping[str, str]) -> Drawn:
    own = Chosen(*(given.get(name, "") for name in ("instrument", "in", "red", "black")))
    state, load, since, view, take = (given.get(name, "") for name in ("state", "load", "since", "view", "take"))
    return Drawn(state, load, since, view, take, _order(), own)


def _order() -> str:
    """The order of attack that the person works by, kept in the browser's session."""
    order = session.get("order", "best")
    return order if order in CHOSEN_ORDERS else "best"


def _trace_page(docket: Docket, drawn: Drawn, entry: Entry | None = None) -> str:
    """The Trace screen or its middle; where nothing can be worked out, the log with what undoes an entry."""
    found, says = attempt(lambda: trace_of(docket, drawn, entry))
    if found is None:
        kept = entry.error if entry else ""
        left = stalled(docket, " ".join(text for text in (kept, says) if text))
        return render_template("jobs/_stalled.html" if is_fragment() else "jobs/stalled.html", trace=left)
    return render_template("jobs/_trace.html" if is_fragment() else "jobs/trace.html", trace=found)


@bp.post("/<id:job_id>/readings")
def add(job_id: int) -> Response | tuple[str, int]:
    """Write a reading or finding; after an error the form comes back as typed."""
    conn = get_db()
    docket = docket_of(conn, job_id)
    entry = entry_of(request.form)
    try:
        item, value = checked_item(docket, entry)
        question, _ = attempt(lambda: questioned(docket, entry, item))
        if question:
            entry = replace(entry, sure=entry.value)
            raise PondrelError(question)
        with atomic(conn):
            if is_concluded(conn, job_id):
                raise PondrelError("This job was concluded in the meantime: reopen it with a reason before you add readings.")
            add_reading(conn, job_id, *columns_of(item), value, entry.note)
    except PondrelError as error:
        kept = replace(entry, error=str(error))
        drawn = Drawn(entry.state, request.form.get("load", ""), view=request.form.get("view", ""), order=_order())
        return _trace_page(docket, drawn, kept), 422 if is_fragment() else 400
    return _back_to_trace(job_id)


@bp.get("/<id:job_id>/preview")
def preview(job_id: int) -> str:
    """What the typed line would do to the ranking, before it is entered; a hint where it is not complete."""
    docket = docket_of(get_db(), job_id)
    entry = entry_of(request.args)
    lines, _ = attempt(lambda: completions(docket.sheet, entry.value, entry.state) if entry.value else ())
    try:
        item, value = checked_item(docket, entry)
    except PondrelError as error:
        return render_template("jobs/_preview.html", lines=lines or (), says=str(error) if not lines else "", preview=None)
    question, _ = attempt(lambda: questioned(docket, entry, item))
    if question:
        return render_template("jobs/_preview.html", lines=(), says=question, preview=None)
    found, says = attempt(lambda: preview_of(docket, item, value))
    return render_template("jobs/_preview.html", lines=lines or (), says=says, preview=found)


@bp.post("/<id:job_id>/order")
def choose_order(job_id: int) -> Response | tuple[str, int]:
    """Work by another order of attack from now on."""
    order = request.form.get("order", "")
    if order not in CHOSEN_ORDERS:
        raise PondrelError(f"There is no such order of attack: choose {', '.join(CHOSEN_ORDERS)}.")
    session["order"] = order
    return _back_to_trace(job_id)


@bp.post("/<id:job_id>/undo")
def undo(job_id: int) -> Response | tuple[str, int]:
    """Strike the entry out that the page called the last one: it stays in the record as undone."""
    _strike(job_id, whole(request.form.get("entry", "")), "undone")
    return _back_to_trace(job_id)


@bp.post("/<id:job_id>/readings/<id:reading_id>/strike")
def strike(job_id: int, reading_id: int) -> Response | tuple[str, int]:
    """Strike a reading out, with a reason."""
    reason = typed("reason")["reason"]
    if not reason:
        raise PondrelError("A reason is missing: say why the reading does not count, such as 'wrong range'.")
    _strike(job_id, reading_id, checked("The reason", reason, LONGEST_REASON))
    return _back_to_trace(job_id)


def _strike(job_id: int, reading_id: int | None, reason: str) -> None:
    conn = get_db()
    docket_of(conn, job_id)
    with atomic(conn):
        if is_concluded(conn, job_id):
            raise PondrelError("This job is concluded: reopen it with a reason before you undo anything or strike it out.")
        if reading_id is None:
            raise PondrelError("There is nothing to undo: no entry is named. Load the page again to see what stands.")
        if not strike_reading(conn, job_id, reading_id, reason):
            raise PondrelError("This reading is struck out already, perhaps by somebody else: load the page again to see what stands.")


def _back_to_trace(job_id: int) -> Response | tuple[str, int]:
    docket = docket_of(get_db(), job_id)
    _note_outlook(docket)
    if is_fragment():
        drawn = Drawn(view=request.form.get("view", ""), since=request.form.get("since", ""), order=_order())
        return _trace_page(docket, drawn), 200
    return redirect(url_for("jobs.trace", job_id=job_id))


def _note_outlook(docket: Docket) -> None:
    """Keep for the Bay what the readings come to; a job that cannot be worked out simply has none."""
    found, _ = attempt(lambda: _isolation(docket))
    if found is not None:
        standing = found.standing
        with suppress(StoreError):  # what the person entered is written, and only a list goes without
            keep_outlook(get_db(), docket.job.id, docket.standing_ids, standing.ready, standing.says)


@bp.get("/<id:job_id>/conclude")
def conclude_form(job_id: int) -> str:
    """What is faulty, and on which readings that stands."""
    return _conclude_form(docket_of(get_db(), job_id), {}, "")


def _conclude_form(docket: Docket, given: dict[str, str], error: str) -> str:
    isolation, says = attempt(lambda: _isolation(docket))
    parts, unread = attempt(lambda: isolation.parts if isolation else dict.fromkeys((*docket.sheet.parts, None)))
    if parts is None:
        return render_template("jobs/stalled.html", trace=stalled(docket, " ".join(text for text in (error, unread) if text)))
    standing = isolation.standing if isolation else None
    return render_template("jobs/conclude.html", docket=docket, standing=standing, says=says, parts=parts, typed=given, error=error)


@bp.post("/<id:job_id>/conclude")
def conclude(job_id: int) -> Response | tuple[str, int]:
    """Write the conclusion; without the stop rule's consent, or where nothing could be worked out, only with a reason."""
    conn = get_db()
    docket = docket_of(conn, job_id)
    given = typed("target", "reason")
    try:
        _conclude(conn, docket, given)
    except PondrelError as error:
        return _conclude_form(docket_of(conn, job_id), given, str(error)), 400
    return redirect(url_for("jobs.show", job_id=job_id))


def _conclude(conn: sqlite3.Connection, docket: Docket, given: dict[str, str]) -> None:
    if docket.concluded:
        raise PondrelError("This job is concluded already: reopen it with a reason first.")
    reason = checked("The reason", given["reason"])
    isolation, says = attempt(lambda: _isolation(docket))
    parts = _target(docket.sheet.parts, given["target"])
    proved, basis, probability, how = False, docket.standing_ids, None, "all the same"
    if isolation is not None:
        standing, says, how = isolation.standing, isolation.standing.says, "otherwise"
        proved = standing.ready and set(parts) == set(standing.target)
        probability = min(sum(p for part, p in isolation.parts.items() if part in (parts or (None,))), 1.0)
        if proved and standing.proof:
            basis = tuple(docket.standing_ids[i] for i in standing.proof)
    if not proved and not reason:
        raise PondrelError(f"{says} To conclude {how}, give the reason: the record will show it.")
    found = " or ".join(docket.sheet.parts[p].title for p in parts) if parts else "Nothing on this sheet is wrong"
    with atomic(conn):
        if standing_ids(conn, docket.job.id) != docket.standing_ids:
            raise PondrelError("Readings were added or struck out in the meantime: look at what they say now, then conclude.")
        add_conclusion(conn, docket.job.id, parts, found, probability, proved, reason, basis)


def _target(parts: Mapping[str, Part], text: str) -> tuple[str, ...]:
    """The parts that the form names, separated by line feeds; empty for "nothing on this sheet"."""
    if text == "(nothing)":
        return ()
    names = tuple(name for name in text.splitlines() if name)
    if not names or any(name not in parts for name in names):
        raise PondrelError("Nothing is chosen: pick the faulty part, or 'nothing on this sheet'.")
    return names


@bp.post("/<id:job_id>/reopen")
def reopen_job(job_id: int) -> Response:
    """Withdraw the conclusion, with a reason."""
    conn = get_db()
    docket_of(conn, job_id)
    reason = typed("reason")["reason"]
    if not reason:
        raise PondrelError("A reason is missing: say why the conclusion no longer stands.")
    reason = checked("The reason", reason, LONGEST_REASON)
    with atomic(conn):
        if not reopen(conn, job_id, reason):
            raise PondrelError("This job is not concluded, so there is nothing to reopen.")
    flash("Reopened. The old conclusion stays in the record.")
    return redirect(url_for("jobs.trace", job_id=job_id))


def init_app(app: Flask) -> None:
    """Register the blueprint."""
    app.register_blueprint(bp)
