"""The bench: a component judged by itself, kept, and taken into a job."""

from __future__ import annotations

from flask import Flask

from ..shell.chart import drawn
from . import checks, limits, meters, views

__all__ = ["init_app"]


def init_app(app: Flask) -> None:
    """Register the feature."""
    app.jinja_env.globals["chart_of"] = drawn
    for feature in (limits, meters, checks, views):
        feature.init_app(app)
