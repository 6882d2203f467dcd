"""Others of the same sort: how a number lies among them, and which ones lie apart."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..base.judgement import OWN_RULE, judged
from ..base.quantity import show

__all__ = ["Among", "among"]

APART = judged("APART", 3.5, "times", "of the usual distance from the middle by which one of several lies apart from the others", OWN_RULE)
FEW = 4  # of fewer nobody says which one lies apart
LEAST_SPREAD = 0.01  # of the middle: what is nearer than that is the same


@dataclass(frozen=True, slots=True)
class Among:
    """How many others there are, their middle, which of them lie apart (places), whether this one does, and that in a sentence."""

    count: int
    middle: float
    apart: tuple[int, ...]
    this_apart: bool
    says: str


def among(others: Sequence[float], this: float | None, unit: str) -> Among | None:
    """How ``this`` lies among ``others``, by the median and the median distance from it (Iglewicz and Hoaglin 1993: modified z-score beyond
    3.5); None where there are no others."""
    values = np.array([value for value in others if np.isfinite(value)])
    if not len(values):
        return None
    middle = float(np.median(values))
    spread = max(float(np.median(np.abs(values - middle))), LEAST_SPREAD * abs(middle)) or 1e-12

    def far(value: float) -> bool:
        return len(values) >= FEW and bool(0.6745 * abs(value - middle) / spread > APART)

    apart = tuple(place for place, value in enumerate(others) if np.isfinite(value) and far(value))
    this_apart = this is not None and bool(np.isfinite(this)) and far(this)
    many = f"{len(values)} others lie" if len(values) > 1 else "One other lies"
    says = f"{many} around {show(middle, unit)}."
    if this_apart and this is not None:
        says += f" This one lies apart from them, {'above' if this > middle else 'below'}."
    elif this is not None and len(values) >= FEW:
        says += " This one is like them."
    return Among(len(values), middle, apart, this_apart, says)
