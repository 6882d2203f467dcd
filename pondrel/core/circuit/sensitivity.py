"""What the tolerances of healthy parts do to a measured number: exact first derivatives, which make tolerances correlated.

A *tolerance* is one independent thing about one element that nobody knows exactly: its resistance, the current its law gives, or its EMF.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..arrays import Floats
from .network import Network
from .operate import Points, Settled
from .part import Element, Law

__all__ = ["Tolerances"]

_OHMS, _CURRENT, _VOLTS = range(3)
_FORWARD_VOLTS = 0.7  # what a junction's tolerance is a share of


@dataclass(frozen=True, eq=False)
class Tolerances:
    """K tolerances of a network: ``element`` (K,), ``what`` of it (K,), and one standard deviation ``sigma`` (K,), relative or in volts."""

    element: NDArray[np.intp]
    what: NDArray[np.intp]
    sigma: Floats

    @classmethod
    def of(cls, network: Network) -> Tolerances:
        """Those that a network's elements have: the same list whatever its dials."""
        made = [item for i, e in enumerate(network.elements) for item in _of_element(i, e)]
        element, what, sigma = zip(*made, strict=True) if made else ((), (), ())
        return cls(np.array(element, dtype=np.intp), np.array(what, dtype=np.intp), np.array(sigma))

    @property
    def of_volts(self) -> NDArray[np.bool_]:
        """(K,) which of them are in volts: an EMF's or a threshold's."""
        return self.what == _VOLTS

    def spread(
        self, points: Points, rows: NDArray[np.intp], red: NDArray[np.intp], black: NDArray[np.intp], swept: NDArray[np.intp], squared: bool
    ) -> Floats:
        """(m, T, K) change of the volts (``squared``: the ohms) from ``red`` to ``black`` per standard deviation of each tolerance.

        ``swept`` (M,): the element whose resistance is the row's severity and so no tolerance, −1 for none.
        """
        elements, back = np.unique(self.element, return_inverse=True)

        def push(settled: Settled, at: NDArray[np.intp], own: NDArray[np.intp], whole: NDArray[np.intp]) -> Floats:
            every = np.stack(settled.push(at, own, squared))  # (3, m, U)
            known = (self.element == swept[whole][:, None]) & (self.what != _VOLTS)
            return np.where(known, 0.0, every[self.what, :, back].T * self.sigma)

        return points.spread(rows, red, black, elements, push, squared, back)


def _of_element(i: int, e: Element) -> list[tuple[int, int, float]]:
    own, ohms = e.tolerance, e.ohms_tolerance
    found: list[tuple[int, int, float, float]]  # element, what, of which tolerance, sigma
    if e.law is Law.OHMIC:
        found = [(i, _OHMS, own, own)]
    elif e.law is Law.EMF:
        found = [(i, _OHMS, ohms, ohms), (i, _VOLTS, own, own * abs(e.volts))]
    elif e.law is Law.JUNCTION:
        found = [(i, _VOLTS, own, own * _FORWARD_VOLTS)]
    elif e.law is Law.LIMITED and e.volts != 0.0:
        found = [(i, _CURRENT, ohms, ohms), (i, _VOLTS, own, own * abs(e.volts))]
    else:
        found = [(i, _CURRENT, own, own)]
    return [(element, what, sigma) for element, what, of, sigma in found if of > 0.0]
