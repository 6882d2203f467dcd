"""Blocks on a K-line: ISO 14230-2 (KWP 2000) and ISO 9141-2, from memory. How a talk is begun, how blocks are framed and summed."""

from __future__ import annotations

from dataclasses import dataclass

__all__ = [
    "ADDRESS_BAUD", "BAUD", "BLOCK_GAP_S", "FAST_LOW_S", "FAST_WAKE_S", "KEEP_ALIVE_S", "KeyBytes", "LineFault", "Opened", "SYNC", "TESTER",
    "block", "emission_block", "emission_blocks", "opened_block", "wanted_length",
]  # fmt: skip

BAUD, ADDRESS_BAUD, SYNC = 10_400, 5, 0x55
TESTER = 0xF1
FAST_LOW_S, FAST_WAKE_S = 0.025, 0.050  # low for 25 ms, then high until 50 ms are over: the first request follows at once
BLOCK_GAP_S = 0.055  # between an answer and the next request (P3 min)
KEEP_ALIVE_S = 5.0  # without a request a module ends the talk by itself (P3 max)
_PHYSICAL, _FUNCTIONAL = 0x80, 0xC0
_EMISSION_ASKS, _EMISSION_ANSWERS = (0x68, 0x6A), (0x48, 0x6B)


class LineFault(Exception):
    """A block that cannot be used, with one sentence why."""


@dataclass(frozen=True, slots=True)
class KeyBytes:
    """What a module says of itself after its address was called slowly."""

    first: int
    second: int

    @property
    def speaks_9141(self) -> bool:
        """Whether it speaks ISO 9141-2: both are 08 or both are 94; anything else is ISO 14230."""
        return (self.first, self.second) in ((0x08, 0x08), (0x94, 0x94))


def _sum(data: bytes) -> int:
    return sum(data) & 0xFF


def block(data: bytes, target: int, source: int = TESTER, everybody: bool = False) -> bytes:
    """A block of ISO 14230-2 with its header of both addresses and its sum. Raises LineFault where it is too long.

    >>> block(bytes.fromhex("81"), 0x11).hex(" ")
    '81 11 f1 81 04'
    """
    if not 1 <= len(data) <= 255:
        raise LineFault(f"A block has 1 to 255 bytes; this one has {len(data)}.")
    mode = _FUNCTIONAL if everybody else _PHYSICAL
    head = bytes([mode | len(data), target, source]) if len(data) < 64 else bytes([mode, target, source, len(data)])
    return head + data + bytes([_sum(head + data)])


def emission_block(data: bytes, source: int | None = None) -> bytes:
    """A block of ISO 9141-2: a request of the tester, or where ``source`` is given a module's answer."""
    head = bytes([*_EMISSION_ASKS, TESTER]) if source is None else bytes([*_EMISSION_ANSWERS, source])
    return head + data + bytes([_sum(head + data)])


def emission_blocks(raw: bytes) -> tuple[bytes, ...]:
    """Blocks of ISO 9141-2 that came without a pause between them: such a block has no length, so it ends where its sum fits and another
    begins, or nothing. What cannot be parted is one block."""
    found = []
    while raw:
        ends = (at for at in range(6, len(raw) + 1) if _sum(raw[: at - 1]) == raw[at - 1])
        head = bytes(_EMISSION_ANSWERS)
        end = next((at for at in ends if at == len(raw) or raw[at : at + 2] == head), len(raw))
        found.append(raw[:end])
        raw = raw[end:]
    return tuple(found)


@dataclass(frozen=True, slots=True)
class Opened:
    """A block taken apart: its data, and who sent it to whom."""

    data: bytes
    target: int
    source: int


def wanted_length(begin: bytes) -> int | None:
    """How many bytes the block has that begins so, its sum included; None while its header is not complete."""
    if not begin:
        return None
    mode, length = begin[0] & 0xC0, begin[0] & 0x3F
    head = 1 if mode == 0 else 3
    if length == 0:
        return None if len(begin) <= head else head + 1 + begin[head] + 1
    return head + length + 1


def opened_block(raw: bytes) -> Opened:
    """A whole block of either sort taken apart. Raises LineFault where its sum or length is wrong."""
    if len(raw) < 3:
        raise LineFault("The answer broke off.")
    if _sum(raw[:-1]) != raw[-1]:
        raise LineFault(f"The sum behind the answer is {raw[-1]:02X} and should be {_sum(raw[:-1]):02X}: the line is disturbed.")
    if tuple(raw[:2]) in (_EMISSION_ASKS, _EMISSION_ANSWERS):
        return Opened(bytes(raw[3:-1]), raw[1], raw[2])
    mode, length, head = raw[0] & 0xC0, raw[0] & 0x3F, 1 if raw[0] & 0xC0 == 0 else 3
    if length == 0:
        length, head = raw[head], head + 1
    if len(raw) != head + length + 1:
        raise LineFault(f"The answer says that it has {length} bytes, and has {len(raw) - head - 1}.")
    target, source = (raw[1], raw[2]) if mode else (TESTER, 0)
    return Opened(bytes(raw[head:-1]), target, source)
