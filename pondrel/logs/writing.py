"""A log written anew, in one of the formats of text, packed where its name ends in .gz."""

from __future__ import annotations

import gzip
import io
import os
from collections.abc import Iterable
from pathlib import Path

from ..core.base.errors import ReadingError
from ..core.bus.formats.registry import TEXT_FORMATS, TextFormat
from ..core.bus.frames import LIN, ChannelNames, Frames

__all__ = ["format_for", "write_log"]


def format_for(path: Path) -> TextFormat:
    """The format that a file's name asks for. Raises `ReadingError` where it names none that is written."""
    suffix = (path.with_suffix("").suffix if path.suffix.lower() == ".gz" else path.suffix).lower()
    own = next((form for form in TEXT_FORMATS.values() if suffix in form.suffixes), None)
    if own is None:
        raise ReadingError(f"{path.name}: logs are written as .log (candump), .asc or .csv, each also with .gz behind it.")
    return own


def write_log(path: Path, pieces: Iterable[Frames], channels: ChannelNames) -> tuple[int, tuple[str, ...]]:
    """Write frames to a file, whole or not at all; how many, and what the format could not hold."""
    own = format_for(path)
    part = path.with_name(f"{path.name}.part")
    count = lin = 0
    start: float | None = None
    try:
        with part.open("wb") as raw:
            packed = gzip.GzipFile(filename="", fileobj=raw, mode="wb", compresslevel=6, mtime=0) if path.suffix.lower() == ".gz" else raw
            with io.TextIOWrapper(packed, encoding="utf-8", write_through=False, newline="\n") as file:
                for frames in pieces:
                    if start is None:
                        start = float(frames.time[0])
                        file.write(own.heading(start))
                    if own.name == "candump" and frames.has(LIN).any():
                        lin += int(frames.has(LIN).sum())
                        frames = frames.only(~frames.has(LIN))
                    file.writelines(own.lines(frames, channels.names, start))
                    count += len(frames)
                if start is None:
                    file.write(own.heading(0.0))
        os.replace(part, path)
    except OSError as error:
        raise ReadingError(f"{path} cannot be written: {error.strerror}.") from error
    finally:
        part.unlink(missing_ok=True)
    said = (f"{lin} frames of LIN were left out: candump's format knows none.",) if lin else ()
    return count, said
