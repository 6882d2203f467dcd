"""The bus that modules hang on: one connection to it, and a line to each module by the transport protocol."""

from __future__ import annotations

import logging
import threading
import time
from collections import deque
from collections.abc import Collection, Mapping
from types import TracebackType

import can
import isotp
from udsoncan.connections import BaseConnection, PythonIsoTpV2Connection

from ...core.module.roster import Module, Speaks
from ..bus import Interface
from .trouble import Broken

__all__ = ["Wire", "trouble_words"]

for _name in ("isotp", "udsoncan", "Connection", "UdsClient", "can"):
    logging.getLogger(_name).addHandler(logging.NullHandler())
    logging.getLogger(_name).propagate = False
_PARAMS = {"tx_padding": 0x00, "blocksize": 0, "stmin": 0, "wftmax": 10, "max_frame_size": 4095}
_PAUSE_S = 0.2
# Errors of the transport protocol, by what the library calls them.
_WORDS: Mapping[str, str] = {
    "FlowControlTimeoutError": "the module did not say whether to go on with a long question",
    "ConsecutiveFrameTimeoutError": "its answer broke off in the middle",
    "WrongSequenceNumberError": "frames of its answer came out of order",
    "UnexpectedConsecutiveFrameError": "the rest of an answer came whose beginning did not",
    "UnexpectedFlowControlError": "it said to go on when nothing was under way",
    "ReceptionInterruptedWithSingleFrameError": "its answer broke off for another one",
    "ReceptionInterruptedWithFirstFrameError": "its answer broke off for another one",
    "MaximumWaitFrameReachedError": "it asked to wait again and again",
    "UnsupportedWaitFrameError": "it asked to wait",
    "FrameTooLongError": "it announced an answer that is longer than any answer",
    "OverflowError": "it has no room for a question of this length",
    "InvalidCanDataError": "a frame of its answer makes no sense",
    "MissingEscapeSequenceError": "a frame of its answer makes no sense",
    "InvalidCanFdFirstFrameRXDL": "a frame of its answer makes no sense",
    "ChangingInvalidRXDLError": "frames of its answer change their length",
}


def trouble_words(error: BaseException) -> str:
    """An error of the transport protocol in a few words."""
    return _WORDS.get(type(error).__name__, "frames came that make no sense")


class _OneModule(isotp.NotifierBasedCanStack):
    """The transport to one module; what others say on the bus, however much, is dropped before it costs anything."""

    def __init__(self, bus: can.BusABC, notifier: can.Notifier, asks: int, answers: int, faults: deque[str]):
        mode = isotp.AddressingMode.Normal_29bits if max(asks, answers) > 0x7FF else isotp.AddressingMode.Normal_11bits
        self.hears = answers
        super().__init__(
            bus, notifier, address=isotp.Address(mode, txid=asks, rxid=answers), params=dict(_PARAMS),
            error_handler=lambda error: faults.append(trouble_words(error)),
        )  # fmt: skip

    def _on_message_received(self, msg: can.Message) -> None:
        if msg.arbitration_id == self.hears:
            super()._on_message_received(msg)


class _Watch(can.Listener):
    """Told when the bus fails, in the thread that reads it."""

    def __init__(self, wire: Wire):
        self.wire = wire

    def on_message_received(self, msg: can.Message) -> None:
        """What comes is for the lines."""

    def on_error(self, exc: Exception) -> None:
        said = str(exc).strip().splitlines()
        self.wire.broken = said[0][:160].rstrip(".") if said else type(exc).__name__
        time.sleep(_PAUSE_S)  # it is asked for more at once, and would fail again and again


def _one_at_a_time(bus: can.BusABC) -> None:
    """Several modules are spoken to at the same time, and some adapters would mix two frames that are sent at once."""
    send, lock = bus.send, threading.Lock()

    def locked(msg: can.Message, timeout: float | None = None) -> None:
        with lock:
            send(msg, timeout)

    bus.send = locked  # type: ignore[method-assign]


class Wire:
    """A connection to a bus, with a line to each module. Use with ``with``, or close it."""

    at_once = 8
    emission_once = False

    def __init__(self, interface: Interface):
        self.interface = interface
        self.bus = interface.opened()
        self._faults: dict[int, deque[str]] = {}
        self.broken = ""
        self._lines: dict[int, BaseConnection] = {}
        self._opening = threading.Lock()
        _one_at_a_time(self.bus)
        self.notifier = can.Notifier(self.bus, [_Watch(self)], timeout=0.05)

    def __enter__(self) -> Wire:
        return self

    def __exit__(self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None) -> None:
        self.close()

    def check(self) -> None:
        """Raises Broken where the bus is gone."""
        if self.broken:
            raise Broken(f"The bus broke off: {self.broken}. What was asked until then is in the record.")

    def line_to(self, module: Module) -> BaseConnection:
        """A line to a module. Raises Broken."""
        self.check()
        with self._opening:
            if module.answers not in self._lines:
                self._lines[module.answers] = self._opened(module)
            return self._lines[module.answers]

    def _opened(self, module: Module) -> BaseConnection:
        if module.speaks is Speaks.KLINE:
            raise Broken(f"{module.title} is on a K-line, and this is a bus: give the address of the K-line adapter.")
        faults = self._faults.setdefault(module.answers, deque(maxlen=20))
        try:
            return PythonIsoTpV2Connection(_OneModule(self.bus, self.notifier, module.asks, module.answers, faults)).open()
        except (RuntimeError, ValueError) as error:
            raise Broken(f"No line to {module.title} could be opened: {str(error)[:120]}.") from error

    def faults_of(self, module: Module) -> Collection[str]:
        """What the transport complained of since it was asked last; that the bus is gone goes before all."""
        if self.broken:
            return (f"the bus broke off ({self.broken})",)
        own = self._faults.setdefault(module.answers, deque(maxlen=20))
        found = tuple(own)
        own.clear()
        return found

    def close(self) -> None:
        """End all lines and let go of the bus."""
        for line in self._lines.values():
            line.close()
        self._lines.clear()
        self.notifier.stop(timeout=1.0)
        self.bus.shutdown()
