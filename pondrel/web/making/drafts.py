"""A circuit that is being drawn: touched, grown, undone, written as text, and kept as a sheet."""

from __future__ import annotations

import json
from collections.abc import Mapping
from typing import Any

from flask import Blueprint, Flask, abort, flash, redirect, render_template, request, url_for
from werkzeug.wrappers import Response as AnyResponse

from ...core.base.errors import PondrelError
from ...core.circuit.read.flaws import review
from ...core.making.steps import Grown, grown
from ...store.bay import refresh_job
from ...store.carry import carry
from ...store.corrections import add_correction, corrections_of
from ...store.drafts import Draft, add_draft, add_step, get_draft, keep_draft, move_back, move_on, steps_taken
from ...store.entries import add_entry
from ...store.jobs import get_job
from ...store.own_drawings import add_own_drawing, library_sheet_of
from ...store.sheets import add_sheet, get_sheet, versions_of
from ...store.traces import add_trace, traces_of
from ..jobs.docket import Docket, docket_in, docket_of, record_of
from ..shell.attempt import attempt
from ..shell.database import get_db
from ..shell.fields import checked, is_fragment, typed
from ..shell.once import answered_with, written_once
from ..shell.who import me
from ..shell.workups import workups
from .page import Chosen, page_of
from .typical import job_of

__all__ = ["init_app"]

bp = Blueprint("drafts", __name__)

MOST_GIVEN, LONGEST_GIVEN, LONGEST_NOTE = 300, 2000, 300
_OWN = ("csrf_token", "key", "step", "on", "subject", "in", "at_step")


def _draft(draft_id: int) -> Draft:
    draft = get_draft(get_db(), draft_id)
    if draft is None:
        abort(404)
    return draft


@bp.post("/sheets/<id:sheet_id>/draw")
def begin(sheet_id: int) -> AnyResponse:
    """Begin a draft with a stored sheet: its next version, or a copy of it for another vehicle."""
    stored = get_sheet(get_db(), sheet_id)
    if stored is None:
        abort(404)
    copy, job = request.form.get("as") == "copy", job_of(request.form.get("job", ""))
    words = f"{'a copy of' if copy else 'from'} {stored.title}"

    def write() -> str:
        draft_id = add_draft(get_db(), stored.text, words, me(), None if copy else stored.id, job)
        return url_for("drafts.show", draft_id=draft_id)

    return redirect(written_once(write))


@bp.get("/drafts/<id:draft_id>")
def show(draft_id: int) -> str:
    """The draft where it stands, with what is touched."""
    given = request.args
    return _page(_draft(draft_id), Chosen(given.get("part", ""), given.get("node", ""), given.get("state", "")), given.get("in", ""))


def _page(draft: Draft, chosen: Chosen, shown: str, error: str = "", given: Mapping[str, str] | None = None) -> str:
    library = get_sheet(get_db(), draft.sheet_id) if draft.sheet_id else None
    if draft.trace_id:
        docket = _docket_of_draft(draft)
        library = get_sheet(get_db(), docket.trace.begun_id)
    against, _ = attempt(lambda: workups().sheet(library) if library else None)
    page = page_of(draft, chosen, shown, against)
    name = "making/_draft.html" if is_fragment() else "making/draft.html"
    return render_template(name, page=page, draft=draft, sheet=page.sheet, chosen=page.chosen, error=error, given=given or {})


@bp.post("/drafts/<id:draft_id>/step")
def step(draft_id: int) -> AnyResponse | tuple[str, int]:
    """Take a step: the circuit is a good sheet after it, or the step is not taken and a sentence says why."""
    draft = _draft(draft_id)
    own = typed("step", "on", "subject", "in")
    given = {key: value for key, value in list(request.form.items())[:MOST_GIVEN] if key not in _OWN}
    chosen = Chosen(**{own["on"]: own["subject"]}) if own["on"] in ("part", "node", "state") else Chosen()

    def write(done: Grown) -> str:
        if done.outcome.words and done.text != draft.text:
            taken = json.dumps({"step": own["step"], "subject": own["subject"], "given": {k: v for k, v in given.items() if v}})
            add_step(get_db(), draft, done.text, done.outcome.words, taken)
        outcome = done.outcome
        where: dict[str, Any] = {"part": outcome.part, "node": outcome.node, "state": outcome.state, "in": outcome.state or own["in"]}
        return url_for("drafts.show", draft_id=draft_id, **{key: value for key, value in where.items() if value})

    def refused(error: str) -> str:
        return _page(draft, chosen, own["in"], error, given)

    def take_it() -> Grown:
        for key, value in given.items():
            checked(f"What stands under {key.replace('_', ' ')}", value, LONGEST_GIVEN)
        return grown(draft.text, own["step"], own["subject"], given)

    return answered_with(take_it, write, refused)


