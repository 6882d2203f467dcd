"""What differs between two logs, or before and after a mark of one: identifiers, periods, flags and values, the most telling first."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from cantools.database.can import Signal

from .decode import names_of
from .facts import SignalFacts
from .fault_words import wrong_values
from .summary import IdRow
from .words import called, spelled_out

__all__ = ["Change", "changes_of"]

_MOST = 60
_PERIOD = 0.2
_SHARE = 0.1
_MOVED = 4.0
_FEW = 5


@dataclass(frozen=True, slots=True)
class Change:
    """One difference: its kind (``gone``, ``came``, ``slower``, ``faster``, ``length``, ``flag``, ``value``), where, in words, what it was
    before and is after in words, and how telling it is (0 to 1)."""

    kind: str
    channel: str
    id: int
    frame: str
    signal: str
    says: str
    before: str
    after: str
    telling: float


def _rows(rows: Iterable[IdRow]) -> Mapping[tuple[int, bool, str], IdRow]:
    """By what they are; where both logs have one channel only, whatever it is called, its name does not count."""
    own = list(rows)
    single = len({row.channel for row in own}) < 2
    return {(row.id, row.extended, "" if single else row.channel): row for row in own}


def _of_ids(before: Iterable[IdRow], after: Iterable[IdRow], end: float) -> list[Change]:
    old, new = _rows(before), _rows(after)
    found: list[Change] = []

    def tell(kind: str, row: IdRow, says: str, was: str, now: str, telling: float) -> None:
        found.append(Change(kind, row.channel, row.id, row.name or row.spelled, "", says, was, now, telling))

    for key in sorted(old.keys() | new.keys()):
        was, now = old.get(key), new.get(key)
        counts = (was.timing.count if was else 0, now.timing.count if now else 0)
        row = now or was
        assert row is not None
        name = row.name or row.spelled
        if counts[0] and not counts[1]:
            steady = was is not None and was.timing.expected is not None
            tell("gone", row, f"{name} does not come any more", _every(was), "never", 1.0 if steady else 0.6)
        elif counts[1] and not counts[0]:
            tell("came", row, f"{name} is new", "never", _every(now), 0.7 if now and now.timing.expected else 0.5)
        elif was and now and counts[0] and counts[1]:
            if now.timing.state == "stopped" and was.timing.state != "stopped":
                tell("gone", row, f"{name} stops", _every(was), f"none in the last {end - (now.timing.last or end):.3g} s", 0.95)
                continue
            periods = was.timing.period, now.timing.period
            if periods[0] and periods[1] and was.timing.expected and abs(periods[1] / periods[0] - 1.0) > _PERIOD:
                slower = periods[1] > periods[0]
                tell(
                    "slower" if slower else "faster",
                    row,
                    f"{name} comes {'less' if slower else 'more'} often",
                    _every(was),
                    _every(now),
                    0.6,
                )
            lengths = {length for length, _ in was.lengths}, {length for length, _ in now.lengths}
            if not lengths[0] & lengths[1]:
                tell("length", row, f"{name} has another length", _bytes(lengths[0]), _bytes(lengths[1]), 0.55)
    return found


def _every(row: IdRow | None) -> str:
    period = row.timing.period if row else None
    return f"every {1e3 * period:.3g} ms" if period else "once"


def _bytes(lengths: set[int]) -> str:
    return " or ".join(str(length) for length in sorted(lengths)) + " bytes"


def _of_flag(old: SignalFacts, new: SignalFacts) -> tuple[str, str, float] | None:
    """What a flag was and is, and how telling that is; None where its shares of time are alike."""
    was, now = old.shares or {}, new.shares or {}
    moved = max(abs(now.get(value, 0.0) - was.get(value, 0.0)) for value in was.keys() | now.keys())
    if moved < _SHARE:
        return None
    worse = sum(now.get(value, 0.0) - was.get(value, 0.0) for value in wrong_values(new.signal))
    always = max(was.values()) == 1.0 and max(now.values()) == 1.0
    telling = 0.35 + 0.2 * moved + (0.15 if always else 0.0) + 0.28 * max(worse, 0.0)
    return _told(new.signal, was), _told(new.signal, now), telling


def _told(signal: Signal, shares: Mapping[int, float]) -> str:
    names = names_of(signal) or ({0: "not set", 1: "set"} if signal.length == 1 else {})
    said = []
    for value, share in sorted(shares.items(), key=lambda item: -item[1])[:3]:
        name = spelled_out(names[value]).lower() if value in names else str(value)
        said.append(name if share == 1.0 else f"{name} {100 * share:.0f} %")
    return ", ".join(said)


def _of_value(old: SignalFacts, new: SignalFacts) -> tuple[str, str, float] | None:
    """What a quantity was and is; None where it moved no further than it moves in each log by itself."""
    if old.range is None or new.range is None or min(old.count, new.count) < _FEW:
        return None
    step = abs(float(old.signal.conversion.scale)) or 1.0
    spread = max(old.range[2] - old.range[0], new.range[2] - new.range[0], 2.0 * step)
    moved = abs(new.range[1] - old.range[1]) / spread
    if moved < 1.0:
        return None
    unit = f" {old.signal.unit}" if old.signal.unit else ""
    told = [
        f"{low:.4g} to {high:.4g}{unit}" if high - low > step else f"{middle:.4g}{unit}" for low, middle, high in (old.range, new.range)
    ]
    return told[0], told[1], 0.2 + 0.3 * min(moved / _MOVED, 1.0)


Side = tuple[Iterable[IdRow], Sequence[SignalFacts]]


def changes_of(before: Side, after: Side, channels: Sequence[str], end: float) -> list[Change]:
    """What differs from one log (or stretch) to another, the most telling first; ``channels``: the names of the second's; ``end``: when
    that ends (s)."""
    found = _of_ids(before[0], after[0], end)
    old, new = ({(own.id, own.extended, own.frame, own.signal.name): own for own in side[1]} for side in (before, after))
    for key in old.keys() & new.keys():
        was, now = old[key], new[key]
        if now.guard:
            continue
        own = _of_value(was, now) if now.shares is None or was.shares is None else _of_flag(was, now)
        if own is not None:
            kind = "value" if now.shares is None else "flag"
            found.append(Change(kind, channels[now.channel], now.id, now.frame, now.signal.name, called(now.signal), *own))
    found.sort(key=lambda change: (-round(change.telling, 6), change.id, change.signal))
    return found[:_MOST]
