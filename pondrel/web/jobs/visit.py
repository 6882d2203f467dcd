"""The plan of the visit: steps with their minutes, what comes off, what to bring, and what the authorised minutes are good for."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from flask import Blueprint, Flask, render_template, url_for
from werkzeug.wrappers import Response

from ...core.evidence.registry import WORD_SORTS
from ...core.evidence.safety import cautions_for
from ...core.isolate import Bring, Visit, bring, minutes_spent
from ...core.job.budget import AUTHORISED, Budget, authorised_minutes, budget_of
from ...core.job.complaint import told_of
from ...store.bay import refresh_job
from ...store.entries import add_entry
from ..shell.attempt import attempt
from ..shell.database import get_db
from ..shell.fields import typed
from ..shell.once import answered_once
from ..shell.titles import title_of
from ..shell.who import me
from ..shell.words import minutes_text
from ..shell.workups import workups
from .docket import Docket, Record, docket_in, record_of

__all__ = ["OnCircuit", "init_app", "on_circuit"]

bp = Blueprint("visit", __name__, url_prefix="/jobs/<id:job_id>")


@dataclass(frozen=True, slots=True)
class Step:
    """A step of the plan: what is done in which state, its minutes, what comes off for it, what to mind, how likely one gets to it."""

    title: str
    state: str
    minutes: str
    opens: tuple[str, ...]
    cautions: tuple[str, ...]
    share: float


@dataclass(frozen=True)
class OnCircuit:
    """The plan on one circuit; ``says`` why there is none."""

    docket: Docket
    visit: Visit | None
    steps: tuple[Step, ...]
    bring: Bring | None
    budget: Budget | None
    opens: tuple[tuple[str, str, float], ...]
    slower: Mapping[str, str]
    seized: tuple[str, ...]
    says: str


@bp.get("/visit")
def show(job_id: int) -> str:
    """The plan of the visit."""
    return _page(record_of(get_db(), job_id), {}, "")


def _page(record: Record, given: Mapping[str, str], error: str) -> str:
    dockets = [docket_in(get_db(), record, t) for t in record.traces if not record.concluded_on(t)]
    return render_template(
        "jobs/visit.html",
        record=record,
        circuits=[on_circuit(docket) for docket in dockets],
        told=told_of(record.entries),
        authorised=authorised_minutes(record.entries),
        typed=given,
        error=error,
    )


def on_circuit(docket: Docket) -> OnCircuit:
    """The plan on the circuit of a trace."""
    found, says = attempt(lambda: _planned(docket))
    return found or OnCircuit(docket, None, (), None, None, (), {}, (), says)


def _planned(docket: Docket) -> OnCircuit:
    sheet = docket.sheet
    with workups().working(docket.stored_sheet):
        isolation = workups().isolation(docket.stored_sheet, docket.items)
        visit = workups().visit(docket.stored_sheet, docket.items)
    minded = {sheet.caution}
    steps = []
    for s in visit.steps:
        opens = tuple(sheet.access[name].note or name.replace("_", " ") for name in s.opens)
        cautions = tuple(c.text for c in cautions_for(sheet, s.test) if c.text not in minded)  # each where it comes first
        minded.update(cautions)
        steps.append(Step(title_of(sheet, s.test), s.test.state, minutes_text(s.minutes), opens, cautions, s.share))
    spent = minutes_spent(sheet, docket.items)
    authorised = authorised_minutes(docket.record.entries)
    chance = visit.chance_within(authorised - spent) if authorised is not None else 0.0
    budget = budget_of(authorised, spent, [s.minutes for s in visit.steps], chance)
    slowing = [name for name, sort in WORD_SORTS.items() if sort.is_slow]
    slower = {e.text("subject"): e.text("outcome") for e in docket.standing if e.kind in slowing}
    accesses = tuple((a.name, a.note or a.name.replace("_", " "), a.minutes) for a in sheet.access.values())
    words = tuple(WORD_SORTS[slowing[0]].answers) if slowing else ()
    return OnCircuit(
        docket, visit, tuple(steps), bring(sheet, [s.test for s in visit.steps], isolation.targets), budget, accesses, slower, words, ""
    )  # fmt: skip


@bp.post("/visit/authorised")
def authorise(job_id: int) -> Response | tuple[str, int]:
    """Write down how many minutes the customer has authorised."""
    conn = get_db()
    record = record_of(conn, job_id)
    given = typed("minutes", "who")

    def written() -> str:
        add_entry(conn, job_id, AUTHORISED.name, given, person=me())
        refresh_job(conn, job_id)
        return url_for("visit.show", job_id=job_id)

    return answered_once(written, lambda error: _page(record, given, error))


def init_app(app: Flask) -> None:
    """Register the blueprint."""
    app.register_blueprint(bp)
