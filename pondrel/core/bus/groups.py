"""Frames sorted by what they are: channel, identifier and kind, each with the places of its frames in the log's order."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from .frames import ERROR, EXTENDED, LIN, Codes, Frames

__all__ = ["Group", "groups_of"]

_KIND = EXTENDED | LIN


@dataclass(frozen=True, slots=True, eq=False)
class Group:
    """The frames of one identifier on one channel: the channel's place, the identifier, whether it is of 29 bits, whether of LIN, and
    the places of its frames, ascending (int64)."""

    channel: int
    id: int
    extended: bool
    lin: bool
    places: Codes


def groups_of(frames: Frames) -> Iterator[Group]:
    """All groups, by channel and identifier; frames that only tell of an error are of none."""
    keys = (frames.channel.astype(np.uint64) << np.uint64(40)) | ((frames.flags & (_KIND | ERROR)).astype(np.uint64) << np.uint64(32))
    keys |= frames.id
    known = np.unique(keys)
    # Codes of 16 bits are sorted by their digits, in time that grows with their number only.
    codes = np.searchsorted(known, keys).astype(np.uint16 if len(known) <= 1 << 16 else np.int64)
    order = np.argsort(codes, kind="stable")
    ends = np.cumsum(np.bincount(codes, minlength=len(known))).tolist()
    begin = 0
    for key, end in zip(known.tolist(), ends, strict=True):
        flags = (key >> 32) & 0xFF
        if not flags & ERROR:
            yield Group(key >> 40, key & 0xFFFFFFFF, bool(flags & EXTENDED), bool(flags & LIN), order[begin:end])
        begin = end
