"""Whether what was commanded did what it should: how far a watched value went, how soon, and whether it held."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from .roster.roster import Command

__all__ = ["DEAD", "LOST", "SLOW", "UNSEEN", "WEAK", "WORKS", "WRONG_WAY", "Movement", "judged_move"]

_HELD_SHARE = 0.25  # of what it should move: so much may be lost again and it still counts as held; common practice, no source
WORKS, SLOW, WEAK, DEAD = "moves", "moves too slowly", "moves too little", "does not move"
WRONG_WAY, LOST, UNSEEN = "moves the wrong way", "does not hold", "not watched"


@dataclass(frozen=True, slots=True)
class Movement:
    """What a value did under command: in a ``word``, ``by`` how much, in how many ``seconds`` it was there (None: never)."""

    word: str
    by: float
    seconds: float | None
    says: str


def judged_move(command: Command, values: Sequence[tuple[float, float | None]], unit: str = "") -> Movement:
    """Judge pairs of seconds under command and value against what a command should do."""
    seen = [(at, value) for at, value in values if value is not None]
    if not seen or not command.by:
        return Movement(UNSEEN, 0.0, None, "Nothing is measured here: look and listen whether it does what it was told.")
    first = seen[0][1]
    moved = [(at, value - first) for at, value in seen]
    wanted, sign = abs(command.by), 1.0 if command.by > 0.0 else -1.0
    there = next((at for at, by in moved if sign * by >= wanted and at <= command.within_s), None)
    most = max(sign * by for _, by in moved)
    least = min(sign * by for _, by in moved)
    end = sign * moved[-1][1]
    should = f"{wanted:g}{f' {unit}' if unit else ''} within {command.within_s:g} s"
    if there is not None and most - end > _HELD_SHARE * wanted:
        return Movement(LOST, sign * most, there, f"It moved by {most:.3g} and lost {most - end:.3g} of it again: it does not hold.")
    if there is not None:
        return Movement(WORKS, sign * most, there, f"It moved by {most:.3g} in {there:.1f} s; it should move by {should}.")
    if most >= wanted:
        late = next(at for at, by in moved if sign * by >= wanted)
        return Movement(SLOW, sign * most, late, f"It moved by {most:.3g}, but only after {late:.1f} s; it should move by {should}.")
    if most > 0.1 * wanted:
        return Movement(WEAK, sign * most, None, f"It moved by {most:.3g} only; it should move by {should}.")
    if least < -0.1 * wanted:
        return Movement(WRONG_WAY, sign * least, None, f"It moved by {-least:.3g} the other way; it should move by {should}.")
    return Movement(DEAD, 0.0, None, f"It does not move; it should move by {should}.")
