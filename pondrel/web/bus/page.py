"""The page of a log: the timeline, who talks, what is set and should not be, what differs from another log or behind a mark."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from ...core.bus.census import Census, Sender
from ...core.bus.changes import Change
from ...core.bus.flags import Flag
from ...core.bus.summary import IdRow
from ...core.bus.timing import PACES
from ...core.bus.verdict import BusVerdict, verdict_of
from ...core.bus.words import called, spelled_out
from ...store.buses import BusLogRow, BusMarkRow, LinkRow
from ..shell.letters import letter

__all__ = ["STATES", "BusPage", "FlagShown", "SenderRow", "Timeline", "found_signals", "page_key", "page_of"]

WIDTH, LEFT, RIGHT = 1226, 84, 20
TOP, BOTTOM, ERRORS, FOOT = 8, 70, 84, 108
SPARK_WIDTH, SPARK_HEIGHT = 200, 30
MOST_MARKS_DRAWN, MOST_SIGNALS = 400, 60
STATES = {"talks": "talks", "late": "late", "bursty": "in bursts", "stopped": "stopped", "silent": "silent"}
_FULL_STEPS = (5, 10, 20, 30, 50, 80, 100)


@dataclass(frozen=True, slots=True)
class Timeline:
    """The picture on top: the load as a path, that of the other log, error strokes, ticks of time and of load, marks."""

    path: str
    other: str
    errors: Sequence[float]
    times: Sequence[tuple[float, str]]
    levels: Sequence[tuple[float, str]]
    marks: Sequence[tuple[float, str]]
    says: str


@dataclass(frozen=True, slots=True)
class SenderRow:
    """A sender as it is shown: what it is called, its state in a word, how often its leading frame comes and should (ms in words), its
    sparkline, and its frames. ``key`` is what a link to a circuit goes by."""

    key: str
    says: str
    channel: str
    state: str
    word: str
    every: str
    should: str
    spark: str
    spark_ends: str
    frames: Sequence[str]
    link: LinkRow | None


@dataclass(frozen=True, slots=True)
class FlagShown:
    """A flag that is set, who says so in words, and how it stands to the one that is followed."""

    flag: Flag
    key: str
    who: str
    relation: str
    link: LinkRow | None


@dataclass(frozen=True, slots=True)
class BusPage:
    """All that the page shows of a log."""

    row: BusLogRow
    census: Census
    timeline: Timeline
    senders: Sequence[SenderRow]
    talking: str
    flags: Sequence[FlagShown]
    marks: Sequence[tuple[str, BusMarkRow]]
    changes: Sequence[Change]
    other: BusLogRow | None
    at_mark: str
    verdict: BusVerdict

    @property
    def messages(self) -> str:
        """How many messages there are, in groups of three digits."""
        return f"{self.row.frames:,}".replace(",", "\u202f")

    @property
    def heard(self) -> Mapping[str, bool]:
        """By the name of each sender, whether it is heard to the end."""
        return {own.key: own.state not in ("silent", "stopped") for own in self.senders if own.key}

    @property
    def wrong_guards(self) -> Sequence[str]:
        """What counters and check sums tell of; messages that are missing since their sender is not heard are no news."""
        gone = {row.name for sender in self.census.senders if sender.state == "stopped" for row in sender.rows}
        said = []
        for guard in self.census.guards:
            if guard.frame in gone:
                continue
            if guard.counter is not None and guard.counter.stuck:
                said.append(f"{guard.frame}: its counter stands still from {guard.counter.stuck_since:.1f} s on")
            elif guard.counter is not None and guard.counter.jumps:
                times = "once" if guard.counter.jumps == 1 else f"{guard.counter.jumps} times"
                said.append(f"{guard.frame}: its counter jumped {times}, so messages are missing")
            elif guard.check_sum is not None and guard.check_sum.wrong:
                said.append(f"{guard.frame}: {guard.check_sum.wrong} of {guard.check_sum.frames} check sums are wrong")
        return said


def page_key(sender: SenderRow) -> str:
    """What is followed of a sender, in an address."""
    return f"sender {sender.key}"


def page_of(
    row: BusLogRow, census: Census, marks: Sequence[BusMarkRow], links: Mapping[tuple[str, str], LinkRow],
    changes: Sequence[Change], other: tuple[BusLogRow, Census] | None, at_mark: str,
) -> BusPage:  # fmt: skip
    """The page of a log."""
    lettered = [(letter(place), mark) for place, mark in enumerate(marks)]
    senders = [_sender_row(sender, census, links) for sender in census.senders]
    named = [sender for sender in census.senders if sender.name]
    talking = sum(sender.state not in ("silent", "stopped") for sender in named)
    says = f"{len(named)} modules should, {talking} do" if named else "no database says who should"
    return BusPage(
        row, census, _timeline(row, census, lettered, other[1] if other else None), senders, says, _flags(census, links), lettered,
        changes, other[0] if other else None, at_mark, verdict_of(census),
    )  # fmt: skip


def _flags(census: Census, links: Mapping[tuple[str, str], LinkRow]) -> list[FlagShown]:
    found = []
    for place, flag in enumerate(census.flags):
        if flag.silent:
            relation = "follows from its silence"
        elif flag.warns:
            relation = "only warns"
        elif not place:
            relation = "follow this"
        elif flag.behind is not None:
            relation = "may follow from it"
        else:
            relation = "apart from it"
        who = ", ".join(f"the {spelled_out(name).lower()}" for name in flag.senders) or flag.frame
        found.append(FlagShown(flag, ".".join(flag.key), who, relation, links.get(flag.key)))
    return found


def _ms(seconds: float | None) -> str:
    return "–" if seconds is None else f"{1e3 * seconds:.3g} ms" if seconds < 0.9995 else f"{seconds:.3g} s"


def _sender_row(sender: Sender, census: Census, links: Mapping[tuple[str, str], LinkRow]) -> SenderRow:
    lead = sender.leading
    spark, ends = _spark(lead, census)
    unnamed = "unknown senders" if any(row.name is None for row in sender.rows) else "no sender named"
    says = spelled_out(sender.name) if sender.name else unnamed
    return SenderRow(
        sender.name, says, sender.channel, sender.state, STATES[sender.state], _ms(lead.timing.period),
        _ms(lead.timing.expected) if lead.timing.given else "–", spark, ends,
        [f"{row.name or 'unknown'} {row.spelled}: {STATES[row.timing.state]}, {row.timing.count} times" for row in sender.rows],
        links.get(("", sender.name)) if sender.name else None,
    )  # fmt: skip


def _spark(lead: IdRow, census: Census) -> tuple[str, str]:
    """The pace over the log as a path, and what is said where there is none. A stretch without a frame is a gap in the line, where frames
    come more often than that."""
    if not lead.timing.count:
        return "", "never in this log"
    if not lead.pace:
        return "", f"{lead.timing.count} times"
    stretch = ((census.summary.last or 0.0) - (census.summary.first or 0.0)) / PACES
    pieces, pen = [], "M"
    for place, pace in enumerate(lead.pace):
        if pace is None:
            pen = "M" if (lead.timing.expected or lead.timing.period or 0.0) < stretch else pen
            continue
        pieces.append(f"{pen}{place * SPARK_WIDTH / (PACES - 1):.1f} {SPARK_HEIGHT - 6 - (min(pace, 3.0) - 1.0) * 10:.1f}")
        pen = "L"
    return "".join(pieces), ""


def _timeline(row: BusLogRow, census: Census, marks: Sequence[tuple[str, BusMarkRow]], other: Census | None) -> Timeline:
    seconds = max(row.seconds, 1e-9)

    def x(time: float) -> float:
        return round(LEFT + time / seconds * (WIDTH - LEFT - RIGHT), 1)

    loads = [load for load in census.loads if load.bit_rate]
    most = max([load.most or 0.0 for load in loads] + [load.most or 0.0 for load in (other.loads if other else ())], default=0.0)
    full = next((step for step in _FULL_STEPS if step >= 108 * most), 100) / 100.0

    def y(share: float) -> float:
        return round(BOTTOM - min(share / full, 1.0) * (BOTTOM - TOP), 1)

    def path(found: Census) -> str:
        own = max((load for load in found.loads if load.bit_rate), key=lambda load: load.mean or 0.0, default=None)
        if own is None:
            return ""
        begin = found.summary.first or 0.0
        return "M" + "L".join(f"{x(end - begin)} {y(share)}" for end, share in zip(own.ends.tolist(), own.shares.tolist(), strict=True))

    strokes = sorted({x(time) for time in census.error_times[:: max(len(census.error_times) // MOST_MARKS_DRAWN, 1)].tolist()})
    count = len(census.error_times)
    spoilt = "nothing spoilt" if not count else "1 spoilt message" if count == 1 else f"{count} spoilt messages"
    step = next(own for own in (0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 30, 60, 120, 300, 600, 1800, 3600, 1e9) if seconds / own <= 12)
    ticks = [(x(time), f"{time:g}") for time in np.arange(0.0, seconds + 1e-9, step).tolist()]
    return Timeline(
        path(census) if loads else "", path(other) if other else "", strokes, ticks,
        [(y(part * full), f"{100 * part * full:.3g}%{' full' if part == 1.0 else ''}") for part in (0.0, 0.5, 1.0)] if loads else [],
        [(x(min(max(mark.at, 0.0), seconds)), name) for name, mark in marks], spoilt,
    )  # fmt: skip


def found_signals(census: Census, text: str) -> list[tuple[str, str, str, str]]:
    """Signals whose name, words or message holds all words of a text: key, words, message, and what it came to."""
    wanted = text.lower().split()
    found = []
    for own in census.signals:
        says = called(own.signal)
        if not all(word in f"{own.signal.name} {says} {own.frame} {spelled_out(own.signal.name)}".lower() for word in wanted):
            continue
        unit = f" {own.signal.unit}" if own.signal.unit else ""
        if own.range is not None:
            low, _, high = own.range
            came_to = f"{low:.4g}{unit}" if low == high else f"{low:.4g} to {high:.4g}{unit}"
        else:
            came_to = ", ".join(f"{value}" for value in sorted(own.shares or {})[:6])
        found.append((f"{census.summary.channels[own.channel]}|{own.frame}|{own.signal.name}", says, own.frame, came_to))
    return found[:MOST_SIGNALS]
