"""What every family may be given: what the leads have, and a known-good one to compare with."""

from __future__ import annotations

from dataclasses import replace

from ..base.judgement import judged
from .family import Check, Family, Setting

__all__ = ["RIPPLE_MOST", "SETTINGS", "twin_of"]

RIPPLE_MOST = judged("RIPPLE_MOST", 0.5, "V", "ripple of an alternator, peak to peak, at the most")

SETTINGS = (
    Setting("leads", "what the test leads have, where they were not zeroed", "Ω", zero=True),
    Setting("twin_within", "how far two good ones may be apart", "%", usual=10.0),
)


def twin_of(family: Family) -> Check | None:
    """The check that reads a known-good one the same way; None where the family's first check is no number."""
    main = family.check(family.main)
    return replace(main, name="twin", says=f"{main.says}, of a known-good one", aside=True) if main and main.units else None
