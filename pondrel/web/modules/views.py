"""The room of modules: vehicles whose modules are known, rosters, and talks that were had."""

from __future__ import annotations

import shutil
import tempfile
from pathlib import Path

from flask import Blueprint, Flask, Response, abort, redirect, render_template, request, url_for
from werkzeug.datastructures import FileStorage
from werkzeug.wrappers import Response as WerkzeugResponse

from ...core.base.brief import lowered, quoted
from ...core.base.errors import PondrelError, SheetError
from ...core.circuit.read.plain import LONGEST_SHEET
from ...core.library.supplies import shared_supplies
from ...core.module.felt import codes_behind
from ...core.module.roster import Module
from ...instruments.modules.odx import numbers_from, roster_from_odx
from ...store.bay import refresh_all
from ...store.jobs import get_job
from ...store.rosters import add_roster, all_rosters, roster_fitting, roster_row
from ...store.sheets import sheet_called
from ...store.talks import exchanges_of, talk_row, talks_of
from ...store.vehicles import all_vehicles, get_vehicle
from ..shell.attempt import attempt
from ..shell.database import get_db
from ..shell.fields import whole
from ..shell.once import answered_once
from ..shell.rooms import Room, add_room
from ..shell.who import me
from ..shell.workups import workups
from .page import groups_of, lines_of

__all__ = ["init_app"]

bp = Blueprint("modules", __name__, url_prefix="/modules")

MOST_TALKS, LINES, LONGEST_MISSING = 20, 200, 120
LONGEST_FILE_NAME, ODX_ENDS = 80, (".pdx", ".odx", ".odx-d")


@bp.get("")
def index() -> str:
    """Vehicles whose modules are known, and rosters."""
    return _index("")


def _index(error: str) -> str:
    conn = get_db()
    every = all_vehicles(conn)
    vehicles = [(vehicle, row) for vehicle in every if (row := roster_fitting(conn, vehicle)) is not None]
    described = {vehicle.id for vehicle, _ in vehicles}
    return render_template(
        "modules/index.html", vehicles=vehicles, every=every,
        others=[one for one in every if one.id not in described], rosters=all_rosters(conn), talks=talks_of(conn, MOST_TALKS),
        error=error,
    )  # fmt: skip


@bp.get("/ask")
def ask() -> WerkzeugResponse:
    """To the modules of the vehicle that is chosen, whether a roster describes them or not."""
    number = whole(request.args.get("vehicle", ""))
    if number is None or get_vehicle(get_db(), number) is None:
        return redirect(url_for("modules.index"))
    return redirect(url_for("module_talk.vehicle", vehicle_id=number))


@bp.post("/roster")
def take() -> WerkzeugResponse | tuple[str, int]:
    """A roster that was chosen."""

    def write() -> str:
        sent = request.files.get("roster")
        if sent is None or not sent.filename:
            raise PondrelError("No file is chosen: a roster is a text (YAML) that begins with 'format: pondrel-modules/1'.")
        text = _from_odx(sent) if sent.filename.lower().endswith(ODX_ENDS) else _as_text(sent)
        try:
            roster_id = add_roster(get_db(), text, me())
        except SheetError as error:
            raise PondrelError(" ".join(error.lines(sent.filename[:80])[:4])) from None
        refresh_all(get_db())
        return url_for("modules.roster", roster_id=roster_id)

    return answered_once(write, _index)


def _as_text(sent: FileStorage) -> str:
    try:
        return sent.stream.read(LONGEST_SHEET * 4 + 1).decode("utf-8-sig")
    except UnicodeDecodeError:
        raise PondrelError(f"{quoted(sent.filename)} is no text (UTF-8): a roster is a text file.") from None


def _from_odx(sent: FileStorage) -> str:
    """The roster's text of an ODX or PDX file, which the library wants as a file."""
    name = Path((sent.filename or "").replace("\\", "/")).name[-LONGEST_FILE_NAME:]
    numbers = [text for text in request.form.get("numbers", "").replace(",", " ").split() if text]
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / name
        with path.open("wb") as file:
            shutil.copyfileobj(sent.stream, file)
        vehicle = get_vehicle(get_db(), whole(request.form.get("vehicle", "")) or 0)
        make, model = (vehicle.make, vehicle.model) if vehicle is not None else ("", "")
        return roster_from_odx(path, Path(name).stem, dict(numbers_from(text) for text in numbers), make, model).text


@bp.get("/roster/<id:roster_id>")
def roster(roster_id: int) -> str:
    """A roster: its modules, and what they can be asked."""
    row = roster_row(get_db(), roster_id) or abort(404)
    own, missing = row.roster, request.args.get("missing", "").strip()[:LONGEST_MISSING]
    shared = {module.name: _shared(module) for module in own.modules.values() if len(module.outputs) > 1}
    return render_template(
        "modules/roster.html", row=row, roster=own, groups=groups_of(own, {}, {}, ""), missing=missing,
        behind=codes_behind(own, missing) if missing else (), shared=shared,
    )  # fmt: skip


def _shared(module: Module) -> list[tuple[str, str]]:
    """What several outputs of a module hang on, in words: the parts, and the outputs; empty where no sheet of the library has them."""
    link = next((output.link for output in module.outputs.values() if output.link is not None), None)
    stored = sheet_called(get_db(), link.sheet) if link is not None else None
    if stored is None:
        return []
    sheet, _ = attempt(lambda: workups().sheet(stored))
    if sheet is None:
        return []
    known = sheet.remembered
    key = ("shared supplies", module.name, tuple(module.outputs))
    if key not in known:
        known[key] = shared_supplies(sheet, module)
    return [
        (", ".join(sheet.parts[part].called for part in one.parts), ", ".join(lowered(module.outputs[name].title) for name in one.outputs))
        for one in known[key]
    ]


@bp.get("/roster/<id:roster_id>/file")
def roster_file(roster_id: int) -> Response:
    """Its text as a file."""
    row = roster_row(get_db(), roster_id) or abort(404)
    return Response(row.text, mimetype="text/yaml", headers={"Content-Disposition": "attachment; filename=modules.yaml"})


@bp.get("/talk/<id:talk_id>")
def talk(talk_id: int) -> str:
    """A talk as it was had."""
    conn = get_db()
    row = talk_row(conn, talk_id) or abort(404)
    own = roster_row(conn, row.roster_id) or abort(404)
    page = max(whole(request.args.get("page", "")) or 1, 1)
    lines = lines_of(own.roster, exchanges_of(conn, row.id, LINES, (page - 1) * LINES))
    job = get_job(conn, row.job_id) if row.job_id is not None else None
    return render_template(
        "modules/talk.html", talk=row, roster=own, lines=lines, page=page, pages=max(-(-row.lines // LINES), 1), job=job,
    )  # fmt: skip


def init_app(app: Flask) -> None:
    """Register the blueprint and the room."""
    app.register_blueprint(bp)
    add_room(
        app,
        Room(
            "Modules", "modules.index", "g", 50, ("modules", "module_talk", "module_chain", "module_renewal", "module_reset", "module_load")
        ),
    )
