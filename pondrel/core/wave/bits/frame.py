"""What was read from a data line: frames, errors, and where it was disturbed."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import NamedTuple

__all__ = ["ERROR_KINDS", "Frame", "LineError", "Read", "Suspect"]

# By kind of error: what it says.
ERROR_KINDS: Mapping[str, str] = {
    "error frame": "a node broke the frame off with an error flag",
    "stuff": "more than five equal bits in a row",
    "crc": "its check sum is wrong",
    "form": "a bit that is fixed has the wrong value",
    "checksum": "its check sum is wrong",
    "no response": "nobody answered the header",
    "parity": "its identifier's parity is wrong",
    "glitch": "a change much shorter than a bit",
    "level": "a wire is off its level",
}


class Frame(NamedTuple):
    """A frame: ``time`` (s) of its first bit, ``end`` of its last; ``acknowledged`` whether somebody confirmed it (on LIN: answered);
    ``flexible`` data rate frames may hold up to 64 bytes; ``enhanced`` is which check sum a LIN frame has (None elsewhere)."""

    time: float
    end: float
    id: int
    extended: bool
    remote: bool
    data: bytes
    crc_ok: bool
    acknowledged: bool
    flexible: bool = False
    enhanced: bool | None = None

    def as_json(self) -> dict[str, object]:
        """As the command line writes it; ``data`` in hexadecimal."""
        return {
            "time": self.time, "id": self.id, "extended": self.extended, "remote": self.remote, "data": self.data.hex(),
            "crc_ok": self.crc_ok, "acknowledged": self.acknowledged,
        }  # fmt: skip


class LineError(NamedTuple):
    """Something wrong on the line: from ``time`` to ``end`` (s), and its kind, one of `ERROR_KINDS`."""

    time: float
    end: float
    kind: str


@dataclass(frozen=True, slots=True)
class Read:
    """What a reading of a line as CAN or LIN gave: ``bit_rate`` in bits a second, frames and errors in time's order."""

    protocol: str
    bit_rate: float
    frames: tuple[Frame, ...] = ()
    errors: tuple[LineError, ...] = ()

    @property
    def good(self) -> int:
        """Frames whose check sum is right."""
        return sum(frame.crc_ok for frame in self.frames)


class Suspect(NamedTuple):
    """What is the matter with a line, in a sentence, and how likely that is."""

    says: str
    probability: float
