"""A capture from a file, whatever its form: CSV by any delimiter with a point or a comma, WAV, VCD, or arrays of numpy."""

from __future__ import annotations

from typing import BinaryIO

from ..base.errors import CaptureError
from .capture import Capture
from .csv_file import capture_from_csv
from .npz_file import capture_from_npy, capture_from_npz
from .vcd_file import capture_from_vcd
from .wav_file import capture_from_wav

__all__ = ["MOST_BYTES", "capture_from"]

MOST_BYTES = 600_000_000


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
