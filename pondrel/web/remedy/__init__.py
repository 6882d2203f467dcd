"""Remedy: the ways to mend what was found, what is seen to before one is taken, and doing it."""

from __future__ import annotations

from flask import Flask

from . import views

__all__ = ["init_app"]


def init_app(app: Flask) -> None:
    """Register what belongs to this feature."""
    views.init_app(app)
