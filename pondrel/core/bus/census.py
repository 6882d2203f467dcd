"""The census of a log: who sends and how often against what should be, counters, check sums, lengths, how full the bus is, its errors,
and which flags of faults are set."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from ..base.arrays import Floats
from .changes import Change, changes_of
from .database import Known
from .decode import DecodedMessage, Short, decoded_of
from .facts import SignalFacts, facts_of
from .flags import Flag, flags_in, in_order
from .frames import ERROR, Codes, Frames
from .guards import CheckSum, Counter, check_sum_of, counter_of
from .load import Load, load_of
from .summary import IdRow, Summary, summary_of
from .words import is_check_sum, is_counter

__all__ = ["Census", "Guard", "Sender", "census_json", "census_of", "changed_between"]

_ORDER = ("silent", "stopped", "late", "bursty", "talks")


@dataclass(frozen=True, slots=True)
class Guard:
    """A counter or a check sum of a message of a channel."""

    channel: str
    frame: str
    counter: Counter | None = None
    check_sum: CheckSum | None = None

    @property
    def wrong(self) -> bool:
        """Whether it tells of something."""
        return bool((self.counter and (self.counter.stuck or self.counter.jumps)) or (self.check_sum and self.check_sum.wrong))


@dataclass(frozen=True, slots=True, eq=False)
class Sender:
    """Who sends, by the databases: its name (empty where none is given), the channel, its state in a word as `Timing` has it (of its
    frames the state that most tell; silent only where all are), and its frames."""

    name: str
    channel: str
    state: str
    rows: tuple[IdRow, ...]

    @property
    def leading(self) -> IdRow:
        """The frame that tells most of it: the quickest of those in its state."""
        own = [row for row in self.rows if row.timing.state == self.state] or list(self.rows)
        return min(own, key=lambda row: (row.timing.expected or row.timing.period or 1e9, row.id))


@dataclass(frozen=True, slots=True, eq=False)
class Census:
    """All that is said of a log; ``flags_seen``: how many flags the databases have in it; ``lengths``: frames whose length is not the
    database's, with the length wanted."""

    summary: Summary
    loads: tuple[Load, ...]
    senders: tuple[Sender, ...]
    guards: tuple[Guard, ...]
    flags: tuple[Flag, ...]
    flags_seen: int
    lengths: tuple[tuple[IdRow, int], ...]
    error_times: Floats
    signals: tuple[SignalFacts, ...]
    notes: tuple[str, ...]


def census_of(
    frames: Frames, names: tuple[str, ...], known: Known, notes: Iterable[str] = (), bit_rates: Mapping[str, int] | None = None
) -> Census:
    """The census of a log; ``bit_rates``: bits a second by channel where they are known."""
    summary = summary_of(frames, names, known, notes)
    if summary.first is None or summary.last is None:
        return Census(summary, (), (), (), (), 0, (), np.zeros(0), (), summary.notes)
    short = Short()
    loads = tuple(
        load_of(frames.only(frames.channel == place), name, summary.first, summary.last, _rates(name, known, bit_rates))
        for place, name in enumerate(names)
    )
    begins = frames.begins
    flags: list[Flag] = []
    guards: list[Guard] = []
    facts: list[SignalFacts] = []
    for message in decoded_of(frames, names, known, short):  # one message at a time: a long log decoded as a whole would fill the memory
        group = message.group
        flags += flags_in(message, names[group.channel], frames.time, summary.first)
        guards += _guards(frames, begins, message, names[group.channel])
        facts += [facts_of(message.message, group.channel, group.id, group.extended, own) for own in message.signals]
    lengths = tuple((row, row.message.length) for row in summary.ids if row.message is not None and _odd_lengths(row, row.message.length))
    said = [*summary.notes, *(note for note in short.notes)]
    if short.unknown and known.databases:
        said.append(f"Frames that no database knows: {short.unknown}, of {len(summary.unknown)} identifiers.")
    senders = _senders(summary)
    silent = [sender.name for sender in senders if sender.name and sender.state in ("silent", "stopped")]
    return Census(
        summary, loads, senders, tuple(guards), tuple(in_order(flags, silent)), sum(own.shares is not None for own in facts), lengths,
        frames.time[frames.has(ERROR)] - summary.first, tuple(facts), tuple(said),
    )  # fmt: skip


def _rates(channel: str, known: Known, given: Mapping[str, int] | None) -> tuple[int, ...]:
    if given and channel in given:
        return (given[channel],)
    rates = {rate for own in known.databases if own.channel in ("", channel) for rate in own.bit_rates}
    return tuple(sorted(rates))


def _odd_lengths(row: IdRow, wanted: int) -> bool:
    return row.message is not None and not row.message.is_container and any(length != wanted for length, _ in row.lengths)


