"""Data lines as they look on a scope, made from the words of the standards and without a line of Pondrel's own: frames to bits to volts.

Check sums are remainders of a division of whole numbers, stuffing is done bit by bit, and edges are placed at any part of a sample.
"""

from __future__ import annotations

import numpy as np

__all__ = ["can_bits", "differential", "fd_bits", "lin_bits", "lin_line", "remainder", "sampled"]

FD_SIZES = [0, 1, 2, 3, 4, 5, 6, 7, 8, 12, 16, 20, 24, 32, 48, 64]


def remainder(bits, polynomial: int, width: int, start: int = 0) -> int:
    """The remainder of the message, followed by as many noughts, divided by the polynomial; a register that starts set is the message with
    its first bits turned."""
    number = int("".join(map(str, bits)) + "0" * width, 2) if bits else 0
    length = len(bits) + width
    number ^= start << (length - width)
    divisor = (1 << width) | polynomial
    for place in range(length - 1, width - 1, -1):
        if number >> place & 1:
            number ^= divisor << (place - width)
    return number


def binary(number: int, width: int) -> list[int]:
    return [int(c) for c in format(number, f"0{width}b")]


def stuffed(bits, ends_open: bool = True) -> list[int]:
    """After five equal bits one of the other kind, which counts for the next five; ``ends_open`` also behind the last."""
    out: list[int] = []
    same = 0
    for place, bit in enumerate(bits):
        same = same + 1 if out and out[-1] == bit else 1
        out.append(bit)
        if same == 5 and (ends_open or place + 1 < len(bits)):
            out.append(1 - bit)
            same = 1
    return out


def can_bits(
    identifier: int,
    data: bytes = b"",
    extended: bool = False,
    remote: bool = False,
    acknowledged: bool = True,
    spoil: bool = False,
    size: int | None = None,
) -> list[int]:
    """A classical frame on the line, from its first bit to the end of the intermission (ISO 11898-1, 10.4)."""
    code = binary(len(data) if size is None else size, 4)
    if extended:
        head = [0, *binary(identifier >> 18, 11), 1, 1, *binary(identifier & 0x3FFFF, 18), int(remote), 0, 0, *code]
    else:
        head = [0, *binary(identifier, 11), int(remote), 0, 0, *code]
    body = head + [bit for byte in data for bit in binary(byte, 8)]
    crc = remainder(body, 0x4599, 15) ^ (1 if spoil else 0)
    return [*stuffed(body + binary(crc, 15)), 1, 0 if acknowledged else 1, 1, *[1] * 7, *[1] * 3]


def fd_bits(
    identifier: int, data: bytes, extended: bool = False, switch: bool = True, acknowledged: bool = True, spoil: bool = False
) -> list[tuple[int, bool]]:
    """An FD frame: each bit with whether it is a fast one. The bit that switches the rate, and the delimiter of the check sum, are slow
    up to their sample points and fast beyond, and the other way round: `sampled` knows by their marks."""
    code = binary(FD_SIZES.index(len(data)), 4)
    if extended:
        slow = [0, *binary(identifier >> 18, 11), 1, 1, *binary(identifier & 0x3FFFF, 18), 0, 1, 0]
    else:
        slow = [0, *binary(identifier, 11), 0, 0, 1, 0]
    body = [*slow, int(switch), 0, *code, *[bit for byte in data for bit in binary(byte, 8)]]
    line, marks, same, count = [], [], 0, 0
    for place, bit in enumerate(body):
        kind = "slow" if place < len(slow) else "switch" if place == len(slow) else "fast"
        same = same + 1 if line and line[-1] == bit else 1
        line.append(bit)
        marks.append(kind)
        if same == 5 and place + 1 < len(body):
            line.append(1 - bit)
            # A stuff bit behind the last slow bit is slow, too.
            marks.append("slow" if kind == "slow" else "fast")
            same, count = 1, count + 1
    width, polynomial = (17, 0x1685B) if len(data) <= 16 else (21, 0x102899)
    gray = (count % 8) ^ (count % 8) >> 1
    told = [*binary(gray, 3), sum(binary(gray, 3)) % 2]
    crc = remainder(line + told, polynomial, width, 1 << (width - 1)) ^ (1 if spoil else 0)
    for place, bit in enumerate(told + binary(crc, width)):
        if place % 4 == 0:
            line.append(1 - line[-1])
            marks.append("fast")
        line.append(bit)
        marks.append("fast")
    line += [1, 0 if acknowledged else 1, 1, *[1] * 10]
    marks += ["back", *["slow"] * 12]
    if not switch:
        marks = ["slow"] * len(marks)
    return list(zip(line, marks, strict=True))


def lengths_of(bits, rate: float, fast_rate: float = 0.0, point: float = 0.8) -> tuple[list[int], list[float]]:
    """States and seconds of each bit."""
    states, seconds = [], []
    for bit in bits:
        state, mark = bit if isinstance(bit, tuple) else (bit, "slow")
        slow, fast = 1.0 / rate, 1.0 / (fast_rate or rate)
        states.append(state)
        seconds.append(
            {"slow": slow, "fast": fast, "switch": point * slow + (1 - point) * fast, "back": point * fast + (1 - point) * slow}[mark]
        )
    return states, seconds


def sampled(bits, rate: float, sample_rate: float, fast_rate: float = 0.0, point: float = 0.8, offset: float = 0.37) -> np.ndarray:
    """1 for recessive and 0 for dominant at even samples."""
    states, seconds = lengths_of(bits, rate, fast_rate, point)
    ends = np.cumsum(seconds)
    times = (np.arange(int(ends[-1] * sample_rate)) + offset) / sample_rate
    return np.asarray(states)[np.minimum(np.searchsorted(ends, times, side="right"), len(states) - 1)]


def differential(states: np.ndarray, noise: float = 0.0, seed: int = 0) -> tuple[np.ndarray, np.ndarray]:
    """Volts of high and low (ISO 11898-2): 2.5 V each at rest, 3.5 and 1.5 V dominant."""
    r = np.random.default_rng(seed)
    dominant = 1 - states
    return tuple(2.5 + sign * dominant + (r.normal(0.0, noise, len(states)) if noise else 0.0) for sign in (1.0, -1.0))


def lin_bits(identifier: int, data: bytes, enhanced: bool = True, brk: int = 13, spoil: int = 0) -> list[int]:
    """A frame of LIN (ISO 17987-3): break, delimiter, sync, protected identifier, data, check sum; a byte is sent lowest bit first."""
    i = binary(identifier, 6)[::-1]
    p0, p1 = i[0] ^ i[1] ^ i[2] ^ i[4], 1 - (i[1] ^ i[3] ^ i[4] ^ i[5])
    protected = identifier + 64 * p0 + 128 * p1
    total = sum(data) + (protected if enhanced else 0)
    while total > 255:
        total -= 255
    checksum = (255 - total) ^ spoil
    line = [0] * brk + [1]
    for byte in (0x55, protected, *data, *([checksum] if data else [])):
        line += [0, *binary(byte, 8)[::-1], 1]
    return line


def lin_line(frames, rate: float, sample_rate: float, pause_bits: int = 30) -> np.ndarray:
    """Several frames with pauses, as 0 and 1."""
    bits = [1] * pause_bits
    for frame in frames:
        bits += frame + [1] * pause_bits
    return sampled(bits, rate, sample_rate)
