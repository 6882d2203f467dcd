"""What a log tells of that should not be: flags of faults that are set, by whom, since when, and which of them came first."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np
from cantools.database.can import Message

from ..base.arrays import Floats
from .decode import DecodedMessage, DecodedSignal, names_of
from .fault_words import WARNING, wrong_values
from .summary import cycle_of
from .words import called, is_check_sum, is_counter, speaks_of, spelled_out

__all__ = ["Flag", "flags_in", "in_order", "is_flag"]

_AT_ONCE = 1e-3


@dataclass(frozen=True, slots=True)
class Flag:
    """A flag of a fault that is set in a log.

    ``says``: what it is called; ``text``: what its value is called; ``senders``: who sends it; ``since``: s from the log's begin to
    where it is first set; ``from_first``: whether it was set in the first frame that tells of it; ``share``: of its frames, in how many
    it is set; ``still``: whether it is set in the last; ``cycle``: how often its message comes (s, None where that is not known);
    ``silent``: the silent sender that it tells of by name, empty where it tells of none; ``behind``: s behind the flag that was set first
    (None of that one itself, and of those that were set from their first frame on); ``warns``: it only warns or tells that something is
    switched off, which may be as it should be.
    """

    channel: str
    frame: str
    signal: str
    says: str
    text: str
    senders: tuple[str, ...]
    since: float
    from_first: bool
    share: float
    still: bool
    cycle: float | None = None
    silent: str = ""
    behind: float | None = None
    warns: bool = False

    @property
    def key(self) -> tuple[str, str]:
        """What it is, whatever the log: its frame and signal."""
        return self.frame, self.signal


def is_flag(message: Message, own: DecodedSignal) -> bool:
    """Whether a signal is of a few values of its own rather than a quantity, a counter or a check sum."""
    signal = own.signal
    few = signal.length <= 2 or (bool(signal.choices) and signal.length <= 8)
    return few and not is_counter(message, signal) and not is_check_sum(signal) and not signal.is_multiplexer


def flags_in(message: DecodedMessage, channel: str, times: Floats, begin: float) -> Iterator[Flag]:
    """The flags of faults that are set in a message of a log; ``times`` (s, (n,)) of the log's frames, ``begin`` of its first."""
    for own in message.signals:
        wrong = wrong_values(own.signal) if is_flag(message.message, own) else {}
        is_set = np.isin(own.raw.astype(np.int64), list(wrong)) if wrong else np.zeros(0, bool)
        if not is_set.any():
            continue
        first = int(is_set.argmax())
        text = names_of(own.signal).get(int(own.raw[first]), "")
        yield Flag(
            channel, own.frame, own.signal.name, called(own.signal), spelled_out(text) if text else "", tuple(message.message.senders),
            float(times[own.places[first]]) - begin, first == 0, float(is_set.mean()), bool(is_set[-1]), cycle_of(message.message),
            warns=wrong[int(own.raw[first])] == WARNING,
        )  # fmt: skip


def in_order(flags: Iterable[Flag], silent: Sequence[str] = ()) -> list[Flag]:
    """Flags in the order in which they are worth following, each with how long it came behind the first of them: what was set first
    comes first, of those that were set from the beginning on what its module tells most often; what only says that one of the
    ``silent`` senders is missing comes behind them, and last what only warns."""
    named = [replace(flag, silent=next((name for name in silent if speaks_of(f"{flag.says} {flag.signal}", name)), "")) for flag in flags]
    found = sorted(
        named,
        key=lambda flag: (flag.warns, flag.silent != "", not flag.from_first, flag.since, flag.cycle or 1e9, flag.frame, flag.signal),
    )
    return [_behind(flag, found[0]) for flag in found]


def _behind(flag: Flag, first: Flag) -> Flag:
    if flag is first or flag.silent or flag.from_first or flag.since - first.since < _AT_ONCE:
        return flag
    return replace(flag, behind=flag.since - first.since)
