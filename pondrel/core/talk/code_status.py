"""The status byte of a fault code (ISO 14229-1, annex D; from memory), bit by bit and in words."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

__all__ = ["CodeStatus", "FAILS_NOW", "CONFIRMED", "PENDING", "TESTED_NOT_YET", "FAILED_SINCE_CLEAR", "WARNS"]

FAILS_NOW, FAILED_THIS_CYCLE, PENDING, CONFIRMED = 0x01, 0x02, 0x04, 0x08
NOT_TESTED_SINCE_CLEAR, FAILED_SINCE_CLEAR, TESTED_NOT_YET, WARNS = 0x10, 0x20, 0x40, 0x80
_WORDS: Mapping[int, str] = {
    FAILS_NOW: "fails now", FAILED_THIS_CYCLE: "failed since the ignition was switched on", PENDING: "pending", CONFIRMED: "stored",
    NOT_TESTED_SINCE_CLEAR: "not tested since codes were cleared", FAILED_SINCE_CLEAR: "failed since codes were cleared",
    TESTED_NOT_YET: "not tested since the ignition was switched on", WARNS: "its lamp is asked for",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class CodeStatus:
    """A status byte."""

    byte: int

    @property
    def word(self) -> str:
        """The one word for it: ``present``, ``stored``, ``pending``; empty where it only tells of tests."""
        if self.byte & FAILS_NOW:
            return "present"
        return "stored" if self.byte & CONFIRMED else "pending" if self.byte & PENDING else ""

    @property
    def bits(self) -> tuple[str, ...]:
        """All that it says."""
        return tuple(words for bit, words in _WORDS.items() if self.byte & bit)

    @property
    def counts(self) -> bool:
        """Whether it tells of a fault at all: a code that was only never tested is none."""
        return bool(self.byte & (FAILS_NOW | PENDING | CONFIRMED | FAILED_SINCE_CLEAR | FAILED_THIS_CYCLE))
