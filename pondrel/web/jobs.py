"""Jobs: opening one, tracing it, concluding it, and its page with the replay."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping
from dataclasses import replace

from flask import Blueprint, Flask, flash, redirect, render_template, request, session, url_for
from werkzeug.wrappers import Response

from ..core.circuit.sheet import Part
from ..core.errors import PondrelError
from ..core.isolate.evidence import columns_of
from ..core.isolate.line import completions
from ..core.isolate.orders import ORDERS
from ..store.conclusions import add_conclusion, reopen
from ..store.db import atomic
from ..store.jobs import add_job
from ..store.readings import add_reading, strike_reading
from ..store.sheets import all_sheets, get_sheet
from ..store.vehicles import add_vehicle, all_vehicles, get_vehicle
from .database import get_db
from .preview import preview_of
from .trace import Drawn, Entry, Trace, checked_item, docket_of, replay, trace_of
from .workups import workups

__all__ = ["init_app"]

bp = Blueprint("jobs", __name__, url_prefix="/jobs")

CHOSEN_ORDERS = tuple(name for name in ORDERS if name != "random")  # a person chooses among these
LONGEST = 2000  # characters of any one text


def _field(name: str) -> str:
    return request.form.get(name, "").replace("\r\n", "\n").strip()[:LONGEST]


def _fragment() -> bool:
    return request.headers.get("X-Fragment") == "1"


@bp.get("/new")
def new() -> str:
    """The form for a new job."""
    return _new_form({}, "")


def _new_form(typed: dict[str, str], error: str) -> str:
    conn = get_db()
    return render_template("jobs/new.html", vehicles=all_vehicles(conn), sheets=all_sheets(conn), typed=typed, error=error)


@bp.post("/new")
def create() -> Response | tuple[str, int]:
    """Open a job, with a new vehicle if one is named."""
    typed = {name: _field(name) for name in ("vehicle", "new_vehicle", "complaint", "conditions", "person", "sheet")}
    conn = get_db()
    try:
        with atomic(conn):
            job_id = _open_job(conn, typed)
    except PondrelError as error:
        return _new_form(typed, str(error)), 400
    return redirect(url_for("jobs.trace", job_id=job_id))


def _open_job(conn: sqlite3.Connection, typed: dict[str, str]) -> int:
    if not typed["complaint"]:
        raise PondrelError("The complaint is missing: write what the vehicle does and what it should do.")
    if not typed["sheet"].isdecimal() or get_sheet(conn, int(typed["sheet"])) is None:
        raise PondrelError("No circuit sheet is chosen: pick the circuit that the complaint is about.")
    if typed["new_vehicle"]:
        if any(v.name == typed["new_vehicle"] for v in all_vehicles(conn)):
            raise PondrelError(f"There is a vehicle {typed['new_vehicle']!r} already: choose it from the list.")
        vehicle_id = add_vehicle(conn, typed["new_vehicle"])
    elif typed["vehicle"].isdecimal() and get_vehicle(conn, int(typed["vehicle"])) is not None:
        vehicle_id = int(typed["vehicle"])
    else:
        raise PondrelError("No vehicle is chosen: pick one from the list or name a new one.")
    return add_job(conn, vehicle_id, int(typed["sheet"]), typed["complaint"], typed["conditions"], typed["person"])


@bp.get("/<int:job_id>")
def show(job_id: int) -> str:
    """The job's record: complaint, readings replayed, conclusion."""
    docket = docket_of(get_db(), job_id)
    isolation = workups().isolation(docket.stored_sheet, docket.items)
    return render_template("jobs/show.html", docket=docket, isolation=isolation, steps=replay(docket))


@bp.get("/<int:job_id>/trace")
def trace(job_id: int) -> str:
    """The Trace screen; ``state``, ``load`` and ``since`` choose what is drawn."""
    return _trace_page(trace_of(docket_of(get_db(), job_id), _drawn(request.args)))


def _drawn(given: Mapping[str, str]) -> Drawn:
    chosen = {name: given.get(name, "") for name in ("state", "load", "since", "view", "take")}
    return Drawn(**chosen, order=_order())


def _order() -> str:
    """The order of attack that the person works by, kept in the browser's session."""
    order = session.get("order", "best")
    return order if order in CHOSEN_ORDERS else "best"


def _trace_page(found: Trace) -> str:
    return render_template("jobs/_trace.html" if _fragment() else "jobs/trace.html", trace=found)


def _typed_entry(given: Mapping[str, str]) -> Entry:
    names = ("state", "instrument", "red", "black", "value", "note")
    texts = {name: given.get(name, "").replace("\r\n", "\n").strip()[:LONGEST] for name in (*names, "answer")}
    return Entry(*(texts[name] or (texts["answer"] if name == "value" else "") for name in names))  # one touch on an answer's button


@bp.post("/<int:job_id>/readings")
def add(job_id: int) -> Response | tuple[str, int]:
    """Write a reading or finding; after an error the form comes back as typed."""
    conn = get_db()
    docket = docket_of(conn, job_id)
    entry = _typed_entry(request.form)
    try:
        item, typed = checked_item(docket, entry)
    except PondrelError as error:
        kept = replace(entry, error=str(error))
        drawn = Drawn(entry.state, _field("load"), view=_field("view"), order=_order())
        return _trace_page(trace_of(docket, drawn, kept)), 422 if _fragment() else 400
    with atomic(conn):
        add_reading(conn, job_id, *columns_of(item), typed, entry.note)
    return _back_to_trace(job_id)


