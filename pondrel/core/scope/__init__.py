"""Captures judged by the patterns of the trade: what a regulator, a valve, a wheel sensor or a data line looks like where it is good, and
what it means where it does not. One pattern a file; measuring is `wave`'s, the verdict words are `check`'s."""

from .pattern import Pattern, pattern_outcome
from .registry import PATTERNS, pattern_of

__all__ = ["PATTERNS", "Pattern", "pattern_of", "pattern_outcome"]