@bp.post("/drafts/<id:draft_id>/undo")
def undo(draft_id: int) -> AnyResponse:
    """Undo the last step."""
    return _moved(draft_id, back=True)


@bp.post("/drafts/<id:draft_id>/redo")
def redo(draft_id: int) -> AnyResponse:
    """Take the step again that was undone last."""
    return _moved(draft_id, back=False)


@bp.post("/jobs/<id:job_id>/traces/<id:number>/correct")
def correct(job_id: int, number: int) -> AnyResponse:
    """Begin to correct a trace's drawing: it is another on this vehicle."""
    docket = docket_of(get_db(), job_id, number)
    if docket.concluded is not None:
        raise PondrelError("This circuit is concluded: reopen it before its drawing is corrected.")
    stored, trace = docket.stored_sheet, docket.trace

    def write() -> str:
        words = f"as drawn: {stored.title}"
        draft_id = add_draft(get_db(), stored.text, words, me(), None, job_id, trace.id)
        chosen: dict[str, Any] = {key: request.form[key] for key in ("part", "node", "in") if request.form.get(key)}
        return url_for("drafts.show", draft_id=draft_id, **chosen)

    return redirect(written_once(write))


@bp.post("/drafts/<id:draft_id>/correct")
def keep_correction(draft_id: int) -> AnyResponse | tuple[str, int]:
    """Let the trace go by the corrected drawing, which is this vehicle's own; what was read is judged by it, and the record says so."""
    draft, why = _draft(draft_id), typed("why")["why"]

    def write(_: None) -> str:
        conn = get_db()
        checked("The reason", why, LONGEST_NOTE)
        docket = _docket_of_draft(draft)
        address = url_for("trace.show", job_id=docket.job.id, number=docket.trace.number)
        if draft.kept_id is not None:
            return address
        steps = steps_taken(conn, draft)
        if not steps:
            raise PondrelError("Nothing is different yet: touch what is drawn wrongly and change it first.")
        library = library_sheet_of(conn, docket.stored_sheet.id)
        own = add_own_drawing(conn, draft.text, library, docket.vehicle.id, docket.vehicle.name)
        workups().items(own, docket.standing)  # what was read must be readable on it
        for words, taken in steps:
            add_correction(conn, library, docket.vehicle.id, "", f"{words}{f' ({why})' if why else ''}", me(), step=taken)
        content = {
            "says": "; ".join(words for words, _ in steps)[:1500],
            "why": why,
            "sheet": own.digest,
            "before": docket.stored_sheet.digest,
        }
        add_entry(conn, docket.job.id, "corrected", content, trace_id=docket.trace.id, person=me())
        keep_draft(conn, draft, own.id)
        refresh_job(conn, docket.job.id)
        return address

    return answered_with(lambda: None, write, lambda error: _page(draft, Chosen(), "", error, {"why": why}))


def _docket_of_draft(draft: Draft) -> Docket:
    """The trace that a draft corrects."""
    record = record_of(get_db(), draft.job_id or 0)
    trace = next((trace for trace in record.traces if trace.id == draft.trace_id), None)
    if trace is None:
        abort(404)
    return docket_in(get_db(), record, trace)


