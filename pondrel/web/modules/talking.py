"""Talking with a vehicle's modules: begun by an address, asked by touches, ended; an output moves only under a finger or a key."""

from __future__ import annotations

import secrets
import time
from collections.abc import Callable, Mapping
from typing import Any, cast

from flask import Blueprint, Flask, Response, abort, current_app, redirect, render_template, request, url_for
from werkzeug.wrappers import Response as WerkzeugResponse

from ...core.base.brief import lowered
from ...core.base.errors import PondrelError
from ...core.evidence.hazards import DEFERS
from ...core.job.links import standing_in
from ...core.job.safety import CAUTION, acknowledged
from ...core.library.module_links import line_for_movement
from ...core.module.moving import check_said_safe
from ...core.module.roster import Module, Output, Routine
from ...instruments.modules.reached import lines_at
from ...instruments.modules.tester import Tester
from ...store.causes import own_causes
from ...store.db import atomic
from ...store.entries import add_entry, entries_of
from ...store.house import house_choices, settle_house
from ...store.jobs import get_job
from ...store.rosters import roster_for, roster_row
from ...store.sheets import sheet_called
from ...store.talks import add_talk, exchanges_of, talk_row, talks_of
from ...store.vehicles import get_vehicle
from ..jobs.ahead import take_up
from ..jobs.docket import record_of
from ..jobs.files import data_folder
from ..shell.database import get_db
from ..shell.fields import checked, typed, whole
from ..shell.once import answered_with, written_once
from ..shell.who import me
from ..shell.workups import workups
from .live import Live, Lives
from .page import ANSWERS, NOT_ASKED, SILENT, called_in, folded, found_in, groups_of, lines_of, module_shown, says_of, standings_of
from .told import codes_told
from .underway import Hold

__all__ = ["init_app"]

bp = Blueprint("module_talk", __name__, url_prefix="/modules")

USUAL_ADDRESS = "socketcand://127.0.0.1:29536/can0"
LONGEST_ADDRESS, SHOWN_LINES, LOOKED_AT = 300, 12, 120
_SETTLED = "modules.address"


@bp.get("/vehicle/<id:vehicle_id>")
def vehicle(vehicle_id: int) -> str:
    """A vehicle's modules before they are asked: who there should be, and where to reach them."""
    return _before(vehicle_id, {}, "")


def _before(vehicle_id: int, given: Mapping[str, str], error: str) -> str:
    conn = get_db()
    own = get_vehicle(conn, vehicle_id) or abort(404)
    row = roster_for(conn, own) or abort(404)
    number = whole(given.get("job", "") or request.args.get("job", ""))
    job = get_job(conn, number) if number is not None else None
    if job is not None and job.vehicle_id != vehicle_id:
        job = None
    record = record_of(conn, job.id) if job is not None else None
    entries = record.entries if record is not None else ()
    answered = called_in(row.roster, record)
    roster = found_in(row.roster, answered)
    codes = codes_told(roster, record)
    states = {name: ANSWERS if one.answers else SILENT for name, one in answered.items()}
    under_way = [one for one in _lives().known.values() if one.vehicle_id == vehicle_id and not one.ended]
    return render_template(
        "modules/vehicle.html", vehicle=own, row=row, roster=roster, job=job, record=record, under_way=under_way, error=error,
        groups=groups_of(roster, states, {name: len(found) for name, found in codes.items()}, ""), codes=codes,
        says=says_of(roster, answered), called=bool(answered),
        address=given.get("address") or house_choices(conn).get(_SETTLED, USUAL_ADDRESS), talks=talks_of(conn, 8, vehicle_id),
        standings=[standing_in(roster, function, entries) for function in roster.functions.values()],
    )  # fmt: skip


@bp.post("/vehicle/<id:vehicle_id>")
def begin(vehicle_id: int) -> WerkzeugResponse | tuple[str, int]:
    """Begin to talk."""
    given = typed("address", "job")
    conn = get_db()
    own = get_vehicle(conn, vehicle_id) or abort(404)
    row = roster_for(conn, own) or abort(404)

    def ready() -> Any:
        address = checked("The address", given["address"], LONGEST_ADDRESS)
        if not address:
            raise PondrelError(f"Say where the modules are reached, such as {USUAL_ADDRESS} or kline:/dev/ttyUSB0.")
        return address, lines_at(address)

    def write(reached: Any) -> str:
        address, lines = reached
        number = whole(given["job"])
        job = get_job(conn, number) if number is not None else None
        job_id = job.id if job is not None and job.vehicle_id == vehicle_id else None
        settle_house(conn, _SETTLED, address, me())
        talk_id = add_talk(conn, vehicle_id, job_id, row.id, address, me())
        token, folder, person = secrets.token_urlsafe(9), data_folder(), me()
        _lives().begin(lambda: Live(token, folder, talk_id, row.roster, lines, vehicle_id, job_id, person))
        return url_for("module_talk.show", token=token)

    return answered_with(ready, write, lambda error: _before(vehicle_id, given, error))


def _lives() -> Lives:
    found: Lives = current_app.extensions["module_lives"]
    return found


