"""What the tolerances of healthy parts do to a measured number: exact first derivatives, which make tolerances correlated.

A *tolerance* is one independent thing that nobody knows exactly: an element's resistance, the current its law gives and how that bends
with its volts, its EMF; how far its ground point stands above the battery post; or what several elements have in common, such as the age
of all contacts.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ..base.arrays import Floats
from ..base.judgement import judged
from .network import LEAST_OHMS, Network
from .part import Element, Law
from .points import Points
from .settle import Share
from .wear import AGE_SHARED, BODY_APART, BODY_SHARED, WIRES_ALIKE, film_spread, of_wire, on_body

__all__ = ["BODY_COLUMN", "SHARED", "Tolerances", "spread_of"]

_AT_ONCE = 300_000  # numbers
_OHMS, _CURRENT, _VOLTS, _BEND = range(4)
_BEND_LEAST = 0.05  # share of the rated volts below which a law bends no further from another
# What its modules have inside, its contacts' age, how long and warm its wires are, how far its body stands above the battery post.
SHARED = 4
BODY_COLUMN = -1  # of those in common, the last
INNER_ALIKE = judged("INNER_ALIKE", 2.0, "times", "how far the pins of unpowered electronics go together, of what each does for itself")
_FORWARD_VOLTS = 0.7  # what a junction's tolerance is a share of


@dataclass(frozen=True, eq=False)
class Tolerances:
    """Tolerances of a network. K of single elements: ``element`` (K,), ``what`` of it (K,), one standard deviation ``sigma`` (K,), relative
    or in volts. And SHARED ones that several have in common: ``shared`` (K, SHARED) says how many standard deviations of each single one
    go with one of those."""

    element: NDArray[np.intp]
    what: NDArray[np.intp]
    sigma: Floats
    shared: Floats
    motor: NDArray[np.bool_]  # (K,) whether the element is a motor

    @classmethod
    def of(cls, network: Network) -> Tolerances:
        """Those that a network's elements have: the same list whatever its dials."""
        films, wires, body = film_spread(network), of_wire(network), on_body(network)
        items = [
            item
            for i, e in enumerate(network.elements)
            for item in _of_element(i, e, float(films[i]), WIRES_ALIKE if wires[i] else 0.0, bool(body[i]))
        ]
        element, what, sigma, within, age, length, above = zip(*items, strict=True) if items else ((), (), (), (), (), (), ())
        shared = np.array([within, age, length, above], dtype=float).reshape(SHARED, len(element)).T
        motor = np.array([network.elements[i].law is Law.MOTOR for i in element], dtype=bool)
        return cls(np.array(element, dtype=np.intp), np.array(what, dtype=np.intp), np.array(sigma), shared, motor)

    def but(self, element: int) -> Tolerances:
        """The same with an element that is known to a hair."""
        return replace(self, sigma=np.where(self.element == element, 0.0, self.sigma))

    @property
    def at_rest(self) -> Tolerances:
        """The same with the battery off: what else runs on the vehicle sends no current through its body then."""
        return replace(self, sigma=np.where(self.shared[:, BODY_COLUMN] > 0.0, 0.0, self.sigma))

    @property
    def count(self) -> int:
        """How many there are, those in common last."""
        return len(self.element) + SHARED

    def is_ohms(self, number: int) -> bool:
        """Whether a single one is an element's resistance."""
        return bool(self.what[number] == _OHMS)

    @property
    def of_volts(self) -> NDArray[np.bool_]:
        """(count,) which of them are in volts: an EMF's or a threshold's."""
        volts: NDArray[np.bool_] = np.pad(self.what == _VOLTS, (0, SHARED))
        return volts

    @cached_property
    def _by_kind(self) -> dict[int, tuple[NDArray[np.intp], NDArray[np.intp]]]:
        """Which tolerances are of each kind, and their elements."""
        return {kind: (own, self.element[own]) for kind in range(4) if (own := np.flatnonzero(self.what == kind)).size}

    def pushes(self, share: Share, swept: NDArray[np.intp], squared: bool) -> Floats:
        """(m, K) how far a standard deviation of each tolerance raises its element's line, in every case of ``share``. ``swept`` (m,):
        the element whose resistance is the severity and so no tolerance, −1 for none. ``squared``: for the ohms between nodes."""
        pushes = np.zeros((len(swept), len(self.element)))
        for kind, (own, elements) in self._by_kind.items():
            if kind == _OHMS:
                pushes[:, own] = share.push_of_ohms(elements, squared)
            elif kind == _CURRENT:
                pushes[:, own] = share.push_of_current(elements, squared)
            elif kind == _VOLTS:
                pushes[:, own] = share.push_of_volts(elements, squared)
            elif not squared:
                # Of i = I·(v/V)^p another power moves the current by its logarithm of v/V.
                rated = np.maximum(np.abs(share.position.network.volts[elements]), 1e-9)
                apart = np.abs(share.across(elements)) / rated
                pushes[:, own] = share.push_of_current(elements) * np.log(np.clip(apart, _BEND_LEAST, 2.0))
        pushes *= self.sigma
        # A motor's speed is as unknown whatever its brushes have; of other elements it is the same ohms.
        row, tolerance = np.nonzero(self.element == swept[:, None])
        known = (self.what[tolerance] != _VOLTS) & ((self.what[tolerance] == _OHMS) | ~self.motor[tolerance])
        pushes[row[known], tolerance[known]] = 0.0
        return pushes

    def pushes_of(self, element: int, ohms: Floats, amps: Floats, swept: NDArray[np.intp]) -> Floats:
        """(m, count) volts that a standard deviation of each tolerance puts in series into one straight element, which has ``ohms`` (m,)
        and carries ``amps`` (m,). ``swept`` (m,) as in `pushes`."""
        own = np.flatnonzero(self.element == element)
        ohmic = self.what[own] == _OHMS
        push = np.where(ohmic, (ohms * amps)[:, None], 1.0) * self.sigma[own]
        push = np.where(ohmic & (swept == element)[:, None], 0.0, push)
        pushes = np.zeros((len(ohms), self.count))
        pushes[:, own] = push
        pushes[:, len(self.element) :] = push @ self.shared[own]
        return pushes


