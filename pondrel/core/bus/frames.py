"""Frames of a log as columns: some 24 bytes for one of eight data bytes, so that ten million lie in a quarter of a gigabyte.

A log is read in pieces and each piece is a `Frames`; the columns of all pieces, one behind the other, are the log's.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..base.arrays import Floats

__all__ = [
    "BRS", "ERROR", "ESI", "EXTENDED", "FD", "LIN", "MOST_CHANNELS", "REMOTE", "SENT",
    "Bytes", "ChannelNames", "Codes", "Frames", "Mask", "joined", "no_frames",
]  # fmt: skip

EXTENDED, REMOTE, ERROR, FD, BRS, ESI, SENT, LIN = (1 << bit for bit in range(8))
MOST_CHANNELS = 255

Codes = NDArray[np.integer[Any]]
Bytes = NDArray[np.uint8]
Mask = NDArray[np.bool_]


@dataclass(frozen=True, slots=True, eq=False)
class Frames:
    """Some frames in the order of their log.

    ``time``: s, as the log counts, shape (n,). ``id``: the identifier of 11 or 29 bits (uint32), 0 of an error frame. ``flags``: of
    uint8, a sum of `EXTENDED`, `REMOTE`, `ERROR`, `FD`, `BRS` (data at the higher rate), `ESI` (its sender is error passive), `SENT`
    (by whoever logged) and `LIN`. ``channel``: the place of its channel in `ChannelNames` (uint8). ``length``: data bytes (uint8); of a
    remote frame as many as are asked for, though none lie in ``data``: the data bytes of all, one behind the other (uint8).
    """

    time: Floats
    id: Codes
    flags: Codes
    channel: Codes
    length: Codes
    data: Bytes

    def __len__(self) -> int:
        return len(self.time)

    @property
    def stored(self) -> Codes:
        """How many data bytes of each frame there are, shape (n,) of int64."""
        return np.where(self.flags & REMOTE, 0, self.length).astype(np.int64)

    @property
    def begins(self) -> Codes:
        """Where in ``data`` each frame's bytes begin, shape (n,) of int64."""
        stored = self.stored
        return np.cumsum(stored) - stored

    def has(self, flag: int) -> Mask:
        """Which frames carry a flag."""
        return np.asarray((self.flags & flag) != 0)

    def payload(self, which: Codes, begins: Codes, length: int) -> Bytes:
        """The first ``length`` bytes of some frames (their places and `begins`), each of which has as many; shape (frames, length)."""
        at = begins[which][:, None] + np.arange(length)
        return np.asarray(self.data[at])

    def bytes_of(self, place: int, begins: Codes) -> bytes:
        """The data of one frame."""
        length = 0 if self.flags[place] & REMOTE else int(self.length[place])
        return self.data[int(begins[place]) : int(begins[place]) + length].tobytes()

    def part(self, first: int, last: int) -> Frames:
        """The frames from one place up to another one, which is no longer of them; columns are not copied."""
        cut = slice(first, last)
        begin = int(self.stored[:first].sum())
        data = self.data[begin : begin + int(self.stored[cut].sum())]
        return Frames(self.time[cut], self.id[cut], self.flags[cut], self.channel[cut], self.length[cut], data)

    def parts(self, count: int) -> Iterator[tuple[int, Frames]]:
        """All frames, ``count`` at a time, each part with the place of its first frame."""
        begin = 0
        for first in range(0, len(self), count):
            cut = slice(first, first + count)
            flags, length = self.flags[cut], self.length[cut]
            stored = int(np.where(flags & REMOTE, 0, length).sum(dtype=np.int64))
            yield first, Frames(self.time[cut], self.id[cut], flags, self.channel[cut], length, self.data[begin : begin + stored])
            begin += stored

    def only(self, which: Mask) -> Frames:
        """Those of them that ``which`` (n,) names."""
        kept = np.repeat(which, self.stored)
        return Frames(self.time[which], self.id[which], self.flags[which], self.channel[which], self.length[which], self.data[kept])


def no_frames() -> Frames:
    """None at all."""
    return Frames(
        np.zeros(0), np.zeros(0, np.uint32), np.zeros(0, np.uint8), np.zeros(0, np.uint8), np.zeros(0, np.uint8), np.zeros(0, np.uint8)
    )


def joined(pieces: Sequence[Frames]) -> Frames:
    """Pieces of one log, one behind the other."""
    if len(pieces) == 1:
        return pieces[0]
    columns = ("time", "id", "flags", "channel", "length", "data")
    return Frames(*(np.concatenate([getattr(piece, name) for piece in pieces]) for name in columns)) if pieces else no_frames()


class ChannelNames:
    """The channels of a log by name, numbered in the order in which they turn up."""

    def __init__(self, names: Sequence[str] = ()) -> None:
        self._places = {name: place for place, name in enumerate(names)}

    @property
    def names(self) -> tuple[str, ...]:
        """Names by their place."""
        return tuple(self._places)

    def place(self, name: str) -> int:
        """The place of a channel; beyond `MOST_CHANNELS` all others share the last."""
        return min(self._places.setdefault(name, len(self._places)), MOST_CHANNELS)
