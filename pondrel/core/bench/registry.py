"""The registry: every family of checks, found by looking into the package `families`."""

from __future__ import annotations

import pkgutil
from collections.abc import Mapping
from importlib import import_module

from ..base.brief import near, quoted
from ..base.errors import ReadingError
from . import families
from .family import Family

__all__ = ["FAMILIES", "family_of", "family_of_kind"]


def _found() -> Mapping[str, Family]:
    modules = [import_module(f"{families.__name__}.{module.name}") for module in pkgutil.iter_modules(families.__path__)]
    return {
        module.FAMILY.name: module.FAMILY for module in sorted(modules, key=lambda m: (m.PLACE, m.__name__)) if hasattr(module, "FAMILY")
    }


FAMILIES: Mapping[str, Family] = _found()


def family_of(name: str) -> Family:
    """The family of that name. Raises ReadingError naming what is near."""
    if name not in FAMILIES:
        raise ReadingError(f"{quoted(name)} is no family of checks{near(name, FAMILIES)}.")
    return FAMILIES[name]


def family_of_kind(kind: str) -> Family | None:
    """The family by which parts of a kind are checked; None where they are not."""
    return next((family for family in FAMILIES.values() if kind in family.kinds), None)
