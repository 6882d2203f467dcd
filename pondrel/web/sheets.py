"""Sheets: the list, one sheet with its diagram and text, and the JSON Schema of the format."""

from __future__ import annotations

import json

from flask import Blueprint, Flask, Response, abort, render_template, request

from ..core.circuit.schema import json_schema
from ..core.circuit.solve import solve
from ..store.sheets import all_sheets, get_sheet
from .database import get_db
from .figures import diagram
from .workups import workups

__all__ = ["init_app"]

bp = Blueprint("sheets", __name__)


@bp.get("/sheets")
def index() -> str:
    """All sheets."""
    return render_template("sheets/index.html", sheets=all_sheets(get_db()))


@bp.get("/sheets/<int:sheet_id>")
def show(sheet_id: int) -> str:
    """A sheet: diagram and expected readings in a state, and its text."""
    stored = get_sheet(get_db(), sheet_id)
    if stored is None:
        abort(404)
    sheet = workups().workup(stored).sheet
    state = request.args.get("state", "")
    if state not in sheet.states:
        state = list(sheet.states)[-1]
    point = solve(sheet, state)
    return render_template(
        "sheets/show.html", stored=stored, sheet=sheet, state=state, point=point, diagram=diagram(sheet, state, point.nodes, {})
    )


@bp.get("/schema/pondrel-sheet-1.json")
def schema() -> Response:
    """The format's JSON Schema."""
    return Response(json.dumps(json_schema(), indent=2), mimetype="application/schema+json")


def init_app(app: Flask) -> None:
    """Register the blueprint."""
    app.register_blueprint(bp)
