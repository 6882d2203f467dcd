"""Tracing: the Trace screen of a job's circuit, what is entered and struck out there, and its conclusion."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable, Mapping
from contextlib import suppress
from dataclasses import replace
from typing import Any

from flask import Blueprint, Flask, flash, redirect, render_template, request, session, url_for
from werkzeug.wrappers import Response

from ...core.base.errors import PondrelError
from ...core.circuit.sheet import Part
from ...core.evidence.items import Item
from ...core.evidence.limits import overall_of
from ...core.evidence.line import completions
from ...core.evidence.registry import content_of, sort_of
from ...core.evidence.safety import locking_cautions
from ...core.isolate import ORDERS, Closing, Isolation, closing
from ...core.job.changes import mattering
from ...store.bay import keep_outlook, refresh_job
from ...store.conclusions import add_conclusion, is_concluded, standing_conclusion
from ...store.db import StoreError
from ...store.entries import add_entry, entries_of, strike_entry
from ..jobs.docket import Docket, Record, docket_of, record_of
from ..jobs.fitted import fitted_notes
from ..shell.attempt import attempt
from ..shell.database import get_db
from ..shell.fields import checked, is_fragment, typed, way_back, whole
from ..shell.once import was_written, written_once
from ..shell.rooms import Stop, add_stop, stop_address
from ..shell.who import me
from ..shell.workshop import units
from ..shell.workups import workups
from .form import Form, checked_item, form_of, questioned, unread_before
from .page import Chosen, Drawn, stalled, trace_of
from .preview import preview_of

__all__ = ["init_app"]

bp = Blueprint("trace", __name__, url_prefix="/jobs/<id:job_id>")

CHOSEN_ORDERS = tuple(name for name in ORDERS if name != "random")  # a person chooses among these
LONGEST_REASON = 500  # characters
_WORTH_A_LINE = 0.01  # chance from which on a part stands among those that may be concluded; the others are a touch away

View = Callable[..., Any]


def _of_trace(rule: str, **options: Any) -> Callable[[View], View]:
    """A view of a job's trace: of the first one at the job's own address, of others with their number."""

    def register(view: View) -> View:
        bp.add_url_rule(rule, view_func=view, defaults={"number": 1}, **options)
        head, slash, tail = rule.partition("/trace")
        numbered = f"/trace/<id:number>{tail or ''}" if slash and not head else f"/trace/<id:number>{rule}"
        bp.add_url_rule(numbered, view_func=view, **options)
        return view

    return register


@_of_trace("/trace")
def show(job_id: int, number: int) -> str | Response:
    """The Trace screen; ``state``, ``load`` and ``since`` choose what is drawn, ``instrument``, ``in``, ``red``, ``black`` and
    ``unplugged`` a test. A job that is looked for on no circuit goes on where it is."""
    record = record_of(get_db(), job_id)
    if not record.traces:
        return redirect(stop_address("Trace", record) or url_for("jobs.show", job_id=job_id))
    return _page(docket_of(get_db(), job_id, number), _drawn(request.args))


def _drawn(given: Mapping[str, str]) -> Drawn:
    own = Chosen(*(given.get(name, "") for name in ("instrument", "in", "red", "black", "unplugged")))
    state, load, since, view, take = (given.get(name, "") for name in ("state", "load", "since", "view", "take"))
    return Drawn(state, load, since, view, take, _order(), own)


def _order() -> str:
    """The order of attack that the person works by, kept in the browser's session."""
    order = session.get("order", "best")
    return order if order in CHOSEN_ORDERS else "best"


def _page(docket: Docket, drawn: Drawn, form: Form | None = None) -> str:
    """The Trace screen or its middle; where nothing can be worked out, the log with what undoes an entry."""
    found, says = attempt(lambda: trace_of(docket, drawn, form))
    if found is None:
        kept = form.error if form else ""
        left = stalled(docket, " ".join(text for text in (kept, says) if text))
        return render_template("trace/_stalled.html" if is_fragment() else "trace/stalled.html", trace=left)
    return render_template("trace/_trace.html" if is_fragment() else "trace/trace.html", trace=found)


def _isolation(docket: Docket) -> Isolation:
    return workups().isolation(docket.stored_sheet, docket.items)


@_of_trace("/readings", methods=["POST"])
def add(job_id: int, number: int) -> Response | tuple[str, int]:
    """Write a reading or observation; after an error the form comes back as typed."""
    conn = get_db()
    docket = docket_of(conn, job_id, number)
    form = form_of(request.form)
    try:
        if not was_written():
            item, value = checked_item(docket, form)
            unread = unread_before(docket, item)
            if unread:
                form = replace(form, unread=unread)
                raise PondrelError("First read this, and say so. What you typed stays in the field.")
            question, _ = attempt(lambda: questioned(docket, form, item))
            if question:
                form = replace(form, sure=form.value)
                raise PondrelError(question)
            written_once(lambda: _added(conn, docket, item, value))
            if request.form.get("back"):
                return redirect(way_back())
    except PondrelError as error:
        kept = replace(form, error=str(error))
        drawn = Drawn(form.state, request.form.get("load", ""), view=request.form.get("view", ""), order=_order())
        return _page(docket, drawn, kept), 422 if is_fragment() else 400
    return _back(docket)


