"""Simulated modules on a simulated K-line: a serial port on the network (RFC 2217), whose one wire brings back what is sent.

Woken fast, a module has seen the line low for 25 ms: a byte of noughts at 360 bits a second. Woken slowly, it has read its address from the
line held low and let go at five bits a second.
"""

from __future__ import annotations

import socketserver
import threading
import time
from collections.abc import Iterator

from ...core.module.roster import Speaks
from ...core.talk import kline
from .life import Life
from .unit import Unit

__all__ = ["KLineServer"]

IAC, SB, SE, WILL, WONT, DO, DONT = 255, 250, 240, 251, 252, 253, 254  # RFC 854
_TAKEN = {0, 1, 3, 44}  # binary, echo, no go-ahead (RFC 856, 857, 858), COM-PORT-OPTION (RFC 2217)
_COM_PORT, _SET_BAUD, _SET_CONTROL = 44, 1, 5
_BREAK_ON, _BREAK_OFF = 5, 6
_WAKE_BAUD = (330, 400)
_EMISSION, _KEYS_14230, _KEYS_9141 = 0x33, (0x8F, 0xE9), (0x08, 0x08)
_IDLE_S = 600.0
_BIT_S = 1.0 / kline.ADDRESS_BAUD
_GAP_S = 0.03  # before an answer (P2)


class _Session(socketserver.BaseRequestHandler):
    server: KLineServer

    def handle(self) -> None:
        if not self.server.places.acquire(blocking=False):
            return
        self.request.settimeout(_IDLE_S)
        self.baud, self.got, self.edges = kline.BAUD, b"", list[tuple[float, bool]]()
        self.unit: Unit | None = None
        self.asked_at = 0.0
        try:
            self._read()
        except (OSError, TimeoutError):
            return
        finally:
            self.server.places.release()

    def _read(self) -> None:
        plain = self._telnet()
        for byte in plain:
            self._heard(byte)

    def _next(self) -> int:
        if not self.rest:
            piece = self.request.recv(1024)
            if not piece:
                raise OSError("gone")
            self.rest = bytearray(piece)
        return self.rest.pop(0)

    rest = bytearray()

    def _telnet(self) -> Iterator[int]:
        """Bytes of the line; what is said about the line is done on the way."""
        while True:
            byte = self._next()
            if byte != IAC:
                yield byte
                continue
            command = self._next()
            if command == IAC:
                yield IAC
            elif command in (WILL, DO, WONT, DONT):
                self._agree(command, self._next())
            elif command == SB:
                self._subnegotiation()

    def _agree(self, command: int, option: int) -> None:
        if command in (WILL, DO):
            yes, no = (DO, DONT) if command == WILL else (WILL, WONT)
            self.request.sendall(bytes([IAC, yes if option in _TAKEN else no, option]))

    def _subnegotiation(self) -> None:
        found = bytearray()
        while True:
            byte = self._next()
            if byte == IAC:
                byte = self._next()
                if byte == SE:
                    break
            found.append(byte)
            if len(found) > 64:
                raise OSError("no end")
        if len(found) < 2 or found[0] != _COM_PORT:
            return
        what, value = found[1], bytes(found[2:])
        if what == _SET_BAUD and len(value) == 4:
            self.baud = int.from_bytes(value, "big")
        elif what == _SET_CONTROL and value[:1] in (bytes([_BREAK_ON]), bytes([_BREAK_OFF])):
            self._edge(value[0] == _BREAK_OFF)
        told = bytes([_COM_PORT, what + 100]) + value
        self.request.sendall(bytes([IAC, SB]) + told.replace(b"\xff", b"\xff\xff") + bytes([IAC, SE]))

    def _edge(self, high: bool) -> None:
        """The line was let go or held low: once the time of ten bits is over, they are read in the middle of each."""
        now = time.monotonic()
        if not self.edges and high:
            return
        if not self.edges or now - self.edges[0][0] > 11 * _BIT_S:
            self.edges = [(now, high)]
            timer = threading.Timer(10.1 * _BIT_S, self._address_over)
            timer.daemon = True
            timer.start()
        else:
            self.edges.append((now, high))

    def _address_over(self) -> None:
        edges, self.edges = self.edges, []
        if not edges:
            return
        began = edges[0][0]

        def level(at: float) -> bool:
            return [high for when, high in edges if when <= at][-1]

        bits = [level(began + (place + 0.5) * _BIT_S) for place in range(10)]
        if bits[0] or not bits[9]:
            return
        address = sum(1 << place for place, high in enumerate(bits[1:9]) if high)
        self.unit = self.server.at(address)
        if self.unit is None:
            return
        keys = _KEYS_9141 if self.server.speaks_9141 and address == _EMISSION else _KEYS_14230
        self.address, self.waits_for = address, keys[1] ^ 0xFF
        self._say(bytes([kline.SYNC, *keys]))

    address = 0
    waits_for: int | None = None

    def _heard(self, byte: int) -> None:
        if _WAKE_BAUD[0] <= self.baud <= _WAKE_BAUD[1] and byte == 0:
            self.got, self.unit, self.asked_at = b"", None, time.monotonic()
            return
        self._say(bytes([byte]))  # the one wire brings it back
        if self.waits_for is not None:
            if byte == self.waits_for:
                time.sleep(0.03)
                self._say(bytes([self.address ^ 0xFF]))
            self.waits_for = None
            return
        if time.monotonic() - self.asked_at > 1.0:
            self.got = b""
        self.asked_at = time.monotonic()
        self.got += bytes([byte])
        wanted = kline.wanted_length(self.got)
        if self.got[0] == 0x68:  # ISO 9141-2: no length; a request is whole where its sum fits
            wanted = len(self.got) if len(self.got) >= 5 and sum(self.got[:-1]) & 0xFF == self.got[-1] else 1 << 20
        if wanted is not None and len(self.got) >= wanted:
            raw, self.got = self.got, b""
            self._asked(raw)

    def _asked(self, raw: bytes) -> None:
        try:
            opened = kline.opened_block(raw)
        except (kline.LineFault, IndexError):
            return  # what is disturbed is not answered
        emission = opened.target == _EMISSION or raw[0] == 0x68
        unit = self.server.at(_EMISSION if emission else opened.target)
        if unit is None:
            return
        with self.server.lock:
            self.server.life.go_on()
            unit.go_on()
            answer = unit.answer(opened.data)
            unit.act()
        if answer is None:
            return
        for piece in _pieces(answer) if emission else [answer]:
            time.sleep(_GAP_S)
            if raw[0] == 0x68:
                self._say(kline.emission_block(piece, unit.module.answers & 0xFF))
            else:
                self._say(kline.block(piece, opened.source, unit.module.answers & 0xFF))

    def _say(self, raw: bytes) -> None:
        self.request.sendall(raw.replace(b"\xff", b"\xff\xff"))


