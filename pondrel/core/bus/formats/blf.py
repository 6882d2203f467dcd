"""BLF, a log of objects: a heading, then containers, packed with zlib or not, whose contents run on from one to the next.

Objects are found one by one, their fields taken by arrays. Where their signature is not where it should be, the next one is looked
for, so that damage costs what it hit and no more. The layout of frames is that of python-can's reader; of errors of the older and
the flexible kind (types 2 and 104) only the channel is read, which lies where it lies in frames (from memory).
"""

from __future__ import annotations

import struct
import zlib
from collections import Counter
from collections.abc import Callable, Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ...base.errors import ReadingError
from ..frames import BRS, ERROR, ESI, EXTENDED, FD, REMOTE, SENT, ChannelNames, Codes, Frames, Mask, joined, no_frames
from .lengths import FD_LENGTHS

__all__ = ["SIGNATURE", "BlfReader"]

SIGNATURE = b"LOGG"
_OBJECT = b"LOBJ"
# Signature, size of the heading, 8 bytes about the program, file size, unpacked size, objects, objects read, begin, end.
_HEADING = struct.Struct("<4sL8BQQLL8H8H")
# Signature, size of the header, its version, size of the whole, type.
_HEADER = struct.Struct("<4sHHLL")
_CONTAINER = struct.Struct("<H6xL4x")
_UNPACKED, _ZLIB = 0, 2
_BEGINS = {1: 32, 2: 40}  # where an object's own fields begin, by its header's version
_IN_TENS_OF_MICROSECONDS = 1
_ERRORS, _LIN, _BOX = (2, 73, 104), (11, 57), 10
_FIELDS = {1: 16, 86: 16, 100: 20, 101: 40, 2: 4, 73: 4, 104: 4}  # bytes of fields before the data, of frames of eight with it
_MOST_UNPACKED = 1 << 26
_LARGEST = 1 << 24
# Objects that are alike are looked for many at once; where fewer than a few are, it is tried anew only some objects later.
_FEW, _MOST_ALIKE = 16, 4096

_Places = NDArray[np.int64]
_Fields = NDArray[np.uint8]


