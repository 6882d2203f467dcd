"""Captures as a recorder would write them, from a small model of an engine that is cranked: it shares no line with what reads them.

Battery: EMF behind a resistance. Starter: series motor by its torque constant. Engine: inertia, friction and a torque that rises and falls
with every compression. Stepped in time by plain Euler.
"""

from __future__ import annotations

import math

import numpy as np

__all__ = ["as_csv", "bridge", "crank"]


def crank(
    rate: float = 2000.0,
    seconds: float = 6.0,
    *,
    cylinders: int = 4,
    weak: int | None = None,
    weak_share: float = 0.5,
    starts: bool = True,
    ohms: float = 0.008,
    emf: float = 12.6,
    crank_seconds: float = 2.0,
    charge: float = 14.2,
    noise: float = 0.01,
    seed: int = 1,
) -> tuple[np.ndarray, np.ndarray, np.ndarray, dict[str, float]]:
    """Times, volts, amperes, and what is true of it: lowest volts after the inrush, revolutions a minute while it is cranked."""
    count, step = int(rate * seconds), 1.0 / rate
    t = np.arange(count) * step
    volts, amps = np.empty(count), np.zeros(count)
    key_at, crank_at = 0.8, 1.6
    speed = angle = 0.0
    motor_ohms, torque_per_amp, inertia = 0.012, 0.25, 0.18
    speeds, lows = [], []
    for k, at in enumerate(t):
        load = 0.0
        if at >= key_at:
            load = 8.0
        if crank_at <= at < crank_at + crank_seconds:
            back = torque_per_amp * speed
            current = max((emf - load * ohms - back) / (ohms + motor_ohms + 0.002), 0.0)
            which = int(angle / (4 * math.pi / cylinders)) % cylinders
            share = weak_share if weak is not None and which == weak else 1.0
            squeeze = 22.0 * share * max(math.sin(angle * cylinders / 2.0), -0.4)
            torque = torque_per_amp * current - 18.0 - squeeze - 0.4 * speed
            speed = max(speed + torque / inertia * step, 0.0)
            angle += speed * step
            amps[k] = current + load
            volts[k] = emf - amps[k] * ohms - 0.3 * min((at - crank_at) / 0.2, 1.0)
            if at > crank_at + 0.4:
                speeds.append(speed)
                lows.append(volts[k])
        elif at >= crank_at + crank_seconds and starts:
            since = at - crank_at - crank_seconds
            volts[k] = charge - (charge - emf + 0.4) * math.exp(-since / 0.35)
            amps[k] = load - 40.0 * (1.0 - math.exp(-since / 0.3))
        else:
            amps[k] = load
            recovers = 0.2 * math.exp(-(at - crank_at - crank_seconds)) if at > crank_at else 0.0
            volts[k] = emf - load * ohms - (0.15 if at >= key_at else 0.0) - recovers
    volts += np.random.default_rng(seed).normal(0.0, noise, count)
    return t, volts, amps, {"lowest": min(lows), "rpm": float(np.mean(speeds)) * 30.0 / math.pi, "crank_at": crank_at, "key_at": key_at}


def bridge(
    turns_hz: float, rate: float = 50_000.0, seconds: float = 0.5, *, amplitude: float = 1.0, missing: bool = False, noise: float = 0.005,
    level: float = 14.1, seed: int = 1,
) -> tuple[np.ndarray, np.ndarray]:  # fmt: skip
    """Times and volts of a three-phase bridge: the highest phase less the lowest, less an upper diode where ``missing``."""
    t = np.arange(int(rate * seconds)) / rate
    phases = np.array([np.sin(2.0 * math.pi * turns_hz * t + k * 2.0 * math.pi / 3.0) for k in range(3)])
    upper = phases[:2] if missing else phases
    out = upper.max(axis=0) - phases.min(axis=0)
    return t, level + amplitude * (out - out.mean()) + np.random.default_rng(seed).normal(0.0, noise, len(t))


def as_csv(
    t: np.ndarray, *columns: np.ndarray, heading: str = "time [s],battery [V],starter [A]", sign: str = ",", point: str = "."
) -> bytes:
    """The capture as a file."""
    names = sign.join(heading.split(",")[: len(columns) + 1])
    lines = [sign.join(f"{value:.6g}".replace(".", point) for value in row) for row in zip(t, *columns, strict=True)]
    return ("\n".join([names, *lines]) + "\n").encode()
