"""Renewing a module: its steps in order, each accepted by what the module tells, by what is typed, or by a tick."""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import dataclass

from flask import Blueprint, Flask, redirect, render_template, url_for
from werkzeug.wrappers import Response as WerkzeugResponse

from ...core.base.brief import lowered
from ...core.base.errors import PondrelError
from ...core.evidence.hazards import DEFERS, Hazard
from ...core.job.entry import Entry
from ...core.job.renewing import Renewing, StepStanding, check_step, renewing_of, taken
from ...core.job.safety import acknowledged
from ...core.module.moving import open_locks
from ...core.module.roster import Module
from ...core.renewal.plan import OLD_READ, PlanStep, Sort, cautions_of, hazards_of_step
from ...instruments.modules.tester import Tester
from ...store.bay import refresh_job
from ...store.entries import add_entry
from ...store.vehicles import get_vehicle
from ..shell.database import get_db
from ..shell.fields import checked, is_fragment, typed
from ..shell.once import answered_once
from ..shell.who import me
from .known import job_asked, module_of, talk_as_of, talk_with, write_made_safe
from .live import Live
from .teaching import clear_it, drive_it, read_codes_of, read_number, read_old, read_value, run_it
from .underway import Driving

__all__ = ["init_app"]

bp = Blueprint("module_renewal", __name__, url_prefix="/modules/vehicle/<id:vehicle_id>/renew/<module>")

LONGEST_SAID = 400


@dataclass(frozen=True, slots=True)
class StepShown:
    """A step as it stands, with what still locks it, and what the module itself can be asked for it (empty: nothing)."""

    standing: StepStanding
    locks: Sequence[Hazard]
    asks: str


_ASKS: Mapping[Sort, str] = {
    Sort.ROUTINE: "Run it",
    Sort.DATUM: "Read it",
    Sort.DRIVE: "Begin the drive",
    Sort.CODES: "Read its codes",
    Sort.CLEAR: "I know what is lost: clear them",
    Sort.PART: "Read it off the module",
}


@bp.get("")
def show(vehicle_id: int, module: str) -> str:
    """The steps."""
    return _page(vehicle_id, module, {}, "")


def _page(vehicle_id: int, name: str, given: Mapping[str, str], error: str) -> str:
    talk, version = talk_as_of(vehicle_id)
    module, record = module_of(vehicle_id, name), job_asked(vehicle_id)
    entries = record.entries if record is not None else ()
    renewing = renewing_of(module, entries)
    alive = talk if talk is not None and not talk.ended and record is not None and talk.job_id == record.job.id else None
    driving = alive.driving if alive is not None and alive.driving is not None and not alive.driving.over else None
    template = "modules/_renew.html" if is_fragment() else "modules/renew.html"
    return render_template(
        template, vehicle=get_vehicle(get_db(), vehicle_id), module=module, record=record, renewing=renewing, talk=alive,
        next=_shown(module, renewing.next, entries, alive), driving=driving, typed=given, error=error, defers=DEFERS,
        version=version, other_talk=talk is not None and not talk.ended and alive is None,
    )  # fmt: skip


def _shown(module: Module, one: StepStanding | None, entries: Sequence[Entry], talk: Live | None) -> StepShown | None:
    if one is None:
        return None
    step = one.step
    asks = "Read it out now" if step.name == OLD_READ else _ASKS.get(step.sort, "")
    if step.sort is Sort.PART and not (module.renewal and module.renewal.part.datum):
        asks = ""
    return StepShown(one, open_locks(hazards_of_step(module, step), cautions_of(module, step), _read(entries, talk)), asks)


def _read(entries: Sequence[Entry], talk: Live | None) -> Collection[str]:
    return acknowledged(entries) | (talk.read_cautions if talk is not None else frozenset())


def _renewing(vehicle_id: int, name: str) -> tuple[Module, Renewing, Sequence[Entry], int]:
    """Module and standing of a job. Raises PondrelError where it is looked at without one."""
    module, record = module_of(vehicle_id, name), job_asked(vehicle_id)
    if record is None:
        raise PondrelError("This is looked at without a job: open a job for the vehicle, and come here from its modules.")
    return module, renewing_of(module, record.entries), record.entries, record.job.id


