"""A vehicle's identification number: its form by ISO 3779, and the check digit of 49 CFR 565.15, which warns and never refuses."""

from __future__ import annotations

import re

from ..base.brief import quoted
from ..base.errors import PondrelError

__all__ = ["LENGTH", "VinError", "check_digit", "checked_vin", "vin_remarks"]

LENGTH = 17
_CHECKED = 8  # the ninth character
# 49 CFR 565.15(c): what each letter counts, and the weight of each position.
_COUNTS = {
    **{str(digit): digit for digit in range(10)},
    **{letter: 1 + i for i, letter in enumerate("ABCDEFGH")},
    **{letter: 1 + i for i, letter in enumerate("JKLMN")},
    "P": 7,
    "R": 9,
    **{letter: 2 + i for i, letter in enumerate("STUVWXYZ")},
}
_WEIGHTS = (8, 7, 6, 5, 4, 3, 2, 10, 0, 9, 8, 7, 6, 5, 4, 3, 2)
_SPACING = re.compile(r"[\s\-.*]")


class VinError(PondrelError):
    """A text that is no identification number."""


def checked_vin(text: str) -> str:
    """The number in capitals without spacing; empty from an empty text. Raises VinError with one sentence.

    >>> checked_vin("1m8gdm9a xkp042788")
    '1M8GDM9AXKP042788'
    """
    number = _SPACING.sub("", text).upper()
    if not number:
        return ""
    odd = next((c for c in number if c not in _COUNTS), "")
    if odd in ("I", "O", "Q") and odd:
        meant = "1" if odd == "I" else "0"
        raise VinError(f"The identification number holds the letter {odd}, which no such number has: {meant} is meant.")
    if odd:
        raise VinError(f"The identification number holds {quoted(odd)}: it is made of digits and of letters without I, O and Q.")
    if len(number) != LENGTH:
        raise VinError(f"The identification number has {len(number)} characters; it must have {LENGTH}. A shorter one is a note.")
    return number


def check_digit(number: str) -> str:
    """What the ninth character of a number is by 49 CFR 565.15: a digit, or X for ten.

    >>> check_digit("1M8GDM9A_KP042788".replace("_", "0"))
    'X'
    """
    left = sum(weight * _COUNTS[c] for weight, c in zip(_WEIGHTS, number, strict=True)) % 11
    return "X" if left == 10 else str(left)


def vin_remarks(number: str) -> tuple[str, ...]:
    """What is odd about a whole number, though nothing is refused for it."""
    if not number:
        return ()
    said = []
    meant = check_digit(number)
    if number[_CHECKED] != meant:
        said.append(
            f"The check digit (ninth character) is {number[_CHECKED]} and would be {meant} where one is used: many regions use none; "
            "if this vehicle's does, a character is misread."
        )
    if not number[-4:].isdigit():
        said.append(f"The last four characters are {number[-4:]}; as a rule they are digits.")
    return tuple(said)
