"""Messages longer than a frame, by the transport protocol of ISO 15765-2: single, first and consecutive frames, and flow control.

An `Endpoint` is one end of a conversation and has no clock of its own: every call says what time it is. Written after the standard's tables
(from memory), and checked against a library that was written by others.
"""

from __future__ import annotations

from collections import deque
from dataclasses import dataclass, field

__all__ = ["LONGEST", "Endpoint", "Joined", "TransportFault"]

LONGEST = 4095  # what a first frame can announce in twelve bits
PADDING = 0x00
_SINGLE, _FIRST, _NEXT, _FLOW = 0, 1, 2, 3
_GO_ON, _WAIT, _OVERFLOW = 0, 1, 2
FLOW_WAIT_S, NEXT_WAIT_S = 1.0, 1.0  # N_Bs and N_Cr
MOST_WAITS = 10  # wait frames in a row, after which a sender gives up


class TransportFault(Exception):
    """A message that broke off on its way, with one sentence why."""


def _gap_s(byte: int) -> float:
    """Seconds between two consecutive frames that a receiver asks for: STmin."""
    if byte <= 0x7F:
        return byte / 1e3
    return (byte - 0xF0) / 1e4 if 0xF1 <= byte <= 0xF9 else 0.127  # what is reserved counts as the longest


def _padded(frame: bytes) -> bytes:
    return frame.ljust(8, bytes([PADDING]))


@dataclass
class _Sending:
    rest: bytes
    number: int = 1
    allowed: int = 0  # frames until the next flow control; 0 while it is waited for, -1 without end
    gap_s: float = 0.0
    due: float = 0.0
    waits: int = 0


@dataclass
class _Coming:
    length: int
    got: bytearray
    number: int
    due: float
    left: int  # of the block, 0 for no blocks


