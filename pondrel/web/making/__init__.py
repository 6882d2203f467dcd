"""Making a circuit by touch: from a typical one, grown on its diagram, kept as a sheet."""

from __future__ import annotations

from flask import Flask

from . import drafts, typical, wires

__all__ = ["init_app"]


def init_app(app: Flask) -> None:
    """Register the feature."""
    typical.init_app(app)
    drafts.init_app(app)
    wires.init_app(app)
