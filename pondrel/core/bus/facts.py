"""What each signal of a log came to: shares of time of a flag's values, the range of a quantity. Small, however long the log is."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from cantools.database.can import Message, Signal

from .decode import DecodedSignal
from .flags import is_flag
from .words import is_check_sum, is_counter

__all__ = ["SignalFacts", "facts_of"]


@dataclass(frozen=True, slots=True, eq=False)
class SignalFacts:
    """A signal in a log: its channel (by place), identifier, frame, message and signal, in how many frames it came; ``shares``: of a
    flag, how much of them each raw value has (None of a quantity); ``range``: of a quantity, the values that a tenth, half and nine
    tenths of its finite values lie below (None of a flag, and where none is finite); ``guard``: whether it is a counter or a check sum."""

    channel: int
    id: int
    extended: bool
    frame: str
    message: Message
    signal: Signal
    count: int
    shares: Mapping[int, float] | None
    range: tuple[float, float, float] | None
    guard: bool


def facts_of(message: Message, channel: int, identity: int, extended: bool, own: DecodedSignal) -> SignalFacts:
    """The facts of a signal."""
    shares: Mapping[int, float] | None = None
    spread: tuple[float, float, float] | None = None
    if is_flag(message, own):
        values, counts = np.unique(own.raw.astype(np.int64), return_counts=True)
        shares = {int(value): float(count / counts.sum()) for value, count in zip(values, counts, strict=True)}
    else:
        values = own.value.astype(float)
        values = values[np.isfinite(values)]
        if len(values):
            low, middle, high = (float(one) for one in np.quantile(values, [0.1, 0.5, 0.9]))
            spread = low, middle, high
    guard = is_counter(message, own.signal) or is_check_sum(own.signal)
    return SignalFacts(channel, identity, extended, own.frame, message, own.signal, len(own.raw), shares, spread, guard)
