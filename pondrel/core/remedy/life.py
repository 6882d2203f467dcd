"""How long a part lasts: a share that fails early, and wear after Weibull for the rest; a part that has an age lasts on from there."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np

from ..base.arrays import Floats
from ..base.judgement import judged

__all__ = ["Life"]

EARLY_YEARS = judged("EARLY_YEARS", 0.25, "years", "on the average until a repair that was not good fails again")


@dataclass(frozen=True, slots=True)
class Life:
    """``median_years`` that half of such parts reach, the ``shape`` of their wear (1: as likely at any age, more: with age), the share that
    fails ``early``, and the ``age_years`` that the part has lived already."""

    median_years: float
    shape: float
    early: float = 0.0
    age_years: float = 0.0

    def aged(self, years: float) -> Life:
        """The same part when it has lived so long: those that fail early are gone by then."""
        return replace(self, age_years=years, early=self.early if years <= 0.0 else 0.0)

    def lasts(self, years: Floats) -> Floats:
        """(T,) the chance that it still works after so many more years, from 1 at nought.

        Weibull: S(t) = exp(−ln2·(t / median)^shape), from an age a S(a + t) / S(a).
        """
        wear = np.log(2.0) * (
            ((self.age_years + years) / self.median_years) ** self.shape - (self.age_years / self.median_years) ** self.shape
        )
        worn = np.exp(-wear)
        lasting: Floats = worn if not self.early else self.early * np.exp(-years / EARLY_YEARS) * worn + (1.0 - self.early) * worn
        return lasting

    def chance_within(self, years: float) -> float:
        """The chance that it fails within so many years from now."""
        return float(1.0 - self.lasts(np.array([years]))[0])

    def __post_init__(self) -> None:
        if not (self.median_years > 0.0 and self.shape > 0.0 and 0.0 <= self.early < 1.0 and self.age_years >= 0.0):
            raise ValueError(f"No life: {self}")
        if not all(math.isfinite(number) for number in (self.median_years, self.shape, self.age_years)):
            raise ValueError(f"No life: {self}")
