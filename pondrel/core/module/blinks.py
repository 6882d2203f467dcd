"""Blinks of a lamp counted to a flash code: how long each was, and the pauses between them. Common practice, no source.

Two customs are told apart by what was seen. Where some blinks are clearly longer than others, the long ones count the first digit and the
short ones the last. Where all are alike, a pause that is clearly longer than the others parts two digits.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

from .fault_code import FLASH, CodeError

__all__ = ["Counted", "counted", "spans_from"]

MOST_BLINKS, LONGEST_S = 60, 300.0
CLEARLY = 1.8  # so many times as long is another sort of blink or pause
LONG_PAUSE_S = 0.9  # and a pause that parts two digits is at least this


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
