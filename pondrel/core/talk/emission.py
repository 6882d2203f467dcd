"""What any vehicle with on-board diagnosis of emissions answers, whatever its maker: SAE J1979 / ISO 15031-5, from memory.

The table holds the values that an electrician asks for; what is not in it is shown as bytes and not guessed at.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

__all__ = [
    "ANSWERED_FROM", "ASKED_ALL", "ASKED_ALL_LONG", "DATA", "FREEZE", "LONG_PAIRS", "PENDING_CODES", "PERMANENT_CODES", "STORED_CODES",
    "VALUES", "VEHICLE", "EmissionValue", "codes_in", "supported_in", "value_in", "vin_in",
]  # fmt: skip

# ISO 15765-4: everybody is asked on one number and answers on one of its own, in 11 bits or in 29. Of the long ones only those of engine
# and gearbox (SAE J2178) are called: any other would be 254 calls.
ASKED_ALL, ANSWERED_FROM = 0x7DF, range(0x7E8, 0x7F0)
ASKED_ALL_LONG = 0x18DB33F1
LONG_PAIRS: Mapping[int, int] = {0x18DA10F1: 0x18DAF110, 0x18DA18F1: 0x18DAF118}
DATA, FREEZE, STORED_CODES, CLEAR_CODES, PENDING_CODES, VEHICLE, PERMANENT_CODES = 0x01, 0x02, 0x03, 0x04, 0x07, 0x09, 0x0A


@dataclass(frozen=True, slots=True)
class EmissionValue:
    """A value by its number: what it is, its unit, in how many of the first bytes it stands, and its law: raw · ``scale`` + ``offset``."""

    number: int
    name: str
    unit: str
    size: int
    scale: float
    offset: float
    digits: int = 0
    signed: bool = False

    def reckon(self, data: bytes) -> float:
        """The value of an answer's bytes."""
        return int.from_bytes(data[: self.size], "big", signed=self.signed) * self.scale + self.offset


