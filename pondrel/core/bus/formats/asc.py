"""Logs with a heading of date, base and kind of time, and then an event a line: ``0.015991 1  123  Rx  d 8 01 02 ..``.

Many programs write such text, each in a dialect of its own. What is known of it here comes from python-can's reader and writer and,
for LIN, statistics and symbolic names, from memory.
"""

from __future__ import annotations

import re
from collections.abc import Iterator

import numpy as np

from ...base.arrays import Floats
from ..frames import BRS, ERROR, ESI, EXTENDED, FD, LIN, REMOTE, SENT, Frames, Mask
from .lengths import fd_code
from .lines import Lines
from .text import TextReader, fields_joined, from_fields

__all__ = ["AscReader", "asc_lines"]

_BASE = re.compile(rb"^\s*base\s+(hex|dec)(?:\s+timestamps\s+(absolute|relative))?", re.IGNORECASE | re.MULTILINE)
_HEADING = 4096
_EVENT = re.compile(r"\d+[.,]\d+\s")
_HEADER = re.compile(r"(date|base|begin|end|no\s+internal|internal|measurement|previous|split)\b|//|\*", re.IGNORECASE)
_START = re.compile(r"\d+[.,]\d+\s+(start of measurement|stop of measurement)", re.IGNORECASE)
_LIN = re.compile(
    r"(?P<time>\d+[.,]\d+)\s+(?P<channel>L(?:i|\d+))\s+(?P<id>[0-9A-Fa-f]+)\s+(?P<way>[RT]x)\s+(?P<count>\d+)(?P<data>(?:\s+[0-9A-Fa-f]{1,3}\b)*)"
)


class AscReader(TextReader):
    """Reads such a log in pieces; its heading says whether numbers are hexadecimal and times count from the line before."""

    def __init__(self) -> None:
        super().__init__()
        self._base: int | None = None
        self._relative = False
        self._elapsed = 0.0
        self._times: Floats = np.zeros(0)

    def _regular(self, lines: Lines) -> tuple[Mask, Frames]:
        if self._base is None:
            said = _BASE.search(lines.raw[:_HEADING])
            self._base = 10 if said and said[1].lower() == b"dec" else 16
            self._relative = bool(said and said[2] and said[2].lower() == b"relative")
        timed = np.flatnonzero(lines.words > 0)
        read, right = lines.decimal(*lines.word(timed, 0))
        read = np.where(right, read, 0.0)
        if self._relative:
            read = read.cumsum() + self._elapsed
            self._elapsed = float(read[-1]) if len(read) else self._elapsed
        self._times = np.zeros(len(lines))
        self._times[timed] = read
        is_timed = np.zeros(len(lines), bool)
        is_timed[timed] = right
        return self._frames(lines, is_timed)

    def _frames(self, lines: Lines, timed: Mask) -> tuple[Mask, Frames]:
        which = np.flatnonzero(timed & (lines.words >= 6))
        begins, ends = lines.word(which, 1)
        flexible = lines.is_word(begins, ends, b"canfd")
        flexible[flexible] = lines.words[which[flexible]] >= 9
        # Places of words: channel, way, identifier; then 'd' and the length (classic) or two marks and two lengths (FD).
        channel_begins, channel_ends = lines.word(which, np.where(flexible, 2, 1))
        way_begins, way_ends = lines.word(which, 3)
        id_begins, id_ends = lines.word(which, np.where(flexible, 4, 2))
        sent = lines.is_word(way_begins, way_ends, b"tx", b"txrq")
        good = sent | lines.is_word(way_begins, way_ends, b"rx")
        _, right = lines.whole(channel_begins, channel_ends, 10)
        good &= right
        extended = (lines.text[id_ends - 1] | 32) == ord("x")
        identity, right = lines.whole(id_begins, id_ends - extended, self._base or 16)
        good &= right & (identity < np.where(extended, 1 << 29, 1 << 11))
        mark_begins, mark_ends = lines.word(which, np.where(flexible, 5, 4))
        data_frame = lines.is_word(mark_begins, mark_ends, b"d")
        named = flexible & ~lines.is_word(mark_begins, mark_ends, b"0", b"1")
        good &= flexible | data_frame
        good &= ~(named & (lines.words[which] < 10))
        at_brs = np.where(good & flexible, 5 + named, 0)
        higher = lines.is_word(*lines.word(which, at_brs), b"1")
        passive = lines.is_word(*lines.word(which, np.where(good & flexible, at_brs + 1, 0)), b"1")
        at_length = np.where(flexible, at_brs + 3, 5)
        at_length = np.where(good, at_length, 0)
        length, right = lines.whole(*lines.word(which, at_length), 10)
        good &= right & (length <= np.where(flexible, 64, 8)) & ((length > 0) | ~flexible)
        counts = np.where(good, length, 0).astype(np.int64)
        good &= lines.words[which] >= at_length + 1 + counts
        counts = np.where(good, counts, 0)
        first = lines.first[which] + at_length + 1
        total = int(counts.sum())
        words = np.repeat(first - (np.cumsum(counts) - counts), counts) + np.arange(total)
        data, right = lines.whole(lines.word_begins[words], lines.word_ends[words], self._base or 16)
        line = np.repeat(np.arange(len(which)), counts)
        good[line[~right | (data > 255)]] = False
        kind = (extended * EXTENDED | sent * SENT | flexible * FD | (flexible & higher) * BRS | (flexible & passive) * ESI).astype(np.uint8)
        channel, known = self._channels_of(lines, channel_begins, channel_ends, good)
        good &= known
        regular = np.zeros(len(lines), bool)
        regular[which[good]] = True
        frames = Frames(
            self._times[which[good]], identity[good].astype(np.uint32), kind[good], channel[good], counts[good].astype(np.uint8),
            data[np.repeat(good, counts)].astype(np.uint8),
        )  # fmt: skip
        return regular, frames

    def _odd_line(self, lines: Lines, place: int) -> Frames | None:
        line = lines.line(place)
        if not _EVENT.match(line) or _START.match(line):
            if not _HEADER.match(line) and not _START.match(line):
                self.odd.tell("wrong", f"{line[:60]!r}")
            return None
        words = line.split()
        time = self._times[place] or (0.0 if self._relative else float(words[0].replace(",", ".")))
        own = self._lin(line, time) if words[1][:1] in "Ll" else self._can(words, time)
        if own is None:
            is_frame = len(words) > 3 and any(word.lower() in ("rx", "tx") for word in words[2:5])
            self.odd.tell("wrong" if is_frame else "event", f"{line[:60]!r}")
        return own

    def _lin(self, line: str, time: float) -> Frames | None:
        found = _LIN.match(line)
        if found is None:
            return None
        base = self._base or 16
        count = min(int(found["count"]), 8)
        data = [int(word, base) for word in found["data"].split()[:count]]
        if len(data) < count or max(data, default=0) > 255 or int(found["id"], base) > 63:
            return None
        kind = LIN | (SENT if found["way"] == "Tx" else 0)
        return from_fields(time, int(found["id"], base), kind, self.channels.place(found["channel"]), bytes(data))

    def _can(self, words: list[str], time: float) -> Frames | None:
        flexible = words[1].upper() == "CANFD"
        rest = words[2:] if flexible else words[1:]
        if not rest or not rest[0].isdigit():
            return None
        place = self.channels.place(rest[0])
        if any(word.lower().startswith("errorframe") for word in rest[1:3]):
            return from_fields(time, 0, ERROR, place, b"")
        try:
            return self._flexible(rest, time, place) if flexible else self._classic(rest, time, place)
        except (ValueError, IndexError):
            return None

    def _identity(self, word: str) -> tuple[int, int]:
        extended = word[-1] in "xX"
        identity = int(word[:-1] if extended else word, self._base or 16)
        if not 0 <= identity < 1 << 29:
            raise ValueError(word)
        return identity, EXTENDED if extended or identity > 0x7FF else 0

    def _classic(self, rest: list[str], time: float, place: int) -> Frames | None:
        identity, kind = self._identity(rest[1])
        way, mark = rest[2].lower(), rest[3].lower()
        if way not in ("rx", "tx", "txrq") or mark not in ("d", "r"):
            return None
        kind |= SENT if way != "rx" else 0
        base = self._base or 16
        if mark == "r":
            asked = int(rest[4], base) if len(rest) > 4 and rest[4].isalnum() and rest[4].lower() != "length" else 0
            return from_fields(time, identity, kind | REMOTE, place, b"", asked)
        code = int(rest[4], base)
        if not 0 <= code <= 15:
            return None
        length = min(code, 8)
        if len(rest) < 5 + length:
            return None
        data = bytes(int(word, base) for word in rest[5 : 5 + length])
        return from_fields(time, identity, kind, place, data)

    def _flexible(self, rest: list[str], time: float, place: int) -> Frames | None:
        way = rest[1].lower()
        identity, kind = self._identity(rest[2])
        at = 3 if rest[3] in ("0", "1") else 4
        if way not in ("rx", "tx", "txrq") or rest[at] not in ("0", "1"):
            return None
        base = self._base or 16
        kind |= FD | (BRS if rest[at] == "1" else 0) | (ESI if rest[at + 1] == "1" else 0) | (SENT if way != "rx" else 0)
        code, length = int(rest[at + 2], base), int(rest[at + 3])
        if not length and code:
            return from_fields(time, identity, kind & ~(FD | BRS | ESI) | REMOTE, place, b"", code)
        data = rest[at + 4 : at + 4 + length]
        if length > 64 or len(data) < length:
            return None
        return from_fields(time, identity, kind, place, bytes(int(word, base) for word in data))