def _senders(summary: Summary) -> tuple[Sender, ...]:
    by_name: dict[tuple[str, str], list[IdRow]] = {}
    for row in summary.ids:
        for name in (row.message.senders if row.message is not None else ()) or ("",):
            by_name.setdefault((name, row.channel), []).append(row)
    found = []
    for (name, channel), rows in by_name.items():
        judged = [row for row in rows if row.timing.expected is not None] or rows
        states = {row.timing.state for row in judged}
        worst = next(state for state in _ORDER if state in states)
        # A module that still sends something is not silent, whatever it leaves out.
        state = worst if worst != "silent" or states == {"silent"} else "late"
        found.append(Sender(name, channel, state, tuple(sorted(rows, key=lambda row: row.id))))
    return tuple(sorted(found, key=lambda own: (own.name == "", _ORDER.index(own.state), own.name, own.channel)))


def _guards(frames: Frames, begins: Codes, message: DecodedMessage, channel: str) -> Iterable[Guard]:
    for own in message.signals:
        times = frames.time[own.places] - frames.time[0]
        if is_counter(message.message, own.signal):
            counter = counter_of(own, times)
            if counter is not None:
                yield Guard(channel, own.frame, counter=counter)
        elif is_check_sum(own.signal) and own.frame == message.message.name:
            wanted = message.message.length
            if (frames.length[own.places] == wanted).all():
                check_sum = check_sum_of(own, frames.payload(own.places, begins, wanted), times)
                if check_sum is not None:
                    yield Guard(channel, own.frame, check_sum=check_sum)


def changed_between(before: Census, after: Census) -> list[Change]:
    """What differs from one log to another."""
    return changes_of(
        (before.summary.ids, before.signals), (after.summary.ids, after.signals), after.summary.channels, after.summary.last or 0.0
    )


def _ms(seconds: float | None) -> float | None:
    return None if seconds is None else round(1e3 * seconds, 6)


def census_json(own: Census, against: Sequence[Change] | None = None) -> dict[str, Any]:
    """The census as `pondrel bus census` prints it: times in s from the log's begin, periods in ms, shares from 0 to 1."""
    begin = own.summary.first or 0.0

    def frame(row: IdRow) -> dict[str, Any]:
        timing = row.timing
        return {
            "channel": row.channel,
            "id": row.id,
            "extended": row.extended,
            "frame": row.name,
            "state": timing.state,
            "count": timing.count,
            "period_ms": _ms(timing.period),
            "expected_ms": _ms(timing.expected),
            "from_database": timing.given,
            "late": timing.late,
            "longest_ms": _ms(timing.longest),
            "last": None if timing.last is None else timing.last - begin,
        }

    found: dict[str, Any] = {
        "frames": own.summary.frames,
        "error_frames": own.summary.error_frames,
        "seconds": None if own.summary.last is None else own.summary.last - begin,
        "channels": [
            {"channel": load.channel, "bit_rate": load.bit_rate, "guessed": load.guessed, "load": load.mean, "most": load.most}
            for load in own.loads
        ],
        "senders": [
            {"sender": sender.name or None, "channel": sender.channel, "state": sender.state, "frames": [row.name for row in sender.rows]}
            for sender in own.senders
        ],
        "ids": [frame(row) for row in own.summary.ids],
        "counters": [
            {
                "channel": guard.channel, "frame": guard.frame, "signal": guard.counter.signal, "stuck": guard.counter.stuck,
                "since": guard.counter.stuck_since, "jumps": guard.counter.jumps,
            }
            for guard in own.guards if guard.counter is not None
        ],
        "check_sums": [
            {
                "channel": guard.channel, "frame": guard.frame, "signal": guard.check_sum.signal, "rule": guard.check_sum.rule,
                "frames": guard.check_sum.frames, "wrong": guard.check_sum.wrong, "first_wrong": guard.check_sum.first_wrong,
            }
            for guard in own.guards if guard.check_sum is not None
        ],
        "lengths": [
            {"channel": row.channel, "frame": row.name, "expected": wanted, "lengths": dict(row.lengths)} for row, wanted in own.lengths
        ],
        "flags": [
            {
                "channel": flag.channel, "frame": flag.frame, "signal": flag.signal, "says": flag.says, "text": flag.text,
                "senders": list(flag.senders), "since": flag.since, "from_first": flag.from_first, "share": flag.share,
                "still": flag.still, "behind": flag.behind, "silent": flag.silent or None, "warns": flag.warns,
            }
            for flag in own.flags
        ],
        "notes": list(own.notes),
    }  # fmt: skip
    if against is not None:
        found["changes"] = [
            {name: getattr(change, name) for name in ("kind", "channel", "id", "frame", "signal", "says", "before", "after", "telling")}
            for change in against
        ]
    return found