def _live(token: str) -> Live:
    return _lives().known.get(token) or abort(404)


def _module(own: Live) -> Module | None:
    name = request.values.get("module", "")
    return own.roster.modules.get(name)


@bp.get("/live/<token>")
def show(token: str) -> str:
    """The talk as it stands."""
    own = _live(token)
    template = "modules/_live.html" if request.headers.get("X-Fragment") == "1" else "modules/live.html"
    return render_template(template, **_shown(own))


def _shown(own: Live) -> dict[str, Any]:
    conn, version = get_db(), own.version  # before anything else is read, so that what comes meanwhile is seen at the next look
    row = talk_row(conn, own.talk_id) or abort(404)
    roster = found_in(own.roster, own.answered)
    module = _module(own) or next(iter(roster.modules.values()))
    states = {name: ANSWERS if one.answers else SILENT for name, one in own.answered.items()}
    codes = {name: len(read.codes) for name, read in own.codes.items() if not read.says}
    record = record_of(conn, own.job_id) if own.job_id is not None else None
    read = acknowledged(record.entries) if record is not None else frozenset[str]()

    def made_safe(thing: Output | Routine) -> frozenset[str]:
        return own.made_safe(read, thing)

    skip = max(row.lines - LOOKED_AT, 0)
    lines = folded(lines_of(own.roster, exchanges_of(conn, own.talk_id, LOOKED_AT, skip)))
    return {
        "live": own, "version": version, "talk": row, "record": record, "vehicle": get_vehicle(conn, own.vehicle_id),
        "defers": DEFERS,
        "groups": groups_of(roster, states, codes, module.name), "says": says_of(roster, own.answered), "not_asked": NOT_ASKED,
        "chosen": module_shown(
            module, states.get(module.name, NOT_ASKED), own.codes.get(module.name), own.values.get(module.name, ()), own.results,
            own_causes(conn), made_safe, own.roster.by_calling,
        ),
        "lines": tuple(reversed(lines))[:SHOWN_LINES],
        "standings": standings_of(own.roster, own.answered, own.values), "held": own.hold, "roster_row": roster_row(conn, row.roster_id),
    }  # fmt: skip


@bp.get("/live/<token>/state")
def state(token: str) -> Response:
    """The same as a few numbers: whether anything changed, and what is held."""
    own = _live(token)
    own.looked_at = time.monotonic()
    hold = own.hold
    held: Any = None
    if hold is not None:
        held = {
            "output": hold.output.name, "ended": hold.ended, "commanded": hold.commanded, "says": hold.says_now,
            "values": [[round(at, 2), value] for at, value in hold.values[-120:]],
            "came": hold.movement.says if hold.movement else "", "why": hold.why,
        }  # fmt: skip
    waking: Any = None
    if own.waking is not None:
        waking = {"module": own.waking.module.name, "says": own.waking.says, "silent": own.waking.silent_at, "awake": own.waking.awake_at}
    answer: Any = {"version": own.version, "busy": own.busy, "error": own.error, "ended": own.ended, "held": held, "waking": waking}
    return cast(Response, answer)


def _asked(token: str, does: Callable[[Live], None]) -> WerkzeugResponse:
    own = _live(token)
    try:
        does(own)
    except PondrelError as error:
        own.error = str(error)
        own.version += 1
    module = _module(own)
    return redirect(url_for("module_talk.show", token=token, module=module.name if module else None))


@bp.post("/live/<token>/call")
def call(token: str) -> WerkzeugResponse:
    """Call all modules."""
    return _asked(token, lambda own: own.ask("Calling all modules", lambda tester: own.call(tester)))


@bp.post("/live/<token>/codes")
def codes(token: str) -> WerkzeugResponse:
    """Read the codes of one module, or of all."""

    def does(own: Live) -> None:
        one = _module(own) if request.form.get("all") != "yes" else None
        modules = [one] if one is not None else list(found_in(own.roster, own.answered).modules.values())
        words = f"Reading the codes of {lowered(one.title)}" if one is not None else "Reading the codes of all modules"
        own.ask(words, lambda tester: own.read_codes(tester, modules))

    return _asked(token, does)


@bp.post("/live/<token>/clear")
def clear(token: str) -> WerkzeugResponse:
    """Clear the codes of a module, which are read once more before."""

    def does(own: Live) -> None:
        one = _module(own) or abort(404)
        known = request.form.get("known") == "yes"
        own.ask(f"Clearing the codes of {lowered(one.title)}", lambda tester: own.clear(tester, one, known))

    return _asked(token, does)


@bp.post("/live/<token>/data")
def data(token: str) -> WerkzeugResponse:
    """Read the data of a module."""

    def does(own: Live) -> None:
        one = _module(own) or abort(404)
        own.ask(f"Reading the data of {lowered(one.title)}", lambda tester: own.read_data(tester, one))

    return _asked(token, does)


