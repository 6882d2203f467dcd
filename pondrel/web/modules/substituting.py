"""A load in place of a part: which one its driver can carry, whether the code stays away with it, and what that proves."""

from __future__ import annotations

import time
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from flask import Blueprint, Flask, abort, render_template, url_for
from werkzeug.wrappers import Response as WerkzeugResponse

from ...core.base.errors import PondrelError
from ...core.job.substituted import SUBSTITUTED, substitution_of
from ...core.library.substitute import Fitting, best_of, fittings_of, part_driven
from ...core.module.roster import Module, ModuleCode
from ...instruments.modules.tester import Tester
from ...store.bay import refresh_job
from ...store.entries import add_entry
from ...store.sheets import StoredSheet, sheet_called
from ...store.vehicles import get_vehicle
from ..jobs.docket import Record
from ..shell.attempt import attempt
from ..shell.database import get_db
from ..shell.fields import checked, is_fragment, typed
from ..shell.once import answered_once
from ..shell.who import me
from ..shell.workups import workups
from .known import job_asked, module_of, talk_as_of, talk_with
from .live import Live
from .told import traced

__all__ = ["init_app"]

bp = Blueprint("module_load", __name__, url_prefix="/modules/vehicle/<id:vehicle_id>/load/<module>/<code>")

LONGEST_LOAD, SETTLES_S = 60, 0.5


@dataclass(frozen=True, slots=True)
class Circuit:
    """What the code is of: its sheet, the driver and what it works, each as it is called, that by its ``name`` as well, and the loads."""

    stored: StoredSheet
    driver: str
    part: str
    name: str
    fittings: Sequence[Fitting]


def _code(vehicle_id: int, module: str, name: str) -> tuple[Module, ModuleCode]:
    own = module_of(vehicle_id, module)
    return own, own.code(name) or abort(404)


def _circuit(code: ModuleCode) -> tuple[Circuit | None, str]:
    """The circuit of a code, or why there is none."""
    stored = sheet_called(get_db(), code.link.sheet) if code.link is not None and code.link.part else None
    if stored is None or code.link is None:
        return None, "This code is not said to be of an output that stands on a circuit of the library: no load can be worked out for it."
    driver = code.link.part

    def found() -> Circuit:
        sheet = workups().sheet(stored)
        key = ("substitute", driver)
        if key not in sheet.remembered:
            part = part_driven(sheet, driver)
            sheet.remembered[key] = (part, fittings_of(sheet, driver, part) if part else ())
        part, fittings = sheet.remembered[key]
        if not part:
            raise PondrelError(f"{sheet.parts[driver].called} works nothing on its circuit that a load could stand in for.")
        return Circuit(stored, sheet.parts[driver].called, sheet.parts[part].called, part, fittings)

    return attempt(found)


@bp.get("")
def show(vehicle_id: int, module: str, code: str) -> str:
    """The loads, and how it stands."""
    return _page(vehicle_id, module, code, {}, "")


def _page(vehicle_id: int, module: str, code: str, given: Mapping[str, str], error: str) -> str:
    talk, version = talk_as_of(vehicle_id)
    own, known = _code(vehicle_id, module, code)
    record = job_asked(vehicle_id)
    circuit, why = _circuit(known)
    alive = talk if talk is not None and not talk.ended and record is not None and talk.job_id == record.job.id else None
    entries = record.entries if record is not None else ()
    template = "modules/_load.html" if is_fragment() else "modules/load.html"
    return render_template(
        template, vehicle=get_vehicle(get_db(), vehicle_id), module=own, code=known, record=record, talk=alive, circuit=circuit, why=why,
        found=substitution_of(entries, own.title, known.name, circuit.part) if circuit else None, best=best_of(circuit.fittings) if circuit
        else None, typed=given, error=error, version=version,
    )  # fmt: skip


