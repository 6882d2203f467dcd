"""What messages carry to show that they are alive and whole: counters that count on, check sums whose rule shows in the log itself."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

import numpy as np

from .decode import DecodedSignal
from .frames import Bytes, Codes

__all__ = ["CheckSum", "Counter", "check_sum_of", "counter_of"]

_FEW = 8
_MOSTLY = 0.8
_RULE_HOLDS, _RULE_FRAMES, _RULE_KINDS = 0.9, 24, 8


@dataclass(frozen=True, slots=True)
class Counter:
    """A counter of frames: its step (None of one that never moved), how often it stood still or jumped, and since when it has stood
    still to the end (s; None while it counts)."""

    signal: str
    step: int | None
    still: int
    jumps: int
    stuck_since: float | None

    @property
    def stuck(self) -> bool:
        """Whether it stands."""
        return self.stuck_since is not None


def counter_of(own: DecodedSignal, times: Codes) -> Counter | None:
    """What a counter did, ``times`` (s, (n,)) being those of its frames; None where it is too short or counts by no rule."""
    raw = own.raw.astype(np.int64)
    if len(raw) < _FEW:
        return None
    around = 1 << own.signal.length
    steps = np.diff(raw) % around
    if not steps.any():
        return Counter(own.signal.name, None, len(steps), 0, float(times[0]))
    moved = steps[steps != 0]
    values, counts = np.unique(moved, return_counts=True)
    step = int(values[counts.argmax()])
    # Some counters leave out their highest value; that step is one of the rule.
    right = (steps == step) | ((steps == (step + 1) % around) & (raw[1:] < raw[:-1]))
    last_move = int(np.flatnonzero(steps)[-1]) + 1
    stuck = len(raw) - 1 - last_move >= _FEW
    before = right[:last_move] if stuck else right
    if before.mean() < _MOSTLY:
        return None
    still = int((steps == 0).sum())
    return Counter(own.signal.name, step, still, int((~right & (steps != 0)).sum()), float(times[last_move]) if stuck else None)


@dataclass(frozen=True, slots=True)
class CheckSum:
    """A check sum whose rule the log shows: the rule in words, in how many frames it was looked at, in how many it is wrong, and the
    time of the first of those (s)."""

    signal: str
    rule: str
    frames: int
    wrong: int
    first_wrong: float | None


def _table(polynomial: int) -> Bytes:
    rows = []
    for byte in range(256):
        for _ in range(8):
            byte = (byte << 1) ^ polynomial if byte & 0x80 else byte << 1
        rows.append(byte & 0xFF)
    return np.array(rows, np.uint8)


def _crc8(polynomial: int) -> Callable[[Bytes], Bytes]:
    table = _table(polynomial)

    def own(data: Bytes) -> Bytes:
        check = np.full(len(data), 0xFF, np.uint8)
        for place in range(data.shape[1]):
            check = table[check ^ data[:, place]]
        return check

    return own


# By words: the sum of the other bytes, and whether what a frame's identifier, start value and last turn add is a difference or a turn of
# bits. All of those are the same in all frames of a message, so that the log itself shows them. CRC-8 with 0x1D is SAE J1850's, the
# other one is called 8H2F.
_RULES: Mapping[str, tuple[Callable[[Bytes], Bytes], bool]] = {
    "exclusive or of the bytes": (lambda data: np.bitwise_xor.reduce(data, axis=1), True),
    "sum of the bytes": (lambda data: data.sum(axis=1, dtype=np.uint8), False),
    "sum of the bytes turned round": (lambda data: ~data.sum(axis=1, dtype=np.uint8), False),
    "CRC-8 with 0x1D": (_crc8(0x1D), True),
    "CRC-8 with 0x2F": (_crc8(0x2F), True),
    "CRC-8 with 0x07": (_crc8(0x07), True),
}


def check_sum_of(own: DecodedSignal, data: Bytes, times: Codes) -> CheckSum | None:
    """What a check sum of one whole byte came to, ``data`` (n, length) being the frames' bytes; None where no rule shows."""
    signal = own.signal
    if signal.length != 8 or signal.start % 8 not in (0, 7) or len(data) < _RULE_FRAMES:
        return None
    byte = signal.start // 8
    if (signal.byte_order == "little_endian") != (signal.start % 8 == 0):
        return None
    others = np.delete(data, byte, axis=1)
    if not others.shape[1] or len(np.unique(others, axis=0)) < _RULE_KINDS:
        return None
    written = data[:, byte]
    for rule, (sum_of, turned) in _RULES.items():
        rest = written ^ sum_of(others) if turned else written - sum_of(others)
        usual = np.bincount(rest, minlength=256).argmax()
        wrong = rest != usual
        if 1.0 - wrong.mean() >= _RULE_HOLDS:
            first = float(times[wrong.argmax()]) if wrong.any() else None
            return CheckSum(signal.name, rule, len(data), int(wrong.sum()), first)
    return None
