"""LIN out of stretches (ISO 17987-3): break, sync, protected identifier, and up to eight bytes of answer with a check sum."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from .crc import lin_checksum, lin_parity
from .frame import Frame, LineError, Read
from .runs import Runs

__all__ = ["lin_in"]

BREAK = 10.0  # bits of dominant from which on it may be a break: a header has 13, a slower listener sees fewer
SYNC = 9  # alternating bits of the byte 0x55 with its start bit
EVEN = 0.25  # of a bit by which those may differ
WAIT = 20.0  # bits without a start bit after which an answer is over
CLASSIC_ONLY = (0x3C, 0x3D)  # diagnostic frames
MOST_BYTES = 9


@dataclass(frozen=True, slots=True)
class _Header:
    run: int  # the break
    bit: float
    end: float  # of the sync byte's last data bit


def lin_in(runs: Runs) -> Read | None:
    """What a line says if it is LIN; None where there is no header."""
    headers = _headers(runs)
    if not headers:
        return None
    frames: list[Frame] = []
    errors: list[LineError] = []
    for number, header in enumerate(headers):
        limit = float(runs.at[headers[number + 1].run]) if number + 1 < len(headers) else float(runs.at[-1])
        _frame(runs, header, limit, frames, errors)
    return Read("LIN", 1.0 / float(np.median([header.bit for header in headers])), tuple(frames), tuple(errors))


def _headers(runs: Runs) -> list[_Header]:
    lengths = runs.lengths
    count = len(lengths)
    if count < SYNC + 3:
        return []
    found = []
    # The sync byte: nine stretches of one bit each; the break lies two before the first of them.
    windows = np.lib.stride_tricks.sliding_window_view(lengths, SYNC)
    mean = windows.mean(axis=1)
    even = (np.abs(windows - mean[:, None]) < EVEN * mean[:, None]).all(axis=1)
    for k in np.flatnonzero(even):
        if k < 2 or not runs.dominant[k] or not runs.dominant[k - 2]:
            continue
        bit = float((runs.at[k + SYNC - 1] - runs.at[k]) / (SYNC - 1))
        if lengths[k - 2] > BREAK * bit and lengths[k - 1] > 0.5 * bit:
            found.append(_Header(int(k) - 2, bit, float(runs.at[k + SYNC])))
    return found


def _frame(runs: Runs, header: _Header, limit: float, frames: list[Frame], errors: list[LineError]) -> None:
    begin = float(runs.at[header.run])
    read, time, cut = _bytes(runs, header.end, header.bit, limit)
    if not read:
        if not cut:
            errors.append(LineError(begin, header.end, "form"))
        return
    protected, answer = read[0], read[1:]
    identifier = protected & 0x3F
    if lin_parity(identifier) != protected:
        errors.append(LineError(begin, time, "parity"))
    if len(answer) < 2:
        if not cut:
            errors.append(LineError(begin, time, "no response"))
            frames.append(Frame(begin, time, identifier, False, False, b"", False, False))
        return
    data, told = answer[:-1], answer[-1]
    enhanced = told == lin_checksum(data, protected) and identifier not in CLASSIC_ONLY
    right = enhanced or told == lin_checksum(data)
    if not right and cut:
        return
    if not right:
        errors.append(LineError(begin, time, "checksum"))
    frames.append(Frame(begin, time, identifier, False, False, bytes(data), right, True, enhanced=enhanced if right else None))


def _bytes(runs: Runs, time: float, bit: float, limit: float) -> tuple[list[int], float, bool]:
    """Bytes that follow an instant, where the last one ended, and whether the capture's end cut them off."""
    found: list[int] = []
    last = float(runs.at[-1])
    # The stop bit of the byte before has to be over.
    time += 0.5 * bit
    while len(found) < MOST_BYTES + 1:
        start = _next_fall(runs.at, runs.dominant, time)
        if start is None or start >= limit - 0.5 * bit or start - time > WAIT * bit:
            return found, time, start is None and last - time < WAIT * bit
        if start + 9.5 * bit > last:
            return found, time, True
        samples = start + (np.arange(10) + 0.5) * bit
        states = ~runs.dominant[np.searchsorted(runs.at, samples, side="right") - 1]
        if not states[9]:
            return found, time, False  # no stop bit: a break, or a line that hangs
        found.append(int(states[1:9] @ (1 << np.arange(8))))
        time = start + 9.5 * bit
    return found, time, False


def _next_fall(at: NDArray[np.float64], dominant: NDArray[np.bool_], time: float) -> float | None:
    run = int(np.searchsorted(at, time, side="right")) - 1
    run = max(run, 0)
    if not dominant[run]:
        run += 1
    elif at[run] < time - 1e-12:
        run += 2
    return float(at[run]) if run < len(dominant) else None
