"""Letters that number marks."""

from __future__ import annotations

import string

__all__ = ["letter"]


def letter(number: int) -> str:
    """The letter of a mark by its number from 0: A to Z, then AA."""
    letters = string.ascii_uppercase
    return letters[number] if number < len(letters) else f"{letters[number // len(letters) - 1]}{letters[number % len(letters)]}"
