"""A K-line over a serial adapter: waking a module fast (ISO 14230-2) or by its address at five bits a second (ISO 9141-2), then blocks that
the one wire also brings back to who sent them."""

from __future__ import annotations

import threading
import time
from collections.abc import Collection
from dataclasses import dataclass

import serial
from udsoncan.connections import BaseConnection
from udsoncan.exceptions import TimeoutException

from ...core.base.errors import PondrelError
from ...core.module.roster import Module, Speaks
from ...core.talk import kline
from ...core.talk.kline import KeyBytes, LineFault
from .trouble import Broken

__all__ = ["KLine"]

# A byte of noughts at this rate holds the line low for nine bits: 25 ms, as waking it fast wants; adapters time that better than a program.
_WAKE_BAUD = round(9 / kline.FAST_LOW_S)
_EMISSION_ADDRESS = 0x33
_ANSWER_S, _BYTE_GAP_S, _SYNC_WAIT_S = 1.0, 0.3, 2.0
_SPELLINGS = 3
_PAUSE_S = 0.06
_BIT_S = 1.0 / kline.ADDRESS_BAUD
_LISTS = (0x43, 0x47, 0x4A)  # answers that come in several blocks, three codes each


@dataclass
class _Awake:
    """A talk under way: with whom, what it speaks, and when something was said last."""

    module: Module
    keys: KeyBytes | None
    said_at: float


