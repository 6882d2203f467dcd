"""The registry: every pattern, found by looking into the package `patterns`."""

from __future__ import annotations

import pkgutil
from collections.abc import Mapping
from importlib import import_module

from ..base.brief import near, quoted
from ..base.errors import ReadingError
from . import patterns
from .pattern import Pattern

__all__ = ["PATTERNS", "pattern_of"]


def _all() -> Mapping[str, Pattern]:
    modules = [import_module(f"{patterns.__name__}.{module.name}") for module in pkgutil.iter_modules(patterns.__path__)]
    own = sorted((module for module in modules if hasattr(module, "PATTERN")), key=lambda module: (module.PLACE, module.__name__))
    return {module.PATTERN.name: module.PATTERN for module in own}


PATTERNS: Mapping[str, Pattern] = _all()


def pattern_of(name: str) -> Pattern:
    """The pattern of that name. Raises ReadingError naming what is near."""
    if name not in PATTERNS:
        raise ReadingError(f"{quoted(name)} is no pattern{near(name, PATTERNS)}. There are {', '.join(PATTERNS)}.")
    return PATTERNS[name]
