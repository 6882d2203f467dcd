"""FD frames (ISO 11898-1): slow up to the bit that switches the rate, fast from its sample point to that of the check sum's delimiter.

Up to the end of the data stuff bits follow five equal bits, as in a classical frame; the check sum has fixed ones: one before it and one
after every four bits. It counts the stuff bits of the first kind, whose number (modulo 8, Gray coded, with parity) stands before it.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from .crc import CRC17, CRC21, crc_of_bits
from .frame import Frame
from .runs import Runs

__all__ = ["flexible_frame"]

LENGTHS = (0, 1, 2, 3, 4, 5, 6, 7, 8, 12, 16, 20, 24, 32, 48, 64)
LONG = 16  # bytes from which on the longer check sum follows
SAMPLE_POINTS = (0.8, 0.75, 0.7, 0.875, 0.6, 0.65, 0.85, 0.5)
RATIOS = (1, 2, 4, 8, 5, 10, 3, 6, 16)
MOST_WRONG = 0.3  # of a fast bit by which stretches may lie off whole ones, in the middle


class _Short(Exception):
    """The frame ends before it is complete, or is stuffed wrongly."""


def flexible_frame(runs: Runs, begin: float, end: float, bit: float, fast: list[float]) -> Frame | str:
    """The FD frame that begins and ends at those instants (s), or the kind of error that broke it. ``fast`` remembers how long a fast bit
    lasted and where the rate switched on the line (fast bit in s, share of a bit), so that the next frame is read at once."""
    first, last = np.searchsorted(runs.at, [begin - 0.01 * bit, end - 0.01 * bit])
    at = runs.at[first : last + 2]
    dominant = runs.dominant[first : last + 1]
    lengths = np.diff(at)
    tried = [tuple(fast)] if fast else []
    tried += [(bit / ratio, point) for ratio in RATIOS for point in SAMPLE_POINTS]
    best: Frame | str = "stuff"
    for short, point in tried:
        try:
            found = _decoded(lengths, dominant, at, bit, short, point)
        except _Short:
            continue
        if found.crc_ok:
            fast[:] = [short, point]
            return found
        if isinstance(best, str):
            best = found
    if isinstance(best, Frame):
        return best
    return "error frame" if bool((dominant & (lengths > 5.5 * bit)).any()) else best


def _decoded(
    lengths: NDArray[np.float64], dominant: NDArray[np.bool_], at: NDArray[np.float64], bit: float, short: float, point: float
) -> Frame:
    bits = _Bits(lengths, dominant, bit, short, point)
    header = [bits.stuffed() for _ in range(14)]
    identifier = _number(header[1:12])
    extended = header[13] == 1
    if extended:
        identifier = identifier << 18 | _number([bits.stuffed() for _ in range(18)])
        bits.stuffed()  # the bit that stood for a remote request
    if bits.stuffed() != 1:
        raise _Short
    bits.stuffed()  # reserved
    switches = bits.stuffed() == 1
    if switches:
        bits.go_fast()
    bits.stuffed()  # error state of the sender
    size = LENGTHS[_number([bits.stuffed() for _ in range(4)])]
    data = [bits.stuffed() for _ in range(8 * size)]
    kind = CRC17 if size <= LONG else CRC21
    counted = bits.count % 8
    field: list[int] = []
    for k in range(4 + kind[0]):
        if k % 4 == 0 and bits.plain() == (field[-1] if field else bits.line[-1]):
            raise _Short
        field.append(bits.plain())
    gray = counted ^ counted >> 1
    told = _number(field[:3])
    wanted = crc_of_bits([*bits.line, *field[:4]], kind, 1 << (kind[0] - 1))
    right = wanted == _number(field[4:]) and told == gray and sum(field[:4]) % 2 == 0
    finish = bits.time
    acknowledged = bits.acknowledged()
    payload = bytes(_number(data[8 * k : 8 * k + 8]) for k in range(size))
    return Frame(float(at[0]), float(at[0]) + finish + 10.0 * bit, identifier, extended, False, payload, right, acknowledged, True)


def _number(bits: list[int]) -> int:
    found = 0
    for bit in bits:
        found = found << 1 | bit
    return found


class _Bits:
    """Bits of a frame one after the other: sampled at their sample points, in step with each change of the line."""

    def __init__(self, lengths: NDArray[np.float64], dominant: NDArray[np.bool_], bit: float, short: float, point: float):
        self.edges = np.concatenate([[0.0], np.cumsum(lengths)]).tolist()
        self.states = [0 if one else 1 for one in dominant.tolist()]
        self.bit = self.slow = bit
        self.short, self.point = short, point
        self.time = 0.0  # where the coming bit begins
        self.run = 0
        self.line: list[int] = []  # up to the check sum, stuff bits included
        self.count = 0  # stuff bits
        self.same, self.before = 0, -1

    def _next(self) -> int:
        sample = self.time + self.point * self.bit
        while self.run + 1 < len(self.states) and self.edges[self.run + 1] <= sample:
            self.run += 1
            # In step with the line: a change lies where a bit begins.
            if abs(self.edges[self.run] - self.time) < 0.5 * self.bit:
                self.time = self.edges[self.run]
                sample = self.time + self.point * self.bit
        if self.run >= len(self.states) - 1 and self.time > self.edges[-1]:
            raise _Short
        state = self.states[self.run]
        self.time += self.bit
        return state

    def stuffed(self) -> int:
        """The next bit of the stuffed part; a stuff bit before it is taken out. One behind the last bit is not there: the fixed one of
        the check sum stands in its place."""
        if self.same == 5:
            extra = self._next()
            if extra == self.before:
                raise _Short
            self.line.append(extra)
            self.count += 1
            self.same, self.before = 1, extra
        found = self._next()
        self.line.append(found)
        self.same = self.same + 1 if found == self.before else 1
        self.before = found
        return found

    def go_fast(self) -> None:
        """From the sample point of the bit just read on, bits are short."""
        began = self.time - self.slow
        self.time = began + self.point * self.slow + (1.0 - self.point) * self.short
        self.bit = self.short

    def plain(self) -> int:
        """The next bit, whatever it is."""
        return self._next()

    def acknowledged(self) -> bool:
        """Whether somebody was dominant in the slot behind the delimiter: the first dominant stretch from here, begun within two slow
        bits."""
        for run in range(self.run, len(self.states)):
            if self.states[run] == 0 and self.edges[run] > self.time - 0.5 * self.bit:
                return bool(self.edges[run] < self.time + 2.5 * self.slow)
        return False
