"""How current follows voltage in the elements that are not plain resistances.

Every law is a non-decreasing current i(v) with its slope, evaluated for whole arrays:

- filament: i = I·x·(x² + c²)^((p − 1)/2), x = v/V: the p-th power of voltage when lit (0.55 for tungsten, from memory of lamp
  handbooks), a twelfth of the hot resistance when cold;
- junction: Shockley's diode behind its series resistance, solved in closed form by the Wright omega function
  (Corless and Jeffrey 2002): i + Is = (n/R)·ω(ln(Is·R/n) + (v + Is·R)/n), n the emission voltage;
- limited: i = x/(1 + |x/L|⁸)^(1/8), x = (v − E)/R: a resistance or a source up to its limit L, then a constant current; what it takes
  (x > 0) may have another limit than what it delivers;
- motor: a fan's torque rises with the square of its speed, so back-EMF is K·√i and v = R·i + K·√i, K from the rated point with the
  ohms it was built with; a fiftieth of the rated conductance beside it stands for what it takes before it turns.

`tame` says how far Newton may go along a law at once.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..base.arrays import Floats
from ..base.special import wrightomega
from .part import Law

__all__ = [
    "FILAMENT_POWER",
    "LIGHT_POWER",
    "LIMIT_POWER",
    "MOTOR_CREEP",
    "amps_lost",
    "cold_share",
    "filament_amps",
    "junction_amps",
    "limited_amps",
    "motor_amps",
    "nonlinear_amps",
    "tame",
]

FILAMENT_POWER = 0.55
# A lamp's light goes with about the 3.4th power of its voltage; from memory of lamp handbooks.
LIGHT_POWER = 3.4
LIMIT_POWER = 8.0
_COLD_TO_HOT = 12.0
# What a limited source still gives way by beyond its limit, as a share of its conductance: keeps every slope above nothing.
_GIVE = 1e-9
MOTOR_CREEP = 0.02


def cold_share(power: Floats | float = FILAMENT_POWER) -> Floats:
    """The share of rated voltage below which a filament counts as cold: cold tungsten has about a twelfth of its hot resistance."""
    return _COLD_TO_HOT ** (-1.0 / (1.0 - np.asarray(power, dtype=float)))


def filament_amps(volts: Floats, rated_volts: Floats, rated_amps: Floats, power: Floats | float = FILAMENT_POWER) -> tuple[Floats, Floats]:
    """Current (A) of a hot filament and its slope dI/dV (S), elementwise. Odd in V."""
    x = volts / rated_volts
    square = x * x + cold_share(power) ** 2
    bend = square ** ((power - 1.0) / 2.0)
    return rated_amps * x * bend, rated_amps / rated_volts * bend * (1.0 + (power - 1.0) * x * x / square)


def junction_amps(volts: Floats, saturation: Floats, emission: Floats, ohms: Floats) -> tuple[Floats, Floats]:
    """Current (A) and slope (S) of a diode with series resistance, elementwise."""
    omega = wrightomega(np.log(saturation * ohms / emission) + (volts + saturation * ohms) / emission)
    return emission / ohms * omega - saturation, omega / (1.0 + omega) / ohms


def limited_amps(volts: Floats, emf: Floats, ohms: Floats, delivers: Floats, takes: Floats) -> tuple[Floats, Floats]:
    """Current (A) and slope (S) of a source or resistance with current limits, elementwise."""
    x = (volts - emf) / ohms
    limit = np.where(x > 0.0, takes, delivers)
    share = np.minimum(np.abs(x / limit), 1e30)
    bend = 1.0 + share**LIMIT_POWER
    slope = bend ** (-1.0 / LIMIT_POWER - 1.0)
    return x * (bend ** (-1.0 / LIMIT_POWER) + _GIVE), (slope + _GIVE) / ohms


def motor_amps(volts: Floats, rated_volts: Floats, rated_amps: Floats, rated_ohms: Floats, ohms: Floats) -> tuple[Floats, Floats]:
    """Current (A) and slope (S) of a motor with a fan on its shaft, elementwise. Odd in V. Its field is that of the motor as it was built,
    with ``rated_ohms``; what its brushes have gained or its armature lost since then is in ``ohms``."""
    creep = MOTOR_CREEP * rated_amps / rated_volts
    turning = (1.0 - MOTOR_CREEP) * rated_amps
    back = np.maximum(rated_volts - rated_ohms * turning, 0.0) / np.sqrt(turning)
    root = np.sqrt(back**2 + 4.0 * ohms * np.abs(volts))
    # (root − back)/2R without cancelling digits at small voltages
    square_root = 2.0 * np.abs(volts) / np.maximum(root + back, 1e-300)
    slope = 2.0 * square_root / np.maximum(root, 1e-300)
    return np.sign(volts) * square_root**2 + creep * volts, slope + creep


def tame(law: NDArray[Any], old: Floats, found: Floats, rated_volts: Floats, amps: Floats, shape: Floats, ohms: Floats) -> Floats:
    """(…, K) the volts to go on from, where Newton's straight line at ``old`` leads to ``found``.

    A junction that is to conduct more is taken at the line's current instead of its voltage, a filament far from cooling down likewise;
    a source on its way back from its limit stops at its own volts. Otherwise one step along an almost flat or almost upright stretch
    would lead anywhere.
    """
    tamed = found.copy()
    for kind in (Law.FILAMENT, Law.JUNCTION, Law.LIMITED):
        k = np.flatnonzero(law == kind)
        if not k.size:
            continue
        v, new, at, limit, bend, r = old[..., k], found[..., k], rated_volts[k], amps[k], shape[k], ohms[..., k]
        if kind is Law.FILAMENT:
            current, slope = filament_amps(v, at, limit, bend)
            share = (current + slope * (new - v)) / limit
            cold = cold_share(bend)
            size = np.abs(share)
            lit = size ** (1.0 / bend)
            by_current = at * np.sign(share) * np.where(lit > cold, lit, size * cold ** (1.0 - bend))
            tamed[..., k] = np.where(np.abs(new - v) > 0.3 * np.abs(v), by_current, new)
        elif kind is Law.JUNCTION:
            current, slope = junction_amps(v - at, limit, bend, r)
            wanted = np.maximum(current + slope * (new - v), 0.0)
            by_current = at + r * wanted + bend * np.log1p(wanted / limit)
            # One that is to conduct hardly at all starts again at its threshold: down its curve every step is only an emission voltage.
            lets_go = (new < v) & (v > at) & (new > at) & (wanted < 0.1 * current)
            tamed[..., k] = np.where((new > v) & (wanted > 0.0), np.minimum(by_current, new), np.where(lets_go, at, new))
        else:
            takes = np.where(bend > 0.0, bend, limit)
            # From beyond one limit to beyond the other leads through the middle.
            was, to = (v - at) / r, (new - at) / r
            across = (was * to < 0.0) & (np.abs(was) > 0.5 * np.where(was > 0.0, takes, limit))
            tamed[..., k] = np.where(across, at, new)
    return tamed


def nonlinear_amps(
    law: NDArray[Any], volts: Floats, rated_volts: Floats, amps: Floats, shape: Floats, ohms: Floats
) -> tuple[Floats, Floats]:
    """Currents and slopes (…, K) of K elements of mixed laws at ``volts`` (…, K); ``ohms`` (…, K), the other arrays (K,)."""
    current, slope = np.zeros_like(volts), np.zeros_like(volts)
    for kind in set(law.tolist()):
        k = np.flatnonzero(law == kind)
        v, at, limit, bend, r = volts[..., k], rated_volts[k], amps[k], shape[k], ohms[..., k]
        if kind is Law.FILAMENT:
            drawn = filament_amps(v, at, limit, bend)
        elif kind is Law.JUNCTION:
            drawn = junction_amps(v - at, limit, bend, r)
        elif kind is Law.LIMITED:
            drawn = limited_amps(v, at, r, limit, np.where(bend > 0.0, bend, limit))
        else:
            drawn = motor_amps(v, at, limit, bend, r)
        current[..., k], slope[..., k] = drawn
    return current, slope


def amps_lost(law: NDArray[Any], volts: Floats, rated_volts: Floats, amps: Floats, shape: Floats, ohms: Floats) -> Floats:
    """Amperes (…, K) that elements of mixed laws lose, at the same volts, per unit by which the logarithm of their ohms rises; arrays as in
    `nonlinear_amps`. With R in series with what bends it is g·R·i; a filament's ohms are not what its law goes by."""
    current, slope = nonlinear_amps(law, volts, rated_volts, amps, shape, ohms)
    lost = slope * ohms * current
    limited, motor, filament = (law == kind for kind in (Law.LIMITED, Law.MOTOR, Law.FILAMENT))
    lost[..., limited] = (slope * (volts - rated_volts))[..., limited]
    creep = MOTOR_CREEP * amps[motor] / rated_volts[motor]
    lost[..., motor] = (slope[..., motor] - creep) * ohms[..., motor] * (current[..., motor] - creep * volts[..., motor])
    lost[..., filament] = 0.0
    return lost