def _needed(vehicle_id: int, code: ModuleCode) -> tuple[Record, Circuit]:
    record = job_asked(vehicle_id)
    if record is None:
        raise PondrelError("This is looked at without a job: open a job for the vehicle, and come here from its modules.")
    circuit, why = _circuit(code)
    if circuit is None:
        raise PondrelError(why)
    return record, circuit


def _load_named(circuit: Circuit, name: str) -> str:
    """A load of the list that may be used. Raises PondrelError with why it may not."""
    text = checked("The load", name, LONGEST_LOAD)
    one = next((own for own in circuit.fittings if own.load.name == text), None)
    if one is None or not one.fits:
        why = one.says if one is not None else "it is not in the list"
        raise PondrelError(f"{text or 'Nothing'} does not stand in for {circuit.part}: {why}.")
    return text


@bp.post("")
def said(vehicle_id: int, module: str, code: str) -> WerkzeugResponse | tuple[str, int]:
    """Say whether the code is there, with the load or with the part back."""
    given = typed("with", "load", "there")

    def write() -> str:
        own, known = _code(vehicle_id, module, code)
        record, circuit = _needed(vehicle_id, known)
        load = _load_named(circuit, given["load"]) if given["with"] == "load" else ""
        content = {"module": own.title, "code": known.name, "part": circuit.part, "load": load, "there": given["there"]}
        add_entry(get_db(), record.job.id, SUBSTITUTED.name, content, person=me())
        refresh_job(get_db(), record.job.id)
        return _back(vehicle_id, module, code, record)

    return answered_once(write, lambda error: _page(vehicle_id, module, code, given, error))


def _back(vehicle_id: int, module: str, code: str, record: Record) -> str:
    return url_for("module_load.show", vehicle_id=vehicle_id, module=module, code=code, job=record.job.id)


@bp.post("/read")
def read(vehicle_id: int, module: str, code: str) -> WerkzeugResponse | tuple[str, int]:
    """Clear the module's codes, let it test its circuits, read them, and write down whether the code is there."""
    given = typed("with", "load")

    def write() -> str:
        own, known = _code(vehicle_id, module, code)
        record, circuit = _needed(vehicle_id, known)
        load = _load_named(circuit, given["load"]) if given["with"] == "load" else ""
        talk = talk_with(vehicle_id)
        if talk is None or talk.ended or talk.job_id != record.job.id:
            raise PondrelError("No talk is under way for this job: plug in and begin one first.")
        words = f"Clearing and reading {known.name} with {load or circuit.part}"
        talk.ask(words, lambda tester: _read(talk, tester, own, known, circuit.part, load))
        return _back(vehicle_id, module, code, record)

    return answered_once(write, lambda error: _page(vehicle_id, module, code, given, error))


def _read(talk: Live, tester: Tester, module: Module, code: ModuleCode, part: str, load: str) -> None:
    talk.clear(tester, module, True)
    time.sleep(SETTLES_S)
    talk.read_codes(tester, [module])
    read_out = talk.codes[module.name]
    if read_out.says:
        raise PondrelError(read_out.says)
    there = "yes" if code.name in {one.name for one in read_out.codes} else "no"
    content = {"module": module.title, "code": code.name, "part": part, "load": load, "there": there}
    talk.enter(SUBSTITUTED.name, lambda entries: content)


@bp.post("/trace")
def trace(vehicle_id: int, module: str, code: str) -> WerkzeugResponse | tuple[str, int]:
    """Take what it proves to the circuit of the code, as evidence there."""

    def write() -> str:
        own, known = _code(vehicle_id, module, code)
        record, circuit = _needed(vehicle_id, known)
        found = substitution_of(record.entries, own.title, known.name, circuit.part)
        if not found.line_for(circuit.name):
            raise PondrelError("It proves nothing yet: try it with the load, and with the part back on.")
        return traced(record, circuit.stored, own, known, found.line_for(circuit.name), f"a load in its place: {found.says}")

    return answered_once(write, lambda error: _page(vehicle_id, module, code, {}, error))


def init_app(app: Flask) -> None:
    """Register the blueprint."""
    app.register_blueprint(bp)