def _back(vehicle_id: int, module: str, job_id: int | None) -> str:
    return url_for("module_renewal.show", vehicle_id=vehicle_id, module=module, job=job_id)


@bp.post("")
def tick(vehicle_id: int, module: str) -> WerkzeugResponse | tuple[str, int]:
    """Say how a step went."""
    given = typed("step", "result", "text")

    def write() -> str:
        _, renewing, entries, job_id = _renewing(vehicle_id, module)
        text = checked("What is written beside it", given["text"], LONGEST_SAID)
        kind, content = taken(renewing, entries, given["step"], given["result"], text, _read(entries, talk_with(vehicle_id)))
        add_entry(get_db(), job_id, kind, content, person=me())
        refresh_job(get_db(), job_id)
        return _back(vehicle_id, module, job_id)

    return answered_once(write, lambda error: _page(vehicle_id, module, given, error))


@bp.post("/safe")
def safe(vehicle_id: int, module: str) -> WerkzeugResponse | tuple[str, int]:
    """Say that what a step waits for was made safe or read."""
    given = typed("step", "text", "by")

    def write() -> str:
        own, renewing, _, job_id = _renewing(vehicle_id, module)
        step = renewing.step(given["step"]).step
        hazards, cautions = hazards_of_step(own, step), cautions_of(own, step)
        text = given["text"]
        write_made_safe(job_id, hazards, text if text in cautions else "", text, given["by"])
        return _back(vehicle_id, module, job_id)

    return answered_once(write, lambda error: _page(vehicle_id, module, given, error))


@bp.post("/ask")
def ask(vehicle_id: int, module: str) -> WerkzeugResponse | tuple[str, int]:
    """Let the module itself tell what its next step is accepted by."""
    given = typed("step")

    def write() -> str:
        own, renewing, _, job_id = _renewing(vehicle_id, module)
        talk = talk_with(vehicle_id)
        if talk is None or talk.ended or talk.job_id != job_id:
            raise PondrelError("No talk is under way for this job: plug in and begin one first.")
        step = check_step(renewing, given["step"]).step
        words, does = _asked(talk, own, step)
        talk.ask(words, does)
        return _back(vehicle_id, module, job_id)

    return answered_once(write, lambda error: _page(vehicle_id, module, given, error))


def _asked(talk: Live, module: Module, step: PlanStep) -> tuple[str, Callable[[Tester], None]]:
    if step.name == OLD_READ:
        return f"Reading {lowered(module.title)} out", lambda tester: read_old(talk, tester, module)
    if step.sort is Sort.DRIVE and step.own is not None and step.own.drive is not None:
        if talk.driving is not None and not talk.driving.over:
            raise PondrelError("A drive is under way already: end it first.")
        driving = talk.driving = Driving(module, step, step.own.drive)
        return step.title, lambda tester: drive_it(talk, tester, driving)
    known: Mapping[Sort, Callable[[Live, Tester, Module, str], None]] = {
        Sort.PART: read_number, Sort.DATUM: read_value, Sort.ROUTINE: run_it, Sort.CODES: read_codes_of, Sort.CLEAR: clear_it,
    }  # fmt: skip
    if step.sort not in known:
        raise PondrelError(f"{step.title}: the module cannot tell that. Say it yourself.")
    return step.title, lambda tester: known[step.sort](talk, tester, module, step.name)


@bp.post("/stop")
def stop(vehicle_id: int, module: str) -> WerkzeugResponse:
    """End a drive: what was driven by then is judged."""
    talk, record = talk_with(vehicle_id), job_asked(vehicle_id)
    if talk is not None and talk.driving is not None:
        talk.driving.stop = True
    return redirect(_back(vehicle_id, module, record.job.id if record else None))


def init_app(app: Flask) -> None:
    """Register the blueprint."""
    app.register_blueprint(bp)