class BlfReader:
    """Reads such a log in pieces of any size; what is damaged, or is no frame of CAN, is counted and told."""

    def __init__(self) -> None:
        self.channels = ChannelNames()
        self._kept = b""
        self._tail = b""
        self._start: float | None = None
        self._wanted = self._read = self._frames = self._damaged = 0
        self._broken = False
        self._others: Counter[int] = Counter()

    @property
    def notes(self) -> tuple[str, ...]:
        """What is to be said of what was read so far."""
        said = []
        if self._wanted > self._read:
            said.append(f"The file breaks off: it should be {self._wanted} bytes long. What comes behind frame {self._frames} is not read.")
        elif self._broken or self._tail.strip(b"\0"):
            said.append(f"The file is damaged or breaks off behind frame {self._frames}: what comes after is not read.")
        if self._damaged:
            places = "one place" if self._damaged == 1 else f"{self._damaged} places"
            said.append(f"The file is damaged at {places}: what lies there is left out.")
        lin = sum(self._others[kind] for kind in _LIN)
        if lin:
            said.append(f"{lin} frames of LIN in it are not read.")
        if self._others.total() > lin:
            said.append(f"{self._others.total() - lin} things in it are no frames and were left out (statistics, marks and the like).")
        if not self._frames and not said:
            said.append("There are no frames in it.")
        return tuple(said)

    def piece(self, data: bytes) -> Frames:
        """The frames of the next bytes of the file.

        Raises `ReadingError` where it does not begin as such a log does.
        """
        self._read += len(data)
        self._kept += data
        if self._start is None and not self._heading():
            return no_frames()
        found: list[Frames] = []
        plain: list[bytes] = []
        at, end = 0, len(self._kept)
        while at + _HEADER.size <= end:
            signature, own, _, size, kind = _HEADER.unpack_from(self._kept, at)
            if signature != _OBJECT or not max(own, _HEADER.size) <= size <= _MOST_UNPACKED:
                at = self._next_object(self._kept, at)
                continue
            if at + size > end:
                break
            if kind == _BOX:
                found.append(self._objects(b"".join([*plain, self._opened(self._kept[at + _HEADER.size : at + size])])))
                plain = []
            else:  # some logs have their objects side by side, in no container
                plain.append(self._kept[at : at + size])
            at += size + size % 4
        found.append(self._objects(b"".join(plain)))
        self._kept = self._kept[at:] if at < end else b""
        return joined([frames for frames in found if len(frames)])

    def rest(self) -> Frames:
        """What is left when the file is at its end: an object that breaks off, or says that it is longer than it is.

        Raises `ReadingError` where not even the heading was whole.
        """
        if self._start is None:
            raise ReadingError("The file cannot be read as BLF: its heading breaks off.")
        found: list[Frames] = []
        while (at := self._kept.find(_OBJECT)) >= 0:
            self._broken = True
            rest, before = self._kept[at:], len(self._kept)
            is_box = len(rest) >= _HEADER.size and _HEADER.unpack_from(rest)[4] == _BOX
            if is_box:
                found.append(self._objects(self._opened(rest[_HEADER.size :])))
            is_plain = is_box and len(rest) >= _HEADER.size + 2 and rest[_HEADER.size : _HEADER.size + 2] == b"\0\0"
            after = -1 if is_plain else rest.find(_OBJECT, len(_OBJECT))
            self._kept = rest[after:] if after >= 0 else b""
            found.append(self.piece(b""))
            assert len(self._kept) < before
        return joined([frames for frames in found if len(frames)])

    def _heading(self) -> bool:
        """Whether the heading is there by now."""
        if len(self._kept) < _HEADING.size:
            return False
        signature, size, *rest = _HEADING.unpack_from(self._kept)
        if signature != SIGNATURE or not _HEADING.size <= size <= 1 << 16:
            raise ReadingError("The file cannot be read as BLF: its heading is damaged.")
        if len(self._kept) < size:
            return False
        self._wanted, self._start = rest[8], _time(rest[12:20])
        self._kept = self._kept[size:]
        return True

    def _next_object(self, data: bytes, at: int) -> int:
        """Where the next object may begin behind what is damaged; no damage where only filling lies between."""
        found = data.find(_OBJECT, at + 1)
        if data[at : found if found >= 0 else len(data)].strip(b"\0"):
            self._damage()
        return found if found >= 0 else max(len(data) - 3, at + 1)

    def _opened(self, box: bytes) -> bytes:
        if len(box) < _CONTAINER.size:
            return self._damage()
        method, size = _CONTAINER.unpack_from(box)
        packed = box[_CONTAINER.size :]
        if method == _UNPACKED:
            return packed
        if method != _ZLIB:
            return self._damage()
        opening = zlib.decompressobj()
        try:
            return opening.decompress(packed, min(max(size, 1), _MOST_UNPACKED))
        except zlib.error:
            return self._damage()

    def _damage(self) -> bytes:
        """Counts it; what was begun before it does not go on behind it, so nothing is left of that."""
        self._damaged += 1
        self._tail = b""
        return b""

    def _objects(self, data: bytes) -> Frames:
        """The frames of some contents, which run on from those before."""
        data = self._tail + data
        raw = np.frombuffer(data, np.uint8)
        places: dict[int, list[tuple[int, int, int, int]]] = {}
        at, end = 0, len(data)
        unpack = _HEADER.unpack_from
        order = patience = 0
        before = b""
        while at + _HEADER.size <= end:
            signature, own, version, size, kind = unpack(data, at)
            if signature != _OBJECT or not max(own, _HEADER.size) <= size <= _LARGEST:
                filled = data.find(_OBJECT, at, at + 8)
                at = filled if filled > at else self._next_object(data, at)
                continue
            if at + size > end:
                break
            begin, count = _BEGINS.get(version), 1
            header = data[at : at + _HEADER.size]
            if header == before and not patience:
                count = _alike(raw[at:], size)
                patience = 0 if count >= _FEW else _FEW
            before, patience = header, max(patience - 1, 0)
            if kind not in _FIELDS:
                self._others[kind] += count
            elif begin is None or begin + _FIELDS[kind] > size:
                self._damaged += count
            else:
                places.setdefault(kind << 1 | (begin == 40), []).append((order, at, size, count))
                order += count
            at += size * count
        self._tail = data[at:]
        if not places:
            return no_frames()
        parts = []
        orders = []
        for key, own in places.items():
            which, begins, sizes = _one_by_one(*np.array(own, np.int64).T)
            frames, kept = self._of_kind(raw, key >> 1, begins, sizes, 40 if key & 1 else 32)
            parts.append(frames)
            orders.append(which[kept])
        frames = joined(parts)
        self._frames += len(frames)
        return frames if len(parts) == 1 else _sorted(frames, np.concatenate(orders))

    def _of_kind(self, raw: _Fields, kind: int, begins: _Places, sizes: _Places, own: int) -> tuple[Frames, Mask]:
        """The frames of all objects of a kind, and which of the objects they are of."""
        unit = np.where(_number(raw, begins + 16, 4) == _IN_TENS_OF_MICROSECONDS, 1e5, 1e9)
        time = _number(raw, begins + 24, 8).astype(float) / unit + (self._start or 0.0)
        fields = begins + own
        count = len(begins)
        if kind in _ERRORS:
            channel, zeros = _number(raw, fields, 1 if kind == 104 else 2), np.zeros(count, np.uint8)
            return Frames(time, zeros.astype(np.uint32), zeros + ERROR, self._channels(channel), zeros, zeros[:0]), np.ones(count, bool)
        identity = _number(raw, fields + 4, 4)
        taken = _TAKES[kind](raw, fields, sizes - own)
        flags = taken.flags | _flag(identity >> 31, 1, EXTENDED)
        remote, flexible = (flags & REMOTE) != 0, (flags & FD) != 0
        code = np.minimum(taken.code, np.where(flexible, 15, 8))
        length = np.where(remote, np.array(FD_LENGTHS)[code], taken.length)
        kept = length <= np.where(flexible, 64, 8)
        self._damaged += int((~kept).sum())
        data = _bytes(raw, taken.at[kept], np.where(remote, 0, length)[kept], np.maximum(taken.there, 0)[kept])
        frames = Frames(
            time[kept], (identity[kept] & 0x1FFFFFFF).astype(np.uint32), flags[kept], self._channels(taken.channel[kept]),
            length[kept].astype(np.uint8), data,
        )  # fmt: skip
        return frames, kept

    def _channels(self, numbers: Codes) -> Codes:
        own, first, back = np.unique(numbers, return_index=True, return_inverse=True)
        places = np.zeros(len(own), np.uint8)
        for place in np.argsort(first):  # numbered in the order in which they turn up
            places[place] = self.channels.place(str(own[place]))
        return places[back.reshape(-1)]


