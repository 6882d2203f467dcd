"""The ordinary messages of a simulated vehicle's bus, made from what its modules know just now: a flag follows the circuit behind it, and
who is silent sends nothing.

What a signal says stands in the roster under ``stand_in.signals``: a number, ``MODULE.DATUM``, or ``code MODULE.CODE`` for a flag that is 1
while that code fails. A signal that counts (``count``) goes on with each message. Encoded by cantools, apart from the program's own reader.
"""

from __future__ import annotations

import threading
import time
from collections.abc import Callable, Mapping
from typing import Any

import cantools

from ...core.base.errors import ReadingError
from ...core.library.bus_links import about
from ...core.module.roster import Module
from ...core.talk.code_status import FAILS_NOW
from .life import Life
from .unit import Unit

__all__ = ["COUNTS", "Messages"]

COUNTS, CODE = "count", "code "
_TICK_S, _USUAL_MS = 0.004, 100


class Messages:
    """Sends the messages of a database in their rhythm. ``send`` puts a frame on the bus: identifier and data."""

    def __init__(self, life: Life, database: str, units: Mapping[str, Unit], send: Callable[[int, bytes], None]):
        try:
            known: Any = cantools.database.load_string(database, "dbc", strict=False)
        except Exception as error:  # a parser raises what comes
            raise ReadingError(f"The signal database cannot be read: {error}") from None
        self.life, self.units, self.send = life, units, send
        self.messages = list(known.messages)
        self._senders = {message.frame_id: self._module(message.senders) for message in self.messages}
        self._counts = dict.fromkeys((message.frame_id for message in self.messages), 0)
        self._ended = threading.Event()
        self._thread = threading.Thread(target=self._live, daemon=True)

    def _module(self, senders: list[str]) -> Module | None:
        """The module that a message is of, by the words of its sender's name; None where the roster has none."""
        for sender in senders:
            for module in self.life.roster.modules.values():
                if about(sender) and about(sender) == about(module.title):
                    return module
        return None

    def start(self) -> None:
        """Begin to send."""
        self._thread.start()

    def stop(self) -> None:
        """End."""
        self._ended.set()

    def data_of(self, message: Any) -> bytes | None:
        """What a message says now; None where its sender is silent."""
        sender = self._senders[message.frame_id]
        if sender is not None and not self.life.alive(sender):
            return None
        count = self._counts[message.frame_id]
        self._counts[message.frame_id] = count + 1
        values = {signal.name: self._value(signal, count) for signal in message.signals}
        return bytes(message.encode(values, scaling=False, strict=False, padding=True))

    def _value(self, signal: Any, count: int) -> int:
        said = self.life.roster.stand_in.signals.get(signal.name, 0.0)
        if said == COUNTS:
            return int(count % (1 << signal.length))
        number = said if isinstance(said, float) else self._told(said)
        raw = round((number - signal.offset) / signal.scale)
        least, most = (-(1 << signal.length - 1), (1 << signal.length - 1) - 1) if signal.is_signed else (0, (1 << signal.length) - 1)
        return int(min(max(raw, least), most))

    def _told(self, text: str) -> float:
        module, _, name = text.removeprefix(CODE).partition(".")
        own = self.life.roster.modules[module]
        if text.startswith(CODE):
            return float(bool(self.units[module].memory.status.get(name, 0) & FAILS_NOW)) if module in self.units else 0.0
        return self.life.value(own, own.data[name])

    def _live(self) -> None:
        due = {message.frame_id: time.monotonic() for message in self.messages}
        while not self._ended.wait(_TICK_S):
            now = time.monotonic()
            for message in self.messages:
                if now < due[message.frame_id]:
                    continue
                due[message.frame_id] = max(due[message.frame_id] + (message.cycle_time or _USUAL_MS) / 1e3, now)
                data = self.data_of(message)
                if data is not None:
                    self.send(message.frame_id, data)
