"""Whether what was commanded did what it should: how far a watched value went, how soon, whether it held and stayed, and what was heard."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from .roster.roster import Command, StayTest

__all__ = ["DEAD", "LOST", "SLOW", "UNSEEN", "WEAK", "WORKS", "WRONG_WAY", "Movement", "heard_says", "judged_move", "judged_stay"]

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


_HEARD = {  # by what it did under command: where it is heard, where it is not; common practice, no source
    WORKS: ("Moved and heard: valve, feed and line do their work.", "It moves, and that counts more than the sound."),
    DEAD: (
        "Heard, and it does not move: the valve opens. Something leaks, blocks or jams behind it: line, fitting, bellows, mechanics.",
        "Neither heard nor moved: the valve does not open. Its circuit first, then the valve itself.",
    ),
    WEAK: (
        "Heard, and it moves too little: a leak or a bottleneck behind the valve, or too little pressure before it.",
        "It moves too little and is not heard: it opens only partly, or pressure is missing before it.",
    ),
    LOST: (
        "Heard, and it does not hold: a leak behind the valve. Soap on fittings and lines, one at a time.",
        "It does not hold, and nothing is heard: a slow leak, or a valve that does not shut. Shut one line at a time and watch.",
    ),
    UNSEEN: (
        "Heard: the valve opens. Nothing measures what it moves: look at it.",
        "Not heard: the valve does not open, or nothing is there to flow. Its circuit first, then pressure before it.",
    ),
}
_LIKE = {SLOW: WEAK, WRONG_WAY: DEAD}


def heard_says(word: str, heard: bool) -> str:
    """What it means that a valve was heard or not, beside what it did under command (one of the words of this module)."""
    return _HEARD[_LIKE.get(word, word)][0 if heard else 1]


def judged_stay(test: StayTest, values: Sequence[tuple[float, float | None]], unit: str = "") -> tuple[bool, str]:
    """Whether a value stayed where it was left: seconds since control went back and value. Few are no test: they count as stayed."""
    seen = [(at, value) for at, value in values if value is not None]
    if len(seen) < 2 or seen[-1][0] < 0.5 * test.seconds:
        return True, "It was not watched for long enough to say whether it stays."
    start, (at, _) = seen[0][1], seen[-1]
    gone = max((value - start for _, value in seen), key=abs)
    ending = f" {unit}" if unit else ""
    if abs(gone) <= test.by:
        return True, f"It stays: {abs(gone):.3g}{ending} in {at:.0f} s, at most {test.by:g}{ending} are right."
    return False, f"It does not stay: {gone:+.3g}{ending} in {at:.0f} s, at most {test.by:g}{ending} are right. Something leaks or slips."
