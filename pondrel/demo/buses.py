"""The demo's bus logs: what the modules of the made-up depot say, frame by frame, as files that a logger might have written."""

from __future__ import annotations

import gzip
import random
from collections.abc import Callable, Iterable, Iterator, Mapping
from pathlib import Path

from ..core.bus.database import SignalDatabase, database_from

__all__ = ["LOGS", "SIGNALS"]

SIGNALS = Path(__file__).parent / "signals"
_START = 1_795_000_000.0
_BIT_RATE = 500_000
_JITTER = 0.0006  # s, give or take: a busy module sends a little late

# What a module's signals are at a time (s from the log's begin), by their names; what is not named is nought.
Values = Callable[[float], Mapping[str, float]]


def _packed(database: SignalDatabase, name: str, values: Mapping[str, float], count: int) -> tuple[int, bytes]:
    """A frame of a message: its counter counted on, its check sum the other bytes exclusive or'ed with 0x5A."""
    message = next(own for own in database.messages if own.name == name)
    bits = 0
    for signal in message.signals:
        raw = count % 16 if signal.name.endswith("Alive") else round((values.get(signal.name, 0.0) - signal.offset) / signal.scale)
        bits |= (raw & ((1 << signal.length) - 1)) << signal.start
    data = bytearray(bits.to_bytes(message.length, "little"))
    if any(signal.name.endswith("CheckSum") for signal in message.signals):
        data[-1] = 0x5A
        for byte in data[:-1]:
            data[-1] ^= byte
    return message.frame_id, bytes(data)


Cycles = Mapping[str, Callable[[float], float]]


def _frames(
    database: SignalDatabase, says: Mapping[str, Values], seconds: float, seed: int, cycles: Cycles | None = None
) -> Iterator[tuple[float, str]]:
    """Time and text (``123#1122``) of all frames of the messages that somebody sends; ``cycles`` (s) where they are not the database's."""
    chance = random.Random(seed)
    for message in database.messages:
        if message.name not in says:
            continue
        every = (cycles or {}).get(message.name, lambda time, own=message: (own.cycle_time or 100) / 1e3)
        time, count = chance.uniform(0.0, every(0.0)), 0
        while time < seconds:
            identity, data = _packed(database, message.name, says[message.name](time), count)
            yield time + chance.uniform(0.0, _JITTER), f"{identity:03X}#{data.hex().upper()}"
            time += every(time)
            count += 1


def _log(frames: Iterable[tuple[float, str]]) -> bytes:
    lines: list[str] = []
    free = 0.0  # from when on the bus is free for the next frame
    for time, text in sorted(frames):
        time = max(time, free)
        data_bits = 4 * len(text.partition("#")[2])
        free = time + (47 + data_bits + (33 + data_bits) // 4) / _BIT_RATE  # with as many stuff bits as there can be
        lines.append(f"({_START + time:.6f}) can0 {text}\n")
    return gzip.compress("".join(lines).encode(), 6, mtime=0)


def _database(name: str) -> SignalDatabase:
    return database_from((SIGNALS / name).read_bytes(), name)


def _cart(good: bool, seconds: float, seed: int) -> bytes:
    """A parcel cart with the key on; the good one drives off. The other one's loop is open, its heater module does not answer, and its
    steering assist comes late once its low voltage sags."""
    chance = random.Random(f"cart {seed}")

    def battery(time: float) -> Mapping[str, float]:
        amps = 40.0 + 12.0 * chance.random() if good and time > 8.0 else 0.4
        return {
            "PackVolts": 96.2 - 0.03 * amps, "PackAmps": -amps if good else -0.1, "PackHeat": 24, "CrashLoopOpen": not good,
            "ContactorsClosed": good and time > 2.4,
        }  # fmt: skip

    def drive(time: float) -> Mapping[str, float]:
        rolls = good and time > 8.0
        mode = (2 if rolls else 1) if good else 7 if time > 1.3 else 0
        return {
            "PedalShare": 35 if time > 8.0 else 0, "MotorSpeed": 1450 + 30 * chance.random() if rolls else 0, "DriveMode": mode,
            "DriveNotAllowed": not good and time > 1.3,
        }  # fmt: skip

    def dash(time: float) -> Mapping[str, float]:
        return {"RoadSpeed": 11.4 if good and time > 9.0 else 0.0, "KeyPosition": 3 if time > 1.0 else 2}

    def steering(time: float) -> Mapping[str, float]:
        return {"AssistTorque": chance.uniform(-1.0, 1.0), "AssistVolts": 12.4 if good or time < 17.0 else 11.6}

    def body(time: float) -> Mapping[str, float]:
        return {"LowVolts": 13.6 if good and time > 2.4 else 12.4 - 0.01 * time, "HeaterModuleMissing": not good, "OutsideHeat": 7.5}

    says: dict[str, Values] = {
        "BatteryState": battery, "DriveState": drive, "CrashState": lambda _: {}, "DashState": dash, "SteeringState": steering,
        "BodyState": body, "ChargerState": lambda _: {},
    }  # fmt: skip
    if good:
        says["HeaterState"] = lambda _: {"CabinHeat": 12.5, "HeaterWatts": 800}
    late = {} if good else {"SteeringState": lambda time: 0.02 if time < 17.0 else chance.uniform(0.03, 0.038)}
    spoilt = [] if good else [(time, "20000088#0000000000000000") for time in (17.6, 18.1, 18.4, 18.9, 31.0)]
    return _log([*_frames(_database("parcel-cart.dbc"), says, seconds, seed, late), *spoilt])


def _body(chafed: bool, seconds: float, seed: int) -> bytes:
    """The body bus of the small bus. Chafed, it dies in bursts while the seat is moved (from 12 to 19 s), and at 26 s for good."""
    chance = random.Random(f"body {seed}")

    def dead(time: float) -> bool:
        return chafed and (time > 26.0 or (12.0 < time < 19.0 and (time * 2.3) % 1.0 < 0.7))

    says: dict[str, Values] = {
        "DashInfo": lambda _: {"RoadSpeed": 0.0, "ParkBrake": 1},
        "DoorInfo": lambda time: {"DoorPlace": 0.0, "DoorLocked": 1},
        "RampInfo": lambda _: {"RampPlace": 0.0},
        "BodyWarnings": lambda time: {"DoorMessageMissing": dead(time - 0.5), "RampMessageMissing": dead(time - 0.5)},
    }
    frames = [own for own in _frames(_database("hop-body.dbc"), says, seconds, seed) if not dead(own[0])]
    time = 12.0
    while chafed and time < 27.5:
        if dead(time):
            frames.append((time, "20000088#0000000000000000"))
        time += chance.uniform(0.003, 0.02)
    return _log(frames)


# By name: the file's name, the signal database that reads it, and what makes it.
LOGS: Mapping[str, tuple[str, str, Callable[[], bytes]]] = {
    "cart_held": ("cart-2.log.gz", "parcel-cart.dbc", lambda: _cart(False, 40.0, 2)),
    "cart_drives": ("cart-1.log.gz", "parcel-cart.dbc", lambda: _cart(True, 40.0, 1)),
    "body_chafed": ("seat-bus-4.log.gz", "hop-body.dbc", lambda: _body(True, 30.0, 4)),
}
