"""What answers hold: codes with their status, snapshots, data by identifier. ISO 14229-1 and ISO 14230-3, from memory."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from .code_status import CONFIRMED, FAILS_NOW, CodeStatus

__all__ = ["Snapshot", "TakenApart", "TooShort", "codes_by_status", "data_in", "kline_codes", "snapshots_in"]


class TooShort(Exception):
    """An answer that ends where more should stand."""


@dataclass(frozen=True, slots=True)
class TakenApart:
    """A code as its answer has it: its three bytes (the last None on a K-line, which has two), and its status."""

    high: int
    low: int
    failure: int | None
    status: CodeStatus


@dataclass(frozen=True, slots=True)
class Snapshot:
    """What was frozen with a code: the record's number, data by identifier, and ``rest``: bytes behind an identifier of unknown length."""

    number: int
    data: Mapping[int, bytes]
    rest: bytes = b""


def codes_by_status(answer: bytes) -> tuple[TakenApart, ...]:
    """The codes of an answer to 19 02 or 19 0A. Raises TooShort."""
    rest = answer[3:]
    if len(answer) < 3 or len(rest) % 4:
        raise TooShort(f"The list of codes has {len(rest)} bytes, which are no whole codes.")
    return tuple(TakenApart(rest[at], rest[at + 1], rest[at + 2], CodeStatus(rest[at + 3])) for at in range(0, len(rest), 4))


def kline_codes(answer: bytes) -> tuple[TakenApart, ...]:
    """The codes of an answer to 18 (ISO 14230-3): a count, then two bytes and a status each. Raises TooShort."""
    rest = answer[2:]
    if len(answer) < 2 or len(rest) % 3 or len(rest) != 3 * answer[1]:
        raise TooShort(f"The list says that it has {answer[1] if len(answer) > 1 else 0} codes, and has {len(rest)} bytes.")
    return tuple(TakenApart(rest[at], rest[at + 1], None, _kline_status(rest[at + 2])) for at in range(0, len(rest), 3))


def _kline_status(byte: int) -> CodeStatus:
    """Bits 6 and 5: stored and gone, there and not yet stored, there and stored."""
    stored, there = byte & 0x20, byte & 0x40
    return CodeStatus((FAILS_NOW if there else 0) | (CONFIRMED if stored else 0) | (byte & 0x80))


def data_in(answer: bytes, sizes: Mapping[int, int]) -> dict[int, bytes]:
    """Data by identifier of an answer to 22. The last one may be longer or shorter than known; one before it of unknown length ends it."""
    return dict(_each(answer[1:], sizes))


def _each(rest: bytes, sizes: Mapping[int, int]) -> Iterator[tuple[int, bytes]]:
    while len(rest) >= 2:
        number = rest[0] << 8 | rest[1]
        size = sizes.get(number, len(rest) - 2)
        # What follows must begin with an identifier that is known, else all of it belongs to this one.
        more = rest[2 + size :]
        if more and (len(more) < 2 or (more[0] << 8 | more[1]) not in sizes):
            size = len(rest) - 2
        yield number, rest[2 : 2 + size]
        rest = rest[2 + size :]


def snapshots_in(answer: bytes, sizes: Mapping[int, int]) -> tuple[Snapshot, ...]:
    """What was frozen, of an answer to 19 04. An identifier of unknown length ends what can be told: the rest is kept as bytes."""
    rest = answer[6:]
    found: list[Snapshot] = []
    while len(rest) >= 2:
        number, count, rest = rest[0], rest[1], rest[2:]
        data: dict[int, bytes] = {}
        for _ in range(count):
            known = rest[0] << 8 | rest[1] if len(rest) >= 2 else None
            size = sizes.get(known) if known is not None else None
            if known is None or size is None or len(rest) < 2 + size:
                return (*found, Snapshot(number, data, rest))
            data[known], rest = rest[2 : 2 + size], rest[2 + size :]
        found.append(Snapshot(number, data))
    return tuple(found)
