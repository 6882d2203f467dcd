"""The registry: every kind of part a sheet may name, one module per family."""

from __future__ import annotations

from ..part import Kind
from . import conductors, loads, sources, switching

KINDS: dict[str, Kind] = {kind.name: kind for family in (sources, conductors, switching, loads) for kind in family.KINDS}

__all__ = ["KINDS"]
