"""Logs with one frame a line as ``(1700000000.123456) can0 123#11223344``: what the tools of Linux' SocketCAN write."""

from __future__ import annotations

import re
from collections.abc import Iterator

import numpy as np

from ..frames import BRS, ERROR, ESI, EXTENDED, FD, REMOTE, SENT, Frames, Mask
from .lines import Lines
from .odd import Odd
from .text import TextReader, fields_joined, from_fields

__all__ = ["CandumpReader", "candump_lines"]

# Bits of an identifier of eight digits, as <linux/can.h> lays them out.
_ERROR_BIT, _REMOTE_BIT, _EXTENDED_BIT = 0x20000000, 0x40000000, 0x80000000
_LINE = re.compile(
    r"\(\s*(?P<time>\d+(?:\.\d*)?)\)\s+(?P<channel>\S+)\s+(?P<id>[0-9A-Fa-f]{1,8})(?P<mark>##?)(?P<rest>[0-9A-Fa-fRr._]*)(?:\s+(?P<way>[RrTt]))?$"
)
# As shown on a terminal: (time) can0  123   [8]  11 22 33 44, with ' 11 22' in ASCII behind it where that was asked for.
_SHOWN = re.compile(
    r"(?:\(\s*(?P<time>\d+(?:\.\d*)?)\)\s+)?(?P<channel>\S+)\s+(?:(?P<way>[RT]X)\s+(?:[-B]\s+[-E]\s+)?)?(?P<id>[0-9A-Fa-f]{3}|[0-9A-Fa-f]{8})"
    r"\s+\[(?P<count>\d+)\]\s*(?P<rest>(?:remote request|(?:\s*[0-9A-Fa-f]{2}\b)*))(?P<tail>.*)$"
)


