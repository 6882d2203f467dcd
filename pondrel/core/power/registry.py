"""The registry: every family of readings of starting and charging; a guided way may also read a part by itself."""

from __future__ import annotations

from collections.abc import Mapping

from ..bench.family import Family
from ..bench.registry import FAMILIES, families_in, named_in
from . import families

__all__ = ["JUDGES", "POWER", "power_family"]

POWER: Mapping[str, Family] = families_in(families)
JUDGES: Mapping[str, Family] = {**FAMILIES, **POWER}


def power_family(name: str) -> Family:
    """The family of that name. Raises ReadingError naming what is near."""
    return named_in(POWER, name)