def spread_of(
    tolerances: Tolerances,
    points: Points,
    swept: NDArray[np.intp],
    red: NDArray[np.intp],
    black: NDArray[np.intp],
    squared: bool,
    room: int = 0,
) -> Floats:
    """(m, T, count) change of the volts, or with ``squared`` of the ohms, from nodes ``red`` to ``black`` (T,) per standard deviation of
    each tolerance, at points (m). ``swept`` (m,) as in `Tolerances.pushes`. With ``room`` for more there are as many, the others
    nought."""

    def push(share: Share, own: NDArray[np.intp]) -> Floats:
        return tolerances.pushes(share, swept[own], squared)

    spread = points.change(red, black, push, tolerances.element, squared, max(room, tolerances.count))
    single = len(tolerances.element)
    most = max(1, _AT_ONCE // max(1, len(red) * single))
    for case in range(0, len(spread), most):
        own = spread[case : case + most]
        alike = own[:, :, :single].reshape(-1, single) @ tolerances.shared
        own[:, :, single : tolerances.count] = alike.reshape(*own.shape[:2], SHARED)
    return spread


def _of_element(i: int, e: Element, film: float, alike: float, on_body: bool) -> list[tuple[int, int, float, float, float, float, float]]:
    """Of an element: its number, what of it, sigma, and how much of that goes with what modules have inside, with a vehicle's age, with how
    long and warm its wires are (``alike``) and with its body's volts."""
    own, ohms, age = e.tolerance, e.ohms_tolerance, 0.0
    if film > 0.0:
        ohm = max(e.ohms, LEAST_OHMS)
        own = math.hypot(own, film / ohm)
        age = AGE_SHARED * film / ohm / own
    found: list[tuple[int, int, float, float]]  # element, what, of which tolerance, sigma
    if e.law is Law.OHMIC:
        found = [(i, _OHMS, own, own)]
    elif e.law is Law.EMF:
        found = [(i, _OHMS, ohms, ohms), (i, _VOLTS, own, own * abs(e.volts))]
    elif e.law is Law.JUNCTION:
        found = [(i, _VOLTS, own, own * _FORWARD_VOLTS)]
    elif e.law is Law.LIMITED and e.volts != 0.0:
        found = [(i, _CURRENT, ohms, ohms), (i, _VOLTS, own, own * abs(e.volts))]
    else:  # what a motor or filament has at rest says little of what it takes at work
        found = [(i, _CURRENT, own, own), (i, _OHMS, ohms, ohms), (i, _BEND, e.bend_tolerance, e.bend_tolerance)]
    within = INNER_ALIKE if e.asleep else 0.0
    singles = [(element, what, sigma, within, age, alike, 0.0) for element, what, of, sigma in found if of > 0.0]
    return [*singles, (i, _VOLTS, BODY_APART, 0.0, 0.0, 0.0, BODY_SHARED / BODY_APART)] if on_body else singles
