"""Simulated modules on the simulated bus: each hears what it is asked on, and answers by the transport protocol."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable
from contextlib import suppress

from ...core.module.roster import Speaks
from ...core.talk.emission import ASKED_ALL, ASKED_ALL_LONG
from ...core.talk.segments import Endpoint, TransportFault
from .life import Life
from .unit import Unit

__all__ = ["ModulesOnBus"]

_TICK_S, _LOOK_S = 0.002, 0.05


class ModulesOnBus:
    """All modules of a roster that speak on a bus. ``send`` puts a frame on the bus: identifier and data."""

    def __init__(self, life: Life, send: Callable[[int, bytes], None]):
        self.life, self.send = life, send
        self.units = {module.name: Unit(module, life) for module in life.roster.modules.values() if module.speaks is not Speaks.KLINE}
        self._ends = {name: Endpoint() for name in self.units}
        self._asked = {self.units[name].module.asks: name for name in self._ends}
        self._lock = threading.Lock()
        self._ended = threading.Event()
        self._thread = threading.Thread(target=self._live, daemon=True)

    def renew(self, name: str) -> None:
        """Fit another module of the same sort. Raises RosterError where there is none of that name."""
        self.life.renew(name)
        with self._lock:
            self._look()

    def start(self) -> None:
        """Begin to live."""
        self._look()
        self._thread.start()

    def stop(self) -> None:
        """End."""
        self._ended.set()

    def heard(self, identity: int, data: bytes) -> None:
        """A frame that somebody else put on the bus."""
        with self._lock:
            if identity in (ASKED_ALL, ASKED_ALL_LONG):
                # Who asks everybody asks in one frame; those who have numbers of the same length answer.
                if data and data[0] >> 4 == 0 and 0 < data[0] < len(data):
                    for name in self._ends:
                        if (self.units[name].module.answers > 0x7FF) == (identity > 0x7FF):
                            self._answer(name, data[1 : 1 + data[0]], True)
                return
            asked = self._asked.get(identity)
            if asked is None or not self.units[asked].alive:
                return
            frames, request = self._ends[asked].heard(data, time.monotonic())
            self._put(asked, frames)
            if request is not None:
                self._answer(asked, request, False)

    def _answer(self, name: str, request: bytes, asked_all: bool) -> None:
        unit = self.units[name]
        self.life.go_on()
        unit.go_on()
        answer = unit.answer(request, asked_all)
        if answer is not None:
            with suppress(TransportFault):  # asked again before its answer was through: the first one goes on
                self._put(name, self._ends[name].send(answer, time.monotonic()))
        unit.act()

    def _put(self, name: str, frames: list[bytes]) -> None:
        for frame in frames:
            self.send(self.units[name].module.answers, frame)

    def _look(self) -> None:
        self.life.go_on()
        for unit in self.units.values():
            unit.go_on()
            unit.act()

    def _live(self) -> None:
        looked = 0.0
        while not self._ended.wait(_TICK_S):
            with self._lock:
                now = time.monotonic()
                for name, end in self._ends.items():
                    if frames := end.due(now):
                        self._put(name, frames)
                if now - looked > _LOOK_S:
                    self._look()
                    looked = now
