"""The library: finding, reading, editing and comparing sheets, what-if on one, corrections, and the JSON Schema of the format."""

from __future__ import annotations

import difflib
import json
import re
from dataclasses import asdict, dataclass
from typing import Any

from flask import Blueprint, Flask, Response, abort, flash, jsonify, redirect, render_template, request, url_for
from werkzeug.wrappers import Response as AnyResponse

from ...core.base.brief import quoted
from ...core.base.errors import PondrelError
from ...core.base.quantity import show as shown
from ...core.circuit.effects import fault_effects, judged_limits, shows_moved
from ...core.circuit.fault import Fault, parse_fault
from ...core.circuit.read.flaws import Review, review
from ...core.circuit.read.schema import json_schema
from ...core.circuit.sheet import Sheet
from ...core.circuit.solve import solve
from ...core.library.bundle import packed, unpacked
from ...store.corrections import add_correction, corrections_of
from ...store.db import atomic
from ...store.sheets import StoredSheet, add_sheet, families_of_sheets, get_sheet, replaced_by, sheet_cards, sheet_of_digest, versions_of
from ...store.vehicles import all_vehicles, get_vehicle
from ..shell.attempt import attempt
from ..shell.database import get_db
from ..shell.fields import checked, is_fragment, typed, whole
from ..shell.figures import EMPTY_SKETCH, diagram
from ..shell.rooms import Room, add_room
from ..shell.workups import workups

__all__ = ["init_app"]

bp = Blueprint("sheets", __name__)

LONGEST_NAME, LONGEST_NOTE = 80, 300  # characters
MOST_EFFECTS = 150  # faults that a page lists
MOST_TOLD = 12  # refused files of a bundle
MANY_LINES = 2000  # from here on lines that stand everywhere are no help in comparing
BLANK = """format: pondrel-sheet/1
title:
supply: {nominal: 12.6, unit: V}
places:
  batt+: {at: battery plus post, minutes: 1}
parts:
  BAT: {kind: battery, pins: {p: batt+, n: batt-}}
states:
  "on": {}
"""


def _stored(sheet_id: int) -> StoredSheet:
    stored = get_sheet(get_db(), sheet_id)
    if stored is None:
        abort(404)
    return stored


@bp.get("/sheets")
def index() -> str:
    """The sheets that a search finds."""
    return _listed("")


def _listed(error: str) -> str:
    conn = get_db()
    words, family = request.args.get("q", "")[:200], request.args.get("family", "")[:200]
    vehicle = whole(request.args.get("vehicle", ""))
    families, total = families_of_sheets(conn)
    cards = sheet_cards(conn, words, family, vehicle)
    return render_template(
        "sheets/index.html", cards=cards, families=families, words=words, family=family, total=total,
        vehicles=all_vehicles(conn), vehicle=vehicle, error=error,
    )  # fmt: skip


@bp.get("/sheets/drawn/<digest>")
def drawn(digest: str) -> AnyResponse:
    """The sheet of a digest, as a record names it."""
    number = sheet_of_digest(get_db(), digest)
    if number is None:
        abort(404)
    return redirect(url_for("sheets.show", sheet_id=number))


@bp.get("/sheets/bundle")
def bundle() -> Response:
    """The current sheets that a search finds, in one ZIP file."""
    conn = get_db()
    cards = sheet_cards(conn, request.args.get("q", "")[:200], request.args.get("family", "")[:200], whole(request.args.get("vehicle", "")))
    stored = [sheet for card in cards if (sheet := get_sheet(conn, card.id)) is not None]
    content = packed((sheet.family, sheet.title, sheet.text) for sheet in stored)
    return Response(content, mimetype="application/zip", headers={"Content-Disposition": 'attachment; filename="sheets.zip"'})


@bp.post("/sheets/bundle")
def take_bundle() -> AnyResponse | tuple[str, int]:
    """Take up the sheets of a ZIP file; what of it is no good sheet is told, file by file."""
    upload = request.files.get("file")
    if upload is None or not upload.filename:
        return _listed("No file is chosen: pick a ZIP file of sheets."), 400
    try:
        found = unpacked(upload.read())
    except PondrelError as error:
        return _listed(str(error)), 400
    conn, refused, added = get_db(), list(found.refused), 0
    for name, text in found.sheets:
        try:
            with atomic(conn):
                before = conn.total_changes
                add_sheet(conn, text)
                added += conn.total_changes > before
        except PondrelError as error:
            refused.append((name, str(error)))
    known = len(found.sheets) - added - (len(refused) - len(found.refused))
    flash(f"{added} taken up{f', {known} were here already' if known else ''}.")
    for name, says in refused[:MOST_TOLD]:
        flash(f"{name}: {says}")
    if len(refused) > MOST_TOLD:
        flash(f"{len(refused) - MOST_TOLD} more files were not taken.")
    return redirect(url_for("sheets.index"))


