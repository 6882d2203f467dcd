"""The registry: every kind of part a sheet may name, one module per family."""

from __future__ import annotations

from ..part import Kind
from . import components, conductors, loads, modules, protection, relays, sensors, sources, switching

FAMILIES: dict[str, tuple[Kind, ...]] = {
    "Sources": sources.KINDS,
    "Conductors and joints": conductors.KINDS,
    "Protection": protection.KINDS,
    "Switches": switching.KINDS,
    "Relays": relays.KINDS,
    "Loads": loads.KINDS,
    "Module pins and buses": modules.KINDS,
    "Sensors and gauges": sensors.KINDS,
    "Components": components.KINDS,
}
KINDS: dict[str, Kind] = {kind.name: kind for family in FAMILIES.values() for kind in family}

__all__ = ["FAMILIES", "KINDS"]
