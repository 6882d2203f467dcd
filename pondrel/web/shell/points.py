"""Points that were set by touch, as a refused form brings them back."""

from __future__ import annotations

import json

__all__ = ["points_typed"]

MOST = 60


def points_typed(text: str, words: int) -> list[list[object]]:
    """Rows of two shares and so many words, as a script sent them; none where it is anything else.

    >>> points_typed('[[0.5, 0.1, "M6", ""]]', 2)
    [[0.5, 0.1, 'M6', '']]
    >>> points_typed('{"a": 1}', 2)
    []
    """
    try:
        rows = json.loads(text or "[]")
    except (ValueError, RecursionError):
        return []
    if not isinstance(rows, list) or len(rows) > MOST or not all(_whole(row, words) for row in rows):
        return []
    return rows


def _whole(row: object, words: int) -> bool:
    return (
        isinstance(row, list)
        and len(row) == 2 + words
        and all(isinstance(at, int | float) and 0.0 <= at <= 1.0 for at in row[:2])
        and all(isinstance(word, str) for word in row[2:])
    )
