"""The screens: thin views over the core and the store, no rule of the trade."""

from __future__ import annotations

import os
import secrets
from pathlib import Path

import jinja2
from flask import Flask, Response, render_template, request
from flask_wtf.csrf import CSRFError, CSRFProtect

from ..core.errors import PondrelError
from ..store.db import DATABASE, connect, migrate
from . import bay, database, jobs, sheets, words
from .workups import Workups

__all__ = ["create_app"]

# Nothing inline, nothing from elsewhere, no eval.
POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self'; font-src 'self'; connect-src 'self'; form-action 'self'; "
    "base-uri 'none'; frame-ancestors 'none'"
)


def create_app(data_folder: Path) -> Flask:
    """The application over a data folder, which is made and migrated if need be."""
    data_folder.mkdir(parents=True, exist_ok=True)
    conn = connect(data_folder / DATABASE)
    migrate(conn)
    conn.close()
    app = Flask(__name__)
    app.config.update(
        DATABASE=data_folder / DATABASE,
        SECRET_KEY=_secret(data_folder / "secret"),
        SESSION_COOKIE_SAMESITE="Lax",
        WTF_CSRF_TIME_LIMIT=None,  # a page may stand open beside a vehicle all day
        MAX_CONTENT_LENGTH=2 * 1024 * 1024,
    )
    app.jinja_env.undefined = jinja2.StrictUndefined
    app.jinja_env.trim_blocks = app.jinja_env.lstrip_blocks = True
    app.extensions["workups"] = Workups()
    CSRFProtect(app)
    for feature in (database, words, bay, jobs, sheets):
        feature.init_app(app)
    app.after_request(_headers)
    app.register_error_handler(PondrelError, _sentence)
    app.register_error_handler(CSRFError, _stale)
    app.register_error_handler(404, _missing)
    app.register_error_handler(500, _broken)
    return app


def _secret(file: Path) -> bytes:
    """The key that signs sessions, made once per data folder."""
    try:
        return file.read_bytes()
    except FileNotFoundError:
        made = secrets.token_bytes(32)
        handle = os.open(file, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
        with os.fdopen(handle, "wb") as out:
            out.write(made)
        return made


def _headers(response: Response) -> Response:
    response.headers["Content-Security-Policy"] = POLICY
    response.headers["X-Content-Type-Options"] = "nosniff"
    response.headers["Referrer-Policy"] = "same-origin"
    if request.endpoint != "static":
        response.headers["Cache-Control"] = "no-store"
    return response


def _page(title: str, text: str, code: int) -> tuple[str, int]:
    return render_template("error.html", title=title, text=text), code


def _sentence(error: PondrelError) -> tuple[str, int]:
    return _page("That does not work", str(error), 400)


def _stale(error: CSRFError) -> tuple[str, int]:
    return _page("This page is out of date", "Load the page again and repeat what you did: its safety token no longer fits.", 400)


def _missing(error: Exception) -> tuple[str, int]:
    return _page("Not here", "There is nothing at this address: the Bay lists every job.", 404)


def _broken(error: Exception) -> tuple[str, int]:
    return _page("Pondrel failed", "Something went wrong inside Pondrel; what was confirmed before is kept. Load the page again.", 500)
