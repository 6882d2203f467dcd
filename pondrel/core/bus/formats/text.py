"""What readers of text logs share: regular lines by arrays, the others one by one, all in the order of the log."""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import Protocol

import numpy as np

from ..frames import REMOTE, ChannelNames, Codes, Frames, Mask, joined, no_frames
from .lines import Lines, Places
from .odd import Odd

__all__ = ["Reader", "TextReader", "fields_joined", "from_fields"]

_LONGEST_NAME = 32


class Reader(Protocol):
    """Reads a log in pieces: whole lines of a text, one after the other."""

    channels: ChannelNames

    def piece(self, text: bytes) -> Frames:
        """The frames of some whole lines."""

    @property
    def notes(self) -> tuple[str, ...]:
        """What is to be said of what was read so far."""


def from_fields(time: float, identity: int, flags: int, channel: int, data: bytes, asked: int | None = None) -> Frames:
    """One frame; ``asked``: the length that a remote frame asks for, of which 8 is the most.

    Raises ValueError where its time or that length is no such number.
    """
    if not math.isfinite(time) or (asked or 0) < 0:
        raise ValueError(f"{time} s, length {asked}")
    return Frames(
        np.array([time]),
        np.array([identity], np.uint32),
        np.array([flags], np.uint8),
        np.array([channel], np.uint8),
        np.array([len(data) if asked is None else min(asked, 8)], np.uint8),
        np.frombuffer(data, np.uint8) if not flags & REMOTE else np.zeros(0, np.uint8),
    )


def fields_joined(frames: Frames) -> Iterator[tuple[float, int, int, int, int]]:
    """Time, identifier, flags, channel and length of each frame as Python's own numbers."""
    columns = (frames.time, frames.id, frames.flags, frames.channel, frames.length)
    return zip(*(column.tolist() for column in columns), strict=True)


class TextReader:
    """A reader of lines: `_regular` reads what it can by arrays, `_odd_line` one of the others."""

    def __init__(self) -> None:
        self.channels = ChannelNames()
        self.odd = Odd()

    @property
    def notes(self) -> tuple[str, ...]:
        """What is to be said of what was read so far."""
        return self.odd.notes

    def piece(self, text: bytes) -> Frames:
        """The frames of some whole lines."""
        if not text.strip():
            return no_frames()
        lines = Lines(text)
        regular, frames = self._regular(lines)
        others = np.flatnonzero(~regular & (lines.words > 0))
        if not len(others):
            return frames
        before = np.cumsum(regular)
        found: list[tuple[int, Frames]] = []
        for place in others:
            try:
                own = self._odd_line(lines, int(place))
            except ValueError:
                self.odd.tell("wrong", f"{lines.line(int(place))[:60]!r}")
                continue
            if own is not None:
                found.append((int(before[place]), own))
        return _woven(frames, found)

    def _regular(self, lines: Lines) -> tuple[Mask, Frames]:
        raise NotImplementedError

    def _odd_line(self, lines: Lines, place: int) -> Frames | None:
        raise NotImplementedError

    def _channels_of(self, lines: Lines, begins: Places, ends: Places, good: Mask) -> tuple[Codes, Mask]:
        """The channel of each line by the word that names it, and whether it can be read here."""
        widths = ends - begins
        named = good & (widths <= _LONGEST_NAME)
        width = int(widths[named].max()) if named.any() else 0
        places = np.zeros(len(begins), np.uint8)
        if not width:
            return places, named
        # A name as numbers of eight characters each: the same name, the same numbers.
        keys = np.zeros((len(begins), -(-width // 8)), np.uint64)
        for place in range(width):
            here = named & (place < widths)
            character = np.where(here, lines.text[np.where(here, begins + place, 0)], 0).astype(np.uint64)
            keys[:, place // 8] = (keys[:, place // 8] << np.uint64(8)) | character
        which = np.flatnonzero(named)
        if keys.shape[1] == 1 and len(which):
            _, first, back = np.unique(keys[which, 0], return_index=True, return_inverse=True)
        else:
            _, first, back = np.unique(keys[which], axis=0, return_index=True, return_inverse=True)
        own = np.zeros(len(first), np.uint8)
        for place in np.argsort(first):  # numbered in the order in which they turn up
            line = which[first[place]]
            name = lines.raw[int(begins[line]) : int(ends[line])].decode("utf-8", "replace")
            own[place] = self.channels.place(self._channel_called(name))
        places[which] = own[back.reshape(-1)]
        return places, named

    def _channel_called(self, word: str) -> str:
        return word


def _woven(frames: Frames, others: list[tuple[int, Frames]]) -> Frames:
    """Frames with others put in, each before the frame at its place."""
    if not others:
        return frames
    pieces, done = [], 0
    begins = np.append(frames.begins, len(frames.data))
    for place, own in others:
        if place > done:
            cut = slice(done, place)
            data = frames.data[begins[done] : begins[place]]
            pieces.append(Frames(frames.time[cut], frames.id[cut], frames.flags[cut], frames.channel[cut], frames.length[cut], data))
        pieces.append(own)
        done = place
    cut = slice(done, len(frames))
    pieces.append(
        Frames(frames.time[cut], frames.id[cut], frames.flags[cut], frames.channel[cut], frames.length[cut], frames.data[begins[done] :])
    )
    return joined(pieces)
