"""A solenoid valve as bodies and fields have it, integrated in small steps: winding, moving iron, spring and stops. Without a line of
Pondrel's own: what its patterns are tried on."""

from __future__ import annotations

import numpy as np

__all__ = ["valve_amps"]


def valve_amps(
    seconds: float,
    rate: float,
    period: float = 0.05,
    on: float = 0.02,
    volts: float = 13.0,
    ohms: float = 12.0,
    henries: float = 0.02,
    gain: float = 0.5,
    stroke: float = 3e-4,
    mass: float = 3e-3,
    preload: float = 2.0,
    spring: float = 2000.0,
    sticks: bool = False,
    clamp: float = 30.0,
    saturates: float = np.inf,
    inner: int = 8,
) -> np.ndarray:
    """Amperes at even samples: L grows from ``henries`` by ``gain`` of it over the stroke (m); the iron of ``mass`` (kg) is held by a
    spring (N, N/m) and drawn by half i² dL/dx; switched off the winding works against ``clamp`` volts. The flux is L·s·atan(i/s): at
    ``saturates`` amperes (s) half the inductance is left; the force follows from the coenergy of that."""
    amps = place = speed = 0.0
    out = np.empty(int(seconds * rate))
    step = 1.0 / rate / inner
    slope = henries * gain / stroke
    for k in range(len(out)):
        for j in range(inner):
            powered = (k / rate + j * step) % period < on
            drive = volts if powered else (-clamp if amps > 0.0 else 0.0)
            moving = 0.0 if sticks else speed
            flux, left, pull = amps, 1.0, 0.5 * amps * amps  # by unit of L
            if saturates < np.inf:
                part = amps / saturates
                flux, left = saturates * np.arctan(part), 1.0 / (1.0 + part * part)
                pull = saturates * (amps * np.arctan(part) - 0.5 * saturates * np.log1p(part * part))
            amps = max(amps + step * (drive - ohms * amps - flux * slope * moving) / (left * (henries + slope * place)), 0.0)
            if not sticks:
                speed += step * (pull * slope - preload - spring * place) / mass
                place += step * speed
                if place < 0.0 or place > stroke:
                    place, speed = min(max(place, 0.0), stroke), 0.0
        out[k] = amps
    return out
