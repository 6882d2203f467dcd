"""Who is at this browser: a name that goes with what is written down. No account, and no secret."""

from __future__ import annotations

from flask import Blueprint, Flask, redirect, request, session, url_for
from werkzeug.wrappers import Response

from .fields import checked, typed

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
    back = request.form.get("back", "")
    # Only to a page of this application: a path, and none that a browser takes for a host.
    own = back.startswith("/") and not back.startswith(("//", "/\\"))
    return redirect(back if own else url_for("bay.show"))


def init_app(app: Flask) -> None:
    """Register the blueprint, and give the templates ``me``."""
    app.register_blueprint(bp)
    app.jinja_env.globals["me"] = me
