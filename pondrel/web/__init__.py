"""The screens: thin views over the core and the store, no rule of the trade."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from pathlib import Path

import jinja2
from flask import Flask, Response, current_app, render_template, request
from flask_wtf.csrf import CSRFError, CSRFProtect
from werkzeug.exceptions import HTTPException, SecurityError

from ..core.base.errors import PondrelError
from ..store.bay import refresh_all
from ..store.db import DATABASE, StoreError, atomic, opened, sentence_of
from ..store.folder import prepared, secret
from ..store.rosters import keep_standard_roster
from ..store.sheets import sum_up_sheets
from ..store.written import forget_old_keys
from . import bench, bus, history, making, modules, power, proof, refit, remedy, report, scope
from .jobs import bay, codes, complaint, look, photos, visit
from .jobs import views as job_views
from .library import views as library_views
from .shell import before_after, coming, database, fields, guard, live, once, range_bar, rooms, titles, who, words, workshop
from .shell.workups import TooLongError, Workups
from .trace import views as trace_views
from .vehicles import views as vehicle_views

__all__ = ["create_app"]

MOST_BYTES = 32 * 1024 * 1024  # of one request with its files
MOST_TEXT_BYTES = 4 * 1024 * 1024  # of what is typed: twenty sheets
# Nothing inline, nothing from elsewhere, no eval.
POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self'; font-src 'self'; connect-src 'self'; form-action 'self'; "
    "base-uri 'none'; frame-ancestors 'none'"
)


def create_app(data_folder: Path, hosts: Sequence[str] = guard.LOOPBACK) -> Flask:
    """The application over a data folder, which is made and migrated if need be; ``hosts`` are the names it answers to.

    Raises StoreError with one sentence where the folder or its database cannot be used.
    """
    path = prepared(data_folder) / DATABASE
    conn = opened(path)
    with atomic(conn):
        sum_up_sheets(conn)
        keep_standard_roster(conn)
        refresh_all(conn)
    forget_old_keys(conn)
    conn.close()
    app = Flask(__name__)
    app.config.update(
        DATABASE=path,
        SECRET_KEY=secret(data_folder),
        SESSION_COOKIE_SAMESITE="Lax",
        WTF_CSRF_TIME_LIMIT=None,  # a page may stand open beside a vehicle all day
        MAX_CONTENT_LENGTH=MOST_BYTES,
        MAX_FORM_MEMORY_SIZE=MOST_TEXT_BYTES,
        ALLOWED_HOSTS=frozenset(hosts),
    )
    app.jinja_env.undefined = jinja2.StrictUndefined
    app.jinja_env.trim_blocks = app.jinja_env.lstrip_blocks = True
    app.extensions["workups"] = Workups()
    guard.init_app(app)
    CSRFProtect(app)
    shell = (fields, database, words, once, range_bar, before_after, live, coming, rooms, titles, who, workshop)
    for feature in (
        *shell,
        bay,
        vehicle_views,
        job_views,
        complaint,
        codes,
        look,
        visit,
        photos,
        trace_views,
        library_views,
        making,
        bench,
        power,
        scope,
        bus,
        modules,
        remedy,
        refit,
        proof,
        report,
        history,
    ):
        feature.init_app(app)
    app.after_request(_headers)
    app.register_error_handler(PondrelError, _sentence)
    app.register_error_handler(sqlite3.Error, _no_store)
    app.register_error_handler(CSRFError, _stale)
    app.register_error_handler(SecurityError, _foreign_name)
    app.register_error_handler(HTTPException, _refused)
    app.register_error_handler(500, _broken)
    return app


def _headers(response: Response) -> Response:
    response.headers.setdefault("Content-Security-Policy", POLICY)
    response.headers["X-Content-Type-Options"] = "nosniff"
    response.headers["Referrer-Policy"] = "same-origin"
    if request.endpoint != "static":
        response.headers.setdefault("Cache-Control", "no-store")
    return response


def _page(title: str, text: str, code: int) -> tuple[str, int]:
    return render_template("error.html", title=title, text=text), code


def _sentence(error: PondrelError) -> tuple[str, int]:
    ours = isinstance(error, (StoreError, TooLongError))
    if ours:
        current_app.logger.warning("%s %s was not answered", request.method, request.path, exc_info=error)
    return _page("That does not work", str(error), 503 if ours else 400)


def _no_store(error: sqlite3.Error) -> tuple[str, int]:
    current_app.logger.warning("%s %s was not answered", request.method, request.path, exc_info=error)
    return _page("The record cannot be reached", sentence_of(error), 503)


def _stale(error: CSRFError) -> tuple[str, int]:
    return _page("This page is out of date", "Load the page again and repeat what you did: its safety token no longer fits.", 400)


def _foreign_name(error: SecurityError) -> Response:
    # No page of the application: under a foreign name none of its addresses can be told.
    text = "Pondrel does not answer under this name. Open it as http://localhost with its port, or start it with --allow-host NAME.\n"
    return Response(text, 400, mimetype="text/plain")


# By status: a heading and a sentence; others get the standard's own words.
_REFUSALS = {
    403: ("Not from here", ""),
    404: ("Not here", "There is nothing at this address: the Bay lists every job."),
    405: ("Not this way", "This address only takes what a form of Pondrel sends: go back to the page and use its buttons."),
    413: ("Too large", f"At most {MOST_BYTES // 1024 // 1024} MB are taken at once. Go back: the browser still has what you typed."),
}


def _refused(error: HTTPException) -> tuple[str, int] | HTTPException:
    code = error.code or 500
    if code < 400:
        return error  # a redirect
    title, text = _REFUSALS.get(code, (error.name, ""))
    return _page(title, text or error.description or error.name, code)


def _broken(error: Exception) -> tuple[str, int]:
    return _page("Pondrel failed", "Something went wrong inside Pondrel; what was confirmed before is kept. Load the page again.", 500)
