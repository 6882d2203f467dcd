"""Services that a tester asks for, and how a module refuses, in words.

Names and numbers: ISO 14229-1 (UDS), ISO 14230-3 (KWP 2000) and SAE J1979 / ISO 15031-5 (OBD), from memory; the words are ours.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

__all__ = [
    "ANSWER", "CLEAR", "KWP_CLEAR", "KWP_CODES", "OUTPUT", "PRESENT", "READ", "REFUSED", "ROUTINE", "SECURITY",
    "SESSION", "SESSIONS", "Refusal", "refusal_of", "service_words",
]  # fmt: skip

ANSWER = 0x40  # what a service's number is raised by in its answer
REFUSED = 0x7F
SESSION, RESET, CLEAR, CODES, READ, SECURITY, OUTPUT, ROUTINE, PRESENT = 0x10, 0x11, 0x14, 0x19, 0x22, 0x27, 0x2F, 0x31, 0x3E
KWP_CODES, KWP_CLEAR, KWP_LOCAL, KWP_OUTPUT = 0x18, 0x14, 0x21, 0x30
SESSIONS: Mapping[int, str] = {1: "the ordinary one", 2: "programming", 3: "the extended one", 4: "safety systems"}

_WORDS: Mapping[int, str] = {
    0x01: "live data of the emission system", 0x02: "freeze frame", 0x03: "stored codes", 0x04: "clear codes", 0x05: "oxygen sensor tests",
    0x06: "test results", 0x07: "pending codes", 0x08: "control of an on-board system", 0x09: "about the vehicle", 0x0A: "permanent codes",
    SESSION: "session", RESET: "restart", CLEAR: "clear codes", CODES: "codes", READ: "read data", 0x23: "read memory",
    SECURITY: "security access", 0x28: "silence on the bus", 0x29: "authentication", 0x2E: "write data", OUTPUT: "command an output",
    ROUTINE: "routine", 0x34: "download", 0x35: "upload", 0x36: "transfer", 0x37: "end of transfer", 0x3D: "write memory",
    PRESENT: "tester is here", 0x85: "codes on or off",
    KWP_CODES: "codes by their status", 0x1A: "read identification", KWP_LOCAL: "read data", KWP_OUTPUT: "command an output",
    0x81: "begin to talk", 0x82: "end of talk", 0x13: "codes", 0x17: "status of a code", 0x32: "end of a routine",
    0x33: "result of a routine",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Refusal:
    """A module says no: the number, the reason in words, and whether it only asks for patience (``waits``)."""

    service: int
    number: int
    says: str
    waits: bool = False

    @property
    def sentence(self) -> str:
        """What a person is told."""
        return f"{service_words(self.service).capitalize()}: the module refuses. {self.says}"


_MAKER = "That needs the maker's authority, and is not asked for from here."
_REASONS: Mapping[int, str] = {
    0x10: "It says no and does not say why.",
    0x11: "It does not know this service.",
    0x12: "It knows the service, but not this kind of it.",
    0x13: "The request has a wrong length or form: the description of this module does not fit it.",
    0x14: "Its answer would be too long.",
    0x21: "It is busy: ask again.",
    0x22: "Conditions are not right: speed, engine, gear or supply are not as it wants them.",
    0x24: "It wants another step first.",
    0x25: "A module behind it does not answer.",
    0x26: "A fault keeps it from doing that: read its codes.",
    0x31: "It has nothing under this number: the description of this module does not fit it, or the value is out of its range.",
    0x33: f"It is locked. {_MAKER}",
    0x34: f"It wants to know who asks. {_MAKER}",
    0x35: "The key is wrong.",
    0x36: "There were too many tries.",
    0x37: "It wants to be left alone for a while.",
    0x70: f"It takes no download. {_MAKER}",
    0x71: "The transfer was broken off.",
    0x72: "It could not write that down.",
    0x73: "A block came out of order.",
    0x78: "It is at work on it: the answer comes later.",
    0x7E: "Not this kind in the session it is in.",
    0x7F: "Not in the session it is in.",
    0x81: "The engine turns too fast.",
    0x82: "The engine turns too slowly.",
    0x83: "The engine runs.",
    0x84: "The engine stands.",
    0x85: "The engine has not run for long enough.",
    0x86: "It is too hot.",
    0x87: "It is too cold.",
    0x88: "The vehicle is too fast.",
    0x89: "The vehicle is too slow.",
    0x8A: "The pedal is pressed too far.",
    0x8B: "The pedal is not pressed far enough.",
    0x8C: "The gear is not in neutral.",
    0x8D: "No gear is in.",
    0x8F: "The brake pedal is not pressed.",
    0x90: "The lever is not in park.",
    0x91: "The converter's clutch is locked.",
    0x92: "Its supply voltage is too high.",
    0x93: "Its supply voltage is too low.",
}
_WAITS = 0x78
_ENGINE_OR_VEHICLE = "Something about the vehicle is not as it wants it."


def refusal_of(answer: bytes) -> Refusal | None:
    """What a module's refusal means; None where the answer is none."""
    if len(answer) < 3 or answer[0] != REFUSED:
        return None
    number = answer[2]
    says = _REASONS.get(number) or (_ENGINE_OR_VEHICLE if 0x81 <= number <= 0xEF else f"It gives a reason of its own ({number:02X}).")
    return Refusal(answer[1], number, says, number == _WAITS)


def service_words(service: int) -> str:
    """What a service is called."""
    return _WORDS.get(service, f"service {service:02X}")
