"""What holds for everybody at this data folder: the units in which conditions are shown."""

from __future__ import annotations

from flask import Blueprint, Flask, g, redirect
from werkzeug.wrappers import Response

from ...core.base.conditions import UNITS, Units
from ...core.base.errors import PondrelError
from ...store.workshop import keep_units, units_of
from .attempt import attempt
from .database import get_db
from .fields import typed, way_back
from .once import written_once

__all__ = ["init_app", "units"]

bp = Blueprint("workshop", __name__)


def units() -> Units:
    """The workshop's units, read once a request; the usual ones on a page that says that the database cannot be read."""
    if "units" not in g:
        settled, _ = attempt(lambda: units_of(get_db()))
        g.units = settled or Units()
    known: Units = g.units
    return known


@bp.post("/workshop")
def settle() -> Response:
    """Take the workshop's units down."""
    given = typed(*UNITS)
    for name, known in UNITS.items():
        if given[name] not in known:
            raise PondrelError(f"No unit of {name} is chosen: pick one of {', '.join(known)}.")

    def settled() -> str:
        keep_units(get_db(), Units(**given))
        return way_back()

    return redirect(written_once(settled))


def init_app(app: Flask) -> None:
    """Register the blueprint, and give the templates the units and the choice."""
    app.register_blueprint(bp)
    app.jinja_env.globals.update(workshop_units=units, all_units=UNITS)
