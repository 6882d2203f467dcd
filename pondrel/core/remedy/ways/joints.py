"""Joints and wires are mended where they are."""

from __future__ import annotations

from ...base.judgement import judged
from ..way import Way

CLEANED = judged("LIFE_CLEANED", 0.5, "share", "of a new joint's life that a cleaned one has")
CLEANED_EARLY = judged("EARLY_CLEANED", 0.06, "share", "cleaned joints that are bad again within months")
JOINED_EARLY = judged("EARLY_JOINED", 0.03, "share", "new terminals and mended wires that are bad again within months")
MENDED = judged("LIFE_MENDED_WIRE", 0.7, "share", "of a wire's life that a mended one has")
_ALL_BUT_ITS_CLIP = r"(?!high_resistance$).*"  # of a fuse: its clip is a joint, the fuse itself is none

WAYS = (
    Way(
        "clean",
        "Clean and tighten",
        "cleaned and tightened",
        frozenset({"joint", "battery", "fuse"}),
        CLEANED,
        CLEANED_EARLY,
        in_place=15.0,
        material="brush, grease",
        leaves={"battery": "high_resistance", "fuse": _ALL_BUT_ITS_CLIP},
    ),
    Way(
        "terminal",
        "New terminal",
        "given a new terminal",
        frozenset({"joint", "fuse"}),
        1.0,
        JOINED_EARLY,
        in_place=20.0,
        material="terminal or ring, sealed",
        leaves={"fuse": _ALL_BUT_ITS_CLIP},
    ),
    Way("mend_wire", "Repair the wire", "repaired", frozenset({"wire"}), MENDED, JOINED_EARLY, in_place=25.0, material="splice, sealed"),
    Way(
        "new_wire",
        "New wire along the old way",
        "renewed",
        frozenset({"wire"}),
        1.0,
        JOINED_EARLY / 2.0,
        in_place=50.0,
        material="wire, terminals, sleeve",
    ),
)