class CandumpReader(TextReader):
    """Reads such a log in pieces."""

    def _regular(self, lines: Lines) -> tuple[Mask, Frames]:
        text = lines.text
        count = len(lines)
        fits = (lines.words == 3) | (lines.words == 4)
        which = np.flatnonzero(fits)
        time_begins, time_ends = lines.word(which, 0)
        time_begins, time_ends = time_begins + 1, time_ends - 1
        good = (text[time_begins - 1] == ord("(")) & (text[np.maximum(time_ends, 0)] == ord(")"))
        time, right = lines.decimal(time_begins, time_ends)
        good &= right
        name_begins, name_ends = lines.word(which, 1)
        begins, ends = lines.word(which, 2)
        marks = np.flatnonzero(text == ord("#"))
        first_mark = np.searchsorted(marks, begins)
        mark = marks[np.minimum(first_mark, max(len(marks) - 1, 0))] if len(marks) else np.zeros(len(begins), np.int64)
        width = mark - begins
        good &= (first_mark < len(marks)) & (mark < ends) & ((width == 3) | (width == 8))
        mark = np.where(good, mark, begins)
        flexible = good & (mark + 2 < ends) & (text[np.minimum(mark + 1, len(text) - 1)] == ord("#"))
        data_begins = np.where(flexible, mark + 3, mark + 1)
        kind = np.zeros(len(which), np.uint8)
        fd_bits, right = lines.whole(np.where(flexible, mark + 2, mark), np.where(flexible, mark + 3, mark), 16)
        good &= right | ~flexible
        kind[flexible] = FD
        kind[flexible & ((fd_bits & 1) != 0)] |= BRS
        kind[flexible & ((fd_bits & 2) != 0)] |= ESI
        digits = ends - data_begins
        good &= (digits >= 0) & (digits % 2 == 0) & (digits <= np.where(flexible, 128, 16))
        identity, right = lines.whole(begins, np.where(good, mark, begins + 1), 16)
        good &= right
        extended = width == 8
        good &= ~(extended & (identity >= _ERROR_BIT))  # with bits of its own: line by line
        kind[extended] |= EXTENDED
        last = lines.words[which] == 4
        if last.any():
            way_begins, way_ends = lines.word(which[last], 3)
            sent = lines.is_word(way_begins, way_ends, b"t")
            good[last] &= sent | lines.is_word(way_begins, way_ends, b"r")
            kind[np.flatnonzero(last)[sent]] |= SENT
        counts = np.where(good, digits // 2, 0)
        data, right = lines.pairs(data_begins, counts)
        channel, named = self._channels_of(lines, name_begins, name_ends, good)
        good &= named & right
        kept = np.repeat(good, counts)
        regular = np.zeros(count, bool)
        regular[which[good]] = True
        return regular, Frames(
            time[good], identity[good].astype(np.uint32), kind[good], channel[good], counts[good].astype(np.uint8), data[kept]
        )

    def _odd_line(self, lines: Lines, place: int) -> Frames | None:
        line, odd = lines.line(place), self.odd
        found = _LINE.match(line)
        if found is None:
            return self._shown(line, odd)
        identity = int(found["id"], 16)
        kind = (EXTENDED if len(found["id"]) > 3 else 0) | (SENT if (found["way"] or "").upper() == "T" else 0)
        rest = found["rest"].replace(".", "")
        if found["mark"] == "##":
            if not rest:
                odd.tell("wrong", f"{line[:60]!r}")
                return None
            bits = int(rest[0], 16) if rest[0] not in "Rr_" else 0
            kind |= FD | (BRS if bits & 1 else 0) | (ESI if bits & 2 else 0)
            rest = rest[1:]
        if kind & EXTENDED and identity & _EXTENDED_BIT:
            identity &= ~_EXTENDED_BIT
        if kind & EXTENDED and identity & _ERROR_BIT:
            return from_fields(float(found["time"]), 0, ERROR, self.channels.place(found["channel"]), b"")
        rest = rest.partition("_")[0]  # a length code beyond 8 of a frame of 8 bytes
        remote = rest[:1] in ("R", "r") or bool(identity & _REMOTE_BIT and kind & EXTENDED)
        digits = rest[1:] if rest[:1] in ("R", "r") else rest
        if "R" in digits.upper() or (not remote and len(digits) % 2) or len(digits) > (128 if kind & FD else 16):
            odd.tell("wrong", f"{line[:60]!r}")
            return None
        time, identity, place = float(found["time"]), identity & 0x1FFFFFFF, self.channels.place(found["channel"])
        if remote:
            return from_fields(time, identity, kind | REMOTE, place, b"", int(digits, 16) if digits else 0)
        return from_fields(time, identity, kind, place, bytes.fromhex(rest))

    def _shown(self, line: str, odd: Odd) -> Frames | None:
        found = _SHOWN.match(line)
        if found is None or found["time"] is None:
            odd.tell("wrong", f"{line[:60]!r}")
            return None
        identity = int(found["id"], 16)
        kind = EXTENDED if len(found["id"]) == 8 else 0
        kind |= SENT if found["way"] == "TX" else 0
        place, time = self.channels.place(found["channel"]), float(found["time"])
        if kind & EXTENDED and identity & _ERROR_BIT:
            return from_fields(time, 0, ERROR, place, b"")
        if found["rest"].startswith("remote"):
            return from_fields(time, identity & 0x1FFFFFFF, kind | REMOTE, place, b"", int(found["count"]))
        data = bytes.fromhex(found["rest"])[: int(found["count"])]
        if len(data) < int(found["count"]) or len(data) > 64:
            odd.tell("wrong", f"{line[:60]!r}")
            return None
        return from_fields(time, identity & 0x1FFFFFFF, kind | (FD if len(found["count"]) > 1 else 0), place, data)


def candump_lines(frames: Frames, names: tuple[str, ...]) -> Iterator[str]:
    """Frames as lines of such a log; `CandumpReader` reads them back as they are, but for LIN, which it knows nothing of."""
    begins = frames.begins
    spelled = [re.sub(r"\s+", "_", name) or "can0" for name in names]
    for place, (time, identity, flags, channel, length) in enumerate(fields_joined(frames)):
        head = f"({time:.6f}) {spelled[channel] if channel < len(spelled) else channel}"
        way = " T" if flags & SENT else ""
        if flags & ERROR:
            yield f"{head} {_ERROR_BIT | 0x80:08X}#0000000000000000{way}\n"
            continue
        known = f"{identity:08X}" if flags & EXTENDED else f"{identity:03X}"
        if flags & REMOTE:
            yield f"{head} {known}#R{length or ''}{way}\n"
            continue
        mark = f"##{(1 if flags & BRS else 0) | (2 if flags & ESI else 0):X}" if flags & FD else "#"
        yield f"{head} {known}{mark}{frames.bytes_of(place, begins).hex().upper()}{way}\n"