@dataclass(frozen=True, slots=True)
class Reads:
    """One line of the table of readings: a place, volts when sound, volts with the chosen fault."""

    place: str
    sound: float
    then: float | None

    @property
    def moved(self) -> bool:
        """Whether the fault changes it by what a meter shows."""
        return self.then is not None and shows_moved(self.sound, self.then)


@bp.get("/sheets/<id:sheet_id>")
def show(sheet_id: int) -> str:
    """A sheet: diagram, expected readings in a state, what a chosen fault would change, faults, limits, text, corrections."""
    conn, stored = get_db(), _stored(sheet_id)
    what, says = attempt(lambda: _what_if(stored))
    if is_fragment() and what is not None:
        return render_template("sheets/_what.html", **what)
    versions = versions_of(conn, sheet_id)
    return render_template(
        "sheets/show.html",
        **(what or {}),
        stored=stored,
        says=says,
        known=list(what["sheet"].parts) if what else [],
        versions=versions,
        newer=replaced_by(conn, sheet_id),
        corrections=corrections_of(conn, [v.id for v in versions]),
        vehicles=all_vehicles(conn),
    )


def _what_if(stored: StoredSheet) -> dict[str, Any]:
    """What the sheet's page shows of the circuit in the chosen state, sound and with the chosen fault."""
    with workups().working(stored) as prepared:
        sheet = prepared.sheet
        state = request.args.get("state", "")
        if state not in sheet.states:
            state = list(sheet.states)[-1]
        fault, error = _chosen(sheet)
        sound = solve(sheet, state)
        then = solve(sheet, state, (fault,)) if fault else None
        point = then or sound
        frame = workups().frame(stored)
        effects = fault_effects(sheet, state)
        if len(effects) > MOST_EFFECTS:  # a page has to stay light: those that change most
            effects = tuple(sorted(effects, key=lambda e: -abs(e.then - e.sound)))
        return {
            "sheet": sheet,
            "state": state,
            "fault": fault,
            "typed": {"fault": request.args.get("fault", ""), "value": request.args.get("value", "")},
            "error": error,
            "sound": sound,
            "then": then,
            "reads": [Reads(place, sound.places[place], then.places[place] if then else None) for place in sheet.places],
            "currents": [
                (name, amps, then.currents[name] if then else None) for name, amps in sound.currents.items() if name in sheet.parts
            ],
            "judged": list(zip(judged_limits(sheet, sound), judged_limits(sheet, point), strict=True)),
            "effects": effects[:MOST_EFFECTS],
            "effects_left": max(len(effects) - MOST_EFFECTS, 0),
            "diagram": diagram(sheet, frame, point, point.nodes, {}, fault.part if fault else ""),
        }


def _chosen(sheet: Sheet) -> tuple[Fault | None, str]:
    """The fault of a what-if, and what is wrong with it."""
    name, value = request.args.get("fault", "").strip(), request.args.get("value", "").strip()
    if not name:
        return None, ""
    try:
        fault = parse_fault(sheet, name)
        if value and fault.ohms is not None:
            fault = parse_fault(sheet, f"{name}={value}")
    except PondrelError as error:
        return None, str(error)
    return fault, ""


@bp.get("/sheets/<id:sheet_id>/text")
def download(sheet_id: int) -> Response:
    """The sheet's text as a file."""
    stored = _stored(sheet_id)
    name = re.sub(r"[^a-z0-9]+", "-", stored.title.lower()).strip("-") or "sheet"
    return Response(stored.text, mimetype="application/yaml", headers={"Content-Disposition": f'attachment; filename="{name}.yaml"'})


@bp.get("/sheets/<id:sheet_id>/drawing.svg")
def drawing(sheet_id: int) -> Response:
    """The sheet's circuit as a small picture without words; kept by the browser, since a stored sheet never changes."""
    stored = _stored(sheet_id)
    picture, _ = attempt(lambda: workups().sketch(stored))
    answer = Response(picture or EMPTY_SKETCH, mimetype="image/svg+xml")
    answer.headers["Cache-Control"] = "private, max-age=86400, immutable"
    return answer


@bp.get("/sheets/new")
def new() -> str:
    """The editor for a sheet from nothing, or from a file."""
    return _editor(None, BLANK, "", "", Review())


@bp.get("/sheets/<id:sheet_id>/edit")
def edit(sheet_id: int) -> str:
    """The editor for a sheet's next version."""
    stored = _stored(sheet_id)
    newer = replaced_by(get_db(), sheet_id)
    error = "This is not the newest version: what you change here cannot replace it." if newer else ""
    return _editor(stored, stored.text, "", error, review(stored.text))


def _editor(stored: StoredSheet | None, text: str, note: str, error: str, reviewed: Review) -> str:
    return render_template("sheets/edit.html", stored=stored, text=text, note=note, error=error, reviewed=reviewed)


