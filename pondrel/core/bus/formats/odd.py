"""What a log holds beside frames: counted by kind, so that nothing is left out unsaid."""

from __future__ import annotations

from collections import Counter

__all__ = ["Odd"]

_KINDS = {
    "wrong": ("line is no frame and was left out", "lines are no frames and were left out"),
    "event": ("line tells of something other than a frame", "lines tell of something other than frames"),
    "cut": ("frame is cut off", "frames are cut off"),
    "overlong": ("frame has more bytes than can be", "frames have more bytes than can be"),
}


class Odd:
    """Counts what is no frame, each kind with its first example."""

    def __init__(self) -> None:
        self._counts: Counter[str] = Counter()
        self._first: dict[str, str] = {}

    def tell(self, kind: str, example: str, count: int = 1) -> None:
        """Count one (or more) of a kind."""
        self._counts[kind] += count
        self._first.setdefault(kind, example)

    @property
    def notes(self) -> tuple[str, ...]:
        """A sentence for each kind that was met."""
        return tuple(f"{count} {_KINDS[kind][count > 1]}, the first: {self._first[kind]}." for kind, count in sorted(self._counts.items()))
