"""What the tolerances of healthy parts do to a measured number: exact first derivatives, which make tolerances correlated.

A *tolerance* is one independent thing about one element that nobody knows exactly: its resistance, the current its law gives, or its EMF.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..base.arrays import Floats
from .network import Network
from .operate import Points, Settled
from .part import Element, Law
from .tableau import Ports

__all__ = ["Sensitivities", "Tolerances"]

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
        items = [item for i, e in enumerate(network.elements) for item in _of_element(i, e)]
        element, what, sigma = zip(*items, strict=True) if items else ((), (), ())
        return cls(np.array(element, dtype=np.intp), np.array(what, dtype=np.intp), np.array(sigma))

    @property
    def of_volts(self) -> NDArray[np.bool_]:
        """(K,) which of them are in volts: an EMF's or a threshold's."""
        volts: NDArray[np.bool_] = self.what == _VOLTS
        return volts

    def pushes(self, settled: Settled, swept: NDArray[np.intp], squared: bool) -> Floats:
        """(m, K) how far a standard deviation of each tolerance raises its element's line, in every case of ``settled``. ``swept`` (m,):
        the element whose resistance is the severity and so no tolerance, −1 for none. ``squared``: for the ohms between nodes."""
        elements, back = np.unique(self.element, return_inverse=True)
        every = np.stack(settled.push(np.arange(len(swept)), elements, squared))  # (3, m, U)
        known = (self.element == swept[:, None]) & (self.what != _VOLTS)
        return np.where(known, 0.0, every[self.what, :, back].T * self.sigma)


@dataclass(frozen=True, eq=False)
class _Bundle:
    """Cases with equally many ports: which they are among the rows (m,), their ``weight`` (m,), ports, what those add (m, k, K) and the
    push (m, K) of each tolerance."""

    rows: NDArray[np.intp]
    weight: Floats
    ports: Ports
    react: Floats
    push: Floats


@dataclass(frozen=True, eq=False)
class Sensitivities:
    """The tolerances at M operating points, ready for any two nodes: all that does not depend on where the meter stands."""

    tolerances: Tolerances
    rows: int
    squared: bool
    shares: tuple[tuple[Settled, tuple[_Bundle, ...]], ...]

    @classmethod
    def of(cls, tolerances: Tolerances, points: Points, swept: NDArray[np.intp], squared: bool) -> Sensitivities:
        """Of the volts, or with ``squared`` of the ohms, between nodes. ``swept`` (M,) as in `Tolerances.pushes`."""
        groups = []
        for rows, weight, settled in points.shares:
            push = tolerances.pushes(settled, swept[rows], squared)
            parts = settled.reactions(np.arange(len(rows)), tolerances.element)
            groups.append((settled, tuple(_Bundle(rows[own], weight[own], ports, react, push[own]) for own, ports, react in parts)))
        return cls(tolerances, len(swept), squared, tuple(groups))

    def spread(self, rows: NDArray[np.intp], red: NDArray[np.intp], black: NDArray[np.intp]) -> Floats:
        """(m, T, K) change of the volts, or ohms, from ``red`` to ``black`` (T,) per standard deviation of each tolerance at rows (m,),
        each asked for once."""
        spread = np.zeros((len(rows), len(red), len(self.tolerances.element)))
        place = np.full(self.rows, -1)
        place[rows] = np.arange(len(rows))
        for settled, bundles in self.shares:
            to_pairs = settled.to_pairs(red, black)
            direct = (to_pairs * settled.sign)[:, self.tolerances.element]
            for bundle in bundles:
                own = np.flatnonzero(place[bundle.rows] >= 0)
                if own.size:
                    response = direct + bundle.ports.at(own, own).through(to_pairs) @ bundle.react[own]
                    response = response**2 if self.squared else response
                    spread[place[bundle.rows[own]]] += response * (bundle.weight[own, None] * bundle.push[own])[:, None, :]
        return spread


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