@bp.post("/sheets/check")
def check() -> Response:
    """The flaws of a text and what it may not mean, for the editor: line, path and sentence of each."""
    return jsonify(asdict(review(_sheet_text())))


@bp.post("/sheets/new")
@bp.post("/sheets/<id:sheet_id>/edit")
def save(sheet_id: int | None = None) -> AnyResponse | tuple[str, int]:
    """Store the text as a new sheet, or as the next version of one; what was typed comes back with its flaws if it is not good."""
    stored = _stored(sheet_id) if sheet_id is not None else None
    upload = request.files.get("file")
    note, text = typed("note")["note"], _sheet_text()
    if upload and upload.filename:
        try:
            text = upload.read().decode("utf-8").replace("\r\n", "\n")
        except UnicodeDecodeError:
            return _editor(stored, text, note, f"{quoted(upload.filename)} is not UTF-8 text.", Review()), 400
    reviewed = review(text)
    if reviewed.flaws:
        count = f"{len(reviewed.flaws)} flaws are" if len(reviewed.flaws) > 1 else "One flaw is"
        return _editor(stored, text, note, f"Not stored yet: {count} named beside the text.", reviewed), 400
    try:
        checked("The note on what changed", note, LONGEST_NOTE)
        with atomic(get_db()) as conn:
            stored_id = add_sheet(conn, text, stored.id if stored else None, note)
    except PondrelError as error:
        return _editor(stored, text, note, str(error), reviewed), 400
    flash("Stored." if stored is None else "Stored as the newest version; jobs keep the one they were traced on.")
    for remark in reviewed.remarks:
        flash(f"Line {remark.line}, {remark.path}: {remark.says}")
    return redirect(url_for("sheets.show", sheet_id=stored_id))


def _sheet_text() -> str:
    return request.form.get("text", "").replace("\r\n", "\n")


@bp.get("/sheets/<id:sheet_id>/diff")
def diff(sheet_id: int) -> str:
    """A version against the one before it, line by line."""
    stored = _stored(sheet_id)
    before = get_sheet(get_db(), stored.replaces_id) if stored.replaces_id else None
    return render_template("sheets/diff.html", stored=stored, before=before, lines=_differences(before.text if before else "", stored.text))


def _differences(before: str, after: str) -> list[tuple[str, int | None, int | None, str]]:
    """(kind, old line number, new line number, text) with a few unchanged lines around each change; kind is ``gap`` between stretches."""
    old, new = before.splitlines(), after.splitlines()
    lines: list[tuple[str, int | None, int | None, str]] = []
    for number, group in enumerate(difflib.SequenceMatcher(None, old, new, autojunk=len(new) > MANY_LINES).get_grouped_opcodes(3)):
        if number:
            lines.append(("gap", None, None, ""))
        for tag, i1, i2, j1, j2 in group:
            if tag == "equal":
                lines += [("same", i1 + k + 1, j1 + k + 1, old[i1 + k]) for k in range(i2 - i1)]
                continue
            lines += [("gone", k + 1, None, old[k]) for k in range(i1, i2)]
            lines += [("come", None, k + 1, new[k]) for k in range(j1, j2)]
    return lines


@bp.post("/sheets/<id:sheet_id>/corrections")
def correct(sheet_id: int) -> AnyResponse:
    """Keep what was found different from the sheet on a vehicle."""
    stored = _stored(sheet_id)
    given = typed("says", "person", "part", "vehicle")
    if not given["says"]:
        raise PondrelError("Nothing is written: say what is different on the vehicle from what the sheet draws.")
    says, person = checked("The correction", given["says"]), checked("The name", given["person"], LONGEST_NAME)
    conn, vehicle = get_db(), whole(given["vehicle"])
    parts, _ = attempt(lambda: workups().sheet(stored).parts)
    with atomic(conn):
        known = vehicle is not None and get_vehicle(conn, vehicle) is not None
        add_correction(conn, stored.id, vehicle if known else None, given["part"] if given["part"] in (parts or {}) else "", says, person)
    flash("Kept with the sheet.")
    return redirect(url_for("sheets.show", sheet_id=sheet_id) + "#corrections")


@bp.get("/schema/pondrel-sheet-1.json")
def schema() -> Response:
    """The format's JSON Schema."""
    return Response(json.dumps(json_schema(), indent=2), mimetype="application/schema+json")


def init_app(app: Flask) -> None:
    """Register the blueprint and the room."""
    app.register_blueprint(bp)
    pages = ("sheets", "vehicles", "typical", "drafts")
    add_room(app, Room("Library", "sheets.index", "l", 90, pages, "there / searches, a draws, e edits"))
    app.add_template_filter(lambda value, unit: shown(value, unit), "quantity")
