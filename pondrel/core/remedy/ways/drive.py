"""What drives a part is mended, and not the part."""

from __future__ import annotations

from ...base.judgement import judged
from ..way import Way

BELT = judged("LIFE_BELT", 0.5, "share", "of an alternator's life that a new belt lasts")
BELT_EARLY = judged("EARLY_BELT", 0.04, "share", "new belts that slip or come off again within months")

WAYS = (
    Way(
        "belt",
        "Belt and pulley put right",
        "given a belt that drives it",
        frozenset({"alternator"}),
        BELT,
        BELT_EARLY,
        in_place=30.0,
        material="belt",
        leaves={"alternator": r"(?!not_driven$).*"},
    ),
)
