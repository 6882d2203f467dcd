"""A way to mend a part, or to live with it: what it applies to, and what it gives."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass, field, replace

from .builds import Build
from .failing import Failure
from .life import Life

__all__ = ["Way"]


@dataclass(frozen=True, slots=True)
class Way:
    """A way: ``title`` as it heads a row, ``done`` as it is said afterwards of a part; the ``builds`` it is for; the share of a new one's
    life that it gives and the share that fails ``early``; minutes that it takes beyond the swap of a part (or instead, where it is done in
    ``place``); what it ``needs`` (a price before it can be reckoned), days that its part takes to come, months of warranty where nobody
    said; whether the part is ``measured`` first; and where it is none: whether it ``cures``, its ``limits``, and why it is refused where
    a safety function hangs on the part. ``leaves`` is by build a pattern of the modes of failing that it leaves as they are; one that
    matches the empty text withholds it while nobody knows the mode."""

    name: str
    title: str
    done: str
    builds: frozenset[str]
    share: float = 1.0
    early: float = 0.0
    more_minutes: float = 0.0
    in_place: float | None = None
    material: str = ""
    priced: bool = False
    wait_days: float = 0.0
    months: int = 0
    measured: bool = False
    half_lived: bool = False
    cures: bool = True
    limits: str = ""
    refused: str = ""
    fitted_as: str = "repaired"  # how the parts ledger calls it
    tried: bool = True  # whether there is anything to try once it is done
    one_by_one: bool = True  # whether each of a set is mended by itself; else all that are in it come at once
    leaves: Mapping[str, str] = field(default_factory=dict)

    def helps(self, build: Build, failure: Failure) -> bool:
        """Whether it does anything for a part that failed so."""
        leaves = self.leaves.get(build.name)
        return leaves is None or re.fullmatch(leaves, failure.mode) is None

    def minutes(self, build: Build) -> float:
        """Of work at one part that is laid open."""
        return self.in_place if self.in_place is not None else build.minutes + self.more_minutes

    def life(self, build: Build) -> Life:
        """What the part lives when it was mended so."""
        new = build.life
        life = replace(new, median_years=new.median_years * self.share, early=self.early)
        return replace(life, age_years=new.median_years / 2.0) if self.half_lived else life
