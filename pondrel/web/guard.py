"""Who may ask: pages of this application, under a name it goes by. Another site open in the same browser can neither read nor write."""

from __future__ import annotations

import ipaddress
from collections.abc import Iterable

from flask import Flask, request
from werkzeug.exceptions import Forbidden

__all__ = ["LOOPBACK", "init_app", "names_for"]

LOOPBACK = ("localhost", "127.0.0.1", "[::1]")
_ANYWHERE = ("0.0.0.0", "::")


def names_for(host: str, more: Iterable[str] = ()) -> tuple[str, ...]:
    """The host names that a server listening on ``host`` answers to: loopback's, its own where it has one, and ``more``."""
    own = () if host in _ANYWHERE else (f"[{host}]" if _is_ipv6(host) else host,)
    return tuple(dict.fromkeys([*LOOPBACK, *own, *more]))


def _is_ipv6(host: str) -> bool:
    try:
        return ipaddress.ip_address(host).version == 6
    except ValueError:
        return False


def _refuse_foreign() -> None:
    # Asking for the host checks it against TRUSTED_HOSTS, whatever the page is; a foreign one raises a 400.
    own = f"{request.scheme}://{request.host}"
    origin = request.headers.get("Origin")
    if request.method not in ("GET", "HEAD", "OPTIONS") and origin is not None and origin != own:
        raise Forbidden("This came from a page that is not Pondrel's: nothing was written. Open Pondrel itself and do it there.")


def init_app(app: Flask) -> None:
    """Check every request before anything else looks at it."""
    app.before_request(_refuse_foreign)
