"""Signals of a message unpacked by array operations: for all its frames at once, equal to the bit to what cantools' decoder gives.

A signal is a stretch of bits: little-endian from its lowest bit on upwards, big-endian from its highest bit on downwards, where the
bits of a message are numbered byte by byte, highest first. A whole message of up to eight bytes is one number of 64 bits a frame;
of a longer one, the bytes that hold the signal are.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from itertools import pairwise
from typing import Any

import numpy as np
from cantools.database.can import Signal
from numpy.typing import NDArray

from .frames import Bytes

__all__ = ["Payload", "fits_within", "first_bit", "overlapping", "raw_of", "scaled_of"]

Column = NDArray[Any]
_FLOATS: Mapping[int, str] = {16: "e", 32: "f", 64: "d"}
_ONE = np.uint64(1)


def first_bit(signal: Signal) -> int:
    """The place of the signal's first bit in its byte order: little-endian its lowest; big-endian its highest, bits counted from the
    highest of the first byte."""
    return signal.start if signal.byte_order == "little_endian" else 8 * (signal.start // 8) + 7 - signal.start % 8


def fits_within(signal: Signal, length: int) -> bool:
    """Whether a signal lies wholly in the first ``length`` bytes."""
    return first_bit(signal) + signal.length <= 8 * length


def overlapping(signals: list[Signal]) -> bool:
    """Whether two signals of one byte order share bits: cantools then decodes no frame of their message."""
    for order in ("little_endian", "big_endian"):
        own = sorted((first_bit(signal), signal.length) for signal in signals if signal.byte_order == order)
        if any(before + width > after for (before, width), (after, _) in pairwise(own)):
            return True
    return False


class Payload:
    """The data of some frames of one message, shape (n, length) of uint8, and the numbers that they are when read as a whole."""

    def __init__(self, data: Bytes) -> None:
        self.data = data
        self.length = data.shape[1]
        self._words: dict[str, NDArray[np.uint64]] = {}

    def __len__(self) -> int:
        return len(self.data)

    def bits(self, signal: Signal) -> NDArray[np.uint64]:
        """The bits of a signal of up to 64 bits as a number without sign, shape (n,)."""
        little = signal.byte_order == "little_endian"
        first, width = first_bit(signal), signal.length
        begin, end = (0, self.length) if self.length <= 8 else (first // 8, (first + width - 1) // 8 + 1)
        above = first - 8 * begin if little else 8 * (end - begin) - (first - 8 * begin) - width
        if end - begin > 8:  # up to 64 bits that begin within a byte lie in nine
            byte = np.uint64(8)
            if little:
                value = self._number(begin, end - 1, little) >> np.uint64(above)
                value |= self.data[:, end - 1].astype(np.uint64) << np.uint64(64 - above)
            else:
                value = self._number(begin, end - 1, little) << (byte - np.uint64(above))
                value |= self.data[:, end - 1].astype(np.uint64) >> np.uint64(above)
        else:
            value = self._number(begin, end, little) >> np.uint64(above)
        return value if width == 64 else value & ((_ONE << np.uint64(width)) - _ONE)

    def _number(self, begin: int, end: int, little: bool) -> NDArray[np.uint64]:
        key = f"{begin}:{end}{'<' if little else '>'}"
        if key not in self._words:
            padded = np.zeros((len(self.data), 8), np.uint8)
            own = slice(0, end - begin) if little else slice(8 - (end - begin), 8)
            padded[:, own] = self.data[:, begin:end]
            self._words[key] = padded.view("<u8" if little else ">u8").reshape(-1).astype(np.uint64)
        return self._words[key]

    def wide(self, signal: Signal) -> Column:
        """The bits of a signal of more than 64 bits: Python's own whole numbers, shape (n,) of objects."""
        little = signal.byte_order == "little_endian"
        first, mask = first_bit(signal), (1 << signal.length) - 1
        above = first if little else 8 * self.length - first - signal.length
        found = [(int.from_bytes(row.tobytes(), "little" if little else "big") >> above) & mask for row in self.data]
        return np.array(found, object)


def raw_of(signal: Signal, payload: Payload) -> Column:
    """The raw values of a signal, shape (n,): whole numbers (int64, uint64, or objects beyond 64 bits) or floating ones."""
    width = signal.length
    if signal.conversion.is_float:
        if width not in _FLOATS:
            raise ValueError(f"{signal.name} is a floating number of {width} bits, and there are none but of 16, 32 and 64.")
        bits = payload.bits(signal)
        with np.errstate(invalid="ignore"):  # a signalling NaN is a NaN
            return bits.astype(f"u{width // 8}").view(_FLOATS[width]).astype(float)
    if width > 64:
        value = payload.wide(signal)
        return np.array([one - (1 << width) if one >> (width - 1) else one for one in value], object) if signal.is_signed else value
    value = payload.bits(signal)
    if signal.is_signed:
        rest = np.uint64(64 - width)
        return (value << rest).view(np.int64) >> np.int64(64 - width)
    return value if width == 64 else value.view(np.int64)


def scaled_of(signal: Signal, raw: Column) -> Column:
    """Raw values brought to their unit as cantools' conversions do it, names of values left aside; shape (n,)."""
    scale, offset = signal.conversion.scale, signal.conversion.offset
    if scale == 1 and offset == 0:
        return raw
    whole = not signal.conversion.is_float
    if whole and _is_whole(scale) and _is_whole(offset):
        return _whole_line(raw, int(scale), int(offset), signal.length)
    if whole and isinstance(scale, int):  # the product is exact, and only the sum is rounded
        return _as_float(_whole_line(raw, scale, 0, signal.length)) + float(offset)
    with np.errstate(over="ignore", invalid="ignore"):  # beyond what a double holds lies infinity, in Python too
        return _as_float(raw) * float(scale) + float(offset)


def _whole_line(raw: Column, scale: int, offset: int, width: int) -> Column:
    if raw.dtype != object and (abs(scale) << width) + abs(offset) < 1 << 63:
        return raw.astype(np.int64) * scale + offset
    return np.array([one * scale + offset for one in raw.tolist()], object)


def _as_float(values: Column) -> Column:
    return values.astype(float) if values.dtype != object else np.array([float(one) for one in values], float)


def _is_whole(number: float) -> bool:
    return isinstance(number, int) or (math.isfinite(number) and float(number).is_integer())