@bp.post("/live/<token>/links")
def links(token: str) -> WerkzeugResponse:
    """Ask all that a function hangs on: who answers, and the data that its conditions need."""

    def does(own: Live) -> None:
        function = own.roster.functions.get(request.form.get("function", "")) or abort(404)
        names = dict.fromkeys(c.told_by for c in function.conditions.values() if c.told_by)
        modules = [own.roster.modules[name] for name in names]

        def asks(tester: Any) -> None:
            own.call(tester, modules)
            for module in modules:
                if own.answered[module.name].answers and module.data:
                    own.read_data(tester, module)

        own.ask(f"Asking what {lowered(function.title)} hangs on", asks)

    return _asked(token, does)


def _thing(own: Live, module: Module) -> Output | Routine:
    name = request.form.get("thing", "")
    return module.outputs.get(name) or module.routines.get(name) or abort(404)


@bp.post("/live/<token>/safe")
def safe(token: str) -> WerkzeugResponse:
    """Say that what locks an output or routine was made safe and read; in a job it is a line of its record."""

    def does(own: Live) -> None:
        thing = _thing(own, _module(own) or abort(404))
        text, by = request.form.get("text", ""), checked("Who isolated it", request.form.get("by", "").strip(), 120)
        check_said_safe(thing.hazards, thing.caution, text, by)
        if own.job_id is not None:
            with atomic(get_db()):
                add_entry(get_db(), own.job_id, CAUTION.name, {"text": text, "by": by}, person=me())
        own.read_cautions = own.read_cautions | {text}
        own.note(f"Made safe and read for {lowered(thing.title)}: {text}" + (f" Isolated by {by}." if by else ""))
        own.version += 1

    return _asked(token, does)


def _read_cautions(own: Live) -> frozenset[str]:
    return acknowledged(entries_of(get_db(), own.job_id)) if own.job_id is not None else frozenset()


@bp.post("/live/<token>/hold")
def hold(token: str) -> Response | tuple[Response, int]:
    """A finger was put on an output's command."""
    own = _live(token)
    module = _module(own) or abort(404)
    output = module.outputs.get(request.form.get("thing", "")) or abort(404)
    try:
        command = output.command(request.form.get("command", ""))
        if own.hold is not None and not own.hold.ended and not own.hold.let_go:  # one that is being given back goes first
            raise PondrelError("One output at a time: let go of the other one first.")
        made_safe = own.made_safe(_read_cautions(own), output)
        held = Hold(module, output, command)
        own.ask(f"{output.title}: {command.name}", lambda tester: own.hold_it(tester, held, made_safe))
        own.hold = held
    except PondrelError as error:
        answer: Any = {"error": str(error)}
        return cast(Response, answer), 400
    return cast(Response, cast(Any, {"error": ""}))


@bp.post("/live/<token>/keep")
def keep(token: str) -> Response:
    """The finger is still there."""
    own = _live(token)
    own.used_at = time.monotonic()
    if own.hold is not None:
        own.hold.kept_at = time.monotonic()
    return cast(Response, cast(Any, {"held": own.hold is not None and not own.hold.ended}))


@bp.post("/live/<token>/let-go")
def let_go(token: str) -> Response:
    """The finger is gone."""
    own = _live(token)
    if own.hold is not None:
        own.hold.let_go = True
    return cast(Response, cast(Any, {"held": False}))


@bp.post("/live/<token>/heard")
def heard(token: str) -> WerkzeugResponse:
    """Whether what was commanded last was heard."""
    return _asked(token, lambda own: own.hear(request.form.get("heard") == "yes"))


@bp.post("/live/<token>/run")
def run(token: str) -> WerkzeugResponse:
    """Run a routine of a module."""

    def does(own: Live) -> None:
        module = _module(own) or abort(404)
        routine = module.routines.get(request.form.get("thing", "")) or abort(404)
        made_safe = own.made_safe(_read_cautions(own), routine)

        def runs(tester: Tester) -> None:
            own.run(tester, module, routine, made_safe)

        own.ask(routine.title, runs)

    return _asked(token, does)


@bp.post("/live/<token>/trace")
def trace(token: str) -> WerkzeugResponse:
    """Take the circuit of the output that was commanded last up in the job, with what it did as evidence."""
    own, conn = _live(token), get_db()
    hold, job_id = own.hold, own.job_id
    if job_id is None or hold is None or hold.movement is None or hold.output.link is None:
        abort(404)
    movement, link = hold.movement, hold.output.link
    stored = sheet_called(conn, link.sheet)
    if stored is None:
        raise PondrelError(f"The roster names the circuit '{link.sheet}', and the library has none of that title: take it in first.")

    def write() -> str:
        line = line_for_movement(workups().sheet(stored), hold.module, hold.output, hold.command, movement.word, hold.was_heard)
        number = take_up(conn, job_id, stored, line, f"{hold.output.title}, {hold.command.name}: {hold.heard or movement.says}")
        return url_for("trace.show", job_id=job_id, number=number)

    return redirect(written_once(write))


@bp.post("/live/<token>/end")
def end(token: str) -> WerkzeugResponse:
    """End the talk."""
    own = _live(token)
    own.end()
    return redirect(url_for("modules.talk", talk_id=own.talk_id))


def init_app(app: Flask) -> None:
    """Register the blueprint."""
    app.extensions["module_lives"] = Lives()
    app.register_blueprint(bp)
