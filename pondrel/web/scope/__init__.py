"""The scope's room: captures taken in, looked at, measured, judged, marked and laid beside each other."""

from __future__ import annotations

from flask import Flask

from . import laid, live, taking, views

__all__ = ["init_app"]


def init_app(app: Flask) -> None:
    """Register the feature."""
    taking.init_app(app)
    views.init_app(app)
    live.init_app(app)
    laid.init_app(app)
