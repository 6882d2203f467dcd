"""Refit: the steps of fitting it, fastener cards, what came off, and the functions tried before and after."""

from __future__ import annotations

from flask import Flask

from . import views

__all__ = ["init_app"]


def init_app(app: Flask) -> None:
    """Register what belongs to this feature."""
    views.init_app(app)
