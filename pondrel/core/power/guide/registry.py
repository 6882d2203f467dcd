"""The registry: every guided way."""

from __future__ import annotations

import pkgutil
from collections.abc import Mapping
from importlib import import_module

from ...base.brief import near, quoted
from ...base.errors import ReadingError
from . import ways
from .model import Way

__all__ = ["WAYS", "way_called"]

_MODULES = sorted((import_module(f"{ways.__name__}.{found.name}") for found in pkgutil.iter_modules(ways.__path__)), key=lambda m: m.PLACE)
WAYS: Mapping[str, Way] = {module.WAY.name: module.WAY for module in _MODULES}


def way_called(name: str) -> Way:
    """The way of that name. Raises ReadingError naming what is near."""
    if name not in WAYS:
        raise ReadingError(f"{quoted(name)} is no guided way{near(name, WAYS)}.")
    return WAYS[name]