@dataclass(frozen=True, slots=True)
class _Taken:
    """Of some objects, each of shape (n,): channel, flags but for the width of the identifier, length code, data bytes that should be
    there, where they begin, and how many the object has room for."""

    channel: _Places
    flags: _Fields
    code: _Places
    length: _Places
    at: _Places
    there: _Places


def _classic(raw: _Fields, fields: _Places, room: _Places) -> _Taken:
    about, code = raw[fields + 2], raw[fields + 3].astype(np.int64)
    flags = _flag(about, 0x80, REMOTE) | _flag(about, 0x01, SENT)
    return _Taken(_number(raw, fields, 2), flags, code, np.minimum(code, 8), fields + 8, room - 8)


def _flexible(raw: _Fields, fields: _Places, room: _Places) -> _Taken:
    about, more = raw[fields + 2], raw[fields + 13]
    flags = _flag(about, 0x80, REMOTE) | _flag(about, 0x01, SENT) | _flag(more, 1, FD) | _flag(more, 2, BRS) | _flag(more, 4, ESI)
    code, length = raw[fields + 3].astype(np.int64), raw[fields + 14].astype(np.int64)
    return _Taken(_number(raw, fields, 2), flags, code, length, fields + 20, room - 20)


def _flexible_64(raw: _Fields, fields: _Places, room: _Places) -> _Taken:
    more, ends = _number(raw, fields + 12, 4), raw[fields + 35].astype(np.int64)
    flags = _flag(more, 0x10, REMOTE) | _flag(more, 0x1000, FD) | _flag(more, 0x2000, BRS) | _flag(more, 0x4000, ESI)
    flags |= _flag(raw[fields + 34], 0xFF, SENT)
    code, length = raw[fields + 1].astype(np.int64), raw[fields + 2].astype(np.int64)
    # ``ends``: where, counted from the object's header, more follows behind the data; 0 where nothing does.
    header = int(_BEGINS[1])
    there = np.where(ends > 0, np.minimum(room, ends - header), room) - 40
    return _Taken(raw[fields].astype(np.int64), flags, code, length, fields + 40, there)


