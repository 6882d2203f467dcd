"""The complaint's page: when it is there, what it does in the circuits' own words, what was renewed in vain, which circuit it is about."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from flask import Blueprint, Flask, render_template, request, url_for
from werkzeug.wrappers import Response

from ...core.base.errors import PondrelError
from ...core.evidence.registry import SORTS
from ...core.evidence.told import CIRCUMSTANCES, OFTEN
from ...core.isolate import Touch
from ...core.job.codes import codes_of
from ...core.job.complaint import COMPLAINT, FROM_COMPLAINT, told_of
from ...core.job.entry import Entry, standing
from ...core.job.in_words import told_in_words
from ...core.job.power import ways_walked
from ...core.job.stages import ways_called_for
from ...core.job.which import Proposed, proposed_circuits
from ...core.power.guide import WAYS
from ...core.vehicle.fitting import sheet_misfit
from ...core.vehicle.ledger import HOW
from ...store.bay import refresh_job
from ...store.carry import carry
from ...store.db import now
from ...store.entries import add_entry, strike_entry
from ...store.mended import fitted_before
from ...store.sheets import get_sheet, phrases_of_sheets, sheet_titles
from ...store.vehicles import Vehicle
from ..shell.attempt import attempt
from ..shell.database import get_db
from ..shell.fields import typed
from ..shell.once import answered_once
from ..shell.rooms import Stop, add_stop
from ..shell.who import me
from ..shell.workups import workups
from ..vehicles.views import FITTED_FIELDS, fitted_from
from .docket import Record, docket_in, docket_of, record_of

__all__ = ["Offered", "init_app", "offered_circuits"]

bp = Blueprint("complaint", __name__, url_prefix="/jobs/<id:job_id>")

SAID_ANEW = "said otherwise"


@dataclass(frozen=True, slots=True)
class Offered:
    """A circuit that may be meant: its title, what it shares with the complaint, and why it may not be for this vehicle."""

    sheet_id: int
    title: str
    because: tuple[str, ...]
    against: str


@dataclass(frozen=True, slots=True)
class Asked:
    """What can be said of one circuit: its trace's number and title, the touches, and what has been said, by kind, subject and state."""

    number: int
    title: str
    touches: tuple[Touch, ...]
    said: Mapping[tuple[str, str, str], str]
    parts: tuple[tuple[str, str], ...]


def offered_circuits(record: Record) -> tuple[Offered, ...]:
    """The circuits that the complaint may be about and that are not taken up, best first."""
    conn = get_db()
    phrases = phrases_of_sheets(conn)
    codes, words = codes_of(record.entries), _told(record)
    modules = [*(codes.call.silent if codes.call else ()), *(one.code.module for one in codes.counting)]
    found = proposed_circuits(phrases, words, [one.code.code for one in codes.counting], modules)
    taken = {trace.sheet_id for trace in record.traces}
    titles = dict(sheet_titles(conn))
    return tuple(_offered(record.vehicle, titles[p.key], p) for p in found if p.key not in taken)


def _told(record: Record) -> str:
    """All that was told of a complaint."""
    told = told_of(record.entries)
    return ". ".join((record.job.complaint, record.job.conditions, *((told.text, told.before) if told else ())))


def _offered(vehicle: Vehicle, title: str, proposed: Proposed) -> Offered:
    stored = get_sheet(get_db(), proposed.key)
    assert stored is not None
    sheet, _ = attempt(lambda: workups().sheet(stored))
    because = tuple(text for text in proposed.because if text != title)
    return Offered(proposed.key, title, because, sheet_misfit(sheet, vehicle) if sheet else "")


def _asked(record: Record) -> list[Asked]:
    """What can be said of each circuit that is traced and not concluded."""
    found = []
    for trace in record.traces:
        if record.concluded_on(trace):
            continue
        docket = docket_in(get_db(), record, trace)
        offered, _ = attempt(lambda docket=docket: workups().touches(docket.stored_sheet))  # type: ignore[misc]
        sheet, _ = attempt(lambda docket=docket: docket.sheet)  # type: ignore[misc]
        kinds = {touch.kind for touch in offered or ()}
        said = {(e.kind, e.text("subject"), e.text("state")): e.text("outcome") for e in docket.standing if e.kind in kinds}
        parts = tuple((name, part.spoken) for name, part in sheet.parts.items()) if sheet else ()
        found.append(Asked(trace.number, trace.title, offered or (), said, parts))
    return found


@bp.get("/complaint")
def show(job_id: int) -> str:
    """The complaint's page."""
    return _page(record_of(get_db(), job_id), {}, "")


