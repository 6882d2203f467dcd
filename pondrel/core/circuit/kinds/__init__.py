"""The registry: every kind of part a sheet may name, one module per family."""

from __future__ import annotations

import difflib
import re

from ..part import Kind
from . import (
    buses,
    components,
    conductors,
    control_units,
    loads,
    modules,
    protection,
    rectifiers,
    relays,
    sensors,
    slow_buses,
    sources,
    starters,
    stators,
    switching,
)

FAMILIES: dict[str, tuple[Kind, ...]] = {
    "Sources": sources.KINDS,
    "Conductors and joints": conductors.KINDS,
    "Protection": protection.KINDS,
    "Switches": switching.KINDS,
    "Relays": relays.KINDS,
    "Loads": loads.KINDS,
    "Starting and generating": (*starters.KINDS, *stators.KINDS, *rectifiers.KINDS),
    "Modules, their pins and buses": (*control_units.KINDS, *modules.KINDS, *buses.KINDS, *slow_buses.KINDS),
    "Sensors and gauges": sensors.KINDS,
    "Components": components.KINDS,
}
KINDS: dict[str, Kind] = {kind.name: kind for family in FAMILIES.values() for kind in family}

__all__ = ["FAMILIES", "KINDS", "kinds_meant"]

_NAMES = {name: kind.name for kind in KINDS.values() for name in (kind.name.replace("_", " "), *kind.also)}
MOST_MEANT = 3


def kinds_meant(word: str) -> tuple[str, ...]:
    """The kinds that somebody may have meant by a word that names none, the likeliest first; empty where nothing is near.

    What a word means goes before how it is spelled: a bulb is a lamp, and only what is unknown in any spelling is taken for a slip.

    >>> kinds_meant("bulb"), kinds_meant("fuze")
    (('lamp',), ('fuse',))
    """
    said = " ".join(re.sub(r"[^a-z0-9]+", " ", word[:60].lower()).split())
    if not said:
        return ()
    singular = said.removesuffix("s")
    known = [_NAMES[name] for name in (said, singular) if name in _NAMES]
    words = set(said.split()) | set(singular.split())
    # A longer name that holds one that is known: the last word says what a thing is, as in "brake lamp".
    holding = sorted((name for name in _NAMES if set(name.split()) <= words), key=lambda name: (said.split()[-1] not in name, -len(name)))
    own = [name for name in _NAMES if _NAMES[name].replace("_", " ") == name]
    spelled = next((near for names in (own, list(_NAMES)) if (near := difflib.get_close_matches(said, names, n=1, cutoff=0.7))), [])
    found = known or [_NAMES[name] for name in holding] or [_NAMES[name] for name in spelled]
    return tuple(dict.fromkeys(found))[:MOST_MEANT]