def _flag(values: Codes, bits: int, flag: int) -> _Fields:
    return np.where(values & bits, flag, 0).astype(np.uint8)


_TAKES: Mapping[int, Callable[[_Fields, _Places, _Places], _Taken]] = {
    1: _classic, 86: _classic, 100: _flexible, 101: _flexible_64,
}  # fmt: skip


def _alike(raw: _Fields, size: int) -> int:
    """How many objects of one size and one header follow each other, this one included."""
    count = min(len(raw) // size, _MOST_ALIKE)
    heads = raw[: count * size].reshape(count, size)[:, : _HEADER.size]
    other = np.flatnonzero((heads != heads[0]).any(axis=1))
    return int(other[0]) if len(other) else count


def _one_by_one(orders: _Places, begins: _Places, sizes: _Places, counts: _Places) -> tuple[_Places, _Places, _Places]:
    """Order, place and size of each object, from those of the first of some that are alike and how many these are."""
    within = np.arange(int(counts.sum())) - np.repeat(np.cumsum(counts) - counts, counts)
    each = np.repeat(sizes, counts)
    return np.repeat(orders, counts) + within, np.repeat(begins, counts) + within * each, each


def _number(raw: _Fields, at: _Places, width: int) -> NDArray[np.int64]:
    """The little-endian number of some bytes at each place; of eight, what lies above 63 bits is cut off."""
    value = np.zeros(len(at), np.int64)
    for place in range(width):
        value |= (raw[at + place].astype(np.int64) & (0x7F if place == 7 else 0xFF)) << (8 * place)
    return value


def _bytes(raw: _Fields, at: _Places, stored: _Places, there: _Places) -> _Fields:
    """As many bytes from each place as are wanted, nought where fewer are there; one behind the other."""
    begins = np.cumsum(stored) - stored
    within = np.arange(int(stored.sum())) - np.repeat(begins, stored)
    data = raw[np.minimum(np.repeat(at, stored) + within, len(raw) - 1)]
    return np.where(within < np.repeat(there, stored), data, 0).astype(np.uint8)


def _sorted(frames: Frames, order: _Places) -> Frames:
    """Frames in the order of the log."""
    by = np.argsort(order, kind="stable")
    stored = frames.stored[by].astype(np.int64)
    begins = frames.begins[by].astype(np.int64)
    data = _bytes(frames.data, begins, stored, stored) if len(frames.data) else frames.data
    return Frames(frames.time[by], frames.id[by], frames.flags[by], frames.channel[by], frames.length[by], data)


def _time(fields: list[int]) -> float:
    """Seconds since 1970 of year, month, day of the week, day, hour, minute, second and millisecond; 0 where they are no time."""
    year, month, _, day, hour, minute, second, thousandth = fields
    try:
        found = np.datetime64(f"{year:04d}-{month:02d}-{day:02d}T{hour:02d}:{minute:02d}:{second:02d}.{thousandth:03d}")
    except ValueError:
        return 0.0
    return float(found.astype("datetime64[ms]").astype(np.int64)) / 1e3
