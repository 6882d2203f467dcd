"""A capture from a WAV file (RIFF): whole numbers of 8 to 32 bits, or floating point, which are volts as they stand."""

from __future__ import annotations

import struct
from typing import Any, BinaryIO

import numpy as np
from numpy.typing import NDArray

from ..base.errors import CaptureError
from .capture import LEAST_SAMPLES, Capture, Channel

__all__ = ["capture_from_wav"]

_PCM, _FLOAT, _EXTENSIBLE = 1, 3, 0xFFFE
_FORMATS = {(_PCM, 8): "<u1", (_PCM, 16): "<i2", (_PCM, 32): "<i4", (_FLOAT, 32): "<f4", (_FLOAT, 64): "<f8"}
_MOST_CHANNELS = 64


def capture_from_wav(stream: BinaryIO, volts_full_scale: float | None) -> Capture:
    """The capture in a WAV file, from where the stream stands. Raises CaptureError with one sentence."""
    head = stream.read(12)
    if head[:4] != b"RIFF" or head[8:12] != b"WAVE":
        raise CaptureError("This is no plain WAV file: a RIFF file with a WAVE in it is wanted.")
    kind = channels = rate = bits = 0
    data: bytes | None = None
    while len(head := stream.read(8)) == 8:
        name, size = struct.unpack("<4sI", head)
        body = stream.read(size) if name in (b"fmt ", b"data") else b""
        if name == b"fmt " and len(body) >= 16:
            kind, channels, rate, _, _, bits = struct.unpack_from("<HHIIHH", body)
            if kind == _EXTENSIBLE and len(body) >= 26:
                kind = struct.unpack_from("<H", body, 24)[0]
        elif name == b"data":
            data = body  # a recorder that was cut off wrote a longer size than there is
            break
        stream.seek(size % 2 + (0 if body else size), 1)
    if not kind or data is None:
        raise CaptureError("This WAV file has no samples: its format or its data are missing.")
    if not 1 <= channels <= _MOST_CHANNELS or not rate:
        raise CaptureError(f"This WAV file names {channels} channels at {rate} samples a second: that is no capture.")
    samples = _whole_numbers_of_24(data) if (kind, bits) == (_PCM, 24) else _samples(data, kind, bits)
    samples = samples[: len(samples) // channels * channels].reshape(-1, channels)
    if len(samples) < LEAST_SAMPLES:
        raise CaptureError(f"There are {len(samples)} samples, and at least {LEAST_SAMPLES} are wanted.")
    whole = kind == _PCM
    full = 1.0 if volts_full_scale is None else volts_full_scale
    gain = full / float(1 << (bits - 1)) if whole else 1.0
    offset = -128.0 * gain if whole and bits == 8 else 0.0
    return Capture(
        tuple(
            Channel(f"channel {number + 1}", "V" if not whole or volts_full_scale is not None else "", samples[:, number], gain, offset,
                    not whole or volts_full_scale is not None)
            for number in range(channels)
        ),
        1.0 / rate,
    )  # fmt: skip


def _samples(data: bytes, kind: int, bits: int) -> NDArray[Any]:
    dtype = _FORMATS.get((kind, bits))
    if dtype is None:
        raise CaptureError(f"This WAV file holds samples of {bits} bits in a packed format: plain PCM or floating point is wanted.")
    own = np.dtype(dtype)
    found = np.frombuffer(data, dtype=own, count=len(data) // own.itemsize)
    if kind == _FLOAT and not np.isfinite(found[:: max(len(found) // 100_000, 1)]).all():
        raise CaptureError("This WAV file holds samples that are no numbers.")
    return found


def _whole_numbers_of_24(data: bytes) -> NDArray[Any]:
    """Three bytes a sample, the lowest first, as whole numbers of 32 bits."""
    raw = np.frombuffer(data, dtype=np.uint8, count=len(data) // 3 * 3).reshape(-1, 3)
    wide = np.zeros((len(raw), 4), dtype=np.uint8)
    wide[:, 1:] = raw
    return wide.reshape(-1).view("<i4") >> 8
