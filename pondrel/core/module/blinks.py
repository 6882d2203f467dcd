"""Blinks of a lamp counted to a flash code, touched along or from a capture: how long each was, and the pauses between them. Common
practice, no source.

Two customs are told apart by what was seen. Where some blinks are clearly longer than others, the long ones count the first digit and the
short ones the last. Where all are alike, a pause that is clearly longer than the others parts two digits.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

from ..wave.capture import Channel
from ..wave.edges import edges_of
from ..wave.levels import levels_of, scan_of
from .fault_code import FLASH, CodeError

__all__ = ["Counted", "counted", "spans_from", "spans_seen"]

MOST_BLINKS, LONGEST_S = 60, 300.0
CLEARLY = 1.8  # so many times as long is another sort of blink or pause
LONG_PAUSE_S = 0.9  # and a pause that parts two digits is at least this
SHORTEST_S = 0.05  # a lamp that is on for less is not seen to blink


@dataclass(frozen=True, slots=True)
class Counted:
    """The code that some blinks spell, and how they were taken."""

    code: str
    says: str


def spans_from(text: str) -> tuple[tuple[float, float], ...]:
    """Blinks from ``0-0.4,0.9-1.3``: when each came on and went out (s). Raises CodeError with one sentence."""
    found = []
    for piece in filter(None, text.split(",")):
        begin, _, end = piece.strip().partition("-")
        try:
            found.append((float(begin), float(end)))
        except ValueError:
            raise CodeError("Blinks are written as when each came on and went out, such as 0-0.4,0.9-1.3.") from None
    if not found or len(found) > MOST_BLINKS:
        raise CodeError(f"1 to {MOST_BLINKS} blinks are counted; these are {len(found)}.")
    times = [at for span in found for at in span]
    if any(not 0.0 <= a < b <= LONGEST_S for a, b in found) or times != sorted(times):
        raise CodeError("Each blink must end after it began, and before the next one.")
    return tuple(found)


def spans_seen(channel: Channel, seconds: float) -> tuple[tuple[float, float], ...]:
    """Blinks on a channel of a capture, with ``seconds`` between two samples: the lamp is off as it is at the beginning. Raises CodeError
    where nothing blinks."""
    scan = scan_of(channel)
    levels = levels_of(scan)
    if levels is None:
        raise CodeError(f"{channel.name or 'This channel'} stays as it is: nothing blinks on it.")
    edges = edges_of(channel, levels, scan, extremes=False)
    at = [float(place) * seconds for place in edges.at]
    # every second change puts the lamp out again; one that is on at the end is left out: nobody saw how long it was
    found = [(on, out) for on, out in zip(at[::2], at[1::2], strict=False) if out - on >= SHORTEST_S]
    if not 0 < len(found) <= MOST_BLINKS:
        raise CodeError(f"1 to {MOST_BLINKS} blinks are counted; on {channel.name or 'this channel'} there are {len(found)}.")
    return tuple(found)


def counted(spans: Sequence[tuple[float, float]]) -> Counted:
    """The code of some blinks."""
    lengths = [end - begin for begin, end in spans]
    edge = _edge(lengths)
    if edge is not None:
        long = [length > edge for length in lengths]
        first, last = sum(long), len(long) - sum(long)
        if long == sorted(long, reverse=True):  # the long ones come first
            return Counted(f"{FLASH} {first}-{last}", f"{first} long, {last} short")
        return Counted(f"{FLASH} {first}-{last}", f"{first} long and {last} short, mixed: count once more whether they come so")
    pauses = [after[0] - before[1] for before, after in pairwise(spans)]
    parted = _edge(pauses)
    groups, count = [], 1
    for pause in pauses:
        if parted is not None and pause > max(parted, LONG_PAUSE_S):
            groups.append(count)
            count = 0
        count += 1
    groups.append(count)
    if len(groups) > 2:
        says = f"{', '.join(map(str, groups))}: more than two digits, or the code more than once"
        return Counted(f"{FLASH} {groups[0]}-{groups[1]}", says)
    says = f"{groups[0]} and then {groups[1]}, parted by a pause" if len(groups) > 1 else f"{groups[0]} alike"
    return Counted(f"{FLASH} {'-'.join(map(str, groups))}", says)


def _edge(lengths: Sequence[float]) -> float | None:
    """Where two sorts of length part: in the widest step between neighbours, as a ratio; None where all are alike."""
    ordered = sorted(max(length, 0.02) for length in lengths)
    steps = [(after / before, (after * before) ** 0.5) for before, after in pairwise(ordered)]
    ratio, edge = max(steps, default=(1.0, 0.0))
    return edge if ratio >= CLEARLY else None