_ALL = (
    EmissionValue(0x04, "engine load", "%", 1, 100 / 255, 0, 1),
    EmissionValue(0x05, "coolant", "°C", 1, 1, -40, 0),
    EmissionValue(0x06, "fuel trim, short, bank 1", "%", 1, 100 / 128, -100, 1),
    EmissionValue(0x07, "fuel trim, long, bank 1", "%", 1, 100 / 128, -100, 1),
    EmissionValue(0x08, "fuel trim, short, bank 2", "%", 1, 100 / 128, -100, 1),
    EmissionValue(0x09, "fuel trim, long, bank 2", "%", 1, 100 / 128, -100, 1),
    EmissionValue(0x0A, "fuel pressure", "kPa", 1, 3, 0, 0),
    EmissionValue(0x0B, "intake manifold pressure", "kPa", 1, 1, 0, 0),
    EmissionValue(0x0C, "engine speed", "r/min", 2, 1 / 4, 0, 0),
    EmissionValue(0x0D, "vehicle speed", "km/h", 1, 1, 0, 0),
    EmissionValue(0x0E, "ignition advance", "°", 1, 1 / 2, -64, 1),
    EmissionValue(0x0F, "intake air", "°C", 1, 1, -40, 0),
    EmissionValue(0x10, "air mass", "g/s", 2, 1 / 100, 0, 2),
    EmissionValue(0x11, "throttle", "%", 1, 100 / 255, 0, 1),
    EmissionValue(0x14, "oxygen sensor 1, bank 1", "V", 1, 1 / 200, 0, 3),
    EmissionValue(0x15, "oxygen sensor 2, bank 1", "V", 1, 1 / 200, 0, 3),
    EmissionValue(0x1F, "time since the start", "s", 2, 1, 0, 0),
    EmissionValue(0x21, "distance with the warning lamp on", "km", 2, 1, 0, 0),
    EmissionValue(0x23, "fuel rail pressure", "kPa", 2, 10, 0, 0),
    EmissionValue(0x2C, "exhaust gas return, asked for", "%", 1, 100 / 255, 0, 1),
    EmissionValue(0x2E, "purge valve, asked for", "%", 1, 100 / 255, 0, 1),
    EmissionValue(0x2F, "fuel level", "%", 1, 100 / 255, 0, 1),
    EmissionValue(0x30, "warm-ups since codes were cleared", "", 1, 1, 0, 0),
    EmissionValue(0x31, "distance since codes were cleared", "km", 2, 1, 0, 0),
    EmissionValue(0x32, "pressure of the tank's vapour", "Pa", 2, 1 / 4, 0, 1, signed=True),
    EmissionValue(0x33, "air pressure", "kPa", 1, 1, 0, 0),
    EmissionValue(0x42, "supply at the module", "V", 2, 1 / 1000, 0, 2),
    EmissionValue(0x43, "absolute load", "%", 2, 100 / 255, 0, 1),
    EmissionValue(0x44, "mixture asked for, lambda", "", 2, 2 / 65536, 0, 3),
    EmissionValue(0x45, "throttle, from its rest", "%", 1, 100 / 255, 0, 1),
    EmissionValue(0x46, "air outside", "°C", 1, 1, -40, 0),
    EmissionValue(0x47, "throttle, second track", "%", 1, 100 / 255, 0, 1),
    EmissionValue(0x49, "pedal, first track", "%", 1, 100 / 255, 0, 1),
    EmissionValue(0x4A, "pedal, second track", "%", 1, 100 / 255, 0, 1),
    EmissionValue(0x4C, "throttle, asked for", "%", 1, 100 / 255, 0, 1),
    EmissionValue(0x4D, "time with the warning lamp on", "min", 2, 1, 0, 0),
    EmissionValue(0x4E, "time since codes were cleared", "min", 2, 1, 0, 0),
    EmissionValue(0x5B, "rest of the hybrid battery", "%", 1, 100 / 255, 0, 1),
    EmissionValue(0x5C, "engine oil", "°C", 1, 1, -40, 0),
    EmissionValue(0x5E, "fuel rate", "l/h", 2, 1 / 20, 0, 2),
)
VALUES: Mapping[int, EmissionValue] = {one.number: one for one in _ALL}


def supported_in(number: int, data: bytes) -> frozenset[int]:
    """Which numbers behind ``number`` (0x00, 0x20, …) a module knows, by the four bytes of its answer.

    >>> sorted(supported_in(0x00, bytes.fromhex("18000001")))
    [4, 5, 32]
    """
    bits = int.from_bytes(data[:4].ljust(4, b"\0"), "big")
    return frozenset(number + 1 + place for place in range(32) if bits >> (31 - place) & 1)


def value_in(number: int, data: bytes) -> float | None:
    """What an answer's bytes come to; None where the number is not known here or bytes are missing.

    >>> value_in(0x0C, bytes.fromhex("1af8"))
    1726.0
    """
    known = VALUES.get(number)
    return known.reckon(data) if known is not None and len(data) >= known.size else None


def codes_in(answer: bytes) -> tuple[tuple[int, int], ...]:
    """The codes of an answer to services 03, 07 and 0A, as pairs of bytes. On a bus their number goes before them, on a K-line they come
    in threes and what is empty is 0000: which it is, the length tells.

    >>> codes_in(bytes.fromhex("4301 0301")) == codes_in(bytes.fromhex("43 0301 0000 0000"))
    True
    """
    rest = answer[2:] if len(answer) % 2 == 0 else answer[1:]
    pairs = [(rest[at], rest[at + 1]) for at in range(0, len(rest) - 1, 2)]
    return tuple(pair for pair in pairs if pair != (0, 0))


def vin_in(answer: bytes) -> str:
    """The vehicle's identification number of an answer to 09 02; empty where it holds none."""
    text = answer[3:] if answer[:2] == b"\x49\x02" else answer
    return bytes(byte for byte in text if 0x21 <= byte <= 0x7E).decode("ascii")[-17:]
