"""Check sums of data lines: CRC-15 of classical frames and CRC-17 and CRC-21 of FD frames (ISO 11898-1), both check sums of LIN (ISO
17987-3)."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

import numpy as np
from numpy.typing import NDArray

__all__ = ["CRC15", "CRC17", "CRC21", "crc_of_bits", "crcs_of_rows", "lin_checksum", "lin_parity"]

# By length: the polynomial without its highest term.
CRC15, CRC17, CRC21 = (15, 0x4599), (17, 0x1685B), (21, 0x102899)


def crc_of_bits(bits: Iterable[int], kind: tuple[int, int], start: int = 0) -> int:
    """The check sum over bits, the first one sent first; FD frames ``start`` with the highest bit of the register set."""
    width, polynomial = kind
    top, mask = 1 << (width - 1), (1 << width) - 1
    found = start
    for bit in bits:
        feed = bool(found & top) != bool(bit)
        found = (found << 1) & mask
        if feed:
            found ^= polynomial
    return found


def crcs_of_rows(bits: NDArray[np.uint8], lengths: NDArray[np.int64]) -> NDArray[np.int64]:
    """CRC-15 of many frames at once: of each row (F, N) over its first ``lengths`` (F,) bits."""
    width, polynomial = CRC15
    found = np.zeros(len(bits), dtype=np.int32)
    columns = np.ascontiguousarray(bits.T).astype(np.int32)
    shortest = int(lengths.min(initial=0))
    for place, column in enumerate(columns[: int(lengths.max(initial=0))]):
        shifted = ((found << 1) & 0x7FFF) ^ (polynomial * ((found >> (width - 1)) ^ column))
        found = shifted if place < shortest else np.where(place < lengths, shifted, found)
    return found.astype(np.int64)


def lin_checksum(data: Sequence[int], identifier: int | None = None) -> int:
    """The check sum of LIN over data: classic, or enhanced where the protected ``identifier`` is counted too."""
    total = identifier or 0
    for byte in data:
        total += byte
        if total > 255:
            total -= 255
    return 255 - total


def lin_parity(identifier: int) -> int:
    """The protected identifier of one of 0 to 63: with its two parity bits."""
    bit = [(identifier >> k) & 1 for k in range(6)]
    even = bit[0] ^ bit[1] ^ bit[2] ^ bit[4]
    odd = 1 ^ bit[1] ^ bit[3] ^ bit[4] ^ bit[5]
    return identifier | even << 6 | odd << 7