def _pieces(answer: bytes) -> list[bytes]:
    """Codes come in blocks of three, what is empty as noughts; anything else as it is."""
    if answer[0] not in (0x43, 0x47, 0x4A):
        return [answer]
    codes = answer[2:]
    blocks = [codes[at : at + 6].ljust(6, b"\0") for at in range(0, max(len(codes), 1), 6)]
    return [bytes([answer[0]]) + block for block in blocks]


class KLineServer(socketserver.ThreadingTCPServer):
    """Serves the K-line of a simulated vehicle; ``speaks_9141`` says that its emission system answers as ISO 9141-2 has it."""

    allow_reuse_address = True
    daemon_threads = True

    def __init__(self, life: Life, port: int = 0, host: str = "127.0.0.1", speaks_9141: bool = False):
        self.life, self.speaks_9141 = life, speaks_9141
        self.lock = threading.Lock()
        self.places = threading.Semaphore(1)
        modules = life.roster.modules.values()
        self.units = {module.asks: Unit(module, life) for module in modules if module.speaks is Speaks.KLINE}
        own = [module for module in modules if module.speaks is Speaks.EMISSION]
        self.emission = Unit(own[0], life) if own else None
        super().__init__((host, port), _Session)

    def at(self, address: int) -> Unit | None:
        """The module at an address that is alive; None for nobody."""
        unit = self.emission if address == _EMISSION else self.units.get(address)
        return unit if unit is not None and unit.alive else None

    @property
    def port(self) -> int:
        """The port that it listens on."""
        return int(self.server_address[1])
