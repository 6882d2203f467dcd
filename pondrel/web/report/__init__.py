"""Report: the customer's page, the full record for the next workshop, and the seal on both."""

from __future__ import annotations

from flask import Flask

from . import views

__all__ = ["init_app"]


def init_app(app: Flask) -> None:
    """Register what belongs to this feature."""
    views.init_app(app)