@dataclass
class Endpoint:
    """One end: ``block`` frames are let through at a time (0 without end), ``gap`` is the byte that asks for a pause between them (STmin).

    What goes wrong is kept in ``faults``, a sentence each; a message that broke off is gone.
    """

    block: int = 0
    gap: int = 0
    longest: int = LONGEST
    faults: deque[str] = field(default_factory=lambda: deque(maxlen=50))
    _sending: _Sending | None = None
    _coming: _Coming | None = None

    @property
    def busy(self) -> bool:
        """Whether it still has something to send."""
        return self._sending is not None

    def send(self, message: bytes, now: float) -> list[bytes]:
        """The first frame of a message, or its only one. Raises TransportFault where it is too long or another is still under way."""
        if not 1 <= len(message) <= LONGEST:
            raise TransportFault(f"A message has 1 to {LONGEST} bytes; this one has {len(message)}.")
        if self._sending is not None:
            raise TransportFault("Another message is still under way.")
        if len(message) <= 7:
            return [_padded(bytes([len(message)]) + message)]
        self._sending = _Sending(message[6:], due=now + FLOW_WAIT_S)
        return [bytes([0x10 | len(message) >> 8, len(message) & 0xFF]) + message[:6]]

    def heard(self, frame: bytes, now: float) -> tuple[list[bytes], bytes | None]:
        """What a frame of the other end brings: frames to answer with, and a message that it makes whole."""
        if not frame:
            return [], None
        kind = frame[0] >> 4
        if kind == _SINGLE:
            return self._single(frame)
        if kind == _FIRST:
            return self._first(frame, now), None
        if kind == _NEXT:
            return self._next(frame, now)
        if kind == _FLOW:
            self._flow(frame, now)
            return self.due(now), None
        self._fault(f"A frame begins with {frame[0]:02X}, which no frame of a conversation does.")
        return [], None

    def due(self, now: float) -> list[bytes]:
        """The frames that are to be sent by now; what waited too long is given up."""
        if self._coming is not None and now > self._coming.due:
            self._fault(f"A message of {self._coming.length} bytes broke off after {len(self._coming.got)}.")
            self._coming = None
        out: list[bytes] = []
        own = self._sending
        while own is not None and own.allowed and own.due <= now:
            out.append(_padded(bytes([0x20 | own.number]) + own.rest[:7]))
            own.rest, own.number = own.rest[7:], (own.number + 1) % 16
            own.allowed -= own.allowed > 0
            own.due = now + (own.gap_s if own.allowed else FLOW_WAIT_S)
            if not own.rest:
                self._sending = own = None
        if own is not None and not own.allowed and now > own.due:
            self._fault("The other end did not say whether to go on: the message was given up.")
            self._sending = None
        return out

    def _fault(self, says: str) -> None:
        self.faults.append(says)

    def _single(self, frame: bytes) -> tuple[list[bytes], bytes | None]:
        length = frame[0] & 0x0F
        begin = 1
        if length == 0 and len(frame) > 8:  # a frame with more than eight bytes has its length behind it
            length, begin = frame[1], 2
        if not 1 <= length <= len(frame) - begin:
            self._fault(f"A frame says that it holds {length} bytes, and has {max(len(frame) - begin, 0)}.")
            return [], None
        if self._coming is not None:
            self._fault("A message broke off: another one began.")
            self._coming = None
        return [], bytes(frame[begin : begin + length])

    def _first(self, frame: bytes, now: float) -> list[bytes]:
        if len(frame) < 8:
            self._fault("The first frame of a long message is too short.")
            return []
        length, begin = (frame[0] & 0x0F) << 8 | frame[1], 2
        if length == 0:
            length, begin = int.from_bytes(frame[2:6], "big"), 6
        if self._coming is not None:
            self._fault("A message broke off: another one began.")
            self._coming = None
        if length > self.longest:
            self._fault(f"A message of {length} bytes is announced; at most {self.longest} are taken.")
            return [_padded(bytes([0x30 | _OVERFLOW, 0, 0]))]
        if length < 8:
            self._fault(f"A long message of {length} bytes is announced: that is none.")
            return []
        self._coming = _Coming(length, bytearray(frame[begin:]), 1, now + NEXT_WAIT_S, self.block)
        return [_padded(bytes([0x30 | _GO_ON, self.block, self.gap]))]

    def _next(self, frame: bytes, now: float) -> tuple[list[bytes], bytes | None]:
        own = self._coming
        if own is None:
            return [], None  # the rest of what was given up
        if frame[0] & 0x0F != own.number:
            self._fault(f"Frame {own.number} of a message was awaited and {frame[0] & 0x0F} came: the message is lost.")
            self._coming = None
            return [], None
        own.got += frame[1:]
        own.number, own.due = (own.number + 1) % 16, now + NEXT_WAIT_S
        if len(own.got) >= own.length:
            self._coming = None
            return [], bytes(own.got[: own.length])
        own.left -= 1
        if own.left == 0:
            own.left = self.block
            return [_padded(bytes([0x30 | _GO_ON, self.block, self.gap]))], None
        return [], None

    def _flow(self, frame: bytes, now: float) -> None:
        own = self._sending
        if own is None or len(frame) < 3 or own.allowed:
            return  # nobody asked for it
        status = frame[0] & 0x0F
        if status == _GO_ON:
            own.allowed = frame[1] or -1
            own.gap_s, own.due, own.waits = _gap_s(frame[2]), now, 0
        elif status == _WAIT:
            own.waits += 1
            own.due = now + FLOW_WAIT_S
            if own.waits > MOST_WAITS:
                self._fault("The other end asked to wait again and again: the message was given up.")
                self._sending = None
        else:
            says = "has no room for it" if status == _OVERFLOW else f"answered with {status}, which means nothing"
            self._fault(f"The other end {says}: the message was given up.")
            self._sending = None


@dataclass
class Joined:
    """Messages put together from the frames of one sender, as somebody who only listens: it answers nothing."""

    _end: Endpoint = field(default_factory=lambda: Endpoint(longest=1 << 20))

    def heard(self, frame: bytes, now: float) -> bytes | None:
        """A message that a frame makes whole; None while it is not."""
        if frame and frame[0] >> 4 == _FLOW:
            return None
        self._end.due(now)
        return self._end.heard(frame, now)[1]
