"""A stand-in instrument on a loopback port: one line in, one line out, as raw sockets of bench instruments have it."""

from __future__ import annotations

import socketserver
import threading

from .scpi import LONGEST_LINE, OVERRUN, Scpi, ScpiError

__all__ = ["InstrumentServer"]

IDLE_S = 600.0  # a connection that says nothing for so long is closed
MOST_CONNECTIONS = 16


class _Session(socketserver.StreamRequestHandler):
    timeout = IDLE_S
    server: InstrumentServer

    def handle(self) -> None:
        if not self.server.places.acquire(blocking=False):
            return
        try:
            self._lines()
        except (TimeoutError, OSError):
            return
        finally:
            self.server.places.release()

    def _lines(self) -> None:
        while True:
            line = self.rfile.readline(LONGEST_LINE + 2)
            if not line:
                return
            if not line.endswith(b"\n") and len(line) > LONGEST_LINE:
                self._skip()
                with self.server.lock:
                    self.server.scpi.queue(ScpiError(OVERRUN))
                continue
            with self.server.lock:
                reply = self.server.scpi.answer(line.decode("latin-1").strip())
            if reply is not None:
                self.wfile.write(reply.encode("latin-1", "replace") + b"\n")

    def _skip(self) -> None:
        while True:
            rest = self.rfile.readline(LONGEST_LINE)
            if not rest or rest.endswith(b"\n"):
                return


class InstrumentServer(socketserver.ThreadingTCPServer):
    """Serves one instrument to several connections, one command at a time."""

    allow_reuse_address = True
    daemon_threads = True

    def __init__(self, scpi: Scpi, port: int = 0, host: str = "127.0.0.1"):
        self.scpi = scpi
        self.lock = threading.Lock()
        self.places = threading.Semaphore(MOST_CONNECTIONS)
        super().__init__((host, port), _Session)

    @property
    def port(self) -> int:
        """The port that it listens on."""
        return int(self.server_address[1])

    @property
    def address(self) -> str:
        """Its address as programs of instruments write it."""
        return f"TCPIP0::127.0.0.1::{self.port}::SOCKET"
