"""Where a sound circuit has its supply: the state in which a place is fed best."""

from __future__ import annotations

from ..predict.workup import Workup

__all__ = ["fed_best"]


def fed_best(workup: Workup, node: str) -> tuple[str, float]:
    """The state in which a node has most volts when all is sound, and those."""
    number = workup.network.node(node)
    volts = {state: float(workup.sound_volts(state)[number]) for state in workup.sheet.states}
    best = max(volts, key=lambda state: volts[state])
    return best, volts[best]