def _page(record: Record, given: Mapping[str, str], error: str) -> str:
    last = next(reversed(standing(record.entries, COMPLAINT.name)), None)
    in_words = {} if last else told_in_words(". ".join((record.job.complaint, record.job.conditions)))
    known = {**({name: last.text(name) for name in last.content} if last else in_words), **given}
    asked, walked = _asked(record), ways_walked(record.entries)
    return render_template(
        "jobs/complaint.html",
        record=record,
        typed=known,
        error=error,
        refused="often" in given,
        in_words=bool(in_words) and not given,
        often=OFTEN,
        circumstances=CIRCUMSTANCES,
        under=known.get("under", "").split(","),
        asked=asked,
        offered=offered_circuits(record),
        ways=[WAYS[name] for name in dict.fromkeys((*walked, *ways_called_for(record.job.complaint, record.entries)))],
        walked=walked,
        sheets=sheet_titles(get_db()),
        codes=codes_of(record.entries),
        renewed=fitted_before(get_db(), record.vehicle.id, record.job.id),
        how=HOW,
        today=now()[:10],
        parts=tuple(dict.fromkeys(pair for one in asked for pair in one.parts)),
        told=told_of(record.entries),
    )


@bp.post("/complaint")
def tell(job_id: int) -> Response | tuple[str, int]:
    """Write down when it is there and what was done before; what was told before counts no longer."""
    conn = get_db()
    record = record_of(conn, job_id)
    given = typed(*(field.name for field in COMPLAINT.fields))
    given["under"] = ",".join(request.form.getlist("under"))

    def told() -> str:
        before = standing(record.entries, COMPLAINT.name)
        add_entry(conn, job_id, COMPLAINT.name, given, person=me())
        for entry in before:
            strike_entry(conn, job_id, entry.id, SAID_ANEW, me())
        carry(conn, job_id, me())
        refresh_job(conn, job_id)
        return url_for("complaint.show", job_id=job_id)

    return _written(record, given, told)


def _written(record: Record, given: Mapping[str, str], write: Callable[[], str]) -> Response | tuple[str, int]:
    return answered_once(write, lambda error: _page(record_of(get_db(), record.job.id), given, error))


@bp.post("/complaint/said/<id:number>")
def say(job_id: int, number: int) -> Response | tuple[str, int]:
    """Write down what the customer says that something on a circuit does."""
    conn = get_db()
    docket = docket_of(conn, job_id, number)
    given = typed("kind", "subject", "state", "outcome")

    def said() -> str:
        if given["kind"] not in {touch.kind for touch in workups().touches(docket.stored_sheet)}:
            raise PondrelError("Nothing was said: touch what it does.")
        if docket.concluded:
            raise PondrelError("This circuit is concluded: reopen it with a reason before you add to the complaint.")
        content = {**given, "note": FROM_COMPLAINT}
        del content["kind"]
        SORTS[given["kind"]].read(docket.sheet, content)
        for entry in _same(docket.standing, given):
            strike_entry(conn, job_id, entry.id, SAID_ANEW, me())
        add_entry(conn, job_id, given["kind"], content, trace_id=docket.trace.id, person=me())
        refresh_job(conn, job_id)
        return url_for("complaint.show", job_id=job_id) + "#said"

    return _written(docket.record, {}, said)


def _same(entries: tuple[Entry, ...], given: Mapping[str, str]) -> list[Entry]:
    """What was said of the same thing before."""
    return [e for e in entries if e.kind == given["kind"] and all(e.text(name) == given[name] for name in ("subject", "state"))]


@bp.post("/complaint/fitted")
def fitted(job_id: int) -> Response | tuple[str, int]:
    """Write down a part that was renewed for this complaint, into the vehicle's ledger, and what it says about the circuits."""
    conn = get_db()
    record = record_of(conn, job_id)
    given = typed(*FITTED_FIELDS)

    def written() -> str:
        if given["helped"] not in ("yes", "no"):
            raise PondrelError("Say whether it helped: that is what counts here.")
        fitted_from(record.vehicle, given, job_id)
        carry(conn, job_id, me())
        refresh_job(conn, job_id)
        return url_for("complaint.show", job_id=job_id) + "#renewed"

    return _written(record, given, written)


def _page_of(record: Record) -> str:
    return url_for("complaint.show", job_id=record.job.id)


def init_app(app: Flask) -> None:
    """Register the blueprint, and the stage that is worked at here."""
    app.register_blueprint(bp)
    add_stop(app, Stop("Complaint", _page_of))
