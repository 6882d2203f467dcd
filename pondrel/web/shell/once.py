"""A form is written once: it carries a key made when it was drawn, and sent again it is answered as the first time."""

from __future__ import annotations

import secrets
from collections.abc import Callable
from typing import TypeVar

from flask import Flask, redirect, request, session
from werkzeug.wrappers import Response

from ...core.base.errors import PondrelError
from ...store.written import KEY, is_written, once
from .database import get_db

__all__ = ["FIELD", "answered_once", "answered_with", "init_app", "was_written", "written_once"]

FIELD = "key"
KEYS_TOLD = 8
_WRITTEN = "written"


def new_key() -> str:
    """A key for a form that is being drawn."""
    return secrets.token_urlsafe(18)


def was_written() -> bool:
    """Whether this form was sent before and written: then there is nothing to check any more."""
    return is_written(get_db(), request.form.get(FIELD, ""))


def written_once(write: Callable[[], str]) -> str:
    """What ``write`` answers, which runs in a transaction; or what it answered when this form was sent before."""
    key = request.form.get(FIELD, "")
    answer = once(get_db(), key, write)
    if KEY.fullmatch(key):
        session[_WRITTEN] = [*(k for k in session.get(_WRITTEN, []) if k != key), key][-KEYS_TOLD:]
    return answer


Ready = TypeVar("Ready")


def answered_once(write: Callable[[], str], refused: Callable[[str], str]) -> Response | tuple[str, int]:
    """The way to where ``write`` says, written once; or the page that ``refused`` draws with the sentence that says why not."""
    return answered_with(lambda: None, lambda _: write(), refused)


def answered_with(prepare: Callable[[], Ready], write: Callable[[Ready], str], refused: Callable[[str], str]) -> Response | tuple[str, int]:
    """As `answered_once`, with what ``prepare`` makes ready before the database is held: what takes its time does so there."""
    try:
        ready = prepare()
        return redirect(written_once(lambda: write(ready)))
    except PondrelError as error:
        return refused(str(error)), 400


def written_keys() -> str:
    """The keys of the forms that this browser had written last, with spaces between: what it keeps of them it can let go."""
    return " ".join(session.get(_WRITTEN, []))


def init_app(app: Flask) -> None:
    """Give the templates ``form_key`` and ``written_keys``."""
    app.jinja_env.globals.update(form_key=new_key, written_keys=written_keys)
