"""The Report page: what it says, made as PDF or HTML under a seal, handed over; and asking what was made under a seal."""

from __future__ import annotations

import hashlib
from collections.abc import Mapping

from flask import Blueprint, Flask, Response, abort, render_template, request, send_file, url_for

from ...core.base.errors import PondrelError
from ...core.job.report import ADVICE, REPORT, SHEETS, issued_of, seal_in
from ...store.bay import refresh_job
from ...store.entries import add_entry
from ...store.files import file_path, get_file
from ...store.reports import Letterhead, keep_letterhead, letterhead_of, report_of_file, reports_sealed
from ..jobs.docket import Record, record_of
from ..jobs.files import data_folder
from ..shell.database import get_db
from ..shell.fields import checked, typed
from ..shell.once import answered_once, answered_with
from ..shell.rooms import Stop, add_stop
from ..shell.who import me
from .customer import ON_THE_PAGE, customer_of
from .full import full_of
from .made import CUSTOMER, FULL, PLAN, Ready, html_sheet, kept, ready_pdf
from .plan import plan_of

__all__ = ["init_app", "shown_by"]

bp = Blueprint("report", __name__)

LONGEST_HEAD = 80
_FILES = {CUSTOMER: "report", FULL: "record", PLAN: "plan"}
USUAL = frozenset(ON_THE_PAGE) - {"claim"}


def shown_by(given: Mapping[str, str]) -> frozenset[str]:
    """What is on the page: as an address has it, else the usual."""
    if "on" not in given:
        return USUAL
    return frozenset(name for name in given["on"].split(",") if name in ON_THE_PAGE)


@bp.get("/jobs/<id:job_id>/report")
def show(job_id: int) -> str:
    """The report as it would be made now."""
    return _drawn(record_of(get_db(), job_id), {}, "")


def _drawn(record: Record, given: Mapping[str, str], error: str) -> str:
    shows = shown_by(request.args if request.method == "GET" else request.form)
    report = customer_of(record, shows)
    return render_template(
        "report/show.html",
        record=record,
        report=report,
        shows=shows,
        choices=ON_THE_PAGE,
        made=issued_of(record.entries),
        sheets=SHEETS,
        letterhead=letterhead_of(get_db()),
        typed=given,
        error=error,
    )


@bp.get("/jobs/<id:job_id>/report/record")
def record(job_id: int) -> str:
    """The full record on a page of its own."""
    found = record_of(get_db(), job_id)
    return render_template("report/sheet.html", record=found, report=full_of(found), sheet=FULL)


@bp.get("/jobs/<id:job_id>/report/plan")
def plan(job_id: int) -> str:
    """The plan on a page of its own."""
    found = record_of(get_db(), job_id)
    return render_template("report/sheet.html", record=found, report=plan_of(found), sheet=PLAN)


@bp.post("/jobs/<id:job_id>/report")
def make(job_id: int) -> Response | tuple[str, int]:
    """Make one of the sheets as PDF, keep it, and write its seal into the record."""
    conn = get_db()
    found = record_of(conn, job_id)
    given = typed("sheet")

    def written(ready: Ready) -> str:
        kept(conn, data_folder(), job_id, ready, me())
        return url_for("report.made", job_id=job_id, seal=ready.seal)

    sheet = given["sheet"] if given["sheet"] in SHEETS else CUSTOMER
    shows = shown_by(request.form)
    return answered_with(lambda: ready_pdf(found, sheet, shows), written, lambda error: _drawn(found, given, error))  # type: ignore[return-value]


@bp.get("/jobs/<id:job_id>/report/<seal>.pdf")
def made(job_id: int, seal: str) -> Response:
    """A report that was made, to the byte."""
    found = record_of(get_db(), job_id)
    one = next((one for one in issued_of(found.entries) if one.seal == seal), None)
    stored = get_file(get_db(), one.pdf) if one else None
    path = file_path(data_folder(), one.pdf) if one else None
    if stored is None or path is None or not path.exists():
        abort(404)
    answer = send_file(path, mimetype="application/pdf", download_name=f"job-{job_id}-{seal}.pdf")
    answer.headers["Content-Security-Policy"] = "default-src 'none'; style-src 'unsafe-inline'; object-src 'self'"
    return answer


