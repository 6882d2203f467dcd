"""Which way of current is worth looking at."""

from __future__ import annotations

from collections.abc import Sequence

from ...circuit.paths import Path
from ..isolation import Isolation

__all__ = ["path_worth_drawing"]

_STANDS_OUT = 0.3


def path_worth_drawing(paths: Sequence[Path], isolation: Isolation, probed: str) -> Path:
    """The leading suspect's path once it stands out, else the one that the proposed test probes at a place."""
    lead = next((s for s in isolation.suspects if s.part), isolation.suspects[0])
    stands_out = lead.probability > _STANDS_OUT
    return max(paths, key=lambda p: (stands_out and lead.part in p.parts, probed in p.nodes, -list(paths).index(p)))
