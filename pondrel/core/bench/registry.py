"""The registry: every family of checks, found by looking into the package `families`."""

from __future__ import annotations

import pkgutil
from collections.abc import Mapping
from importlib import import_module
from types import ModuleType

from ..base.brief import near, quoted
from ..base.errors import ReadingError
from . import families
from .family import Family

__all__ = ["FAMILIES", "families_in", "family_of", "family_of_kind", "named_in"]


def families_in(package: ModuleType) -> Mapping[str, Family]:
    """The families of a package's modules, by name and in their order."""
    modules = [import_module(f"{package.__name__}.{module.name}") for module in pkgutil.iter_modules(package.__path__)]
    return {
        module.FAMILY.name: module.FAMILY for module in sorted(modules, key=lambda m: (m.PLACE, m.__name__)) if hasattr(module, "FAMILY")
    }


def named_in(known: Mapping[str, Family], name: str) -> Family:
    """The family of that name. Raises ReadingError naming what is near."""
    if name not in known:
        raise ReadingError(f"{quoted(name)} is no family of checks{near(name, known)}.")
    return known[name]


FAMILIES: Mapping[str, Family] = families_in(families)


def family_of(name: str) -> Family:
    """The family of that name on the bench. Raises ReadingError naming what is near."""
    return named_in(FAMILIES, name)


def family_of_kind(kind: str) -> Family | None:
    """The family by which parts of a kind are checked; None where they are not."""
    return next((family for family in FAMILIES.values() if kind in family.kinds), None)