def _added(conn: sqlite3.Connection, docket: Docket, item: Item, value: str) -> str:
    """Write an item of evidence; returns its entry's id."""
    if is_concluded(conn, docket.job.id, docket.trace.id):
        raise PondrelError("This job was concluded in the meantime: reopen it with a reason before you add readings.")
    kind, content = sort_of(item).name, content_of(item, value)
    entry_id = add_entry(conn, docket.job.id, kind, content, trace_id=docket.trace.id, person=me())
    refresh_job(conn, docket.job.id)
    return str(entry_id)


@_of_trace("/cautions", methods=["POST"])
def acknowledge(job_id: int, number: int) -> tuple[str, int]:
    """Write down that somebody has read a caution; its step is open from then on."""
    conn = get_db()
    docket = docket_of(conn, job_id, number)
    text = typed("caution")["caution"]
    if text not in locking_cautions(docket.sheet):
        raise PondrelError("This caution is not one of the sheet's: load the page again and read what stands there.")

    def written() -> str:
        add_entry(conn, job_id, "caution", {"text": text}, trace_id=docket.trace.id, person=me())
        return text

    form = form_of(request.form)
    try:
        written_once(written)
    except PondrelError as error:
        return _page(docket, _drawn(request.form), replace(form, error=str(error))), 422 if is_fragment() else 400
    # As it was when the button was touched: what was typed belongs to the test that was asked for then.
    return _page(docket_of(conn, job_id, number), _drawn(request.form), form if form.instrument else None), 200


@_of_trace("/preview")
def preview(job_id: int, number: int) -> str:
    """What the typed line would do to the ranking, before it is entered; a hint where it is not complete."""
    docket = docket_of(get_db(), job_id, number)
    form = form_of(request.args)
    lines, _ = attempt(lambda: completions(docket.sheet, form.value, form.state) if form.value else ())
    try:
        item, value = checked_item(docket, form)
    except PondrelError as error:
        return render_template("trace/_preview.html", lines=lines or (), says=str(error) if not lines else "", preview=None)
    question, _ = attempt(lambda: questioned(docket, form, item))
    if question:
        return render_template("trace/_preview.html", lines=(), says=question, preview=None)
    found, says = attempt(lambda: preview_of(docket, item, value))
    return render_template("trace/_preview.html", lines=lines or (), says=says, preview=found)


@_of_trace("/order", methods=["POST"])
def choose_order(job_id: int, number: int) -> Response | tuple[str, int]:
    """Work by another order of attack from now on."""
    order = request.form.get("order", "")
    if order not in CHOSEN_ORDERS:
        raise PondrelError(f"There is no such order of attack: choose {', '.join(CHOSEN_ORDERS)}.")
    session["order"] = order
    return _back(docket_of(get_db(), job_id, number))


@_of_trace("/undo", methods=["POST"])
def undo(job_id: int, number: int) -> Response | tuple[str, int]:
    """Strike the entry out that the page called the last one: it stays in the record as undone."""
    return _strike(docket_of(get_db(), job_id, number), whole(request.form.get("entry", "")), "undone")


@_of_trace("/readings/<id:entry_id>/strike", methods=["POST"])
def strike(job_id: int, number: int, entry_id: int) -> Response | tuple[str, int]:
    """Strike a reading out, with a reason."""
    reason = typed("reason")["reason"]
    if not reason:
        raise PondrelError("A reason is missing: say why the reading does not count, such as 'wrong range'.")
    return _strike(docket_of(get_db(), job_id, number), entry_id, checked("The reason", reason, LONGEST_REASON))


def _strike(docket: Docket, entry_id: int | None, reason: str) -> Response | tuple[str, int]:
    conn, job_id = get_db(), docket.job.id

    def struck() -> str:
        if is_concluded(conn, job_id, docket.trace.id):
            raise PondrelError("This job is concluded: reopen it with a reason before you undo anything or strike it out.")
        if entry_id is None or entry_id not in {entry.id for entry in docket.log}:
            raise PondrelError("There is nothing to undo: no entry is named. Load the page again to see what stands.")
        if not strike_entry(conn, job_id, entry_id, reason, me()):
            raise PondrelError("This reading is struck out already, perhaps by somebody else: load the page again to see what stands.")
        refresh_job(conn, job_id)
        return str(entry_id)

    written_once(struck)
    return _back(docket)


def _back(docket: Docket) -> Response | tuple[str, int]:
    """The Trace screen as it is after something was written."""
    docket = docket_of(get_db(), docket.job.id, docket.trace.number)
    _note_outlook(docket)
    if is_fragment():
        drawn = Drawn(view=request.form.get("view", ""), since=request.form.get("since", ""), order=_order())
        return _page(docket, drawn), 200
    return redirect(url_for("trace.show", job_id=docket.job.id, number=docket.trace.number))


