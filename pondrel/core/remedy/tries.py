"""How many good tries it takes until what came and went is gone: counted beforehand, so that nobody takes two good ones for a cure.

A complaint that showed in f of n tries has an unknown rate with the density Beta(f + ½, n − f + ½) (Jeffreys' prior). If nothing was
cured, k good tries in a row have the chance E[(1 − p)^k] = B(a, b + k) / B(a, b). Cured or not is taken to be as likely as not before the
first try: what was measured is counted by itself, and not here.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from scipy.special import betaln

from ..base.judgement import OWN_RULE, judged

__all__ = ["ENOUGH", "Rate", "cured_chance", "rate_of", "tries_needed"]

ENOUGH = judged("CURED_ENOUGH", 0.95, "share", "the chance from which on a repair counts as a cure", OWN_RULE)
BEFORE = judged("CURED_BEFORE", 0.5, "share", "the chance that a repair is a cure before the function is tried", OWN_RULE)
MOST = 200  # tries that are asked for at the most


@dataclass(frozen=True, slots=True)
class Rate:
    """How often a complaint shows itself: the density of its share of tries, and what that rests on."""

    a: float
    b: float
    says: str


def rate_of(often: str, tries: tuple[int, int] | None) -> Rate:
    """By the count of tries where there is one, else by what was said (a key of `told.OFTEN`, or empty)."""
    if tries is not None:
        shown, made = tries
        return Rate(shown + 0.5, made - shown + 0.5, f"it showed in {shown} of {made} tries")
    if often == "sometimes":
        return Rate(1.0, 1.0, "it came and went, and nobody counted")
    if often == "once":
        return Rate(1.0, 3.0, "it was seen once")
    return Rate(9.5, 0.5, "it was there every time")


def cured_chance(rate: Rate, good: int) -> float:
    """The chance that it is cured after so many good tries and no bad one.

    >>> round(cured_chance(rate_of("", (4, 5)), 0), 2)
    0.5
    """
    uncured = math.exp(float(betaln(rate.a, rate.b + good) - betaln(rate.a, rate.b)))
    return BEFORE / (BEFORE + (1.0 - BEFORE) * uncured)


def tries_needed(rate: Rate) -> int:
    """Good tries in a row until it counts as cured, at most `MOST`.

    >>> tries_needed(rate_of("always", None)), tries_needed(rate_of("sometimes", None))
    (1, 18)
    """
    return next((k for k in range(1, MOST) if cured_chance(rate, k) >= ENOUGH - 1e-12), MOST)
