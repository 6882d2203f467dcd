"""The room of buses: logs taken in, who talks and who does not, flags that are set, and the way from a flag to the pin."""

from __future__ import annotations

from flask import Flask

from . import desk, following, live, taking, views

__all__ = ["init_app"]


def init_app(app: Flask) -> None:
    """Register the feature."""
    desk.init_app(app)
    taking.init_app(app)
    views.init_app(app)
    following.init_app(app)
    live.init_app(app)
