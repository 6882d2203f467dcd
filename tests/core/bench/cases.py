"""Cases of a family as a person writes them: ``judged("coil", "ohms=3.7 @21C", limits=["ohms 3.15..3.45 @20C"], rest="closed")``."""

from __future__ import annotations

from collections.abc import Sequence

from pondrel.core.bench import FAMILIES, Outcome, case_from, outcome
from pondrel.core.bench.registry import named_in
from pondrel.core.bench.written import pair_of
from pondrel.core.meter.handheld import AS_TYPED, Handheld
from pondrel.core.power import POWER

__all__ = ["judged", "verdicts"]


def judged(family: str, *reads: str, limits: Sequence[str] = (), points: str = "", meter: Handheld = AS_TYPED, **settings: str) -> Outcome:
    """What a case comes to."""
    own = named_in({**FAMILIES, **POWER}, family)
    pairs = [pair_of(text, "") for text in reads]
    return outcome(own, case_from(own, list(settings.items()), pairs, limits, points, meter))


def verdicts(found: Outcome) -> dict[str, str]:
    """By check the verdict of its last finding."""
    return {one.check: str(one.verdict) for one in found.findings}
