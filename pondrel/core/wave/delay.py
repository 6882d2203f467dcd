"""How long after one channel another follows, where neither pulses evenly: a timer's contact after its trigger, a valve after its drive."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..base.quantity import show
from .measure import Measures

__all__ = ["Changed", "Delay", "changed_of", "delays_of"]

MOST_CHANGES = 40  # of a channel that has delays: what changes more often is none that follows


@dataclass(frozen=True, slots=True)
class Changed:
    """When a channel changed: instants ``at`` (s from its beginning) and whether it rose, and one standard deviation of an instant (s)."""

    name: str
    at: tuple[float, ...]
    rises: tuple[bool, ...]
    u: float


@dataclass(frozen=True, slots=True)
class Delay:
    """``other`` changes ``seconds`` after ``reference`` has changed first, with one standard deviation ``u`` (s)."""

    reference: str
    reference_rises: bool
    other: str
    other_rises: bool
    seconds: float
    u: float

    @property
    def says(self) -> str:
        """What the time is of."""
        ways = {True: "rises", False: "falls"}
        return f"{self.other} {ways[self.other_rises]} after {self.reference} {ways[self.reference_rises]}"

    @property
    def sentence(self) -> str:
        """In words."""
        return f"{self.says} by {show(self.seconds, 's')}, give or take {show(2.0 * self.u, 's')}."


def changed_of(own: Measures) -> Changed | None:
    """What a delay is made of; None for a channel that pulses evenly, has one level only, or goes from one to the other slowly."""
    if own.train is not None or not 0 < len(own.edges.at) <= MOST_CHANGES or not own.is_two_levels:
        return None
    rises = tuple(bool(one) for one in own.edges.rising)
    return Changed(own.channel.name, tuple((own.edges.at * own.step).tolist()), rises, own.step / math.sqrt(12.0))


def delays_of(changed: Sequence[Changed | None]) -> tuple[Delay, ...]:
    """After the first change of the channel that changes first, the next one of each other."""
    own = [one for one in changed if one is not None]
    if len(own) < 2:
        return ()
    reference = min(own, key=lambda one: one.at[0])
    found = []
    for other in own:
        if other is not reference:
            place = int(np.searchsorted(other.at, reference.at[0]))
            seconds = other.at[place] - reference.at[0]
            found.append(
                Delay(reference.name, reference.rises[0], other.name, other.rises[place], seconds, math.hypot(reference.u, other.u))
            )
    return tuple(found)
