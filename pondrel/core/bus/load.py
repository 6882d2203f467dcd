"""How full a bus is: bits of frames with their stuffing, the bit rate found from frames that stand back to back, and a timeline."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..base.arrays import Floats
from .frames import BRS, ERROR, EXTENDED, FD, LIN, REMOTE, Bytes, Codes, Frames

__all__ = ["USUAL_RATES", "Load", "bit_rate_of", "bits_of", "load_of", "stuffed"]

USUAL_RATES = (10_000, 20_000, 33_333, 50_000, 83_333, 100_000, 125_000, 250_000, 500_000, 800_000, 1_000_000)
BINS = 120
_SAMPLE = 2_000
_CRC15 = 0x4599
# ISO 11898-1, classical frames: bits from the start to the end of the check sum are stuffed; delimiters, acknowledge, end of frame and
# the pause of three follow.
_HEAD = {False: 19, True: 39}
_CHECK, _TAIL = 15, 13
_ERROR_BITS = 20.0
# Frames with a flexible data rate: so much faster the data is sent where its rate is switched, for want of knowing better.
_DATA_FASTER = 4.0


def stuffed(identity: Codes, extended: bool, data: Bytes) -> Codes:
    """How many stuff bits classical data frames have: identifiers (n,), data (n, length); (n,) of int64. ISO 11898-1: after five equal
    bits one of the other kind, which counts itself, from the start of the frame to the end of its check sum."""
    count, length = data.shape
    identity = identity.astype(np.int64)
    zero, one = np.zeros(count, np.int8), np.ones(count, np.int8)

    def bit(value: Codes, place: int) -> Codes:
        return ((value >> place) & 1).astype(np.int8)

    if extended:
        bits = [
            zero,
            *(bit(identity, place) for place in range(28, 17, -1)),
            one,
            one,
            *(bit(identity, place) for place in range(17, -1, -1)),
        ]
        bits += [zero, zero, zero]
    else:
        bits = [zero, *(bit(identity, place) for place in range(10, -1, -1)), zero, zero, zero]
    bits += [np.full(count, (length >> place) & 1, np.int8) for place in range(3, -1, -1)]
    for byte in range(length):
        bits += [bit(data[:, byte].astype(np.int64), place) for place in range(7, -1, -1)]
    check = np.zeros(count, np.int64)
    for own in bits:
        turn = own ^ ((check >> 14) & 1)
        check = ((check << 1) & 0x7FFF) ^ np.where(turn, _CRC15, 0)
    bits += [bit(check, place) for place in range(14, -1, -1)]
    found = np.zeros(count, np.int64)
    run, last = np.zeros(count, np.int8), np.full(count, -1, np.int8)
    for own in bits:
        run = np.where(own == last, run + 1, 1).astype(np.int8)
        five = run == 5
        found += five
        last = np.where(five, 1 - own, own).astype(np.int8)
        run = np.where(five, 1, run).astype(np.int8)
    return found


def bits_of(frames: Frames) -> Floats:
    """Bits that each frame takes on the bus, in bits of the nominal rate, with the pause behind it; shape (n,).

    Stuff bits are counted in some frames of each length and kind and taken to be as many on average in the others.
    """
    bits = np.zeros(len(frames))
    begins = frames.begins
    kinds = frames.flags & (EXTENDED | REMOTE | ERROR | FD | BRS | LIN)
    keys = kinds.astype(np.int64) << 8 | frames.length
    for key in np.unique(keys).tolist():
        which = np.flatnonzero(keys == key)
        kind, length = key >> 8, key & 0xFF
        extended = bool(kind & EXTENDED)
        if kind & ERROR:
            bits[which] = _ERROR_BITS
        elif kind & LIN:
            bits[which] = 34 + 10 * (length + 1)  # ISO 17987: break, sync, identifier; data and check sum, each a byte of ten bits
        elif kind & FD:
            fast = 8.0 * length + (21 if length > 16 else 17) * 1.25 + 9
            bits[which] = _HEAD[extended] + 10 + fast / (_DATA_FASTER if kind & BRS else 1.0) + _TAIL
        else:
            data_bytes = 0 if kind & REMOTE else min(length, 8)
            some = which[:: max(len(which) // _SAMPLE, 1)]
            extra = stuffed(frames.id[some], extended, frames.payload(some, begins, data_bytes)).mean()
            bits[which] = _HEAD[extended] + 8 * data_bytes + _CHECK + _TAIL + extra
    return bits


def bit_rate_of(frames: Frames, bits: Floats, given: tuple[int, ...] = ()) -> int | None:
    """Bits a second of a bus: what a database gives, else the least of the usual rates at which frames that follow each other at once
    do so as fast as they do; None where that cannot be told."""
    if len(given) == 1:
        return given[0]
    gaps = np.diff(frames.time)
    close = gaps > 0
    if close.sum() < 50:
        return None
    fastest = float(np.quantile(np.minimum(bits[1:], bits[:-1])[close] / gaps[close], 0.995))
    return next((rate for rate in USUAL_RATES if fastest <= rate * 1.04), None)


@dataclass(frozen=True, slots=True, eq=False)
class Load:
    """How full one channel is: its rate (bits a second, None where unknown), whether it was guessed, the mean and the fullest stretch
    (shares, None without a rate), and the timeline in equal stretches: where each ends (s), its share, its error frames, its frames."""

    channel: str
    bit_rate: int | None
    guessed: bool
    mean: float | None
    most: float | None
    ends: Floats
    shares: Floats
    errors: Codes
    frames: Codes


def load_of(frames: Frames, channel: str, begin: float, end: float, given: tuple[int, ...] = (), bins: int = BINS) -> Load:
    """The load of the frames of one channel in a log from ``begin`` to ``end`` (s); ``given``: rates that are known."""
    bits = bits_of(frames)
    rate = bit_rate_of(frames, bits, given)
    width = max(end - begin, 1e-9) / bins
    places = np.clip(((frames.time - begin) / width).astype(np.int64), 0, bins - 1)
    shares = np.bincount(places, bits, bins) / (width * rate) if rate else np.zeros(bins)
    errors = np.bincount(places[frames.has(ERROR)], minlength=bins)
    counts = np.bincount(places, minlength=bins)
    mean = float(bits.sum() / rate / max(end - begin, 1e-9)) if rate else None
    most = float(shares.max()) if rate else None
    return Load(channel, rate, len(given) != 1, mean, most, begin + width * np.arange(1, bins + 1), shares, errors, counts)
