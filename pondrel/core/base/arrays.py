"""The array types that the core passes about, and how much memory what holds them takes."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np
from numpy.typing import NDArray

__all__ = ["Floats", "bytes_of"]

Floats = NDArray[np.floating[Any]]

_LEAF = (str, bytes, int, float, bool, type(None), type)
_EACH_OBJECT = 100  # bytes, roughly, besides its arrays


def bytes_of(*roots: object) -> int:
    """Bytes of all arrays that can be reached from some objects, each counted once, and roughly of the objects themselves."""
    seen: set[int] = set()
    todo: list[Any] = list(roots)
    total = 0
    while todo:
        thing = todo.pop()
        if isinstance(thing, _LEAF) or id(thing) in seen:
            continue
        seen.add(id(thing))
        if isinstance(thing, np.ndarray):
            if isinstance(thing.base, np.ndarray):
                todo.append(thing.base)  # a view holds all of what it looks at
            else:
                total += thing.nbytes
            continue
        total += _EACH_OBJECT
        if isinstance(thing, Mapping):
            todo += thing.keys()
            todo += thing.values()
        elif isinstance(thing, (list, tuple, set, frozenset)):
            todo += thing
        elif type(thing).__module__.startswith("pondrel."):
            todo += vars(thing).values() if hasattr(thing, "__dict__") else ()
            todo += (getattr(thing, name, None) for name in getattr(type(thing), "__slots__", ()))
    return total
