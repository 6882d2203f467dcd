"""The demo's captures: waveforms of the made-up depot, computed from a few numbers each, as files that a scope might have written."""

from __future__ import annotations

import io
import random
from collections.abc import Callable, Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

from ..core.wave.bits.crc import CRC15, crc_of_bits

__all__ = ["WAVES"]

_RATE = 250.0  # of the slow ones, samples a second


def _csv(heading: str, times: NDArray[np.float64], *channels: NDArray[np.float64]) -> bytes:
    rows = zip(times.tolist(), *(channel.tolist() for channel in channels), strict=True)
    lines = (";".join((f"{row[0]:.4f}", *(f"{value:.3f}" for value in row[1:]))).replace(".", ",") for row in rows)
    return "\n".join((heading, *lines, "")).encode()


def _noise(count: int, volts: float, seed: int) -> NDArray[np.float64]:
    return np.random.default_rng(seed).normal(0.0, volts, count)


def _regulator(plan: Sequence[tuple[float, float, float]], seconds: float, seed: int) -> bytes:
    """A regulator of bimetal that pulses by a plan: from each time on with a period and a share of time on; its feed beside it."""
    times = np.arange(int(seconds * _RATE)) / _RATE
    out = np.zeros(len(times))
    for begin, period, share in plan:
        own = times >= begin
        out[own] = np.where(((times[own] - begin) / period) % 1.0 < share, 12.4, 0.03)
    out += _noise(len(times), 0.02, seed)
    feed = 12.62 - 0.12 * (out > 6.0) + _noise(len(times), 0.01, seed + 1)
    return _csv("time [s];regulator output [V];feed [V]", times, out, feed)


def _valve(sticks: bool, seed: int) -> bytes:
    """The current of a tank vent valve that is switched ten times a second: winding, moving iron, spring and stops, in small steps."""
    rate, inner, seconds = 10_000.0, 10, 0.6
    step, slope = 1.0 / rate / inner, 0.045 * 0.4 / 4e-4
    amps = place = speed = 0.0
    out = np.empty(int(seconds * rate))
    for k in range(len(out)):
        for j in range(inner):
            powered = (k / rate + j * step) % 0.1 < 0.04
            drive = 13.1 if powered else -28.0 if amps > 0.0 else 0.0
            amps = max(amps + step * (drive - 26.4 * amps - amps * slope * speed) / (0.045 + slope * place), 0.0)
            if not sticks:
                speed += step * (0.5 * amps * amps * slope - 1.6 - 1500.0 * place) / 4e-3
                place += step * speed
                if not 0.0 < place < 4e-4:
                    place, speed = min(max(place, 0.0), 4e-4), 0.0
        out[k] = amps
    times = np.arange(len(out)) / rate
    return _csv("time [s];valve current [A]", times, out + _noise(len(out), 0.0015, seed))


def _frame(identifier: int, data: bytes) -> list[int]:
    """A frame on the line, from its first bit to the end of the pause behind it."""
    body = [0, *_binary(identifier, 11), 0, 0, 0, *_binary(len(data), 4), *(bit for byte in data for bit in _binary(byte, 8))]
    line: list[int] = []
    same = 0
    for bit in [*body, *_binary(crc_of_bits(body, CRC15), 15)]:
        same = same + 1 if line and line[-1] == bit else 1
        line.append(bit)
        if same == 5:
            line.append(1 - bit)
            same = 1
    return [*line, 1, 0, *[1] * 11]


def _binary(number: int, width: int) -> list[int]:
    return [number >> place & 1 for place in range(width - 1, -1, -1)]


def _bus() -> bytes:
    """Both wires of a bus of 250 000 bits a second; CAN low touches ground whenever the seat rail presses on it."""
    rate, per_bit = 2_500_000.0, 10
    r = random.Random(11)
    bits = [1] * 40
    while len(bits) < 42_000:
        bits += _frame(r.choice((0x118, 0x21A, 0x2F0, 0x3C4, 0x510)), r.randbytes(8)) + [1] * r.choice((0, 12, 60))
    dominant = 1.0 - np.repeat(np.array(bits), per_bit).astype(float)
    high, low = 2.5 + dominant, 2.5 - dominant
    chance = np.random.default_rng(12)
    place = int(0.055 * rate)
    while place < int(0.112 * rate):
        length = int(chance.integers(60, 900))
        own = slice(place, place + length)
        low[own] = 0.04
        high[own] = np.where(dominant[own] > 0.5, 2.9, 0.1)
        place += length + int(chance.integers(200, 5000))
    # A scope of eight bits on 5 V rounds to 20 mV.
    values = {
        name: (np.round((own + _noise(len(own), 0.015, seed)) / 0.02) * 0.02).astype(np.float32)
        for name, own, seed in (("CAN_H", high, 5), ("CAN_L", low, 6))
    }
    out = io.BytesIO()
    np.savez_compressed(out, CAN_H=values["CAN_H"], CAN_L=values["CAN_L"], rate=np.array(rate))
    return out.getvalue()


# By name: the file's name and what makes it.
WAVES: Mapping[str, tuple[str, Callable[[], bytes]]] = {
    "regulator": ("gauges.csv", lambda: _regulator([(0.0, 2.3, 0.6), (12.1, 1.6, 0.405), (20.4, 2.3, 0.6)], 30.0, 1)),
    "regulator_after": ("gauges-after.csv", lambda: _regulator([(0.0, 1.6, 0.405)], 30.0, 3)),
    "valve_sticks": ("vent-yard-van.csv", lambda: _valve(True, 7)),
    "valve_moves": ("vent-bus.csv", lambda: _valve(False, 8)),
    "bus": ("seat-rail.npz", _bus),
}
