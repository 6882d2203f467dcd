"""What a pattern is: what it is clipped to, what is set and judged, and the function that judges a capture by it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from ..base.errors import CaptureError
from ..base.judgement import OWN_RULE, judged
from ..bench.case import Case
from ..bench.decide import by_number
from ..bench.family import Check, Family
from ..bench.judged import Judged, Outcome, Service
from ..check import Limit, Verdict, worst
from ..wave import Capture, Channel
from ..wave.measure import Measured, Measures, measures_of

__all__ = ["PRACTICE", "Looked", "Pattern", "Verdicts", "channel_for", "fine", "pattern_outcome", "times", "unseen", "wrong"]

PRACTICE = "common practice, no source"
SCALE_WITHIN = judged("SCOPE_WITHIN", 0.015, "share", "by which a scope's level may be off, one standard deviation", OWN_RULE)
GOOD = "By what it shows all is well."


@dataclass(frozen=True)
class Looked:
    """A capture as a pattern sees it: its ``case`` (settings and limits), the ``channel`` that it is about, and a second one where the
    pattern takes two (None where there is none)."""

    case: Case
    capture: Capture
    channel: Channel
    second: Channel | None = None

    @cached_property
    def measures(self) -> Measures:
        """All measurements of the channel."""
        return measures_of(self.capture, self.channel)

    @cached_property
    def second_measures(self) -> Measures | None:
        """All measurements of the second channel."""
        return None if self.second is None else measures_of(self.capture, self.second)

    def judge(self, check: Check, found: Measured, usual: Limit | None, told: str) -> Judged:
        """A measured number held against the limit that was given for it, else against the usual one; levels may be off by the scope's
        scale."""
        u = float(np.hypot(found.u, SCALE_WITHIN * abs(found.value))) if check.units and check.units[0] in ("V", "A") else found.u
        return by_number(self.case, check, found.value, u, self.case.given(check.name) or usual, told)


Verdicts = Sequence[Judged]


def times(count: int) -> str:
    """How often, in words."""
    return {1: "once", 2: "twice"}.get(count, f"{count} times")


def wrong(check: str, value: float | str, because: str, then: str = "") -> Judged:
    """A finding that no limit gives: outside, with its reason and what to do."""
    return Judged(check, Verdict.OUTSIDE, value, "", because, then=then)


def fine(check: str, value: float | str, because: str, then: str = "") -> Judged:
    """A finding that no limit gives: as it should be."""
    return Judged(check, Verdict.WITHIN, value, "", because, then=then)


def unseen(check: str, value: float | str, because: str, then: str) -> Judged:
    """What the capture does not show, and how to take one that does."""
    return Judged(check, Verdict.NOT_COMPARABLE, value, "", because, then=then)


@dataclass(frozen=True, slots=True)
class Pattern:
    """A pattern. ``family`` has its name, title, settings, checks and cautions as a check on the bench has them; ``clip`` tells where the
    scope is clipped on, ``unit`` what the channel is in (V, A, or empty for either), ``two`` names the second channel where it takes one.
    ``find`` judges; ``serve`` tells what it means in service, ``advise`` what to do next."""

    family: Family
    clip: str
    find: Callable[[Looked], Verdicts]
    unit: str = "V"
    two: str = ""
    serve: Callable[[Looked, Verdicts], Service] = lambda looked, found: Service()
    advise: Callable[[Looked, Verdicts], Sequence[str]] = lambda looked, found: ()

    @property
    def name(self) -> str:
        """Its name on the command line."""
        return self.family.name

    @property
    def title(self) -> str:
        """Its name on a screen."""
        return self.family.title


def channel_for(pattern: Pattern, capture: Capture, name: str = "") -> Channel:
    """The channel that a pattern is about: the one named, else the first in its unit. Raises CaptureError."""
    if name:
        return capture.named(name)
    fitting = [channel for channel in capture.channels if not pattern.unit or channel.unit in ("", pattern.unit)]
    if not fitting:
        wanted = "volts" if pattern.unit == "V" else "amperes"
        raise CaptureError(f"There is no channel of {wanted} in this capture: {pattern.title} is looked at in {wanted}.")
    return next((channel for channel in fitting if channel.unit), fitting[0])


def pattern_outcome(pattern: Pattern, case: Case, capture: Capture, channel: str = "", second: str = "") -> Outcome:
    """What a capture comes to by a pattern; channels by name or number. Raises CaptureError."""
    own = channel_for(pattern, capture, channel)
    other: Channel | None = None
    if pattern.two:
        if second:
            other = channel_for(pattern, capture, second)
        else:
            other = next(
                (one for one in capture.channels if one is not own and (not one.unit or not own.unit or one.unit == own.unit)), None
            )
    looked = Looked(case, capture, own, other)
    found = tuple(sorted(pattern.find(looked), key=lambda one: tuple(Verdict).index(one.verdict)))
    then = [one.then for one in found if one.then] + list(pattern.advise(looked, found))
    if not then and found and all(one.verdict is Verdict.WITHIN for one in found):
        then = [GOOD]
    verdict = worst(one.verdict for one in found)
    return Outcome(pattern.name, verdict, found, (), pattern.serve(looked, found), tuple(dict.fromkeys(then)))
