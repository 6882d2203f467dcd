"""Start & charge: choosing what is wrong, the guided way, and captures."""

from __future__ import annotations

from flask import Flask

from . import captures, views

__all__ = ["init_app"]


def init_app(app: Flask) -> None:
    """Register the feature."""
    views.init_app(app)
    captures.init_app(app)
