"""Logs of buses: reading against python-can's readers, decoding against cantools' loop and against an unpack by numpy alone.

Frames and database are made here, with a seed; each ratio is of times in one run on the same frames.
"""

from __future__ import annotations

import tempfile
import time
from collections.abc import Callable
from pathlib import Path

import can
import cantools.database
import numpy as np

from pondrel.core.bus.database import Known, database_from
from pondrel.core.bus.decode import Short, decoded_of
from pondrel.core.bus.frames import ChannelNames, Frames, joined
from pondrel.logs.reading import LogFile
from pondrel.logs.writing import write_log

FRAMES = 1_000_000
IN_LOOP = 50_000  # of which cantools' loop and python-can's readers do so many; their times are brought up by that
MESSAGES = 40


def _database() -> str:
    lines = ['VERSION ""', "NS_ :", "BS_:", "BU_: A"]
    for place in range(MESSAGES):
        lines.append(f"BO_ {0x100 + place} M{place}: 8 A")
        lines += [
            ' SG_ Speed : 0|16@1+ (0.0625,0) [0|4000] "rpm" A',
            ' SG_ Torque : 16|12@1- (0.5,-100) [0|0] "Nm" A',
            ' SG_ Heat : 39|8@0+ (1,-40) [0|0] "degC" A',
            ' SG_ Flag : 40|1@1+ (1,0) [0|1] "" A',
            ' SG_ Mode : 41|3@1+ (1,0) [0|7] "" A',
            ' SG_ Count : 52|4@1+ (1,0) [0|15] "" A',
        ]
    return "\n".join(lines) + "\n"


def _frames() -> Frames:
    rng = np.random.default_rng(20)
    ids = (0x100 + rng.integers(0, MESSAGES, FRAMES)).astype(np.uint32)
    nothing = np.zeros(FRAMES, np.uint8)
    times = np.round(1.7e9 + np.cumsum(rng.exponential(3e-4, FRAMES)), 6)
    return Frames(times, ids, nothing, nothing, nothing + 8, rng.integers(0, 256, 8 * FRAMES).astype(np.uint8))


def _seconds(work: Callable[[], object], times: int = 3) -> float:
    best = float("inf")
    for _ in range(times):
        begin = time.perf_counter()
        work()
        best = min(best, time.perf_counter() - begin)
    return best


def _by_numpy(frames: Frames) -> None:
    """What there is least to do: sort by identifier, unpack each signal by shifts, scale."""
    order = np.argsort(frames.id, kind="stable")
    ids, first = np.unique(frames.id[order], return_index=True)
    data = frames.data.reshape(-1, 8)
    for places in np.split(order, first[1:]):
        own = data[places]
        little, big = own.view("<u8").ravel(), own.view(">u8").ravel().astype(np.uint64)
        (little & 0xFFFF) * 0.0625 + 0.0
        (((little >> 16) & 0xFFF) << 52).view(np.int64) // (1 << 52) * 0.5 - 100.0
        ((big >> 24) & 0xFF).view(np.int64) - 40
        (little >> 40) & 1
        (little >> 41) & 7
        (little >> 52) & 15
    assert len(ids) == MESSAGES


def _by_cantools(database: cantools.database.can.Database, frames: Frames) -> None:
    begins = frames.begins
    for place in range(IN_LOOP):
        database.decode_message(int(frames.id[place]), frames.bytes_of(place, begins))


def main() -> None:
    """Print the ratios."""
    frames, text = _frames(), _database()
    known, loop = Known([database_from(text.encode(), "bench.dbc")]), cantools.database.load_string(text, "dbc")
    own = _seconds(lambda: [None for _ in decoded_of(frames, ("1",), known, Short())])
    numpy_alone = _seconds(lambda: _by_numpy(frames))
    cantools_loop = _seconds(lambda: _by_cantools(loop, frames), 1) * FRAMES / IN_LOOP
    print(f"decode of {FRAMES:,} frames: {cantools_loop / own:.0f} times as fast as cantools' loop (wanted: 20)")
    print(f"decode of {FRAMES:,} frames: {own / numpy_alone:.2f} times an unpack by numpy alone (wanted: at most 3)")
    some = frames.part(0, 4 * IN_LOOP)
    with tempfile.TemporaryDirectory() as folder:
        for name, reader in (("a.log", can.CanutilsLogReader), ("a.asc", can.ASCReader)):
            path = Path(folder) / name
            write_log(path, [some], ChannelNames(["1"]))
            mine = _seconds(lambda path=path: joined(list(LogFile(path))))
            theirs = _seconds(lambda path=path, reader=reader: sum(1 for _ in reader(path)), 2)
            print(f"reading {name[2:]}: {theirs / mine:.1f} times as fast as python-can (wanted: 5)")
    kept = sum(getattr(frames, column).nbytes for column in ("time", "id", "flags", "channel", "length", "data"))
    print(f"kept: {kept / FRAMES:.0f} bytes a frame (wanted: at most 60)")


if __name__ == "__main__":
    main()