def _note_outlook(docket: Docket) -> None:
    """Keep for the Bay what the readings come to; a job that cannot be worked out simply has none."""
    found, _ = attempt(lambda: _isolation(docket))
    if found is not None:
        standing = found.standing
        with suppress(StoreError):  # what the person entered is written, and only a list goes without
            keep_outlook(get_db(), docket.job.id, docket.trace.id, docket.mattering, standing.ready, standing.says)


@_of_trace("/conclude")
def conclude_form(job_id: int, number: int) -> str:
    """What is faulty, and on which readings that stands."""
    return _conclude_form(docket_of(get_db(), job_id, number), {}, "")


def _conclude_form(docket: Docket, given: dict[str, str], error: str) -> str:
    isolation, says = attempt(lambda: _isolation(docket))
    parts, unread = attempt(lambda: isolation.parts if isolation else dict.fromkeys((*docket.sheet.parts, None)))
    if parts is None:
        return render_template("trace/stalled.html", trace=stalled(docket, " ".join(text for text in (error, unread) if text)))
    standing = isolation.standing if isolation else None
    shown = given.get("target") or "\n".join(standing.target if standing else ())
    likely = [(name, p) for name, p in parts.items() if p is None or p >= _WORTH_A_LINE or name in (None, shown)]
    limits, _ = attempt(lambda: overall_of(docket.sheet, docket.items, units()))
    return render_template(
        "trace/conclude.html",
        docket=docket,
        standing=standing,
        says=says,
        likely=likely,
        rest=[pair for pair in parts.items() if pair not in likely],
        limits=limits,
        fitted=fitted_notes(docket),
        typed=given,
        error=error,
    )


@_of_trace("/conclude", methods=["POST"])
def conclude(job_id: int, number: int) -> Response | tuple[str, int]:
    """Write the conclusion; without the stop rule's consent, or where nothing could be worked out, only with a reason."""
    conn = get_db()
    docket = docket_of(conn, job_id, number)
    given = typed("target", "reason")
    try:
        if was_written():
            return redirect(url_for("jobs.show", job_id=job_id))
        if docket.concluded:
            raise PondrelError("This job is concluded already: reopen it with a reason first.")
        reason = checked("The reason", given["reason"])
        found = _closing(docket, given["target"])
        if found.wants_reason and not reason:
            raise PondrelError(found.wants_reason)

        def written() -> str:
            if mattering(entries_of(conn, job_id), docket.trace.id) != docket.mattering:
                raise PondrelError("Readings were added or struck out in the meantime: look at what they say now, then conclude.")
            basis = [docket.standing_ids[i] for i in found.basis]
            add_conclusion(
                conn, job_id, docket.trace.id, found.parts, found.says, found.probability, found.proved, reason, basis, me(),
                modes=found.modes,
            )  # fmt: skip
            refresh_job(conn, job_id)
            return url_for("jobs.show", job_id=job_id)

        return redirect(written_once(written))
    except PondrelError as error:
        return _conclude_form(docket_of(conn, job_id, number), given, str(error)), 400


def _closing(docket: Docket, target: str) -> Closing:
    isolation, says = attempt(lambda: _isolation(docket))
    parts = _target(docket.sheet.parts, target)
    chances = tuple(isolation.parts.items()) if isolation else ()
    return closing(docket.sheet, parts, len(docket.standing), isolation.standing if isolation else None, chances, says,
                   isolation.modes_of(parts) if isolation else {})  # fmt: skip


def _target(parts: Mapping[str, Part], text: str) -> tuple[str, ...]:
    """The parts that the form names, separated by line feeds; empty for "nothing on this sheet"."""
    if text == "(nothing)":
        return ()
    names = tuple(name for name in text.splitlines() if name)
    if not names or any(name not in parts for name in names):
        raise PondrelError("Nothing is chosen: pick the faulty part, or 'nothing on this sheet'.")
    return names


@_of_trace("/reopen", methods=["POST"])
def reopen(job_id: int, number: int) -> Response:
    """Withdraw the conclusion, with a reason."""
    conn = get_db()
    docket = docket_of(conn, job_id, number)
    reason = typed("reason")["reason"]
    if not reason:
        raise PondrelError("A reason is missing: say why the conclusion no longer stands.")
    reason = checked("The reason", reason, LONGEST_REASON)

    def withdrawn() -> str:
        entry_id = standing_conclusion(conn, job_id, docket.trace.id)
        if entry_id is None or not strike_entry(conn, job_id, entry_id, reason, me()):
            raise PondrelError("This job is not concluded, so there is nothing to reopen.")
        refresh_job(conn, job_id)
        flash("Reopened. The old conclusion stays in the record.")
        return url_for("trace.show", job_id=job_id, number=number)

    return redirect(written_once(withdrawn))


def _trace_of_job(record: Record) -> str:
    """The circuit that is traced now: the last that is not concluded, else the last."""
    if not record.traces:
        return ""
    open_ones = [trace for trace in record.traces if record.concluded_on(trace) is None]
    return url_for("trace.show", job_id=record.job.id, number=(open_ones or record.traces)[-1].number)


def init_app(app: Flask) -> None:
    """Register the blueprint, and the stage that is worked at here."""
    app.register_blueprint(bp)
    add_stop(app, Stop("Trace", _trace_of_job))
