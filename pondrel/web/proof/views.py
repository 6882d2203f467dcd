"""The Proof page: numbers taken again, tries, checks, the proof itself, and going on where it is none."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import replace

from flask import Blueprint, Flask, flash, render_template, request, url_for
from werkzeug.wrappers import Response

from ...core.base.errors import PondrelError
from ...core.evidence.registry import item_from
from ...core.job.complaint import told_of
from ...core.job.entry import standing
from ...core.job.proof import PROOF, RETAKEN, TRIED
from ...core.remedy.checks import CHECK
from ...core.remedy.choice import CHOICE
from ...store.bay import refresh_job
from ...store.carry import carry
from ...store.conclusions import standing_conclusion
from ...store.entries import add_entry, strike_entry
from ...store.mended import tell_helped
from ..jobs.docket import Record, record_of
from ..shell.database import get_db
from ..shell.fields import checked, typed
from ..shell.once import answered_once
from ..shell.rooms import Stop, add_stop, stop_address
from ..shell.who import me
from .page import OnTrace, page_of

__all__ = ["init_app"]

bp = Blueprint("proof", __name__, url_prefix="/jobs/<id:job_id>/proof")

LONGEST_ANSWER = 120
LONGEST_REASON = 500


@bp.get("")
def show(job_id: int) -> str:
    """The proof as it stands."""
    return _drawn(record_of(get_db(), job_id), {}, "")


def _drawn(record: Record, given: Mapping[str, str], error: str) -> str:
    return render_template(
        "proof/show.html", page=page_of(record), record=record, told=told_of(record.entries), typed=given, error=error
    )  # fmt: skip


def _answered(job_id: int, given: dict[str, str], write: Callable[[Record], str | None]) -> Response | tuple[str, int]:
    record = record_of(get_db(), job_id)

    def written() -> str:
        if not any(entry.kind == "remedy" and entry.stands for entry in record.entries):
            raise PondrelError("Nothing was repaired yet, so there is nothing to prove: write the repair down first.")
        address = write(record)
        refresh_job(get_db(), job_id)
        return address or url_for("proof.show", job_id=job_id)

    return answered_once(written, lambda error: _drawn(record, given, error))


def _add(record: Record, kind: str, content: Mapping[str, str], trace_id: int | None = None) -> None:
    add_entry(get_db(), record.job.id, kind, dict(content), trace_id=trace_id, person=me())


@bp.post("/again")
def again(job_id: int) -> Response | tuple[str, int]:
    """Take down readings that were taken again."""
    given = {name: text.strip() for name, text in request.form.items() if name.startswith("r") and name[1:].isdecimal() and text.strip()}

    def taken(record: Record) -> None:
        pairs = {f"r{pair.entry.id}": (one, pair) for one in page_of(record).traces for pair in one.pairs}
        if "capture" in request.form:  # which has more numbers than are proved by
            for name in given.keys() - pairs.keys():
                del given[name]
        if not given:
            raise PondrelError("Nothing was typed: read a point again and type what the meter shows.")
        for name, text in given.items():
            if name not in pairs:
                raise PondrelError("One of these readings is none that is proved by: load the page again.")
            one, pair = pairs[name]
            value = checked("The reading", text, LONGEST_ANSWER)
            content = {**{key: pair.entry.text(key) for key in pair.entry.content}, "value": value}
            item_from(one.docket.sheet, pair.entry.kind, content)  # refuses what cannot be
            _add(record, RETAKEN.name, {"of": str(pair.entry.id), "value": value, "title": pair.title}, one.docket.trace.id)

    return _answered(job_id, given, taken)


@bp.post("/tried")
def tried(job_id: int) -> Response | tuple[str, int]:
    """Take down how often the function was tried."""
    given = typed("good", "bad", "text", "several")

    def took(record: Record) -> None:
        held = page_of(record).proving.held
        if held and given["good"]:
            raise PondrelError(f"Not before these are seen to: {', '.join(title.lower() for title in held)}. Nothing was written.")
        _add(record, TRIED.name, {field.name: given[field.name] for field in TRIED.fields})

    return _answered(job_id, given, took)


@bp.post("/check")
def check(job_id: int) -> Response | tuple[str, int]:
    """Take down what one of the checks came to."""
    given = typed("check", "result", "text")

    def seen(record: Record) -> None:
        if given["check"] not in {one.name for one, _ in page_of(record).proving.checks}:
            raise PondrelError("This is none of the checks that this repair needs: load the page again.")
        _add(record, CHECK.name, given)

    return _answered(job_id, given, seen)


@bp.post("")
def prove(job_id: int) -> Response | tuple[str, int]:
    """Write the proof down; with things missing only with a reason, and never against what was read."""
    given = typed("reason")

    def proved(record: Record) -> str:
        page = page_of(record)
        if page.failed:
            raise PondrelError(f"It is not cured: {'; '.join(page.failed)}. Go on looking, or strike out what was misread.")
        if page.missing and not given["reason"]:
            raise PondrelError(f"Still missing: {'; '.join(page.missing)}. Do it, or say why it is proved all the same.")
        reason = f"{given['reason']} (missing: {'; '.join(page.missing)})" if page.missing else ""
        says = page.says or "works as in the complaint"
        _add(
            record, PROOF.name, {"works": "yes", "text": says, "reason": checked("The reason", reason, LONGEST_REASON * 3)[:LONGEST_REASON]}
        )
        tell_helped(get_db(), record.vehicle.id, job_id, "yes", me())
        return stop_address("Report", record)

    return _answered(job_id, given, proved)


@bp.post("/reopen")
def reopen(job_id: int) -> Response | tuple[str, int]:
    """It is not cured: the conclusion is withdrawn, what was read again becomes evidence, and what was mended counts as good. A way round
    that does not work says nothing of the part: another way is chosen."""
    given = typed("reason")

    def reopened(record: Record) -> str:
        page = page_of(record)
        says = given["reason"] or "; ".join(page.failed)
        if not says:
            raise PondrelError("A reason is missing: say what shows that it is not cured.")
        says = checked("The reason", says, LONGEST_REASON)
        _add(record, PROOF.name, {"works": "no", "text": says, "reason": ""})
        if not page.proving.cures:
            _unchoose(record, says)
            flash("The way round does not work: choose another one. What was found still stands.")
            return url_for("remedy.show", job_id=job_id)
        _withdraw(record, says)
        for one in page.traces:
            _as_evidence(record, one)
        tell_helped(get_db(), record.vehicle.id, job_id, "no", me())
        carry(get_db(), job_id, me())
        flash("Reopened. What was read again counts now; what was mended is taken for good, though not for certain.")
        return stop_address("Trace", record_of(get_db(), job_id)) or url_for("jobs.show", job_id=job_id)

    return _answered(job_id, given, reopened)


def _unchoose(record: Record, reason: str) -> None:
    for entry in standing(record.entries, CHOICE.name):
        strike_entry(get_db(), record.job.id, entry.id, f"the way round does not work: {reason}"[:LONGEST_REASON], me())


def _withdraw(record: Record, reason: str) -> None:
    conn, job_id = get_db(), record.job.id
    for trace_id in (None, *(trace.id for trace in record.traces)):
        entry_id = standing_conclusion(conn, job_id, trace_id)
        if entry_id is not None and any(c.id == entry_id and c.parts for c in record.standing_conclusions):
            strike_entry(conn, job_id, entry_id, f"the repair did not cure it: {reason}"[:LONGEST_REASON], me())


def _as_evidence(record: Record, one: OnTrace) -> None:
    """What was read again, as readings of the circuit as it is now."""
    for pair in one.pairs:
        if pair.again is not None:
            entry = replace(
                pair.entry, content={**pair.entry.content, "value": pair.again.text("value"), "note": "taken again after the repair"}
            )
            _add(record, entry.kind, {name: entry.text(name) for name in entry.content}, one.docket.trace.id)


def _proof_of_job(record: Record) -> str:
    return url_for("proof.show", job_id=record.job.id)


def init_app(app: Flask) -> None:
    """Register the blueprint, and the stage that is worked at here."""
    app.register_blueprint(bp)
    add_stop(app, Stop("Proof", _proof_of_job))
