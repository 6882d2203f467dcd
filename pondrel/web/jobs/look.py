"""The look's page: what is made safe first, what is worth a look, what is done to it meanwhile, and what makes the fault show itself."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from flask import Blueprint, Flask, flash, render_template, url_for
from werkzeug.wrappers import Response

from ...core.base.errors import PondrelError
from ...core.evidence.hazards import DEFERS
from ...core.evidence.registry import SORTS
from ...core.evidence.safety import check_allowed
from ...core.job.changes import ACTION, DEEDS, TWO_AT_ONCE, unclear_changes
from ...core.job.complaint import told_of
from ...core.job.look import GENERAL, LOOKED, OUTCOMES, LookAt, Seen, general_looks, look_list, outcomes_of_looks
from ...core.job.reproduce import FLEXED, MOVES, Stirring, flexes, stirrings, to_watch
from ...core.job.safety import CAUTION, UNSAFE
from ...core.vehicle.ledger import lately
from ...store.bay import refresh_job
from ...store.corrections import corrections_on
from ...store.db import now
from ...store.entries import add_entry, entries_of
from ...store.files import ReadyFile
from ...store.vehicle_entries import ledger_of
from ..shell.attempt import attempt
from ..shell.database import get_db
from ..shell.fields import checked, typed, way_back
from ..shell.once import answered_with
from ..shell.rooms import Stop, add_stop
from ..shell.who import me
from .docket import Docket, Record, docket_in, docket_of, record_of
from .files import files_kept, files_sent
from .safe import safe_of

__all__ = ["init_app"]

bp = Blueprint("look", __name__, url_prefix="/jobs/<id:job_id>")

LONGEST_NOTE, LONGEST_NAME = 500, 120  # characters


@dataclass(frozen=True, slots=True)
class OnCircuit:
    """A circuit's part of the page: its trace, what to look at and what was found there, what to stir and what to watch."""

    number: int
    title: str
    looks: tuple[LookAt, ...]
    seen: Mapping[str, Seen]
    stirrings: tuple[Stirring, ...]
    watch: str
    says: str


@bp.get("/look")
def show(job_id: int) -> str:
    """The look's page."""
    return _page(record_of(get_db(), job_id), {}, "")


def _open_circuits(record: Record) -> list[Docket]:
    return [docket_in(get_db(), record, t) for t in record.traces if not record.concluded_on(t)]


def _on_circuit(docket: Docket) -> OnCircuit:
    record, conn, today = docket.record, get_db(), now()[:10]
    sheet, says = attempt(lambda: docket.sheet)
    if sheet is None:
        return OnCircuit(docket.trace.number, docket.trace.title, (), {}, (), "", says)
    told = told_of(record.entries)
    recent = [line for line in ledger_of(conn, record.vehicle.id) if lately(line, today)]
    corrected = [c.part for c in corrections_on(conn, record.vehicle.id) if c.title == docket.trace.title]
    looks = look_list(sheet, told, recent, corrected)
    seen = outcomes_of_looks(looks, docket.standing)
    stirred = stirrings(sheet, told, docket.standing)
    return OnCircuit(
        docket.trace.number, docket.trace.title, looks, seen, stirred, to_watch(sheet, told, docket.standing), ""
    )  # fmt: skip


def _page(record: Record, given: Mapping[str, str], error: str) -> str:
    told = told_of(record.entries)
    return render_template(
        "jobs/look.html",
        record=record,
        safe=safe_of(record),
        defers=DEFERS,
        circuits=[_on_circuit(docket) for docket in _open_circuits(record)],
        general=GENERAL,
        found=general_looks(record.entries),
        outcomes=OUTCOMES,
        deeds=DEEDS,
        told=told,
        flexes=flexes(told, record.entries),
        moves=MOVES,
        done=[e for e in reversed(record.entries) if e.kind == ACTION.name and e.stands][:5],
        unclear=unclear_changes(record.entries),
        two_at_once=TWO_AT_ONCE,
        typed=given,
        error=error,
    )


def _written(
    record: Record, given: Mapping[str, str], write: Callable[[Sequence[tuple[ReadyFile, str]]], object], back: str = ""
) -> Response | tuple[str, int]:
    """Write an entry with the files of the form and go on; what was typed comes back where it is refused."""
    conn, job_id = get_db(), record.job.id

    def written(files: Sequence[tuple[ReadyFile, str]]) -> str:
        write(files)
        refresh_job(conn, job_id)
        return back or url_for("look.show", job_id=job_id)

    return answered_with(files_sent, written, lambda error: _page(record_of(conn, job_id), given, error))