@bp.post("/sheets/<id:sheet_id>/corrections/<id:correction_id>/take")
def take(sheet_id: int, correction_id: int) -> AnyResponse:
    """Begin the next version of a sheet with a correction that was found on a vehicle."""
    conn = get_db()
    newest = versions_of(conn, sheet_id)
    found = next((c for c in corrections_of(conn, [v.id for v in newest]) if c.id == correction_id and c.step), None)
    if found is None:
        abort(404)
    current = newest[0]
    asked = json.loads(found.step)
    done = grown(current.text, asked["step"], asked["subject"], asked["given"])

    def write() -> str:
        draft_id = add_draft(get_db(), current.text, f"from {current.title}", me(), current.id)
        draft = _draft(draft_id)
        add_step(get_db(), draft, done.text, f"{done.outcome.words}, as on {found.vehicle or 'a vehicle'}", found.step)
        return url_for("drafts.show", draft_id=draft_id)

    return redirect(written_once(write))


def _moved(draft_id: int, back: bool) -> AnyResponse:
    def write() -> str:
        draft = _draft(draft_id)
        (move_back if back else move_on)(get_db(), draft)
        shown: dict[str, Any] = {"in": request.form["in"]} if request.form.get("in") else {}
        return url_for("drafts.show", draft_id=draft_id, **shown)

    return redirect(written_once(write))


@bp.get("/drafts/<id:draft_id>/text")
def text(draft_id: int) -> str:
    """The draft's text, to be edited beside its drawing."""
    draft = _draft(draft_id)
    return render_template("making/text.html", draft=draft, text=draft.text, reviewed=review(draft.text), error="")


@bp.post("/drafts/<id:draft_id>/text")
def write_text(draft_id: int) -> AnyResponse | tuple[str, int]:
    """Take what was written as a step; what is no good sheet comes back with its flaws."""
    draft, written = _draft(draft_id), request.form.get("text", "").replace("\r\n", "\n")
    reviewed = review(written)
    if reviewed.flaws:
        many = f"{len(reviewed.flaws)} flaws are" if len(reviewed.flaws) > 1 else "One flaw is"
        if is_fragment():
            flaw = reviewed.flaws[0]
            error = f"Not taken yet: {many} in the text. Line {flaw.line}, {flaw.path or 'the text'}: {flaw.says}."
            return _page(draft, Chosen(), "", error, {"text": written}), 400
        error = f"Not taken yet: {many} named beside the text."
        return render_template("making/text.html", draft=draft, text=written, reviewed=reviewed, error=error), 400

    def write(_: None) -> str:
        if written != draft.text:
            add_step(get_db(), draft, written, "changed as text")
        return url_for("drafts.show", draft_id=draft_id)

    def refused(error: str) -> str:
        if is_fragment():
            return _page(draft, Chosen(), "", error, {"text": written})
        return render_template("making/text.html", draft=draft, text=written, reviewed=reviewed, error=error)

    return answered_with(lambda: None, write, refused)


@bp.post("/drafts/<id:draft_id>/keep")
def keep(draft_id: int) -> AnyResponse | tuple[str, int]:
    """Keep the draft as a sheet of the library; the job that it was drawn for takes it up."""
    draft, note = _draft(draft_id), typed("note")["note"]

    def write(_: None) -> str:
        conn = get_db()
        if draft.kept_id is not None:
            return url_for("sheets.show", sheet_id=draft.kept_id)
        sheet_id = add_sheet(conn, draft.text, draft.sheet_id, note or draft.words)
        keep_draft(conn, draft, sheet_id)
        if draft.job_id is None or get_job(conn, draft.job_id) is None:
            return url_for("sheets.show", sheet_id=sheet_id)
        known = next((trace for trace in traces_of(conn, draft.job_id) if trace.sheet_id == sheet_id), None)
        if known is None:
            add_trace(conn, draft.job_id, sheet_id, me())
            carry(conn, draft.job_id, me())
            refresh_job(conn, draft.job_id)
        return url_for("trace.show", job_id=draft.job_id)

    try:
        checked("The note", note, LONGEST_NOTE)
        answer = answered_with(lambda: None, write, lambda error: _page(draft, Chosen(), "", error))
    except PondrelError as error:
        return _page(draft, Chosen(), "", str(error)), 400
    if draft.kept_id is None and not isinstance(answer, tuple):
        flash("Kept in the library.")
    return answer


def init_app(app: Flask) -> None:
    """Register the blueprint."""
    app.register_blueprint(bp)
