"""Taking a module's supply away: each try with its seconds, what the tries come to, and whether that is a way to live with it."""

from __future__ import annotations

import math
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass

from flask import Blueprint, Flask, redirect, render_template, url_for
from werkzeug.wrappers import Response as WerkzeugResponse

from ...core.base.brief import lowered
from ...core.base.errors import PondrelError
from ...core.job.entry import Entry
from ...core.job.resets import HUNG, RESET, Resets, resets_of
from ...core.job.safety import acknowledged
from ...core.module.moving import check_all_read, open_locks
from ...core.module.roster import Module
from ...core.remedy.registry import WAYS
from ...core.remedy.reset.allowed import STANDING, check_try, hazards_of_try, refused_as_habit
from ...core.remedy.reset.off_time import CANDIDATES
from ...store.bay import refresh_job
from ...store.db import now
from ...store.entries import add_entry
from ...store.vehicles import get_vehicle
from ..jobs.docket import Record
from ..shell.attempt import attempt
from ..shell.database import get_db
from ..shell.fields import typed
from ..shell.once import answered_once
from ..shell.who import me
from .known import job_asked, module_of, talk_with, write_made_safe
from .underway import Waking
from .waking import listen

__all__ = ["init_app"]

bp = Blueprint("module_reset", __name__, url_prefix="/modules/vehicle/<id:vehicle_id>/reset/<module>")

MOST_TRIES_SHOWN = 30
LEFT, RIGHT, TOP, BOTTOM = 34.0, 420.0, 14.0, 118.0
TICKS = (2, 5, 10, 20, 30, 60, 120, 300)


@dataclass(frozen=True, slots=True)
class Curve:
    """The chance that a try helps over the seconds without supply, as it is drawn: its path, ticks as x and seconds, tries as x and whether
    they helped, and the x of the least time that is enough (None while there is none)."""

    path: str
    ticks: Sequence[tuple[float, int]]
    tries: Sequence[tuple[float, bool]]
    enough: float | None


def _x(seconds: float) -> float:
    low, high = math.log(CANDIDATES[0]), math.log(CANDIDATES[-1])
    return LEFT + (RIGHT - LEFT) * min(max((math.log(max(seconds, 0.1)) - low) / (high - low), 0.0), 1.0)


def _curve(resets: Resets) -> Curve:
    off = resets.off
    points = [f"{_x(t):.1f} {BOTTOM - (BOTTOM - TOP) * chance:.1f}" for t, chance in zip(CANDIDATES, off.chances, strict=True)]
    return Curve(
        "M" + "L".join(points), [(_x(t), t) for t in TICKS], [(_x(one.off_s), one.works) for one in off.tries],
        _x(off.enough) if off.enough is not None else None,
    )  # fmt: skip


@bp.get("")
def show(vehicle_id: int, module: str) -> str:
    """The tries."""
    return _page(vehicle_id, module, {}, "")


def _page(vehicle_id: int, name: str, given: Mapping[str, str], error: str) -> str:
    module, record, talk = module_of(vehicle_id, name), job_asked(vehicle_id), talk_with(vehicle_id)
    entries = record.entries if record is not None else ()
    said = module.resets.off_s if module.resets else 0.0
    resets = resets_of(entries, module.title, now(), said)
    _, never = attempt(lambda: check_try(module))
    return render_template(
        "modules/reset.html", vehicle=get_vehicle(get_db(), vehicle_id), module=module, record=record, resets=resets, curve=_curve(resets),
        locks=open_locks(hazards_of_try(module), (STANDING,), acknowledged(entries)), never=never, refused=refused_as_habit(module),
        way=WAYS["power_cycle"], talk=talk if talk is not None and not talk.ended else None, typed=given, error=error,
        tries=resets.entries[::-1][:MOST_TRIES_SHOWN], found=record.state.found if record else "",
    )  # fmt: skip


def _job(vehicle_id: int) -> Record:
    record = job_asked(vehicle_id)
    if record is None:
        raise PondrelError("This is looked at without a job: open a job for the vehicle, and tries are written there.")
    return record


def _back(vehicle_id: int, module: str, record: Record | None) -> str:
    return url_for("module_reset.show", vehicle_id=vehicle_id, module=module, job=record.job.id if record else None)


def _ready(module: Module, entries: Collection[Entry]) -> None:
    check_try(module)
    check_all_read("The try", hazards_of_try(module), (STANDING,), acknowledged(entries))


@bp.post("")
def tried(vehicle_id: int, module: str) -> WerkzeugResponse | tuple[str, int]:
    """Write down a try."""
    given = typed("off", "woke", "works", "text")

    def write() -> str:
        own, record = module_of(vehicle_id, module), _job(vehicle_id)
        _ready(own, record.entries)
        add_entry(get_db(), record.job.id, RESET.name, {**given, "module": own.title}, person=me())
        refresh_job(get_db(), record.job.id)
        return _back(vehicle_id, module, record)

    return answered_once(write, lambda error: _page(vehicle_id, module, given, error))


@bp.post("/hung")
def hung(vehicle_id: int, module: str) -> WerkzeugResponse | tuple[str, int]:
    """Write down that it hung again."""
    given = typed("text")

    def write() -> str:
        own, record = module_of(vehicle_id, module), _job(vehicle_id)
        add_entry(get_db(), record.job.id, HUNG.name, {"module": own.title, "text": given["text"]}, person=me())
        refresh_job(get_db(), record.job.id)
        return _back(vehicle_id, module, record)

    return answered_once(write, lambda error: _page(vehicle_id, module, given, error))


@bp.post("/safe")
def safe(vehicle_id: int, module: str) -> WerkzeugResponse | tuple[str, int]:
    """Say that what a try waits for was made safe."""
    given = typed("text")

    def write() -> str:
        own, record = module_of(vehicle_id, module), _job(vehicle_id)
        write_made_safe(record.job.id, hazards_of_try(own), STANDING, given["text"])
        return _back(vehicle_id, module, record)

    return answered_once(write, lambda error: _page(vehicle_id, module, given, error))


@bp.post("/listen")
def hear(vehicle_id: int, module: str) -> WerkzeugResponse:
    """Listen to the module until it was silent and answers again."""
    own, talk, record = module_of(vehicle_id, module), talk_with(vehicle_id), job_asked(vehicle_id)
    if talk is not None and not talk.ended:
        if talk.waking is not None:
            talk.waking.over = True
        waking = talk.waking = Waking(own)
        talk.ask(f"Listening to {lowered(own.title)}", lambda tester: listen(talk, tester, waking))
    return redirect(_back(vehicle_id, module, record))


def init_app(app: Flask) -> None:
    """Register the blueprint."""
    app.register_blueprint(bp)
