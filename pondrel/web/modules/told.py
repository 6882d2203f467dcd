"""What modules told a job already, without a talk: who answered, its codes as they stand, and the way from a code to its circuit."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from flask import Blueprint, Flask, abort, redirect, url_for
from werkzeug.wrappers import Response as WerkzeugResponse

from ...core.base.brief import lowered
from ...core.base.errors import PondrelError
from ...core.job.codes import codes_of
from ...core.job.entry import Entry
from ...core.library.module_links import lines_for_codes
from ...core.module.readings_out import GONE
from ...core.module.roster import Module, ModuleCode, Roster
from ...instruments.modules.tester import Codes
from ...store.causes import own_causes
from ...store.sheets import StoredSheet, sheet_called
from ..jobs.ahead import take_up
from ..jobs.docket import Record
from ..shell.database import get_db
from ..shell.once import written_once
from ..shell.workups import workups
from .known import job_asked, module_of
from .page import CodeShown, codes_shown

__all__ = ["codes_told", "init_app", "traced"]

bp = Blueprint("module_told", __name__, url_prefix="/modules/vehicle/<id:vehicle_id>/code/<module>/<code>")


def codes_told(roster: Roster, record: Record | None) -> Mapping[str, Sequence[CodeShown]]:
    """By the name of a module its codes that stand in a job: those of the vehicle as it came that did not stay away after clearing."""
    found = codes_of(record.entries).counting if record is not None else ()
    told: dict[str, Sequence[CodeShown]] = {}
    for name, module in roster.modules.items():
        own = tuple(one.code for one in found if one.code.module == module.title and one.after_clearing != GONE)
        if own:
            told[name] = codes_shown(Codes(module, own, ()), own_causes(get_db()))
    return told


def _known_code(vehicle_id: int, module: str, name: str) -> tuple[Module, Record]:
    record = job_asked(vehicle_id)
    if record is None:
        raise PondrelError("This is looked at without a job: open a job for the vehicle, and come here from its modules.")
    return module_of(vehicle_id, module), record


@bp.post("/trace")
def trace(vehicle_id: int, module: str, code: str) -> WerkzeugResponse:
    """Take the circuit of a code up in the job, with the code as its first evidence."""
    own, record = _known_code(vehicle_id, module, code)
    known = own.code(code)
    if known is None or known.link is None:
        abort(404)
    stored = sheet_called(get_db(), known.link.sheet)
    if stored is None:
        raise PondrelError(f"The roster names the circuit '{known.link.sheet}', and the library has none of that title: take it in first.")

    def write() -> str:
        return traced(record, stored, own, known)

    return redirect(written_once(write))


def traced(record: Record, stored: StoredSheet, module: Module, code: ModuleCode, more: str = "", why: str = "") -> str:
    """Take the circuit of a code up, with what its module told of it as evidence, and one ``more`` line with the words ``why``; the address
    where it goes on."""
    lines = lines_for_codes(workups().sheet(stored), module, code, _codes_read(record.entries, module))
    number = take_up(get_db(), record.job.id, stored, lines, f"as {lowered(module.title)} says: {code.name}, {code.says}")
    if more:
        take_up(get_db(), record.job.id, stored, more, why)
    return url_for("trace.show", job_id=record.job.id, number=number)


def _codes_read(entries: Sequence[Entry], module: Module) -> frozenset[str]:
    """The names of the codes of a module that stand in a record, those that the work itself made as well."""
    found = codes_of(entries).codes
    return frozenset(one.code.name for one in found if one.code.module == module.title and one.after_clearing != GONE)


def init_app(app: Flask) -> None:
    """Register the blueprint."""
    app.register_blueprint(bp)
