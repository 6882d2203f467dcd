"""Who may ask: pages of this application, under a name it goes by. Another site open in the same browser can neither read nor write."""

from __future__ import annotations

import urllib.parse
from collections.abc import Iterable

from flask import Flask, current_app, request
from werkzeug.exceptions import Forbidden, SecurityError

__all__ = ["LOOPBACK", "init_app", "names_for"]

LOOPBACK = ("localhost", "127.0.0.1", "::1")
_ANYWHERE = ("0.0.0.0", "::")


def names_for(host: str, more: Iterable[str] = ()) -> tuple[str, ...]:
    """The host names that a server listening on ``host`` answers to: loopback's, its own where it has one, and ``more``."""
    own = () if host in _ANYWHERE else (host,)
    return tuple(dict.fromkeys(name.strip("[]").lower() for name in (*LOOPBACK, *own, *more)))


def _name_asked() -> str:
    """The host name that the browser asked by, without its port; empty for one that is none. (The framework's own check knows no IPv6.)"""
    try:
        return urllib.parse.urlsplit(f"//{request.host}").hostname or ""
    except ValueError:
        return ""


def _refuse_foreign() -> None:
    if _name_asked() not in current_app.config["ALLOWED_HOSTS"]:
        raise SecurityError("The host name is not one of this server's.")
    origin = request.headers.get("Origin")
    if (
        request.method not in ("GET", "HEAD", "OPTIONS")
        and origin is not None
        and origin.lower() != f"{request.scheme}://{request.host}".lower()
    ):
        raise Forbidden("This came from a page that is not Pondrel's: nothing was written. Open Pondrel itself and do it there.")


def _allow_larger() -> None:
    """Some forms send files larger than others may; said before anything looks into them."""
    most = current_app.config.get("LARGER_FORMS", {}).get(request.endpoint)
    if most is not None:
        request.max_content_length = most


def init_app(app: Flask) -> None:
    """Check every request before anything else looks at it. ``LARGER_FORMS`` of the configuration names by endpoint how many bytes it
    takes."""
    app.before_request(_refuse_foreign)
    app.before_request(_allow_larger)
