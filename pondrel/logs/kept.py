"""A log's frames kept as columns beside its file: made once from the file, mapped and not read from then on, and made again where they
are gone. A folder is put in its place when it is whole."""

from __future__ import annotations

import json
import os
import shutil
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..core.base.errors import ReadingError
from ..core.bus.frames import Frames, no_frames
from .reading import LogFile

__all__ = ["KeptLog", "is_kept", "keep", "kept", "kept_path"]

_FOLDER = "buses"
_ABOUT = "about.json"
FORMAT = 1  # of the folder: one of another is made anew
MOST_FRAMES = 50_000_000
_COLUMNS = {"time": "f8", "id": "u4", "flags": "u1", "channel": "u1", "length": "u1", "data": "u1"}


@dataclass(frozen=True, slots=True, eq=False)
class KeptLog:
    """A log as it is kept: its frames (columns mapped from their files), channels by name, format, what is to be said of it."""

    frames: Frames
    channels: tuple[str, ...]
    kind: str
    notes: tuple[str, ...]

    @property
    def seconds(self) -> float:
        """From the first frame to the last."""
        return float(self.frames.time.max() - self.frames.time.min()) if len(self.frames) else 0.0


def kept_path(folder: Path, digest: str) -> Path:
    """Where a log's columns lie in the data folder."""
    return folder / _FOLDER / digest[:2] / digest


def is_kept(path: Path) -> bool:
    """Whether the columns are there, in the way that this program writes them."""
    try:
        return bool(json.loads((path / _ABOUT).read_text(encoding="utf-8"))["format"] == FORMAT)
    except (OSError, ValueError, KeyError):
        return False


def keep(source: Path, target: Path, name: str, tell: Callable[[float], None] = lambda share: None) -> KeptLog:
    """Read a log and keep its columns, a piece at a time; ``name``: what the file is called, which may tell its format.

    Raises `ReadingError` where the file is no log, holds no frames or more than `MOST_FRAMES`.
    """
    log = LogFile(source, name)
    part = target.with_name(f"{target.name}.{os.getpid()}.part")
    shutil.rmtree(part, ignore_errors=True)
    part.mkdir(parents=True)
    count = 0
    try:
        files = {column: (part / f"{column}.bin").open("wb") for column in _COLUMNS}
        try:
            for frames in log:
                for column, kind in _COLUMNS.items():
                    np.ascontiguousarray(getattr(frames, column), kind).tofile(files[column])
                count += len(frames)
                if count > MOST_FRAMES:
                    raise ReadingError(f"{name} has more than {MOST_FRAMES // 1_000_000} million frames: cut it into shorter logs.")
                tell(log.share)
        finally:
            for file in files.values():
                file.close()
        if not count:
            raise ReadingError(f"There are no frames in {name}. {' '.join(log.notes)}".strip())
        about = {"format": FORMAT, "channels": list(log.channels.names), "kind": log.kind, "notes": list(log.notes)}
        (part / _ABOUT).write_text(json.dumps(about, ensure_ascii=False), encoding="utf-8")
        shutil.rmtree(target, ignore_errors=True)
        os.replace(part, target)
    finally:
        shutil.rmtree(part, ignore_errors=True)
    return kept(target)


def kept(path: Path) -> KeptLog:
    """A log's columns, mapped. Raises `ReadingError` where they cannot be."""
    try:
        about = json.loads((path / _ABOUT).read_text(encoding="utf-8"))
        columns = {name: _mapped(path / f"{name}.bin", kind) for name, kind in _COLUMNS.items()}
    except (OSError, ValueError) as error:
        raise ReadingError("What was read of this log is gone or damaged: put the data folder's files back.") from error
    frames = Frames(**columns) if len(columns["time"]) else no_frames()
    return KeptLog(frames, tuple(about["channels"]), about["kind"], tuple(about["notes"]))


def _mapped(path: Path, kind: str) -> NDArray[Any]:
    return np.memmap(path, kind, "r") if path.stat().st_size else np.zeros(0, kind)
