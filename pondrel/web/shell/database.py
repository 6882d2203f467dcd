"""One connection per request."""

from __future__ import annotations

import sqlite3

from flask import Flask, current_app, g

from ...store.db import connect

__all__ = ["get_db", "init_app"]


def get_db() -> sqlite3.Connection:
    """The request's connection, opened on first use."""
    if "db" not in g:
        g.db = connect(current_app.config["DATABASE"])
    conn: sqlite3.Connection = g.db
    return conn


def _close(error: BaseException | None) -> None:
    conn = g.pop("db", None)
    if conn is not None:
        conn.close()


def init_app(app: Flask) -> None:
    """Close the connection when the request is over."""
    app.teardown_appcontext(_close)