@bp.get("/jobs/<id:job_id>/report.html")
def as_html(job_id: int) -> Response:
    """One of the sheets as an HTML file that holds everything, as it would be made now."""
    found = record_of(get_db(), job_id)
    sheet = request.args.get("sheet", CUSTOMER)
    sheet = sheet if sheet in SHEETS else CUSTOMER
    text = html_sheet(found, sheet, shown_by(request.args))
    name = f"job-{job_id}-{_FILES[sheet]}.html"
    answer = Response(text, mimetype="text/html", headers={"Content-Disposition": f'attachment; filename="{name}"'})
    answer.headers["Content-Security-Policy"] = "default-src 'none'; style-src 'unsafe-inline'; img-src data:; font-src data:; sandbox"
    return answer


@bp.post("/jobs/<id:job_id>/report/handed")
def hand_over(job_id: int) -> Response | tuple[str, int]:
    """Write down that the vehicle was handed over."""
    conn = get_db()
    found = record_of(conn, job_id)
    given = typed("text")

    def written() -> str:
        add_entry(conn, job_id, REPORT.name, given, person=me())
        refresh_job(conn, job_id)
        return url_for("jobs.show", job_id=job_id)

    return answered_once(written, lambda error: _drawn(found, given, error))  # type: ignore[return-value]


@bp.post("/jobs/<id:job_id>/report/advice")
def advise(job_id: int) -> Response | tuple[str, int]:
    """Write down what the customer should watch."""
    conn = get_db()
    found = record_of(conn, job_id)
    given = typed("text")

    def written() -> str:
        add_entry(conn, job_id, ADVICE.name, given, person=me())
        return url_for("report.show", job_id=job_id)

    return answered_once(written, lambda error: _drawn(found, given, error))  # type: ignore[return-value]


@bp.post("/jobs/<id:job_id>/report/letterhead")
def letterhead(job_id: int) -> Response | tuple[str, int]:
    """Settle what stands at the head of every report."""
    found = record_of(get_db(), job_id)
    given = typed("name", "place")

    def settled() -> str:
        name = checked("The workshop's name", given["name"], LONGEST_HEAD)
        if not name:
            raise PondrelError("The workshop's name is missing: it stands at the head of the report.")
        keep_letterhead(get_db(), Letterhead(name, checked("Where it is", given["place"], LONGEST_HEAD)), me())
        return url_for("report.show", job_id=job_id)

    return answered_once(settled, lambda error: _drawn(found, given, error))  # type: ignore[return-value]


@bp.get("/seal")
def seal() -> str:
    """What was made under a seal."""
    return _sealed(request.args.get("seal", ""), "", None)


def _sealed(text: str, error: str, file: object) -> str:
    found = ()
    if text and not error:
        try:
            found = reports_sealed(get_db(), seal_in(text))  # type: ignore[assignment]
        except PondrelError as problem:
            error = str(problem)
    return render_template("report/seal.html", text=text, found=found, file=file, error=error, sheets=SHEETS)


@bp.post("/seal")
def seal_of_file() -> str | tuple[str, int]:
    """Whether a PDF is one that was made here, to the last byte."""
    sent = request.files.get("file")
    if sent is None or not sent.filename:
        return _sealed("", "No file is chosen: choose the PDF that is to be compared.", None), 400
    digest = hashlib.sha256(sent.stream.read()).hexdigest()
    return _sealed("", "", {"name": sent.filename[:120], "report": report_of_file(get_db(), digest)})


def _report_of_job(record: Record) -> str:
    return url_for("report.show", job_id=record.job.id)


def init_app(app: Flask) -> None:
    """Register the blueprint, and the stage that is worked at here."""
    app.register_blueprint(bp)
    add_stop(app, Stop("Report", _report_of_job))
