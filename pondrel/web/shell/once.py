"""A form is written once: it carries a key made when it was drawn, and sent again it is answered as the first time."""

from __future__ import annotations

import secrets
from collections.abc import Callable

from flask import Flask, request

from ...store.written import is_written, once
from .database import get_db

__all__ = ["FIELD", "init_app", "was_written", "written_once"]

FIELD = "key"


def new_key() -> str:
    """A key for a form that is being drawn."""
    return secrets.token_urlsafe(18)


def was_written() -> bool:
    """Whether this form was sent before and written: then there is nothing to check any more."""
    return is_written(get_db(), request.form.get(FIELD, ""))


def written_once(write: Callable[[], str]) -> str:
    """What ``write`` answers, which runs in a transaction; or what it answered when this form was sent before."""
    return once(get_db(), request.form.get(FIELD, ""), write)


def init_app(app: Flask) -> None:
    """Give the templates ``form_key``."""
    app.jinja_env.globals["form_key"] = new_key
