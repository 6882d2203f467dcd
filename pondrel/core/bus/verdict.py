"""What the silence on a bus points to: one module, what several share, or the bus itself. Common practice, no source."""

from __future__ import annotations

from dataclasses import dataclass

from .census import Census, Sender
from .words import spelled_out

__all__ = ["BusVerdict", "verdict_of"]

_TOGETHER = 1.0
_SPOILT = 20  # error frames from which on they are worth a word
_LISTED = 3


@dataclass(frozen=True, slots=True)
class BusVerdict:
    """What is said of who talks: ``kind`` (``all talk``, ``one silent``, ``some silent``, ``bus down``, ``unknown``), the sentence, what
    to do next, and the names of the senders it is about."""

    kind: str
    says: str
    next: str
    senders: tuple[str, ...] = ()


def verdict_of(census: Census) -> BusVerdict:
    """What a census says of the bus as a whole; nothing is said of senders that no database names."""
    named = [sender for sender in census.senders if sender.name and any(row.timing.given for row in sender.rows)]
    if not named:
        return BusVerdict("unknown", "No database says who should talk.", "")
    gone = [sender for sender in named if sender.state in ("silent", "stopped")]
    spoilt = census.summary.error_frames
    words = f" {spoilt} messages are spoilt." if spoilt >= _SPOILT else ""
    if not gone:
        late = [sender for sender in named if sender.state in ("late", "bursty")]
        if late:
            return BusVerdict("all talk", f"All modules talk, {_called(late)} late.{words}", "", tuple(own.name for own in late))
        return BusVerdict("all talk", f"All modules talk, and in time.{words}", "")
    names = tuple(own.name for own in gone)
    ends = [max(row.timing.last or 0.0 for row in own.rows) for own in gone if own.state == "stopped"]
    if len(gone) == len(named) > 1 and len(ends) == len(gone) and max(ends) - min(ends) < _TOGETHER:
        at = max(ends) - (census.summary.first or 0.0)
        return BusVerdict(
            "bus down", f"From {at:.1f} s on nobody is heard any more: that is the bus itself and no module.{words}",
            "Look where things move, measure ohms between the two wires with all asleep, then volts of each wire.", names,
        )  # fmt: skip
    if len(gone) == 1:
        first = "Its supply, ground and wake line first, then its stub, the module last."
        return BusVerdict("one silent", f"{_called(gone)} alone is silent.{words}", first, names)
    if len(gone) == len(named):
        ask = "Is this the right bus, on this side of the gateway?"
        return BusVerdict("bus down", f"None of {len(named)} modules is heard.{words}", ask, names)
    shared = "Look for what the silent ones share: a stretch of the bus, a plug, a supply, a gateway."
    return BusVerdict("some silent", f"{_called(gone)} are silent, {len(named) - len(gone)} others talk.{words}", shared, names)


def _called(senders: list[Sender]) -> str:
    words = [spelled_out(own.name).lower() if place else spelled_out(own.name) for place, own in enumerate(senders[:_LISTED])]
    more = [f"{len(senders) - _LISTED} more"] if len(senders) > _LISTED else []
    every = [*words, *more]
    return every[0] if len(every) == 1 else f"{', '.join(every[:-1])} and {every[-1]}"
