"""Logs in binary and other formats by python-can's readers, a batch of frames at a time."""

from __future__ import annotations

import io
import logging
import math
import threading
from collections.abc import Iterator
from pathlib import Path
from typing import Any, BinaryIO

import can
import numpy as np

from ..core.base.errors import ReadingError
from ..core.bus.frames import BRS, ERROR, ESI, EXTENDED, FD, REMOTE, SENT, ChannelNames, Frames

__all__ = ["PACKAGED", "PackagedReader", "frames_of"]

_BATCH = 20_000


class _Said(logging.Handler):
    """What python-can tells of in its log only: lines and objects that it leaves out."""

    def __init__(self) -> None:
        super().__init__(logging.WARNING)
        self.first, self.count, self._thread = "", 0, threading.get_ident()

    def emit(self, record: logging.LogRecord) -> None:
        """Count it, if it is of this reading."""
        if threading.get_ident() == self._thread:
            self.first = self.first or record.getMessage()
            self.count += 1


def _trc(file: BinaryIO) -> Any:
    return can.TRCReader(io.TextIOWrapper(file, encoding="utf-8", errors="replace"))


def _mdf(file: BinaryIO) -> Any:
    try:
        return can.MF4Reader(file)
    except NotImplementedError:
        raise ReadingError("MDF4 logs are read by the package asammdf, which is not installed: pip install 'pondrel[mdf]'.") from None


PACKAGED = {"trc": _trc, "mdf": _mdf}


class PackagedReader:
    """Reads a log that python-can knows; what it broke off at is told as a note."""

    def __init__(self, kind: str) -> None:
        self.channels = ChannelNames()
        self._kind = kind
        self._said: list[str] = []

    @property
    def notes(self) -> tuple[str, ...]:
        """What is to be said of what was read so far."""
        return tuple(self._said)

    def frames(self, file: BinaryIO) -> Iterator[Frames]:
        """The frames of a file, a batch at a time."""
        batch: list[can.Message] = []
        count = wrong = 0
        told, own = _Said(), logging.getLogger("can.io")
        own.addHandler(told)
        try:
            reader = PACKAGED[self._kind](file)
            for message in reader:
                if not message.is_error_frame and not (0 <= message.arbitration_id < 1 << 29 and math.isfinite(message.timestamp)):
                    wrong += 1
                    continue
                batch.append(message)
                count += 1
                if len(batch) == _BATCH:
                    yield frames_of(batch, self.channels)
                    batch = []
        except ReadingError:
            raise
        except Exception as error:  # whatever a damaged file does to a reader: what came before it stands
            if not count:
                raise ReadingError(f"The file cannot be read as {self._kind.upper()}: it is damaged or not of that kind.") from error
            self._said.append(f"The file is damaged or breaks off behind frame {count}: what comes after is not read.")
        else:
            if not count:
                self._said.append("There are no frames in it.")
        finally:
            own.removeHandler(told)
        if wrong:
            self._said.append(f"{wrong} things in it have no identifier of 29 bits or no time, and were left out.")
        if told.count:
            self._said.append(f"{told.count} things in it were left out, the first: {told.first.rstrip('.')}.")
        if batch:
            yield frames_of(batch, self.channels)


def frames_of(batch: list[can.Message], channels: ChannelNames) -> Frames:
    """Messages of python-can as columns."""
    flags, data, length = [], [], []
    for one in batch:
        payload = bytes(one.data or b"")
        flags.append(
            (EXTENDED if one.is_extended_id else 0) | (REMOTE if one.is_remote_frame else 0) | (ERROR if one.is_error_frame else 0)
            | (FD if one.is_fd else 0) | (BRS if one.bitrate_switch else 0) | (ESI if one.error_state_indicator else 0)
            | (0 if one.is_rx else SENT)
        )  # fmt: skip
        if one.is_error_frame:
            payload, flags[-1] = b"", ERROR
        length.append(min(one.dlc, 64) if one.is_remote_frame and not one.is_error_frame else len(payload))
        data.append(b"" if one.is_remote_frame else payload)
    return Frames(
        np.array([one.timestamp for one in batch], float),
        np.array([0 if one.is_error_frame else one.arbitration_id for one in batch], np.uint32),
        np.array(flags, np.uint8),
        np.array([channels.place(_name(one.channel)) for one in batch], np.uint8),
        np.array(length, np.uint8),
        np.frombuffer(b"".join(data), np.uint8),
    )


def _name(channel: object) -> str:
    return "1" if channel is None or channel == "" else str(channel)


def looks_like(head: bytes, path: Path) -> str | None:
    """Which of `PACKAGED` a file is by its first bytes and its name; None for none of them."""
    if head.startswith((b"MDF ", b"UnFinMF")):
        return "mdf"
    if head.lstrip().startswith(b";"):
        return "trc"
    named = {".mf4": "mdf", ".mdf": "mdf", ".trc": "trc"}
    return named.get(path.suffixes[-1].lower() if path.suffixes else "")
