"""CAN out of stretches: frames with stuffing, check sum, form and acknowledgement (ISO 11898-1), all frames of a capture at once.

Within the stuffed part of a frame a stretch of five equal bits is followed by a stuff bit, and that bit counts among the next five: so a
bit is a stuff bit where it begins a stretch and the one before has exactly five bits. Header, data and check sum are then columns of a
table with a row a frame. Behind the check sum nothing is stuffed, and places are counted on the line itself.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from .crc import crcs_of_rows
from .fd import flexible_frame
from .frame import Frame, LineError, Read
from .runs import GLITCH, Runs, bit_times, refined, without_glitches

__all__ = ["can_in"]

REST = (
    7.5  # bits of recessive before a frame begins: behind the acknowledgement there are eleven, behind an error flag's end eight and more
)
FLAG = 6  # equal bits that an error flag has
TRIED, MORE_TRIED = 3000, 60_000  # stretches by which lengths of a bit are compared; where those hold no frame at all
ENOUGH = 5  # right frames, and most of all, that settle it
MOST_KEPT = 13  # bits of a recessive stretch that are kept at a frame's end
HEAD, HEAD_EXTENDED, CRC_BITS = 19, 39, 15
WIDEST = HEAD_EXTENDED + 64 + CRC_BITS
BITS = np.int64


@dataclass(frozen=True, slots=True)
class _Table:
    """Frames to be read: ``first`` and ``last`` (F,) stretches of each, how many bits each stretch has and the place on the line at which
    it begins, bits of all frames on the line and where those begin, and the bits that are left when stuff bits are taken out, each with its
    place on the line."""

    runs: Runs
    bit: float
    first: NDArray[np.int64]
    last: NDArray[np.int64]
    counts: NDArray[np.int64]
    place: NDArray[np.int64]
    raw: NDArray[np.uint8]
    raw_start: NDArray[np.int64]
    bare: NDArray[np.uint8]
    bare_at: NDArray[np.int64]
    bare_start: NDArray[np.int64]


def can_in(runs: Runs, bit_rate: float | None = None) -> Read | None:
    """What a line says if it is CAN, at the bit rate (bits a second) that reads best, or at a given one; None where no length of a bit
    fits."""
    if bit_rate is not None:
        candidate = 1.0 / bit_rate
    else:
        found = _candidate(runs)
        if found is None:
            return None
        candidate = found
    return _read(runs, candidate)


def _candidate(runs: Runs) -> float | None:
    """The length of a bit at which most frames of the first stretches are right."""
    best: tuple[int, float] | None = None
    for count in (TRIED, MORE_TRIED):
        some = runs.first(min(count, len(runs.dominant)))
        for candidate in bit_times(some):
            read = _read(some, candidate)
            if best is None or read.good > best[0]:
                best = (read.good, candidate)
            if read.good > ENOUGH and read.good > 0.5 * (read.good + len(read.errors)):
                return candidate
        if best is not None and best[0]:
            break
    return None if best is None else best[1]


def _read(runs: Runs, about: float) -> Read:
    """All frames, where a bit lasts ``about`` so many seconds."""
    # The fast bits of FD frames may be shorter than any glitch: which frames are such is seen before glitches are taken out.
    bit, skew = refined(runs, about)
    table = _table(runs, bit, skew)
    rows = np.flatnonzero(_flexible(table))
    spans = np.stack([runs.at[table.first[rows]], runs.at[table.last[rows]]], axis=1) if len(rows) else np.zeros((0, 2))
    frames: list[Frame] = []
    errors: list[LineError] = []
    fast: list[float] = []
    for begin, end in spans.tolist():
        found = flexible_frame(runs, begin, end, bit, fast)
        if isinstance(found, Frame):
            frames.append(found)
        if isinstance(found, str) or not found.crc_ok:
            errors.append(LineError(begin, end, found if isinstance(found, str) else "crc"))
    clean, glitches = without_glitches(runs, bit, _within(spans, runs.at[:-1]))
    if clean is not runs:
        bit, skew = refined(clean, bit)
        table = _table(clean, bit, skew)
    if len(table.first):
        _classical(table, np.flatnonzero(~_within(spans, table.runs.at[table.first])), frames, errors)
    errors += [LineError(time, time + bit, "glitch") for time in glitches.tolist()]
    frames.sort(key=lambda frame: frame.time)
    errors.sort(key=lambda error: error.time)
    return Read("CAN", 1.0 / bit, tuple(frames), tuple(errors))


def _within(spans: NDArray[np.float64], times: NDArray[np.float64]) -> NDArray[np.bool_]:
    """Which times lie within one of the spans, which are in order."""
    if not len(spans):
        return np.zeros(len(times), dtype=bool)
    place = np.searchsorted(spans[:, 0], times, side="right") - 1
    return np.asarray((place >= 0) & (times < spans[np.maximum(place, 0), 1]))


def _table(runs: Runs, bit: float, skew: float) -> _Table:
    lengths = runs.lengths
    exact = np.where(runs.dominant, -skew / bit, skew / bit)
    exact += lengths * (1.0 / bit)
    counts = np.maximum(np.rint(exact, out=exact), 0.0, out=exact).astype(BITS)
    rest = np.flatnonzero(~runs.dominant & (lengths > REST * bit))
    # A frame is known where the rest before it and the one behind are both within the capture.
    first, last = rest[:-1] + 1, rest[1:]
    whole = last > first
    first, last = first[whole], last[whole]
    counts[rest] = np.minimum(counts[rest], MOST_KEPT)
    if len(first):
        counts[: first[0]] = 0
        counts[last[-1] + 1 :] = 0
    place = np.cumsum(counts) - counts
    raw = np.repeat((~runs.dominant).astype(np.uint8), counts)
    stuffed = np.zeros(len(raw), dtype=bool)
    after_five = place[1:][counts[:-1] == 5]
    stuffed[after_five[after_five < len(raw)]] = True
    bare_at = np.flatnonzero(~stuffed)
    raw_start = place[first]
    padded = np.concatenate([raw, np.ones(WIDEST + 64, np.uint8)])
    bare = np.concatenate([raw[bare_at], np.ones(WIDEST + 64, np.uint8)])
    where = np.concatenate([bare_at, len(raw) + np.arange(WIDEST + 64)])
    return _Table(runs, bit, first, last, counts, place, padded, raw_start, bare, where, np.searchsorted(bare_at, raw_start))


def _flexible(table: _Table) -> NDArray[np.bool_]:
    """Which frames say in their header that they are FD frames: none that was broken off before."""
    identifier_extension = table.bare[table.bare_start + 13]
    place = table.bare_start + np.where(identifier_extension == 1, 33, 14)
    told = table.bare[place] == 1
    until = np.where(identifier_extension == 1, 33, 14) + 1
    broken = table.bare_at[place] - table.raw_start < until - 1
    # Up to there the frame is as slow as any other, so an error flag before shows as one.
    flagged = _flagged(table, np.arange(len(table.first)), table.bare_at[place])
    # Nor is there anything shorter than a slow bit before that.
    shorter = np.concatenate([[0], np.cumsum(table.runs.lengths < GLITCH * table.bit)])
    run = np.searchsorted(table.place, table.bare_at[place], side="right") - 1
    clean = shorter[run] == shorter[table.first]
    return np.asarray(told & clean & ~broken & ~flagged & (_raw_length(table) > until))


def _raw_length(table: _Table) -> NDArray[np.int64]:
    """Bits of each frame on the line, up to the rest behind it."""
    return np.asarray(table.place[table.last] - table.raw_start)


def _classical(table: _Table, rows: NDArray[np.int64], frames: list[Frame], errors: list[LineError]) -> None:
    if not len(rows):
        return
    runs, bit = table.runs, table.bit
    start = table.bare_start[rows]
    begins = runs.at[table.first[rows]]
    ends = runs.at[table.last[rows]]
    bits = _windows(table.bare, start, WIDEST)
    extended = bits[:, 13] == 1
    head = np.where(extended, HEAD_EXTENDED, HEAD)
    remote = np.where(extended, bits[:, 32], bits[:, 12]) == 1
    codes = np.where(extended[:, None], bits[:, 35:39], bits[:, 15:19]) @ (8, 4, 2, 1)
    size = np.where(remote, 0, np.minimum(codes, 8)).astype(BITS)
    length = head + 8 * size
    whole = length + CRC_BITS
    last = table.bare_at[start + whole - 1]  # on the line
    # A stretch of six and more before the end of the check sum is an error flag, or a line that hangs.
    flags = _flagged(table, rows, last)
    total = table.raw_start[rows] + _raw_length(table)[rows]
    short = last >= total + np.minimum(table.counts[table.last[rows]], MOST_KEPT)
    broken = flags | short
    crc = _windows(table.bare, start + length, CRC_BITS) @ (1 << np.arange(CRC_BITS)[::-1])
    right = crc == crcs_of_rows(bits, length)
    # Behind the check sum: perhaps a stuff bit, its delimiter, the acknowledgement, its delimiter, seven bits of end.
    raw = table.raw
    five = (raw[np.maximum(last[:, None] - np.arange(5), 0)] == raw[last][:, None]).all(axis=1)
    following, second = raw[last + 1], raw[last + 2]
    is_stuff = five & (following != raw[last]) & ((raw[last] == 1) | (second == 1))
    delimiter = last + 1 + is_stuff
    acknowledged = raw[delimiter + 1] == 0
    form = (raw[delimiter] == 0) | (raw[delimiter + 2] == 0) | (raw[delimiter[:, None] + 3 + np.arange(6)] == 0).any(axis=1)
    identifier = bits[:, 1:12] @ (1 << np.arange(11)[::-1])
    more = bits[:, 14:32] @ (1 << np.arange(18)[::-1])
    ids = np.where(extended, identifier.astype(BITS) << 18 | more.astype(BITS), identifier)
    packed = np.packbits(_windows(table.bare, start + head, 64), axis=1).tobytes()
    finish = begins + (delimiter + 10 - table.raw_start[rows]) * bit
    told = (begins, ends, finish, ids, extended, remote, size, broken, right, form, acknowledged)
    for k, (time, end, done, identity, is_long, is_remote, count, is_broken, is_right, is_form, is_confirmed) in enumerate(
        zip(*(each.tolist() for each in told), strict=True)
    ):
        if is_broken:
            errors.append(LineError(time, end, _kind(table, int(rows[k]))))
            continue
        frames.append(Frame(time, done, identity, is_long, is_remote, packed[8 * k : 8 * k + count], is_right, is_confirmed))
        if not is_right or is_form:
            errors.append(LineError(time, end, "form" if is_right else "crc"))


def _windows(bits: NDArray[np.uint8], start: NDArray[np.int64], width: int) -> NDArray[np.uint8]:
    """(F, width) bits from each start on."""
    return np.asarray(np.lib.stride_tricks.sliding_window_view(bits, width)[start])


def _flagged(table: _Table, rows: NDArray[np.int64], until: NDArray[np.int64]) -> NDArray[np.bool_]:
    """Which frames have a stretch of six or more equal bits that begins before a place on the line."""
    long = np.flatnonzero(table.counts >= FLAG)
    if not len(long):
        return np.zeros(len(rows), dtype=bool)
    found = long[np.minimum(np.searchsorted(long, table.first[rows]), len(long) - 1)]
    inside = (found >= table.first[rows]) & (found <= table.last[rows])
    # The stretch has to reach six within the stuffed part: its sixth bit lies at or before its end.
    return np.asarray(inside & (table.place[found] + FLAG - 1 <= until))


def _kind(table: _Table, row: int) -> str:
    own = slice(int(table.first[row]), int(table.last[row]) + 1)
    long = np.flatnonzero(table.counts[own] >= FLAG)
    if len(long) and bool(table.runs.dominant[own][long[0]]):
        return "error frame"
    return "stuff"