def asc_lines(frames: Frames, names: tuple[str, ...], start: float) -> Iterator[str]:
    """Frames as lines below the heading of such a log; times count from ``start`` (s). A channel that has no number gets its place."""
    begins = frames.begins
    numbers = [name if name.isdigit() and name != "0" else str(place + 1) for place, name in enumerate(names)]
    if len(set(numbers)) < len(numbers):
        numbers = [str(place + 1) for place in range(len(names))]
    for place, (time, identity, flags, channel, length) in enumerate(fields_joined(frames)):
        head = f"{time - start:11.6f}"
        number = numbers[channel] if channel < len(numbers) else str(channel + 1)
        if flags & ERROR:
            yield f"{head} {number}  ErrorFrame\n"
            continue
        known = f"{identity:X}x" if flags & EXTENDED else f"{identity:X}"
        way = "Tx" if flags & SENT else "Rx"
        data = frames.bytes_of(place, begins)
        if flags & LIN:
            yield f"{head} L{number} {identity:x} {way} {len(data)} {data.hex(' ')}\n"
        elif flags & REMOTE:
            yield f"{head} {number}  {known:<15} {way:<4} r {length:x}\n"
        elif flags & FD:
            marks = f"{int(bool(flags & BRS))} {int(bool(flags & ESI))} {fd_code(length):x} {length:2d}"
            yield (
                f"{head} CANFD {number:>3} {way:<4} {known:>8}  {'':>32} {marks} {data.hex(' ').upper()} "
                f"{'0':>8} {'0':>4} {0x1000 | bool(flags & BRS) << 13 | bool(flags & ESI) << 14:>8X} 0 0 0 0 0\n"
            )
        else:
            yield f"{head} {number}  {known:<15} {way:<4} d {length:x} {data.hex(' ').upper()}\n"
