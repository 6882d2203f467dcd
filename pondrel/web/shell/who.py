"""Who is at this browser: a name that goes with what is written down. No account, and no secret."""

from __future__ import annotations

from flask import Blueprint, Flask, redirect, session
from werkzeug.wrappers import Response

from .fields import checked, typed, way_back

__all__ = ["init_app", "me"]

LONGEST_NAME = 80

bp = Blueprint("who", __name__)


def me() -> str:
    """The name, empty where nobody has said it."""
    name = session.get("person", "")
    return name if isinstance(name, str) else ""


@bp.post("/who")
def say() -> Response:
    """Take the name down; an empty one forgets it."""
    session["person"] = checked("The name", " ".join(typed("person")["person"].split()), LONGEST_NAME)
    session.permanent = True
    return redirect(way_back())


def init_app(app: Flask) -> None:
    """Register the blueprint, and give the templates ``me``."""
    app.register_blueprint(bp)
    app.jinja_env.globals["me"] = me
