"""The heavy path: from the battery's plus post through cable and solenoid to the starter, and back through strap and body to minus.

Each piece can be read across by itself while current flows; the least each may lose is a share of what its side may.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from ..base.judgement import judged

__all__ = ["PIECES", "PIECES_BY_NAME", "SIDE_MOST", "Piece", "pieces_of"]

PLUS_MOST = judged("SUPPLY_DROP_MOST", 0.5, "V", "what may be lost between the plus post and the starter's stud while cranking")
GROUND_MOST = judged("GROUND_DROP_MOST", 0.3, "V", "what may be lost between the starter's case and the minus post while cranking")
# Common practice, no source: 0.1 V a joint, 0.2 V a cable or a switch.
_JOINT, _CABLE = 0.1, 0.2
SIDE_MOST: Mapping[str, float] = {"supply_drop": PLUS_MOST, "ground_drop": GROUND_MOST}


@dataclass(frozen=True, slots=True)
class Piece:
    """A piece of the path: its ``name`` as a check, ``title`` on a drawing, the ``side`` it is part of (the check that reads all of it),
    where ``red`` and ``black`` go, the most it may lose at 12 V, and what mends it. A piece that lies at the starter is ``far``."""

    name: str
    title: str
    side: str
    red: str
    black: str
    most: float
    mend: str
    far: bool = False

    @property
    def says(self) -> str:
        """Between which two points it is read."""
        return f"{self.red} to {self.black}"


# Along the current, from plus round to minus.
PIECES: tuple[Piece, ...] = (
    Piece("plus_clamp", "plus clamp", "supply_drop", "plus post itself, the lead", "its clamp", _JOINT,
          "Clean post and clamp to bare metal, tighten, grease, and read it again."),
    Piece("plus_cable", "plus cable", "supply_drop", "plus clamp", "starter's battery stud", _CABLE,
          "Look at its lugs and bend it: green strands, a hot lug. Renew it in the same section."),
    Piece("contacts", "solenoid contacts", "supply_drop", "starter's battery stud", "starter's motor stud", _CABLE,
          "Its contacts are burnt: renew the solenoid, or the starter.", far=True),
    Piece("strap", "engine strap", "ground_drop", "engine block, bare metal", "body, beside the strap's bolt", _JOINT,
          "Clean the strap's lugs and their seats to bare metal, or renew it."),
    Piece("body", "body", "ground_drop", "body, beside the strap's bolt", "body, beside the minus cable's bolt", _JOINT,
          "Look for rust between sheets; lead a cable of its own from the strap to minus."),
    Piece("minus_cable", "minus cable", "ground_drop", "body, beside the minus cable's bolt", "minus clamp", _JOINT,
          "Clean its bolt and seat; look at its lugs; renew it in the same section."),
    Piece("minus_clamp", "minus clamp", "ground_drop", "minus clamp", "minus post itself, the lead", _JOINT,
          "Clean post and clamp to bare metal, tighten, grease, and read it again."),
)  # fmt: skip
PIECES_BY_NAME: Mapping[str, Piece] = {piece.name: piece for piece in PIECES}


def pieces_of(side: str) -> tuple[Piece, ...]:
    """The pieces of a side, along the current."""
    return tuple(piece for piece in PIECES if piece.side == side)
