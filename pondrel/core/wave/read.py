"""A capture from a file, whatever its form: CSV by any delimiter with a point or a comma, WAV, VCD, or arrays of numpy."""

from __future__ import annotations

from typing import BinaryIO

import numpy as np

from ..base.brief import quoted
from ..base.errors import CaptureError
from .capture import Capture
from .csv_file import capture_from_csv
from .npz_file import capture_from_npy, capture_from_npz
from .vcd_file import capture_from_vcd
from .wav_file import capture_from_wav

__all__ = ["MOST_BYTES", "capture_from"]

MOST_BYTES = 600_000_000
MOST_LEVEL = 1e12  # of a channel's unit: far beyond what anybody measures, and its square is still a number
STEPS = (1e-16, 1e5)  # seconds from sample to sample
MOST_START = 1e12  # seconds: a clock that counts from 1970 is at some 1.8e9


def capture_from(stream: BinaryIO, volts_full_scale: float | None = None) -> Capture:
    """The capture in a file that can be read anywhere. ``volts_full_scale`` is what the largest sample of a WAV with whole numbers stands
    for. Raises CaptureError with one sentence."""
    size = stream.seek(0, 2)
    if not size:
        raise CaptureError("The file is empty: a capture as CSV, WAV, VCD or .npz is wanted.")
    if size > MOST_BYTES:
        raise CaptureError(
            f"The file has {size / 1e6:.0f} MB, and {MOST_BYTES / 1e6:.0f} MB are the "
            "most: take a shorter capture, or fewer samples a second."
        )
    stream.seek(0)
    return _within_reason(_read(stream, volts_full_scale))


def _read(stream: BinaryIO, volts_full_scale: float | None) -> Capture:
    head = stream.read(64)
    stream.seek(0)
    if head[:4] in (b"RIFF", b"RF64", b"RIFX"):
        return capture_from_wav(stream, volts_full_scale)
    if head[:4] == b"PK\x03\x04":
        return capture_from_npz(stream)
    if head[:6] == b"\x93NUMPY":
        return capture_from_npy(stream)
    if head.lstrip()[:1] == b"$":
        return capture_from_vcd(stream)
    return capture_from_csv(stream)


def _within_reason(capture: Capture) -> Capture:
    """The capture, unless what it holds can be no measurement: then CaptureError. What comes after may square and add its numbers."""
    if not STEPS[0] <= capture.step <= STEPS[1] or abs(capture.start) > MOST_START:
        raise CaptureError(f"Its samples are {capture.step:g} s apart and begin at {capture.start:g} s: that is no time of a capture.")
    for channel in capture.channels:
        most = max(abs(float(np.min(channel.samples))), abs(float(np.max(channel.samples)))) * abs(channel.gain)
        if not most <= MOST_LEVEL:
            raise CaptureError(f"{quoted(channel.name)} goes to {most:g}: no channel of a capture goes beyond {MOST_LEVEL:g}.")
    return capture