@bp.get("/<int:job_id>/preview")
def preview(job_id: int) -> str:
    """What the typed line would do to the ranking, before it is entered; a hint where it is not complete."""
    docket = docket_of(get_db(), job_id)
    entry = _typed_entry(request.args)
    lines = completions(docket.sheet, entry.value, entry.state) if entry.value else ()
    try:
        item, typed = checked_item(docket, entry)
    except PondrelError as error:
        return render_template("jobs/_preview.html", lines=lines, says=str(error) if not lines else "", preview=None)
    return render_template("jobs/_preview.html", lines=lines, says="", preview=preview_of(docket, item, typed))


@bp.post("/<int:job_id>/order")
def choose_order(job_id: int) -> Response | tuple[str, int]:
    """Work by another order of attack from now on."""
    order = _field("order")
    if order not in CHOSEN_ORDERS:
        raise PondrelError(f"There is no order of attack {order!r}: choose {', '.join(CHOSEN_ORDERS)}.")
    session["order"] = order
    return _back_to_trace(job_id)


@bp.post("/<int:job_id>/undo")
def undo(job_id: int) -> Response | tuple[str, int]:
    """Strike the last standing entry out: it stays in the record as undone."""
    conn = get_db()
    docket = docket_of(conn, job_id)
    if docket.concluded:
        raise PondrelError("This job is concluded: reopen it with a reason before you undo anything.")
    if not docket.standing_ids:
        raise PondrelError("There is nothing to undo: no reading stands.")
    with atomic(conn):
        strike_reading(conn, job_id, docket.standing_ids[-1], "undone")
    return _back_to_trace(job_id)


@bp.post("/<int:job_id>/readings/<int:reading_id>/strike")
def strike(job_id: int, reading_id: int) -> Response | tuple[str, int]:
    """Strike a reading out, with a reason."""
    conn = get_db()
    docket = docket_of(conn, job_id)
    reason = _field("reason")
    if docket.concluded:
        raise PondrelError("This job is concluded: reopen it with a reason before you strike a reading out.")
    if not reason:
        raise PondrelError("A reason is missing: say why the reading does not count, such as 'wrong range'.")
    with atomic(conn):
        if not strike_reading(conn, job_id, reading_id, reason):
            raise PondrelError("This reading is struck out already, or it belongs to another job.")
    return _back_to_trace(job_id)


def _back_to_trace(job_id: int) -> Response | tuple[str, int]:
    if _fragment():
        return _trace_page(trace_of(docket_of(get_db(), job_id), Drawn(view=_field("view"), since=_field("since"), order=_order()))), 200
    return redirect(url_for("jobs.trace", job_id=job_id))


@bp.get("/<int:job_id>/conclude")
def conclude_form(job_id: int) -> str:
    """What is faulty, and on which readings that stands."""
    return _conclude_form(job_id, {}, "")


def _conclude_form(job_id: int, typed: dict[str, str], error: str) -> str:
    docket = docket_of(get_db(), job_id)
    isolation = workups().isolation(docket.stored_sheet, docket.items)
    return render_template(
        "jobs/conclude.html", docket=docket, isolation=isolation, parts=isolation.parts, typed=typed, error=error
    )


@bp.post("/<int:job_id>/conclude")
def conclude(job_id: int) -> Response | tuple[str, int]:
    """Write the conclusion; without the stop rule's consent only with a reason."""
    conn = get_db()
    docket = docket_of(conn, job_id)
    typed = {"target": _field("target"), "reason": _field("reason")}
    isolation = workups().isolation(docket.stored_sheet, docket.items)
    standing = isolation.standing
    try:
        if docket.concluded:
            raise PondrelError("This job is concluded already: reopen it with a reason first.")
        parts = _target(docket.sheet.parts, typed["target"])
        proved = standing.ready and set(parts) == set(standing.target)
        if not proved and not typed["reason"]:
            raise PondrelError(f"{standing.says} To conclude otherwise, give the reason: the record will show it.")
    except PondrelError as error:
        return _conclude_form(job_id, typed, str(error)), 400
    probability = sum(p for part, p in isolation.parts.items() if part in (parts or (None,)))
    basis = tuple(docket.standing_ids[i] for i in standing.proof) if proved and standing.proof else docket.standing_ids
    says = " or ".join(docket.sheet.parts[p].title for p in parts) if parts else "Nothing on this sheet is wrong"
    with atomic(conn):
        add_conclusion(conn, job_id, parts, says, min(probability, 1.0), proved, typed["reason"], basis)
    return redirect(url_for("jobs.show", job_id=job_id))


def _target(parts: Mapping[str, Part], text: str) -> tuple[str, ...]:
    """The parts that the form names, separated by line feeds; empty for "nothing on this sheet"."""
    if text == "(nothing)":
        return ()
    names = tuple(name for name in text.splitlines() if name)
    if not names or any(name not in parts for name in names):
        raise PondrelError("Nothing is chosen: pick the faulty part, or 'nothing on this sheet'.")
    return names


@bp.post("/<int:job_id>/reopen")
def reopen_job(job_id: int) -> Response:
    """Withdraw the conclusion, with a reason."""
    conn = get_db()
    docket_of(conn, job_id)
    reason = _field("reason")
    if not reason:
        raise PondrelError("A reason is missing: say why the conclusion no longer stands.")
    with atomic(conn):
        if not reopen(conn, job_id, reason):
            raise PondrelError("This job is not concluded, so there is nothing to reopen.")
    flash("Reopened. The old conclusion stays in the record.")
    return redirect(url_for("jobs.trace", job_id=job_id))


def init_app(app: Flask) -> None:
    """Register the blueprint."""
    app.register_blueprint(bp)