class KLine:
    """The one line that all modules hang on: one is spoken to at a time. ``address`` is a device or any address that pyserial knows."""

    at_once = 1
    emission_once = True

    def __init__(self, address: str):
        self.address = address
        self._lock = threading.RLock()
        self._awake: _Awake | None = None
        self._faults: list[str] = []
        self._left: list[bytes] = []  # blocks that came with the one before
        try:
            self.port = serial.serial_for_url(address, baudrate=kline.BAUD, timeout=0.05)
        except (serial.SerialException, ValueError, OSError) as error:
            raise PondrelError(f"The K-line adapter at {address[:120]} cannot be reached: {_why(error)}.") from error

    def line_to(self, module: Module) -> BaseConnection:
        """A line to a module. Raises Broken where it does not speak on a K-line."""
        if module.speaks is Speaks.UDS:
            raise Broken(f"{module.title} is on the bus, and this is a K-line: give the address of the bus.")
        return _Line(self, module)

    def faults_of(self, module: Module) -> Collection[str]:
        """What went wrong on the line since it was asked last."""
        found = tuple(self._faults)
        self._faults.clear()
        return found

    def close(self) -> None:
        """Let go of the adapter."""
        self.port.close()

    def ask(self, module: Module, data: bytes) -> None:
        """Send a request, waking the module before where it sleeps. Raises TimeoutException where it does not wake."""
        with self._lock:
            awake = self._awake
            if awake is None or awake.module.answers != module.answers or time.monotonic() - awake.said_at > 0.9 * kline.KEEP_ALIVE_S:
                awake = self._awake = self._woken(module)
            time.sleep(max(awake.said_at + kline.BLOCK_GAP_S - time.monotonic(), 0.0))
            self._left.clear()
            self._send(self._framed(awake, data))
            awake.said_at = time.monotonic()

    def answer(self, within_s: float) -> bytes:
        """The data of the answer. Raises TimeoutException where none comes; what cannot be used is kept as a fault."""
        with self._lock:
            found = self._block(within_s)
            if found[:1] and found[0] in _LISTS:
                while more := self._more():
                    found += more[1:]
            return found

    def _more(self) -> bytes:
        try:
            return self._block(_BYTE_GAP_S)
        except TimeoutException:
            return b""

    def _framed(self, awake: _Awake, data: bytes) -> bytes:
        if awake.module.speaks is Speaks.EMISSION:
            if awake.keys is not None and awake.keys.speaks_9141:
                return kline.emission_block(data)
            return kline.block(data, _EMISSION_ADDRESS, everybody=True)
        return kline.block(data, awake.module.asks)

    def _woken(self, module: Module) -> _Awake:
        self._awake = None
        if module.slow_start or module.speaks is Speaks.EMISSION:
            keys = self._woken_slowly(_EMISSION_ADDRESS if module.speaks is Speaks.EMISSION else module.asks)
            return _Awake(module, keys, time.monotonic())
        self.port.reset_input_buffer()
        self.port.baudrate = _WAKE_BAUD
        self.port.write(b"\0")
        self.port.flush()
        time.sleep(kline.FAST_WAKE_S)
        self.port.baudrate = kline.BAUD
        self.port.reset_input_buffer()
        self._send(kline.block(b"\x81", module.asks))
        answer = self._block(_ANSWER_S)
        if answer[:1] != b"\xc1":
            raise _silent()
        return _Awake(module, KeyBytes(answer[1], answer[2]) if len(answer) > 2 else None, time.monotonic())

    def _woken_slowly(self, address: int) -> KeyBytes:
        """Called by its address, and again where the machine was too busy to spell it: a module reads each bit in its middle, and one that
        came late is another address."""
        for _ in range(_SPELLINGS):
            self.port.reset_input_buffer()
            in_time = self._spelled(address)
            end = time.monotonic() + _SYNC_WAIT_S
            while (byte := self._byte(end)) not in (kline.SYNC, None):
                continue
            if byte is not None:
                return self._key_bytes(address, end)
            if in_time:
                break
        raise _silent()

    def _spelled(self, address: int) -> bool:
        """Hold the line low and let it go: a start bit, eight bits the lowest first, a stop bit. Whether each came within half a bit of its
        time, however long the adapter took to do what it was told."""
        told: list[tuple[float, float]] = []
        began = time.monotonic()
        for place, high in enumerate([False, *(bool(address >> bit & 1) for bit in range(8)), True]):
            time.sleep(max(began + place * _BIT_S - time.monotonic(), 0.0))
            at = time.monotonic()
            self.port.break_condition = not high
            told.append((at, time.monotonic()))
        time.sleep(max(began + 10 * _BIT_S - time.monotonic(), 0.0))
        first, done = told[0]
        return all(
            before - done > (place - 0.5) * _BIT_S and after - first < (place + 0.5) * _BIT_S for place, (before, after) in enumerate(told)
        )

    def _key_bytes(self, address: int, end: float) -> KeyBytes:
        first, second = self._byte(end), self._byte(end)
        if first is None or second is None:
            raise _silent()
        time.sleep(0.03)
        self._send(bytes([second ^ 0xFF]))
        back = self._byte(end)
        if back != address ^ 0xFF:
            self._faults.append("it woke, but did not give its address back")
        return KeyBytes(first, second)

    def _byte(self, end: float) -> int | None:
        while time.monotonic() < end:
            found = self.port.read(1)
            if found:
                return int(found[0])
        return None

    def _send(self, raw: bytes) -> None:
        self.port.write(raw)
        back = self._read(len(raw), time.monotonic() + 0.5 + 12.0 * len(raw) / kline.BAUD)
        if back and back != raw:
            self._faults.append("what was sent came back changed: the line is disturbed or somebody else speaks")

    def _read(self, count: int, end: float) -> bytes:
        found = b""
        while len(found) < count and time.monotonic() < end:
            found += self.port.read(count - len(found))
        return found

    def _block(self, within_s: float) -> bytes:
        if self._left:
            return self._opened(self._left.pop(0))
        raw = self._read(1, time.monotonic() + within_s)
        if not raw:
            raise _silent()
        if raw[0] == 0x48:  # ISO 9141-2 has no length: blocks end where a pause begins
            while more := self._read(1, time.monotonic() + _PAUSE_S):
                raw += more
            raw, *self._left = kline.emission_blocks(raw)
        else:
            while (wanted := kline.wanted_length(raw)) is None or len(raw) < wanted:
                more = self._read(1 if wanted is None else wanted - len(raw), time.monotonic() + _BYTE_GAP_S)
                if not more:
                    break
                raw += more
        return self._opened(raw)

    def _opened(self, raw: bytes) -> bytes:
        try:
            opened = kline.opened_block(raw)
        except (LineFault, IndexError) as error:
            self._faults.append(str(error).rstrip(".") or "the answer broke off")
            raise _silent() from None
        if self._awake is not None:
            self._awake.said_at = time.monotonic()
        return opened.data


def _why(error: Exception) -> str:
    """Why an adapter cannot be opened, in words where they are known."""
    said = next(iter(str(error).strip().splitlines()), "no reason given")
    known = {"No such file": "there is no such device", "Permission denied": "this user may not open it", "Connection refused": "nobody "
             "listens there", "Device or resource busy": "another program has it"}  # fmt: skip
    return next((words for sign, words in known.items() if sign in said), said[:160].rstrip("."))


def _silent() -> TimeoutException:
    return TimeoutException("no answer on the K-line")  # type: ignore[no-untyped-call]


class _Line(BaseConnection):
    """The K-line as a line to one module."""

    def __init__(self, line: KLine, module: Module):
        super().__init__(module.name)
        self.line, self.module = line, module

    def open(self) -> _Line:
        return self

    def close(self) -> None:
        """The adapter is its owner's."""

    def is_open(self) -> bool:
        return bool(self.line.port.is_open)

    def empty_rxqueue(self) -> None:
        """What is left of an answer before is thrown away when the module is asked."""

    def specific_send(self, payload: bytes, timeout: float | None = None) -> None:
        self.line.ask(self.module, bytes(payload))

    def specific_wait_frame(self, timeout: float | None = None) -> bytes | None:
        return self.line.answer(_ANSWER_S if timeout is None else timeout)
