"""The registry: every family of readings of starting and charging."""

from __future__ import annotations

from collections.abc import Mapping

from ..bench.family import Family
from ..bench.registry import families_in, named_in
from . import families

__all__ = ["POWER", "power_family"]

POWER: Mapping[str, Family] = families_in(families)


def power_family(name: str) -> Family:
    """The family of that name. Raises ReadingError naming what is near."""
    return named_in(POWER, name)