@bp.post("/look/safe")
def make_safe(job_id: int) -> Response | tuple[str, int]:
    """Say that a hazard was made safe, or that the danger is back."""
    conn = get_db()
    record = record_of(conn, job_id)
    given = typed("text", "by", "unsafe", "back")
    known = {one.hazard.caution: one.hazard for one in safe_of(record)}

    def written(files: Sequence[tuple[ReadyFile, str]]) -> None:
        hazard = known.get(given["text"])
        if hazard is None:
            raise PondrelError("This caution is none of this job's: load the page again and read what stands there.")
        if given["unsafe"]:
            add_entry(conn, job_id, UNSAFE.name, {"text": given["text"], "back": hazard.back}, person=me())
        else:
            add_entry(conn, job_id, CAUTION.name, {"text": given["text"], "by": given["by"]}, person=me())

    return _written(record, given, written, way_back() if given["back"] else "")


@bp.post("/look/at/<id:number>")
def look_at(job_id: int, number: int) -> Response | tuple[str, int]:
    """Write down what was found at a place of a circuit, or what came of stirring it, with words and pictures if there are any."""
    conn = get_db()
    docket = docket_of(conn, job_id, number)
    given = typed("kind", "subject", "outcome", "note")

    def written(files: Sequence[tuple[ReadyFile, str]]) -> None:
        allowed = {look.kind for look in _on_circuit(docket).looks} | {s.kind for s in _on_circuit(docket).stirrings}
        if given["kind"] not in allowed:
            raise PondrelError("Nothing was found yet: touch what you saw.")
        if docket.concluded:
            raise PondrelError("This circuit is concluded: reopen it with a reason before you add to it.")
        content = {"state": "", "subject": given["subject"], "outcome": given["outcome"]}
        content["note"] = checked("The note", given["note"], LONGEST_NOTE)
        check_allowed(docket.sheet, SORTS[given["kind"]].read(docket.sheet, content))
        add_entry(conn, job_id, given["kind"], content, trace_id=docket.trace.id, person=me(), files=files_kept(conn, files))

    return _written(docket.record, given, written)


@bp.post("/look/at")
def look_anywhere(job_id: int) -> Response | tuple[str, int]:
    """Write down what was found where no circuit is traced."""
    conn = get_db()
    record = record_of(conn, job_id)
    given = typed("place", "outcome", "note")

    def written(files: Sequence[tuple[ReadyFile, str]]) -> None:
        content = {"place": given["place"], "outcome": given["outcome"], "text": given["note"]}
        add_entry(conn, job_id, LOOKED.name, content, person=me(), files=files_kept(conn, files))

    return _written(record, given, written)


@bp.post("/look/flexed")
def flex(job_id: int) -> Response | tuple[str, int]:
    """Write down what was moved where no circuit is traced, and what that did."""
    conn = get_db()
    record = record_of(conn, job_id)
    given = typed("moved", "did", "text")
    return _written(record, given, lambda _: add_entry(conn, job_id, FLEXED.name, given, person=me()))


@bp.post("/done")
def do(job_id: int) -> Response | tuple[str, int]:
    """Write down something that was done to the vehicle: what was read before no longer speaks for it."""
    conn = get_db()
    record = record_of(conn, job_id)
    given = typed("trace", "part", "deed", "text", "back")
    trace = next((t for t in record.traces if str(t.number) == given["trace"]), None)

    def written(files: Sequence[tuple[ReadyFile, str]]) -> None:
        content = {"deed": given["deed"], "part": checked("The part", given["part"], LONGEST_NAME), "text": given["text"]}
        entry = add_entry(
            conn, job_id, ACTION.name, content, trace_id=trace.id if trace else None, person=me(), files=files_kept(conn, files)
        )
        if entry in unclear_changes(entries_of(conn, job_id)):
            flash(TWO_AT_ONCE)

    return _written(record, given, written, way_back() if given["back"] else "")


def _page_of(record: Record) -> str:
    return url_for("look.show", job_id=record.job.id)


def init_app(app: Flask) -> None:
    """Register the blueprint, and the stage that is worked at here."""
    app.register_blueprint(bp)
    add_stop(app, Stop("Look", _page_of))
