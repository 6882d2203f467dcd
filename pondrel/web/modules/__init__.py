"""The room of modules: rosters, the drawn roll call, talks with modules, chains of conditions."""

from __future__ import annotations

from flask import Flask

from . import chain, renewing, resetting, substituting, talking, told, views

__all__ = ["init_app"]


def init_app(app: Flask) -> None:
    """Register the feature."""
    views.init_app(app)
    talking.init_app(app)
    chain.init_app(app)
    renewing.init_app(app)
    resetting.init_app(app)
    substituting.init_app(app)
    told.init_app(app)
