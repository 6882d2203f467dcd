"""A log in short: its channels, which frames are in it and how often they come, which are known and which should be there."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

import numpy as np
from cantools.database.can import Message

from .database import Known
from .frames import ERROR, Frames
from .groups import groups_of
from .timing import Timing, pace_of, timing_of

__all__ = ["IdRow", "Summary", "cycle_of", "summary_json", "summary_of"]


@dataclass(frozen=True, slots=True, eq=False)
class IdRow:
    """What is said of one identifier on one channel; ``message``: what the databases know it as. ``lengths``: how many frames have how
    many data bytes."""

    channel: str
    id: int
    extended: bool
    lin: bool
    message: Message | None
    timing: Timing
    lengths: tuple[tuple[int, int], ...]
    pace: tuple[float | None, ...] = ()

    @property
    def name(self) -> str | None:
        """What the databases call it."""
        return None if self.message is None else str(self.message.name)

    @property
    def spelled(self) -> str:
        """The identifier as it is written: three or eight hexadecimal digits, two of LIN."""
        return f"{self.id:02X}" if self.lin else f"{self.id:08X}" if self.extended else f"{self.id:03X}"


@dataclass(frozen=True, slots=True, eq=False)
class Summary:
    """A log in short; ``first`` and ``last`` in s, None of an empty one."""

    frames: int
    error_frames: int
    first: float | None
    last: float | None
    channels: tuple[str, ...]
    ids: tuple[IdRow, ...]
    notes: tuple[str, ...]

    @property
    def unknown(self) -> tuple[IdRow, ...]:
        """Those that no database knows."""
        return tuple(row for row in self.ids if row.message is None and not row.lin)


def cycle_of(message: Message | None) -> float | None:
    """The cycle that the database gives a message (s)."""
    return message.cycle_time / 1e3 if message is not None and message.cycle_time else None


def summary_of(frames: Frames, names: tuple[str, ...], known: Known, notes: Iterable[str] = ()) -> Summary:
    """What is in a log. Messages that the databases give a cycle and that never came are in it too, on each channel they are for."""
    if not len(frames):
        return Summary(0, 0, None, None, names, (), (*notes, "There are no frames in it."))
    begin, end = float(frames.time.min()), float(frames.time.max())
    rows: list[IdRow] = []
    seen: set[int] = set()
    backwards = 0
    for group in groups_of(frames):
        message = None if group.lin else known.message(names[group.channel], group.id, group.extended)
        if message is not None:
            seen.add(id(message))
        times = frames.time[group.places]
        if (np.diff(times) < 0).any():
            backwards += 1
            times = np.sort(times)
        lengths, counts = np.unique(frames.length[group.places], return_counts=True)
        timing = timing_of(times, begin, end, cycle_of(message))
        rows.append(
            IdRow(
                names[group.channel], group.id, group.extended, group.lin, message, timing,
                tuple(zip(lengths.tolist(), counts.tolist(), strict=True)), pace_of(times, begin, end, timing.expected or timing.period),
            )
        )  # fmt: skip
    used = {row.channel for row in rows if row.message is not None} or set(names)
    for channel in names:
        for (identity, extended), message in known.expected(channel).items():
            if id(message) in seen or cycle_of(message) is None or channel not in used:
                continue
            rows.append(IdRow(channel, identity, extended, False, message, timing_of(np.zeros(0), begin, end, cycle_of(message)), ()))
    rows.sort(key=lambda row: (names.index(row.channel), row.extended, row.id))
    said = [*notes, *known.notes]
    if backwards:
        said.append(f"Times go back in the log in {backwards} identifiers: frames are put in the order of their times where periods count.")
    return Summary(len(frames), int(frames.has(ERROR).sum()), begin, end, names, tuple(rows), tuple(said))


def summary_json(own: Summary) -> dict[str, Any]:
    """The summary as `pondrel bus read` prints it: identifiers as numbers, periods in ms, null where nothing can be said."""

    def row(one: IdRow) -> dict[str, Any]:
        period = one.timing.period
        return {
            "channel": one.channel,
            "id": one.id,
            "extended": one.extended,
            "frame": one.name,
            "count": one.timing.count,
            "period_ms": None if period is None else round(1e3 * period, 6),
            "late": one.timing.late,
            "silent": one.timing.silent,
        }

    return {
        "frames": own.frames,
        "error_frames": own.error_frames,
        "first": own.first,
        "last": own.last,
        "channels": list(own.channels),
        "ids": [row(one) for one in own.ids],
        "unknown": [{"channel": one.channel, "id": one.id, "extended": one.extended, "count": one.timing.count} for one in own.unknown],
        "notes": list(own.notes),
    }
