"""What a slip may show: slips have shapes.

A decimal point moves by one place, the leads are the other way round, a probe stands at the place beside or the vehicle in another state;
or the number is anything. The first two hang on what the hypothesis expects there, the next two on what a sound circuit shows elsewhere.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ...base.arrays import Floats
from ...base.judgement import judged
from ...evidence.asked import Measurement
from ...evidence.items import Reading
from ..predict.scale import on_scale
from ..predict.workup import Workup

__all__ = ["DECIMAL", "KNOWN_SHAPES", "PLACE", "SIGN", "STATE", "Slipped"]

# How often a slip has each shape. Common practice, no source.
KNOWN_SHAPES = judged("SLIP_KNOWN_SHAPES", 0.6, "share", "slips that are of one of the known shapes; the others may be anything")
DECIMAL = judged("SLIP_DECIMAL", 0.3, "share", "of those, slips in which the decimal point moved by one place")
PLACE = judged("SLIP_PLACE", 0.25, "share", "of those, slips in which a probe stood at the place beside")
STATE = judged("SLIP_STATE", 0.15, "share", "of those, slips in which the vehicle stood in another state")
SIGN = judged("SLIP_SIGN", 0.1, "share", "of those, slips in which the leads were swapped")
_ELSEWHERE = 0.03  # how near a slip comes to what another place shows, besides what tolerances do to it: volts, or on the ohms' scale
_NEAR, _NEAR_SHARE = 0.02, 0.05  # the same of a decimal point that moved, or of swapped leads, and a share of the number besides
# The range of an instrument's scale over which any number may fall: volts, compressed ohms, amperes.
_RANGE = {"volts": 30.0, "ohms": 16.0, "continuity": 7.0, "amps": 60.0, "clamp": 60.0}


@dataclass(frozen=True, eq=False)
class Slipped:
    """Of R readings: what was shown (``value``), the ``density`` of slips there that does not hang on the hypothesis (per volt, ampere, or
    unit of the ohms' scale), and which are ``ohms``."""

    value: Floats
    density: Floats
    ohms: NDArray[np.bool_]

    @classmethod
    def of(cls, workup: Workup, readings: tuple[Reading, ...]) -> Slipped:
        """Those of some readings."""
        value = np.array([on_scale(r)[0] for r in readings], dtype=float)
        density = [_anywhere_or_elsewhere(workup, reading) for reading in readings]
        return cls(value, np.array(density, dtype=float), np.array([r.meter.dead for r in readings], dtype=bool))

    def joined(self, other: Slipped) -> Slipped:
        """These and more readings."""
        return Slipped(*(np.concatenate([getattr(self, name), getattr(other, name)]) for name in ("value", "density", "ohms")))

    @property
    def widths(self) -> Floats:
        """(R,) one over the density of slips that hang on no hypothesis."""
        widths: Floats = 1.0 / self.density
        return widths

    def widths_where(self, expected: Floats, other: Floats | None = None) -> Floats:
        """(…, R) one over the density of slips where so much is expected, or anything from there to ``other``."""
        other = expected if other is None else other
        density = self.density + KNOWN_SHAPES * SIGN * np.where(self.ohms, 0.0, _at(self.value, -expected, -other))
        plain, plain_other = (np.where(self.ohms, np.expm1(np.minimum(e, _RANGE["ohms"])), e) for e in (expected, other))
        for times in (0.1, 10.0):
            moved = [np.where(self.ohms, np.log1p(np.maximum(times * p, 0.0)), times * p) for p in (plain, plain_other)]
            density = density + KNOWN_SHAPES * DECIMAL / 2.0 * _at(self.value, *moved)
        widths: Floats = 1.0 / density
        return widths


def _at(value: Floats, one: Floats, other: Floats) -> Floats:
    """Density at a value of what lies close to some number between two."""
    near = np.clip(value, np.minimum(one, other), np.maximum(one, other))
    sigma = _NEAR + _NEAR_SHARE * np.abs(near)
    density: Floats = np.exp(-0.5 * ((value - near) / sigma) ** 2) / (sigma * math.sqrt(2.0 * math.pi))
    return density


def _anywhere_or_elsewhere(workup: Workup, reading: Reading) -> float:
    """Density at what a reading shows of slips to any number, and of what a sound circuit shows beside or in another state."""
    tests = workup.on_offer
    share = _mixed_up_with(reading, tests) if reading.meter.unit != "A" else np.zeros(len(tests))
    alike = np.flatnonzero(share)
    sigma = np.sqrt(_ELSEWHERE**2 + (workup.sound_spread[alike] ** 2).sum(axis=1))
    offset = (on_scale(reading)[0] - workup.sound_values[alike]) / sigma
    elsewhere = float(share[alike] @ (np.exp(-0.5 * offset**2) / sigma)) / math.sqrt(2.0 * math.pi)
    known = KNOWN_SHAPES * (DECIMAL + (0.0 if reading.meter.dead else SIGN)) + float(share.sum())
    return (1.0 - known) / _RANGE.get(reading.instrument, _RANGE["volts"]) + elsewhere


def _mixed_up_with(reading: Reading, tests: tuple[Measurement, ...]) -> Floats:
    """(T,) the share of slips at a reading in which each test on offer was taken in its place."""
    test, instrument = reading.test, "ohms" if reading.meter.dead else "volts"
    place, state = np.zeros(len(tests), dtype=bool), np.zeros(len(tests), dtype=bool)
    for i, other in enumerate(tests):
        if other.instrument == instrument:
            leads = len({other.red, other.black} & {test.red, test.black})
            place[i] = leads == 1 and (test.dead or other.state == test.state)
            state[i] = leads == 2 and other.state != test.state and not test.dead
    share: Floats = KNOWN_SHAPES * (PLACE * place / max(place.sum(), 1) + STATE * state / max(state.sum(), 1))
    return share
