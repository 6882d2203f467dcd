"""For how long it helps: the days from a reset to the next time that the module hangs, and how long it must be quiet to count as cured.

Hanging comes at a rate that nobody knows: after n times in d days its density is Gamma(n + ½, d) (Jeffreys' prior), with days that are
still going on counted as they are. Cured or not is as likely as not beforehand; d quiet days have the chance (D / (D + d))^(n + ½) if
nothing was cured.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from scipy.stats import gamma

from ...base.dates import days_in_words
from ..tries import ENOUGH

__all__ = ["Holding", "Span", "holding_of"]

_SHARE = 0.8  # of the time that the range told holds
LEAST_DAYS = 0.01
WORTH_TELLING = 1.0 / 24.0  # days that it has held, which are no news before


@dataclass(frozen=True, slots=True)
class Span:
    """Days from a reset that helped to the next hanging, or (``ended`` False) to now."""

    days: float
    ended: bool


@dataclass(frozen=True, slots=True)
class Holding:
    """How long it holds: how often it hung again, in how many days, the middle of the days between two times with its range (None while it
    has not hung again), and the days without hanging in a row after which it would count as cured (None: nobody knows how often)."""

    hung: int
    days: float
    middle: float | None
    low: float | None
    high: float | None
    quiet: float
    cure_days: float | None

    @property
    def times_a_year(self) -> float | None:
        """How often a year it hangs, at its middle."""
        return 365.25 / self.middle if self.middle else None

    @property
    def cured(self) -> bool:
        """Whether it has been quiet for so long that it counts as cured."""
        return self.cure_days is not None and self.quiet >= self.cure_days

    @property
    def says(self) -> str:
        """In a sentence or two; empty before anything is known."""
        if self.middle is None or self.low is None or self.high is None:
            held = f"It has held for {days_in_words(self.quiet)} so far: " if self.quiet >= WORTH_TELLING else ""
            return f"{held}{'n' if held else 'N'}obody knows yet how often it hangs." if self.quiet else ""
        told = (
            f"It hung again {self.hung} {'time' if self.hung == 1 else 'times'} in {days_in_words(self.days)}: about "
            f"{days_in_words(self.middle)} from one time to the next, 8 times in 10 between {days_in_words(self.low)} and "
            f"{days_in_words(self.high)}."
        )
        if self.cured:
            return f"{told} It has been quiet for {days_in_words(self.quiet)} now, which counts as a cure."
        return f"{told} Only {days_in_words(self.cure_days or 0.0)} in a row without it would count as a cure."


def holding_of(spans: Sequence[Span]) -> Holding:
    """How long it holds by what was seen."""
    hung = sum(span.ended for span in spans)
    days = max(sum(span.days for span in spans), LEAST_DAYS)
    quiet = spans[-1].days if spans and not spans[-1].ended else 0.0
    if not hung:
        return Holding(0, days, None, None, None, quiet, None)
    before = max(days - quiet, LEAST_DAYS)  # what is quiet now is not counted for how often it hung while it was not cured
    shape, rest = hung + 0.5, (1.0 - _SHARE) / 2.0
    middle, low, high = (1.0 / float(gamma.ppf(share, shape, scale=1.0 / days)) for share in (0.5, 1.0 - rest, rest))
    # half : half beforehand, so the chance of the quiet days without a cure has to fall to (1 - ENOUGH) / ENOUGH
    cure = before * ((ENOUGH / (1.0 - ENOUGH)) ** (1.0 / shape) - 1.0)
    return Holding(hung, days, middle, low, high, quiet, cure)
