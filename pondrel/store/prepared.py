"""Captures made ready to be looked at: samples as plain arrays that are mapped and not read, blocks for drawing, and what was measured
once.

They are made out of the file that came, beside it, and can be made again: nothing here is the record's own. A folder is put in its place
when it is whole.
"""

from __future__ import annotations

import io
import json
import os
import shutil
from collections.abc import Callable
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any, BinaryIO

import numpy as np

from ..core.wave import Capture, Channel, capture_from
from ..core.wave.delay import Delay, changed_of, delays_of
from ..core.wave.measure import averages_of, measures_of, numbers_of
from ..core.wave.phase import Phase, beat_of, phases_of
from ..core.wave.pyramid import Pyramid, pyramid_of
from .db import StoreError

__all__ = ["Counted", "Prepared", "is_prepared", "opened", "prepare", "prepared_path"]

_FOLDER = "captures"
_ABOUT = "about.json"
FORMAT = 3  # of the folder: one of another is made anew
Tell = Callable[[float], None]


def prepared_path(folder: Path, digest: str, full_scale: float | None) -> Path:
    """Where a capture that is made ready lies in the data folder."""
    return folder / _FOLDER / digest[:2] / (digest if full_scale is None else f"{digest}-{full_scale:g}")


class Counted(io.BufferedReader):
    """A file that tells as a share of its size how far it was read."""

    def __init__(self, path: Path, tell: Tell):
        super().__init__(io.FileIO(path), 1 << 20)
        self._size, self._tell, self._last = max(path.stat().st_size, 1), tell, 0.0

    def _told(self, content: bytes) -> bytes:
        share = min(self.tell() / self._size, 1.0)
        if share > self._last + 0.005:
            self._last = share
            self._tell(share)
        return content

    def read(self, size: int | None = -1) -> bytes:
        return self._told(super().read(size))

    def read1(self, size: int = -1) -> bytes:
        return self._told(super().read1(size))


@dataclass(frozen=True, slots=True)
class Prepared:
    """A capture that is made ready: itself with its samples mapped, the blocks of each channel, what was measured of each (by name: value
    and one standard deviation), from when to when each is gone (s), the average of its pulses over time (s, level), and the phases and
    delays between channels."""

    capture: Capture
    pyramids: tuple[Pyramid, ...]
    numbers: tuple[dict[str, tuple[float, float]], ...]
    gone: tuple[tuple[tuple[float, float], ...], ...]
    averages: tuple[tuple[tuple[float, float], ...], ...]
    phases: tuple[Phase, ...]
    delays: tuple[Delay, ...]

    def channel(self, name: str) -> int:
        """The place of a channel by its name or number; the first where there is none of that."""
        for place, channel in enumerate(self.capture.channels):
            if name and (channel.name == name or name == str(place + 1)):
                return place
        return 0


def prepare(stream: BinaryIO, path: Path, full_scale: float | None = None, tell: Tell = lambda share: None) -> Capture:
    """Make a capture ready in ``path``, unless it is already, and return it; ``tell`` is told the share that is done. Raises CaptureError
    where the stream holds none, StoreError where the folder takes nothing."""
    capture = capture_from(stream, full_scale)
    tell(0.75)
    if is_prepared(path):
        return capture
    beside = path.with_name(f".{path.name}.{os.getpid()}")
    try:
        shutil.rmtree(beside, ignore_errors=True)
        beside.mkdir(mode=0o700, parents=True)
        _write(capture, beside, tell)
        shutil.rmtree(path, ignore_errors=True)
        os.replace(beside, path)
    except OSError as error:
        raise StoreError(f"The capture cannot be kept ({error.strerror}): make room and try again.") from error
    finally:
        shutil.rmtree(beside, ignore_errors=True)
    return capture


def _write(capture: Capture, beside: Path, tell: Tell) -> None:
    about: dict[str, Any] = {
        "format": FORMAT, "step": capture.step, "start": capture.start, "notes": list(capture.notes), "channels": [],
    }  # fmt: skip
    count, found = len(capture.channels), []
    for place, channel in enumerate(capture.channels):
        np.save(beside / f"{place}.npy", np.ascontiguousarray(channel.samples))
        pyramid = pyramid_of(capture, channel)
        np.save(beside / f"{place}.blocks.npy", np.stack([pyramid.least, pyramid.most]))
        measures = measures_of(capture, channel)
        found.append(measures)
        about["channels"].append(
            {
                "name": channel.name, "unit": channel.unit, "gain": channel.gain, "offset": channel.offset, "scaled": channel.scaled,
                "numbers": numbers_of(measures), "gone": [list(span) for span in measures.dropouts],
                "averages": averages_of(measures).tolist(),
            }
        )  # fmt: skip
        tell(0.75 + 0.25 * (place + 1) / count)
    about["phases"] = [asdict(phase) for phase in phases_of([beat_of(own) for own in found])]
    about["delays"] = [asdict(delay) for delay in delays_of([changed_of(own) for own in found])]
    (beside / _ABOUT).write_text(json.dumps(about, ensure_ascii=False), encoding="utf-8")


def is_prepared(path: Path) -> bool:
    """Whether a capture lies there ready, in the form of today."""
    try:
        return bool(json.loads((path / _ABOUT).read_text(encoding="utf-8")).get("format") == FORMAT)
    except (OSError, ValueError):
        return False


def opened(path: Path) -> Prepared:
    """A capture that is ready. Raises StoreError where it cannot be read."""
    try:
        about = json.loads((path / _ABOUT).read_text(encoding="utf-8"))
        channels, pyramids = [], []
        for place, own in enumerate(about["channels"]):
            samples = np.load(path / f"{place}.npy", mmap_mode="r")
            blocks = np.load(path / f"{place}.blocks.npy")
            channels.append(Channel(own["name"], own["unit"], samples, own["gain"], own["offset"], own["scaled"]))
            pyramids.append(Pyramid(blocks[0], blocks[1]))
        capture = Capture(tuple(channels), about["step"], about["start"], tuple(about["notes"]))
    except (OSError, ValueError, KeyError) as error:
        raise StoreError("What was made ready of this capture cannot be read: open the page again, it is made anew.") from error
    numbers = tuple({name: (value, u) for name, (value, u) in own["numbers"].items()} for own in about["channels"])
    gone = tuple(tuple((begin, end) for begin, end in own["gone"]) for own in about["channels"])
    averages = tuple(tuple((at, mean) for at, mean in own["averages"]) for own in about["channels"])
    phases, delays = tuple(Phase(**own) for own in about["phases"]), tuple(Delay(**own) for own in about["delays"])
    return Prepared(capture, tuple(pyramids), numbers, gone, averages, phases, delays)
